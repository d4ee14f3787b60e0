# SPDX-License-Identifier: MIT
"""By which hatch what went in comes out again."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import MultiPoint

from fondale.core.fits.air import TINY_MM
from fondale.core.fits.capacity import Entrant
from fondale.core.lengths import LengthError, parse_length
from fondale.core.words import digits, show_mm


@dataclass(frozen=True)
class Hatch:
    """An opening that things are brought in and out by: two sides in mm, or twice the diameter of a round one."""

    wide: float
    deep: float
    round: bool = False

    @property
    def words(self) -> str:
        """``30 × 40 mm``, ``ø 40 mm``."""
        return f"ø {show_mm(self.wide)}" if self.round else f"{digits(self.wide, 1)} × {show_mm(self.deep)}"


def parse_hatches(text: str, house_n: float) -> tuple[Hatch, ...]:
    """Hatches as they are typed: ``30 x 40, 40 round``; nothing is none. Raises LengthError, in words for the maker."""
    out = []
    for part in (p.strip().lower() for p in text.replace("×", "x").replace(";", ",").split(",")):
        if not part:
            continue
        bare = part.removesuffix("round").strip().lstrip("ø").strip()
        sides = [parse_length(s, house_n) for s in bare.split("x")]
        if len(sides) > 2:
            raise LengthError("A hatch has two sides, 30 x 40, or is round: 40 round.")
        out.append(Hatch(sides[0], sides[-1], len(sides) == 1))
    return tuple(out)


WAYS_THROUGH = {2: "upright", 1: "face first, lying", 0: "sideways, lying"}


def way_out(body: Entrant, hatch: Hatch) -> str:
    """How a body comes out by a hatch, in words, held by its own axes and turned about the way out; or by how much it does not."""
    short = math.inf
    for axis, words in WAYS_THROUGH.items():
        flat = np.delete(body.hull, axis, axis=1)
        if hatch.round:
            lack = 2 * float(shapely.minimum_bounding_radius(MultiPoint(flat))) - hatch.wide
        else:
            t = np.radians(np.arange(0, 180, 2.0))
            ways = np.stack([np.column_stack([np.cos(t), np.sin(t)]), np.column_stack([-np.sin(t), np.cos(t)])], 1)  # (m, 2, 2)
            spans = np.ptp(flat @ ways.transpose(0, 2, 1), axis=1)  # (m, 2)
            lack = float(np.max(spans - [hatch.wide, hatch.deep], axis=1).min())
        if lack <= TINY_MM:
            return f"By {hatch.words} it comes out {words}."
        short = min(short, lack)
    return f"By {hatch.words} it does not come out: {show_mm(max(short, 0.05))} too small."


def ways_out(body: Entrant, hatches: Sequence[Hatch]) -> str:
    """The way out by each hatch."""
    return " ".join(way_out(body, h) for h in hatches)
