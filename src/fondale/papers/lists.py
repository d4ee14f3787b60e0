"""Lists as CSV (RFC 4180)."""

import csv
from io import StringIO

from fondale.core.derive import Derived
from fondale.core.model import Project


def piece_list(project: Project, derived: Derived) -> str:
    """Every piece with its measured size, native scale, percentage and verdict."""
    out = StringIO()
    writer = csv.writer(out)
    writer.writerow(["piece", "origin", "claim", "measured_mm", "native_n", "low_n", "high_n", "percent", "reads_as", "verdict", "cost"])
    for piece in project.pieces:
        r = derived.quick.readings.get(piece.id)
        read = (
            [f"{r.measured_mm:.2f}", f"{r.n:.2f}", f"{r.low:.2f}", f"{r.high:.2f}", f"{r.factor * 100:.1f}", r.words, r.verdict]
            if r
            else [""] * 7
        )
        writer.writerow([piece.name, piece.origin, piece.claim, *read, f"{piece.cost:.2f}"])
    return out.getvalue()
