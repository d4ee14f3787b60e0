# SPDX-License-Identifier: MIT
"""A street lamp: base, pole, arm and lantern."""

from fondale.core.shapes.furniture.parts import plank, rod, solid_of_parts, turned
from fondale.core.shapes.solid import Solid


def build(w: float, d: float, h: float) -> Solid:
    """The lantern is open below: a lamp may hang in it."""
    r = min(w, d) / 2
    pole = turned([0.0, 0.08 * h, 0.1 * h, 0.8 * h], [0.55 * r, 0.45 * r, 0.18 * r, 0.14 * r], 14)
    arm = rod((-0.75 * r, 0.0, 0.76 * h), (0.75 * r, 0.0, 0.76 * h), 0.06 * r, sides=8)
    roof = turned([0.93 * h, 0.965 * h, h], [r, 0.45 * r, 0.08 * r], 6)
    floor = turned([0.8 * h, 0.815 * h], [0.5 * r, 0.6 * r], 6)
    edge = 0.08 * r
    posts = [
        plank((x - edge, x + edge), (y - edge, y + edge), (0.815 * h, 0.93 * h))
        for x, y in ((-0.5 * r, 0), (0.5 * r, 0), (0, -0.5 * r), (0, 0.5 * r))
    ]
    return solid_of_parts(posts, [pole, arm, roof, floor])
