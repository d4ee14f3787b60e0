# SPDX-License-Identifier: MIT
"""What is too thin of a file as it is printed, on its machine: the least wall that stands handling, and the least that comes out at all."""

from dataclasses import dataclass
from typing import Any

from fondale.core.model import PrintFile
from fondale.core.model.prints import Thin
from fondale.core.words import digits

_WHERE = (("left", "", "right"), ("front", "", "back"), ("low", "half-way up", "high"))


@dataclass(frozen=True)
class TooThin:
    """The thinnest place in mm as printed, how many of those found are below the least wall, and whether it comes out at all."""

    place: Thin
    mm: float
    count: int
    prints: bool


def as_printed(file: PrintFile, thin: Thin) -> float:
    """How thick a place is as printed in mm; under unequal stretch at least. What is hollow is no thicker than its wall."""
    mm = thin.mm * min(file.times)
    return min(mm, file.hollow_mm) if file.hollow_mm > 0 else mm


def where(thin: Thin) -> str:
    """Where a place lies: ``high, left, front``."""
    words = [names[0 if at < 1 / 3 else 2 if at > 2 / 3 else 1] for at, names in zip(thin.at, _WHERE, strict=True)]
    return ", ".join(w for w in (words[2], words[0], words[1]) if w)


def too_thin(file: PrintFile, row: dict[str, Any]) -> TooThin | None:
    """What the machine of this row asks more of; None where nothing found is too thin."""
    bad = [t for t in file.thin if as_printed(file, t) < row["min_wall"]]
    if not bad:
        return None
    worst = min(bad, key=lambda t: t.mm)
    return TooThin(worst, as_printed(file, worst), len(bad), as_printed(file, worst) >= row["min_detail"])


def thin_words(file: PrintFile) -> str:
    """The thinnest place as printed, or nothing where none is known."""
    if not file.thin:
        return ""
    worst = min(file.thin, key=lambda t: t.mm)
    return f"Its thinnest wall is {digits(as_printed(file, worst), 2)} mm, {where(worst)}."
