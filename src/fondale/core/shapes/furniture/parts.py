# SPDX-License-Identifier: MIT
"""What furniture is made of: planks and rods, put together to a solid."""

from collections.abc import Sequence

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.bodies.lofts import loft
from fondale.core.shapes.solid import NO_TRIS, Bounds, Solid, box_faces, facing_groups


def plank(x: tuple[float, float], y: tuple[float, float], z: tuple[float, float]) -> Bounds:
    """A plank between these ends."""
    return x[0], y[0], z[0], x[1], y[1], z[1]


def rod(a: Sequence[float], b: Sequence[float], radius: float, thin: float | None = None, sides: int = 10) -> Floats:
    """A round rod (t, 3, 3) from ``a`` to ``b``, at ``b`` as ``thin`` as told."""
    line = np.linspace(a, b, 3)
    way = line[2] - line[0]
    aside = np.array([0.0, 0.0, 1.0]) if abs(way[2]) < 0.9 * np.linalg.norm(way) else np.array([1.0, 0.0, 0.0])
    size = np.linspace(radius, radius if thin is None else thin, 3)
    return loft(line, size, size, aside, sides)


def turned(heights: Sequence[float] | Floats, radii: Sequence[float] | Floats, sides: int = 20) -> Floats:
    """A turned body (t, 3, 3) about the upright axis."""
    z, r = np.asarray(heights, float), np.asarray(radii, float)
    line = np.stack([np.zeros_like(z), np.zeros_like(z), z], 1)
    return loft(line, r, r, np.array([1.0, 0.0, 0.0]), sides)


def solid_of_parts(planks: Sequence[Bounds], round_parts: Sequence[Floats] = ()) -> Solid:
    """One solid of planks and round parts; each round part has its own light."""
    rects = np.concatenate([box_faces(p) for p in planks]) if planks else np.zeros((0, 3, 3))
    tris = np.concatenate(list(round_parts)) if round_parts else NO_TRIS
    part = np.concatenate([np.full(len(t), k) for k, t in enumerate(round_parts)]) if round_parts else np.zeros(0, np.int64)
    return Solid(rects, tris, facing_groups(tris, part))
