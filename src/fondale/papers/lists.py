# SPDX-License-Identifier: MIT
"""Lists as CSV [rfc4180]."""

from fondale.core.derived import AIRS, READINGS
from fondale.core.model import BITS, PHOTOS, Project
from fondale.core.reckoning import Derived
from fondale.core.spreadsheets import PLAIN, Signs, table_text
from fondale.core.stage.cutting import CutPlan


def piece_list(project: Project, derived: Derived, signs: Signs = PLAIN) -> str:
    """Every piece with its measured size, native scale, percentage and verdict."""
    rows = [["piece", "origin", "claim", "measured_mm", "native_n", "low_n", "high_n", "percent", "reads_as", "verdict", "cost", "real_mm"]]
    for piece in project.pieces:
        r = (derived.get(READINGS) or {}).get(piece.id)
        read = (
            [f"{r.measured_mm:.2f}", f"{r.n:.2f}", f"{r.low:.2f}", f"{r.high:.2f}", f"{r.factor * 100:.1f}", r.words, r.verdict]
            if r
            else [f"{piece.measure.mm:.2f}" if piece.measure is not None else "", *[""] * 6]
        )
        real = f"{piece.measure.mm * project.brief.house_n:.0f}" if piece.measure else ""
        rows.append([piece.name, piece.origin, piece.claim, *read, f"{piece.cost:.2f}", real])
    return table_text(rows, signs)


def need_list(project: Project, signs: Signs = PLAIN) -> str:
    """Every need with its real and its model sizes, and where it was read off."""
    rows = [["need", "outline", "real_mm", "model_mm", "give_mm", "photograph", "met_by"]]
    house = project.brief.house_n
    for need in project.needs:
        photo, bit = project.find(PHOTOS, need.photo), project.find(BITS, need.bit)
        rows.append([
            need.name, need.outline, " x ".join(f"{r:.0f}" for r in need.real), " x ".join(f"{r / house:.2f}" for r in need.real),
            f"{need.give_mm / house:.2f}", photo.name if photo else "", bit.name if bit else "made" if need.made else "",
        ])  # fmt: skip
    return table_text(rows, signs)


def fit_list(project: Project, derived: Derived, signs: Signs = PLAIN) -> str:
    """Every fit: bare sizes, coats, the air after paint and what to do."""
    rows = [["fit", "kind", "hole_mm", "peg_mm", "coats_mm", "air_mm", "needs_mm", "verdict", "what_to_do"]]
    for fit in project.fits:
        air = (derived.get(AIRS) or {}).get(fit.id)
        if air is None:
            continue
        rows.append([
            fit.name, fit.kind, f"{fit.hole:.2f}", f"{fit.peg:.2f}", f"{air.hole_film + air.peg_film:.3f}", f"{air.painted:.3f}",
            f"{air.least:.2f}", air.verdict, "; ".join(air.ways),
        ])  # fmt: skip
    return table_text(rows, signs)


def cut_table(plan: CutPlan, signs: Signs = PLAIN) -> str:
    """Every board and pane of the case, with what is cut into it."""
    rows = [["panel", "pieces", "glued_of", "long_mm", "wide_mm", "thick_mm", "stuff", "openings"]]
    for panel in plan.panels:
        holes = "; ".join(
            f"{o.use}, {o.form}: {o.width:.1f} x {o.height:.1f} at {o.x:.1f} from the left, sill {o.z:.1f}" for o in panel.holes
        )
        rows.append([
            panel.name, str(panel.pieces), str(panel.layers), f"{panel.long:.1f}", f"{panel.wide:.1f}", f"{panel.thick:.2f}", panel.stuff, holes,
        ])  # fmt: skip
    return table_text(rows, signs)
