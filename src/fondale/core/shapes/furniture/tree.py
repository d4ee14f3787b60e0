# SPDX-License-Identifier: MIT
"""A broadleaf tree: trunk, boughs and a crown of ragged clumps of leaves."""

import numpy as np

from fondale.core.arrays import Floats, length
from fondale.core.shapes.furniture.parts import rod, solid_of_parts, turned
from fondale.core.shapes.solid import Solid

CLUMPS, BOUGHS, SEED = 26, 8, 5


def build(w: float, d: float, h: float) -> Solid:
    """The same at every call; the crown fills what is told."""
    rng = np.random.default_rng(SEED)
    size, middle = np.array([w, d, 0.66 * h]), np.array([0.0, 0.0, 0.67 * h])
    parts = [turned([0.0, 0.04 * h, 0.3 * h, 0.7 * h], np.array([1.5, 1.0, 0.75, 0.3]) * 0.028 * h, 12)]
    # Clumps on an ellipsoid by the golden angle, a few within it.
    at = np.arange(CLUMPS) + 0.5
    up = 1 - 2 * at / CLUMPS
    a = at * np.pi * (3 - 5**0.5)
    ways = np.stack([np.cos(a) * np.sqrt(1 - up**2), np.sin(a) * np.sqrt(1 - up**2), up], 1)
    for k, way in enumerate(ways):
        clump = size * rng.uniform(0.12, 0.18)
        out = 1.0 if k % 4 else 0.6
        centre = middle + way * (size / 2 - clump) * out
        parts.append(_clump(centre, clump, rng))
        if k % (CLUMPS // BOUGHS) == 1:
            parts.append(rod((0.0, 0.0, rng.uniform(0.3, 0.5) * h), centre.tolist(), 0.011 * h, 0.003 * h, 6))
    parts.append(_clump(middle, 0.3 * size, rng))
    tall = np.array([1.0, 1.0, h / max(float(p[..., 2].max()) for p in parts)])
    return solid_of_parts([], [p * tall for p in parts])


def _clump(centre: Floats, size: Floats, rng: np.random.Generator) -> Floats:
    """A ball with waves in it, none like the other, within its size."""
    z = np.linspace(-1, 1, 7)
    ball = turned(z, np.sqrt(np.maximum(1 - z**2, 0.0004)), 9)
    waves, turn = rng.normal(0.0, 4.0, (3, 3)), rng.uniform(0, 6.3, 3)
    far = 0.82 + 0.18 * np.sin(ball @ waves + turn).mean(-1) * 1.7
    ragged = ball * np.clip(far, 0.55, 1.0)[..., None] / np.maximum(length(ball), 1.0)[..., None]
    out: Floats = ragged * size + centre
    return out
