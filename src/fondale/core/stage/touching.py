# SPDX-License-Identifier: MIT
"""How deep two bodies stand in each other, by their triangles: arms, arches, cranes and chairs as they are."""

from functools import lru_cache

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model import Piece, Place
from fondale.core.model.shapes import Shape
from fondale.core.rays import rays_for
from fondale.core.shapes import kind_of
from fondale.core.stage.scene import placed_solid

_DRAWN_IN = 0.05  # mm
_SHORT = 1e-6  # an edge this short crosses nothing


@lru_cache(maxsize=256)
def fills_its_hull(shape: Shape, height: float) -> bool:
    """Whether a body is as good as convex: then its outline and its height tell all."""
    from scipy.spatial import ConvexHull, QhullError

    tris = kind_of(shape).solid(shape, height).triangles()
    try:
        hull = ConvexHull(tris.reshape(-1, 3)).volume
    except QhullError:  # flat
        return True
    six = np.einsum("ij,ij->i", tris[:, 0], np.cross(tris[:, 1], tris[:, 2]))
    return float(six.sum()) / 6 >= 0.97 * hull


@lru_cache(maxsize=512)
def shared_mm(a: Piece, at_a: Place, b: Piece, at_b: Place) -> float:
    """The lesser side in mm, in plan, of what two placed pieces share: where their skins cross, and what of each lies in the other; 0 where there
    is air between them.
    """
    one, other = placed_solid(a, at_a).triangles(), placed_solid(b, at_b).triangles()
    low, high = one.reshape(-1, 3).min(0), one.reshape(-1, 3).max(0)
    one = (low + high) / 2 + (one - (low + high) / 2) * (1 - _DRAWN_IN / np.maximum(high - low, 1.0))  # faces in one plane would not cross
    met = np.concatenate([_crossings(one, other), _crossings(other, one), _within(one, other), _within(other, one)])
    return float(np.ptp(met[:, :2], axis=0).min()) if len(met) else 0.0


def _crossings(of: Floats, through: Floats) -> Floats:
    """Points (n, 3) where the edges of one skin (t, 3, 3) go through the faces of another."""
    low, high = through.reshape(-1, 3).min(0), through.reshape(-1, 3).max(0)
    near = of[((of.max(1) >= low) & (of.min(1) <= high)).all(1)]
    start = near.reshape(-1, 3)
    way = np.roll(near, -1, axis=1).reshape(-1, 3) - start
    far = np.linalg.norm(way, axis=1)
    long = far > _SHORT
    start, way, far = start[long], way[long] / far[long, None], far[long]
    if not len(start):
        return np.zeros((0, 3))
    prim, reach = rays_for(through).hit(start, way)
    hits = (prim >= 0) & (reach <= far)
    out: Floats = start[hits] + way[hits] * reach[hits, None]
    return out


def _within(of: Floats, skin: Floats) -> Floats:
    """The corners (n, 3) of one skin (t, 3, 3) that lie inside another, closed one: a ray from them goes out through a face that looks its way."""
    low, high = skin.reshape(-1, 3).min(0), skin.reshape(-1, 3).max(0)
    corners: Floats = np.unique(of.reshape(-1, 3), axis=0)
    corners = corners[((corners >= low) & (corners <= high)).all(1)]
    if not len(corners):
        return np.zeros((0, 3))
    way = np.array([0.2113, 0.1247, 0.9694])
    prim, _far = rays_for(skin).hit(corners, np.broadcast_to(way, corners.shape))
    met = skin[np.maximum(prim, 0)]
    outwards = np.cross(met[:, 1] - met[:, 0], met[:, 2] - met[:, 0]) @ way > 0
    out: Floats = corners[(prim >= 0) & outwards]
    return out
