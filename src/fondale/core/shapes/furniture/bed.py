# SPDX-License-Identifier: MIT
"""A bed: two boards at its ends, rails, a mattress and a pillow."""

from fondale.core.shapes.furniture.parts import plank, solid_of_parts
from fondale.core.shapes.solid import Solid


def build(w: float, d: float, h: float) -> Solid:
    """Its length goes along the depth, the head at the rear; the head's board is as high as told."""
    board, side = min(w, d) * 0.04, min(w, d) * 0.04
    foot, rail = h * 0.70, (h * 0.26, h * 0.42)
    planks = [
        plank((-w / 2, w / 2), (d / 2 - board, d / 2), (h * 0.20, h)),
        plank((-w / 2, w / 2), (-d / 2, -d / 2 + board), (h * 0.20, foot)),
        plank((-w / 2 + side, w / 2 - side), (-d / 2 + board, d / 2 - board), (h * 0.38, h * 0.58)),
        plank((-w / 2 + 3 * side, w / 2 - 3 * side), (d / 2 - board - d * 0.17, d / 2 - 1.5 * board), (h * 0.58, h * 0.66)),
    ]
    for x in (-w / 2, w / 2 - side):
        planks.append(plank((x, x + side), (-d / 2 + board, d / 2 - board), rail))
        planks += [
            plank((x, x + 1.5 * side) if x < 0 else (x - 0.5 * side, x + side), ends, (0.0, h * 0.20))
            for ends in ((d / 2 - board, d / 2), (-d / 2, -d / 2 + board))
        ]
    return solid_of_parts(planks)
