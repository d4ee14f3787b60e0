# SPDX-License-Identifier: MIT
"""A crate of slats with corner posts and a closed lid."""

from fondale.core.shapes.furniture.parts import plank, solid_of_parts
from fondale.core.shapes.solid import Solid

SLATS = 4


def build(w: float, d: float, h: float) -> Solid:
    """Gaps between the slats show the dark inside."""
    t = min(w, d, h) * 0.05
    planks = [plank((-w / 2 + t, w / 2 - t), (-d / 2 + t, d / 2 - t), (0.0, t)), plank((-w / 2, w / 2), (-d / 2, d / 2), (h - t, h))]
    for x in (-w / 2 + t, w / 2 - 3 * t):
        for y in (-d / 2 + t, d / 2 - 3 * t):
            planks.append(plank((x, x + 2 * t), (y, y + 2 * t), (t, h - t)))
    pitch = (h - t) / SLATS
    for k in range(SLATS):
        low, high = k * pitch, k * pitch + 0.86 * pitch
        planks += [plank((-w / 2, w / 2), (y, y + t), (low, high)) for y in (-d / 2, d / 2 - t)]
        planks += [plank((x, x + t), (-d / 2 + t, d / 2 - t), (low, high)) for x in (-w / 2, w / 2 - t)]
    return solid_of_parts(planks)
