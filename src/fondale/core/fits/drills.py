# SPDX-License-Identifier: MIT
"""Drills that exist: tenths of a millimetre, the number row, and sixty-fourths of an inch."""

import math
from dataclasses import dataclass
from fractions import Fraction
from functools import cache

from fondale.core.lengths import INCH_MM
from fondale.core.words import digits
from fondale.knowledge import table

LARGEST_MM = 13.0


@dataclass(frozen=True, order=True)
class Drill:
    """One drill: its diameter in mm and what is stamped on it."""

    mm: float
    name: str


@cache
def drills(row: str) -> tuple[Drill, ...]:
    """The row ``mm`` (0.3 to 13 mm in tenths), ``number`` (80 to 1) or ``inch`` (64ths), smallest first."""
    if row == "mm":
        return tuple(Drill(round(k / 10, 1), f"{k / 10:.1f} mm") for k in range(3, int(LARGEST_MM * 10) + 1))
    if row == "number":
        sizes = table("fits")["drills"]["number"]
        return tuple(sorted(Drill(round(s * INCH_MM, 3), f"no. {i + 1}") for i, s in enumerate(sizes)))
    return tuple(Drill(round(k / 64 * INCH_MM, 3), f"{Fraction(k, 64)} in") for k in range(1, 33))


def drill_for(least_mm: float, row: str = "mm") -> Drill | None:
    """The smallest drill of a row that is at least ``least_mm``; None beyond the row."""
    return next((d for d in drills(row) if d.mm >= least_mm - 1e-9), None)


def drill_words(least_mm: float) -> str:
    """The drill in tenths, with the nearest of the other rows at least as large: ``5.2 mm (no. 5, 13/64 in)``."""
    first = drill_for(least_mm)
    if first is None or not math.isfinite(least_mm):
        return f"{digits(least_mm, 2)} mm: no drill is that large"
    others = [d.name for row in ("number", "inch") if (d := drill_for(least_mm, row)) is not None and d.mm <= first.mm * 1.06 + 0.05]
    return first.name + (f" ({', '.join(others)})" if others else "")
