# SPDX-License-Identifier: MIT
"""A handcart: a box on two spoked wheels, with two shafts to the front."""

from itertools import pairwise

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.shapes.furniture.parts import plank, rod, solid_of_parts
from fondale.core.shapes.solid import Solid

SPOKES, RIM = 8, 16


def build(w: float, d: float, h: float) -> Solid:
    """Wheels of nine tenths of its height; shafts take the front third of its depth, a prop holds them level."""
    r, thick = min(h * 0.45, d * 0.30), w * 0.05
    bed, x_in, box = h * 0.52, w / 2 - 2.2 * thick, -d / 2 + d * 0.34
    t = h * 0.03
    planks = [plank((-x_in, x_in), (box, d / 2), (bed, bed + t))]
    planks += [plank((x, x + t), (box, d / 2), (bed + t, h)) for x in (-x_in, x_in - t)]
    planks += [plank((-x_in + t, x_in - t), (y, y + t), (bed + t, h * 0.94)) for y in (box, d / 2 - t)]
    axle = (box + d / 2) / 2
    parts: list[Floats] = [rod((-w / 2, axle, r), (w / 2, axle, r), thick * 0.5, sides=8)]
    for x in (-w / 2 + thick / 2, w / 2 - thick / 2):
        parts += _wheel(x, axle, r, thick)
    shafts = [rod((x, box + d * 0.1, bed - t), (x * 0.9, -d / 2, bed), t * 0.9, t * 0.7, 8) for x in (-x_in * 0.8, x_in * 0.8)]
    bar = rod((-x_in * 0.72, -d / 2 + t, bed), (x_in * 0.72, -d / 2 + t, bed), t * 0.6, sides=8)
    prop = rod((0.0, box + t, bed), (0.0, box + t, 0.0), t * 0.7, sides=6)
    return solid_of_parts(planks, [*parts, *shafts, bar, prop])


def _wheel(x: float, y: float, r: float, thick: float) -> list[Floats]:
    """A rim of straight pieces, spokes and a hub; it stands on the ground."""
    turns = np.linspace(0, 2 * np.pi, RIM + 1)
    edge = r - thick * 0.56
    ring = [(x, y + edge * np.cos(a), r + edge * np.sin(a)) for a in turns]
    out = [rod(a, b, thick * 0.5, sides=6) for a, b in pairwise(ring)]
    spokes = 2 * np.pi * np.arange(SPOKES) / SPOKES
    out += [rod((x, y, r), (x, y + edge * np.cos(a), r + edge * np.sin(a)), thick * 0.28, thick * 0.22, 6) for a in spokes]
    return [*out, rod((x - thick * 0.5, y, r), (x + thick * 0.5, y, r), thick * 0.8, sides=10)]
