# SPDX-License-Identifier: MIT
"""How much of a body lies deeper than a wall under its skin: what is left out when it is printed hollow."""

from functools import lru_cache

import numpy as np

from fondale.core.arrays import Bools, Floats, Ints
from fondale.core.model.shapes import Mesh

SLICES, COLUMNS, ALONG = 300, 14, 14  # upright lines through the body, and places on each, one somewhere in each cell
SEED = 3
FEWEST, NEIGHBOURS = 200, 6
MOST_POINTS = 120_000  # of the skin


@lru_cache(maxsize=128)
def hollow_share(shape: Mesh, size: tuple[float, float, float], wall_mm: float) -> float:
    """The share of a body's volume that lies further than ``wall_mm`` from its simplified skin, which is ``size`` mm large, from 0 to 1.

    Points on upright lines, inside by the odd-even rule, with their distances to points all over the skin. Nothing where its skin is open.
    """
    import trimesh
    from scipy.spatial import cKDTree  # slow to load, as that is: only where bodies are hollowed

    tris = (np.array(shape.points) * size)[np.array(shape.faces)]
    inside = inner_points(tris)
    if len(inside) < FEWEST:
        return 0.0
    area = float(np.linalg.norm(np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0]), axis=1).sum()) / 2
    count = int(np.clip(area / (wall_mm / 3) ** 2, 4000, MOST_POINTS))
    on, owner = _on(tris, count)
    tree, apart = cKDTree(on), float(np.sqrt(area / count))
    near, _nearest = tree.query(inside)
    deep: Bools = np.asarray(near > wall_mm)
    # Between two points of the skin it is nearer than either: where that decides, the faces about it are asked.
    unsure = np.flatnonzero(deep & (near < np.hypot(wall_mm, 3 * apart)))
    _far, about = tree.query(inside[unsure], k=NEIGHBOURS)
    asked = np.repeat(inside[unsure], NEIGHBOURS, axis=0)
    close = trimesh.triangles.closest_point(tris[owner[about.ravel()]], asked)
    deep[unsure] = np.linalg.norm(close - asked, axis=1).reshape(-1, NEIGHBOURS).min(1) > wall_mm
    return float(deep.mean())


def _on(tris: Floats, count: int) -> tuple[Floats, Ints]:
    """Points (n, 3) all over a skin, by area, and the triangle of each; the same every time."""
    rng = np.random.default_rng(SEED)
    area = np.linalg.norm(np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0]), axis=1)
    owner = rng.choice(len(tris), count, p=area / area.sum())
    chosen = tris[owner]
    u, v = rng.random((2, count, 1))
    u, v = np.where(u + v > 1, 1 - u, u), np.where(u + v > 1, 1 - v, v)
    out: Floats = chosen[:, 0] + u * (chosen[:, 1] - chosen[:, 0]) + v * (chosen[:, 2] - chosen[:, 0])
    return out, owner


def inner_points(tris: Floats) -> Floats:
    """Points (n, 3) that lie evenly, and in no pattern, in a closed skin (t, 3, 3); the same every time."""
    low, high = tris.reshape(-1, 3).min(0), tris.reshape(-1, 3).max(0)
    step, rng = (high - low) / [SLICES, COLUMNS, ALONG], np.random.default_rng(SEED)
    out = []
    for k in range(SLICES):
        x = float(low[0] + (k + rng.random()) * step[0])
        mine = tris[(tris[:, :, 0].min(1) <= x) & (tris[:, :, 0].max(1) >= x)]
        y = low[1] + (np.arange(COLUMNS) + rng.random(COLUMNS)) * step[1]
        z = low[2] + (np.arange(ALONG) + rng.random((COLUMNS, ALONG))) * step[2]
        column, height = _crossings(mine, x, y)
        below = np.zeros((COLUMNS, ALONG), np.int64)
        for row in np.unique(column):
            below[row] = np.searchsorted(np.sort(height[column == row]), z[row])
        rows, cols = np.nonzero(below % 2)
        out.append(np.column_stack([np.full(len(rows), x), y[rows], z[rows, cols]]))
    return np.concatenate(out)


def _crossings(tris: Floats, x: float, y: Floats) -> tuple[Ints, Floats]:
    """Where upright lines at (x, y_k) cross triangles: k and the height of each crossing."""
    if not len(tris):
        return np.zeros(0, np.int64), np.zeros(0)
    a, b, c = tris[:, 0], tris[:, 1], tris[:, 2]
    det = (b[:, 1] - c[:, 1]) * (a[:, 0] - c[:, 0]) + (c[:, 0] - b[:, 0]) * (a[:, 1] - c[:, 1])
    sound = np.abs(det) > 1e-12
    a, b, c, det = a[sound], b[sound], c[sound], det[sound]
    u = ((b[:, 1] - c[:, 1])[:, None] * (x - c[:, 0])[:, None] + (c[:, 0] - b[:, 0])[:, None] * (y[None] - c[:, 1][:, None])) / det[:, None]
    v = ((c[:, 1] - a[:, 1])[:, None] * (x - c[:, 0])[:, None] + (a[:, 0] - c[:, 0])[:, None] * (y[None] - c[:, 1][:, None])) / det[:, None]
    t, k = np.nonzero((u >= 0) & (v >= 0) & (u + v < 1))
    u, v = u[t, k], v[t, k]
    return k, u * a[t, 2] + v * b[t, 2] + (1 - u - v) * c[t, 2]
