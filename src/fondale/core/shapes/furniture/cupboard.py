# SPDX-License-Identifier: MIT
"""A cupboard with two doors, a plinth and a cornice."""

from fondale.core.shapes.furniture.parts import plank, solid_of_parts
from fondale.core.shapes.solid import Solid


def build(w: float, d: float, h: float) -> Solid:
    """Doors stand proud of the body, a handle on each."""
    t, plinth, top = w * 0.025, h * 0.05, h * 0.03
    front, gap = -d / 2 + t, w * 0.006
    planks = [
        plank((-w / 2 + t, w / 2 - t), (front + t, d / 2), (0.0, plinth)),
        plank((-w / 2 + t / 2, w / 2 - t / 2), (front, d / 2), (plinth, h - top)),
        plank((-w / 2, w / 2), (-d / 2, d / 2), (h - top, h)),
        plank((-w / 2 + t, -gap), (front - t / 2, front), (plinth + t, h - top - t)),
        plank((gap, w / 2 - t), (front - t / 2, front), (plinth + t, h - top - t)),
    ]
    planks += [plank(x, (front - t * 0.9, front - t / 2), (h * 0.48, h * 0.56)) for x in ((-w * 0.055, -w * 0.04), (w * 0.04, w * 0.055))]
    return solid_of_parts(planks)
