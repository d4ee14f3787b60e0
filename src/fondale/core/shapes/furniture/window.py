# SPDX-License-Identifier: MIT
"""A window: frame, sill and bars between six open panes."""

from fondale.core.shapes.furniture.parts import plank, solid_of_parts
from fondale.core.shapes.solid import Solid


def build(w: float, d: float, h: float) -> Solid:
    """Light and looks go through the panes."""
    bar, thin = w * 0.06, w * 0.025
    planks = [plank((x, x + bar), (-0.3 * d, 0.3 * d), (bar, h)) for x in (-w / 2, w / 2 - bar)]
    planks += [plank((-w / 2 + bar, w / 2 - bar), (-0.3 * d, 0.3 * d), (h - bar, h)), plank((-w / 2, w / 2), (-d / 2, 0.3 * d), (0.0, bar))]
    planks.append(plank((-thin / 2, thin / 2), (-0.15 * d, 0.15 * d), (bar, h - bar)))
    for share in (1 / 3, 2 / 3):
        z = bar + (h - 2 * bar) * share
        planks += [
            plank((a, b), (-0.15 * d, 0.15 * d), (z - thin / 2, z + thin / 2))
            for a, b in ((-w / 2 + bar, -thin / 2), (thin / 2, w / 2 - bar))
        ]
    return solid_of_parts(planks)
