# SPDX-License-Identifier: MIT
"""A bench with a back: slats on two frames."""

from fondale.core.shapes.furniture.parts import plank, solid_of_parts
from fondale.core.shapes.solid import Solid


def build(w: float, d: float, h: float) -> Solid:
    """Seat at half the height, back at the rear."""
    seat, thick, leg = h * 0.52, h * 0.035, w * 0.03
    planks = []
    for x in (-w / 2 + leg, w / 2 - 3 * leg):
        planks += [
            plank((x, x + 2 * leg), (-d / 2 + 0.1 * d, -d / 2 + 0.22 * d), (0.0, seat)),
            plank((x, x + 2 * leg), (d / 2 - 0.12 * d, d / 2), (0.0, h)),
            plank((x, x + 2 * leg), (-d / 2 + 0.22 * d, d / 2 - 0.12 * d), (seat - 2 * thick, seat)),
        ]
    for k in range(4):
        y = -d / 2 + k * 0.22 * d
        planks.append(plank((-w / 2, w / 2), (y, y + 0.19 * d), (seat, seat + thick)))
    for low in (0.66, 0.86):
        planks.append(plank((-w / 2, w / 2), (d / 2 - 0.15 * d, d / 2 - 0.12 * d), (h * low, h * (low + 0.12))))
    return solid_of_parts(planks)
