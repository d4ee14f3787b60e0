# SPDX-License-Identifier: MIT
"""How the finished case gets out of the flat: through a door and round a corner."""

import math
from dataclasses import dataclass

import numpy as np

from fondale.core.how import How, Told
from fondale.core.stage.cutting import Outer
from fondale.core.words import digits, show_mm

AIR_MM = 20.0  # for the hands that carry it (common practice, no source)


@dataclass(frozen=True)
class Way:
    """A door and the corridors that meet behind it, in mm; 0: there is none."""

    door_wide: float = 780.0
    door_high: float = 1950.0
    first: float = 0.0
    second: float = 0.0


def longest_round(first: float, second: float, wide: float) -> float:
    """How long a box ``wide`` mm broad may be to be carried, upright, round the corner of two corridors.

    The least over all angles of (a - w cos t) / sin t + (b - w sin t) / cos t; for w = 0 that is (a^2/3 + b^2/3)^3/2, the ladder in a corridor.
    0 where it does not even go into one of them.
    """
    if wide > min(first, second):
        return 0.0
    t = np.linspace(1e-4, math.pi / 2 - 1e-4, 20_001)
    return float(((first - wide * np.cos(t)) / np.sin(t) + (second - wide * np.sin(t)) / np.cos(t)).min())


def carried(out: Outer, way: Way) -> tuple[bool, str]:
    """Whether a case can be carried that way, upright, and what is in its way."""
    short, long = sorted((out.width, out.depth))
    need = short + 2 * AIR_MM
    if way.door_wide and (need > way.door_wide or out.height > way.door_high):
        what = f"{show_mm(need)} wide with the hands" if need > way.door_wide else f"{show_mm(out.height)} high"
        return False, f"It does not go through the door: it is {what}. Build it of two parts that are joined where it stands."
    if way.first and way.second:
        most = longest_round(way.first, way.second, short)
        if long > most:
            says = f"at most {show_mm(most)} long may it be" if most else "it is too broad for the corridor"
            return (
                False,
                f"It does not go round the corner upright: {says}, and it is {show_mm(long)}. Stand it on its end, or build it of two parts.",
            )
    return True, "It goes out of the flat upright, as it stands."


def carried_told(out: Outer, way: Way) -> Told:
    """Whether it goes, and from what."""
    good, words = carried(out, way)
    short, long = sorted((out.width, out.depth))
    formula = (
        f"outside {digits(out.width, 0)} × {digits(out.depth, 0)} × {digits(out.height, 0)} mm; door {digits(way.door_wide, 0)} × {digits(way.door_high, 0)} mm, "
        f"{digits(AIR_MM, 0)} mm for each hand\nround a corner: the least over all angles of (a − w cos t) ÷ sin t + (b − w sin t) ÷ cos t, w = {digits(short, 0)} mm"
    )
    said = "yes" if good else "no"
    return Told(f"out of the flat: {said}", How("Does it go out?", f"{formula}, {digits(long, 0)} mm long\n{words}", "", "geometry"))
