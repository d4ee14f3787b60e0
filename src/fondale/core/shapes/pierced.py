# SPDX-License-Identifier: MIT
"""Flat walls with openings in them: of any form, side by side, one over the other or into each other."""

from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np
import shapely

from fondale.core.arrays import Floats
from fondale.core.model.shapes import Opening

_ROUND, _BROKEN_MM = 24, 5.0  # corners of a full circle; the length of one splinter
_LEAST = 1e-6


def ring_of(o: Opening) -> Floats:
    """The outline (k, 2) of an opening, x to the right and z up, counterclockwise from its lower left corner."""
    if o.form == "arch":
        rise = min(o.width / 2, o.height)
        a = np.linspace(0.0, np.pi, _ROUND // 2 + 1)
        head = np.column_stack([o.x + o.width / 2 * (1 + np.cos(a)), o.z + o.height - rise + rise * np.sin(a)])
        foot = np.array([[o.x, o.z], [o.x + o.width, o.z]])
        return np.concatenate([foot, head]) if o.height > rise else np.concatenate([foot[:1], head[:-1]])
    if o.form == "round":
        a = np.arange(_ROUND) * 2 * np.pi / _ROUND - np.pi * 3 / 4
        return np.column_stack([o.x + o.width / 2 * (1 + np.cos(a)), o.z + o.height / 2 * (1 + np.sin(a))])
    corners = np.array([[o.x, o.z], [o.x + o.width, o.z], [o.x + o.width, o.z + o.height], [o.x, o.z + o.height]])
    return _broken(corners) if o.form == "broken" else corners


def _broken(corners: Floats) -> Floats:
    """A rectangle whose edges are splintered inwards, the same at every call; what stands on the ground stays whole there."""
    rng, size, points = np.random.default_rng(7), corners[2] - corners[0], []
    deep = min(_BROKEN_MM, 0.25 * float(size.min()))
    for k in range(4):
        a, b = corners[k], corners[(k + 1) % 4]
        n = int(np.clip(np.hypot(*(b - a)) / _BROKEN_MM, 2, 40))
        t = np.arange(n) / n
        inwards = np.array([a[1] - b[1], b[0] - a[0]]) / np.hypot(*(b - a))
        depth = np.where(np.arange(n) % 2, rng.uniform(0.4, 1.0, n), rng.uniform(0.0, 0.4, n)) * deep
        whole = k == 0 and corners[0, 1] <= _LEAST
        points.append(a + (b - a) * t[:, None] + (0.0 if whole else inwards * depth[:, None] * (t[:, None] > 0)))
    return np.concatenate(points)


@dataclass(frozen=True)
class Face:
    """What is left of a flat face: ``rects`` (r, 4) as x0, x1, z0, z1, ``tris`` (t, 3, 2) beside curves and splinters, counterclockwise,
    and the ``rings`` (k, 2) round it with the wall on their left.
    """

    rects: Floats
    tris: Floats
    rings: tuple[Floats, ...]


@lru_cache(maxsize=256)
def face(length: float, height: float, openings: tuple[Opening, ...]) -> Face:
    """A face of ``length`` times ``height`` mm less its openings; what of them lies beyond it counts for nothing."""
    with np.errstate(all="ignore"):  # the geometry engine raises flags of floats on touching edges
        return _face(length, height, openings)


def _face(length: float, height: float, openings: tuple[Opening, ...]) -> Face:
    whole = shapely.box(0, 0, length, height)
    holes = [shapely.make_valid(shapely.polygons(np.round(ring_of(o), 6))) for o in openings]
    free = shapely.set_precision(shapely.difference(whole, shapely.union_all(holes)), 1e-7) if holes else whole
    boxes = [(max(0.0, o.x), min(length, o.x + o.width), max(0.0, o.z), min(height, o.z + o.height)) for o in openings]
    curved = [b for b, o in zip(boxes, openings, strict=True) if o.form != "lintel" and b[1] - b[0] > _LEAST and b[3] - b[2] > _LEAST]
    straight = [b for b in boxes if b[1] - b[0] > _LEAST and b[3] - b[2] > _LEAST]
    beside = shapely.union_all([shapely.box(b[0], b[2], b[1], b[3]) for b in curved])
    tris = _triangles(shapely.intersection(free, beside)) if curved else np.zeros((0, 3, 2))
    rings = [ring for part in _polygons(shapely.orient_polygons(free)) for ring in (part.exterior, *part.interiors)]
    return Face(_columns(length, height, straight), tris, tuple(np.asarray(r.coords)[:-1] for r in rings))


def _polygons(shape: shapely.Geometry) -> list[shapely.Polygon]:
    return [p for p in shapely.get_parts(shape) if p.geom_type == "Polygon" and p.area > _LEAST]


def _triangles(shape: shapely.Geometry) -> Floats:
    """A shape cut into triangles (t, 3, 2), counterclockwise."""
    found = [t for p in _polygons(shape) for t in shapely.get_parts(shapely.constrained_delaunay_triangles(p))]
    tris = np.array([np.asarray(t.exterior.coords)[:3] for t in found]).reshape(-1, 3, 2)
    a, b = tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0]
    area = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    tris[area < 0] = tris[area < 0][:, ::-1]
    out: Floats = tris[np.abs(area) > _LEAST]
    return out


def _columns(length: float, height: float, boxes: list[tuple[float, float, float, float]]) -> Floats:
    """The face less boxes as rectangles (r, 4): upright columns, as broad as what is left in them stays the same."""
    xs = np.unique(np.clip([0.0, length, *(x for b in boxes for x in b[:2])], 0.0, length))
    out: list[list[float]] = []
    before: list[tuple[float, float]] = []
    for x0, x1 in pairwise(xs.tolist()):
        taken = sorted((b[2], b[3]) for b in boxes if b[0] < (x0 + x1) / 2 < b[1])
        free, z = [], 0.0
        for low, top in [*taken, (height, height)]:
            if low - z > _LEAST:
                free.append((z, low))
            z = max(z, top)
        if free == before and out:
            for one in out[-len(free) :] if free else []:
                one[1] = x1
        else:
            out += [[x0, x1, low, top] for low, top in free]
        before = free
    return np.array(out).reshape(-1, 4)
