# SPDX-License-Identifier: MIT
"""An open shelf: two sides, a back and five boards."""

from fondale.core.shapes.furniture.parts import plank, solid_of_parts
from fondale.core.shapes.solid import Solid

BOARDS = 5


def build(w: float, d: float, h: float) -> Solid:
    """Boards at equal distances, the lowest off the floor."""
    t, foot = w * 0.025, h * 0.04
    planks = [plank((-w / 2, -w / 2 + t), (-d / 2, d / 2), (0.0, h)), plank((w / 2 - t, w / 2), (-d / 2, d / 2), (0.0, h))]
    planks.append(plank((-w / 2 + t, w / 2 - t), (d / 2 - t * 0.4, d / 2), (foot, h)))
    for k in range(BOARDS):
        low = foot + (h - t - foot) * k / (BOARDS - 1)
        planks.append(plank((-w / 2 + t, w / 2 - t), (-d / 2, d / 2 - t * 0.4), (low, low + t)))
    return solid_of_parts(planks)
