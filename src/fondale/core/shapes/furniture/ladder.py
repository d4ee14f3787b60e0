# SPDX-License-Identifier: MIT
"""A ladder: two rails and ten rungs."""

from fondale.core.shapes.furniture.parts import plank, rod, solid_of_parts
from fondale.core.shapes.solid import Solid

RUNGS = 10


def build(w: float, d: float, h: float) -> Solid:
    """Upright; tilt it to lean it."""
    rail = w * 0.1
    planks = [plank((x, x + rail), (-d / 2, d / 2), (0.0, h)) for x in (-w / 2, w / 2 - rail)]
    step = h / (RUNGS + 0.5)
    rungs = [
        rod((-w / 2 + rail, 0.0, z), (w / 2 - rail, 0.0, z), min(0.25 * d, 0.12 * step), sides=8)
        for z in (step * (k + 0.75) for k in range(RUNGS))
    ]
    return solid_of_parts(planks, rungs)
