# SPDX-License-Identifier: MIT
"""Three steps of planks between two cheeks."""

from fondale.core.shapes.furniture.parts import plank, solid_of_parts
from fondale.core.shapes.solid import Solid

COUNT = 3


def build(w: float, d: float, h: float) -> Solid:
    """They rise towards the rear; each tread stands a little proud."""
    cheek, tread = w * 0.05, h * 0.06
    planks = []
    for k in range(COUNT):
        front, rear, top = -d / 2 + d * k / COUNT, -d / 2 + d * (k + 1) / COUNT, h * (k + 1) / COUNT
        planks.append(plank((-w / 2, w / 2), (front, rear + d * 0.02 if k < COUNT - 1 else d / 2), (top - tread, top)))
        planks += [
            plank((x, x + cheek), (front + d * 0.03, rear if k < COUNT - 1 else d / 2), (0.0, top - tread))
            for x in (-w / 2 + cheek / 2, w / 2 - 1.5 * cheek)
        ]
    return solid_of_parts(planks)
