# SPDX-License-Identifier: MIT
"""A plain chair."""

from fondale.core.shapes.furniture.parts import plank, solid_of_parts
from fondale.core.shapes.solid import Solid


def build(w: float, d: float, h: float) -> Solid:
    """Seat at 0.52 of the height, two slats in the back."""
    seat, leg, thick = h * 0.52, w * 0.09, h * 0.03
    planks = [plank((-w / 2, w / 2), (-d / 2, d / 2 - leg), (seat, seat + thick))]
    for x in (-w / 2, w / 2 - leg):
        planks.append(plank((x, x + leg), (-d / 2, -d / 2 + leg), (0.0, seat)))
        planks.append(plank((x, x + leg), (d / 2 - leg, d / 2), (0.0, h)))
        planks.append(plank((x, x + leg), (-d / 2 + leg, d / 2 - leg), (h * 0.18, h * 0.22)))
    for low in (0.68, 0.86):
        planks.append(plank((-w / 2 + leg, w / 2 - leg), (d / 2 - 0.7 * leg, d / 2 - 0.3 * leg), (h * low, h * (low + 0.1))))
    return solid_of_parts(planks)
