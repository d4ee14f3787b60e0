# SPDX-License-Identifier: MIT
"""Bodies for other programs: the faces of a solid sewn together at their edges, as printing and cutting want them."""

import numpy as np
import shapely

from fondale.core.arrays import Floats, Ints
from fondale.core.shapes.solid import Solid

NEAR_MM = 1e-4  # corners that are nearer are one
ROUNDS = 4  # an edge that was parted may open another


def sewn(solid: Solid) -> tuple[Floats, Ints]:
    """Corner points (v, 3) and triangles (f, 3) of a solid. Where the corner of one face lies on the edge of another, that edge is parted there, so
    that every edge has its two faces wherever the faces do.
    """
    p, u, v = (solid.rects[:, k] for k in range(3)) if len(solid.rects) else (np.zeros((0, 3)),) * 3
    quads, tris = np.stack([p, p + u, p + u + v, p + v], 1), solid.tris
    corners = np.concatenate([quads.reshape(-1, 3), tris.reshape(-1, 3)])
    if not len(corners):
        return np.zeros((0, 3)), np.zeros((0, 3), np.int64)
    _keys, first, ids = np.unique(np.round(corners / NEAR_MM).astype(np.int64), axis=0, return_index=True, return_inverse=True)
    points, ids = corners[first], ids.reshape(-1)
    faces = [*ids[: 4 * len(quads)].reshape(-1, 4).tolist(), *ids[4 * len(quads) :].reshape(-1, 3).tolist()]
    parted = [_without_doubles(f) for f in faces]
    for _ in range(ROUNDS):
        was, parted = parted, _parted(parted, points)
        if parted == was:
            break
    more, out = [points], []
    count = len(points)
    for ring, face in zip(parted, faces, strict=True):
        if len(ring) < 3:
            continue
        if len(ring) <= len(face):
            out += [(ring[0], ring[k], ring[k + 1]) for k in range(1, len(ring) - 1)]
            continue
        more.append(points[ring].mean(0, keepdims=True))  # a ring with corners on its edges goes round its middle
        out += [(a, b, count) for a, b in zip(ring, [*ring[1:], ring[0]], strict=True)]
        count += 1
    every = np.concatenate(more)
    return _shells(every, np.array([*out, *_caps(out, every)], np.int64).reshape(-1, 3))


def _shells(points: Floats, faces: Ints) -> tuple[Floats, Ints]:
    """The same with corners of their own for bodies that only touch along an edge: each is closed by itself."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    edges = np.sort(faces[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
    _each, which, count = np.unique(edges, axis=0, return_inverse=True, return_counts=True)
    if (count <= 2).all():
        return points, faces
    order = np.argsort(which.reshape(-1), kind="stable")
    pairs = order[np.isin(which.reshape(-1)[order], np.flatnonzero(count == 2))].reshape(-1, 2) // 3
    links = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(faces), len(faces)))
    _n, body = connected_components(links, directed=False)
    keys, ids = np.unique(np.stack([np.repeat(body, 3), faces.reshape(-1)], 1), axis=0, return_inverse=True)
    apart = ids.reshape(-1, 3)
    sides = np.sort(apart[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
    if (np.unique(sides, axis=0, return_counts=True)[1] != 2).any():  # they touch along faces: closed together, if not each by itself
        return points, faces
    return points[keys[:, 1]], apart


def _caps(faces: list[tuple[int, int, int]], points: Floats) -> list[tuple[int, int, int]]:
    """Faces for what is open flat on the ground, as walls and stairs are that stand on it: nobody sees their foot here."""
    loose = [(b, a) if way > 0 else (a, b) for (a, b), way in _edges([list(f) for f in faces]).items() if way]
    low = points[:, 2].min()
    loose = [e for e in loose if (abs(points[list(e), 2] - low) < NEAR_MM).all()]
    if not loose:
        return []
    at = {tuple(np.round(points[i, :2], 6).tolist()): i for e in loose for i in e}
    out, wanted = [], set(loose)
    for ground in shapely.get_parts(shapely.polygonize(shapely.linestrings([points[list(e), :2] for e in loose]))):
        first, second = (at[tuple(np.round(p, 6).tolist())] for p in shapely.get_coordinates(shapely.orient_polygons(ground))[1::-1])
        if (first, second) not in wanted:
            continue  # what lies within is open for good
        for flat in shapely.get_parts(shapely.constrained_delaunay_triangles(ground)):
            a, b, c = (at[tuple(np.round(p, 6).tolist())] for p in shapely.get_coordinates(flat)[:3])
            ways = points[[a, b, c], :2]
            (px, py), (qx, qy) = ways[1] - ways[0], ways[2] - ways[0]
            turn = px * qy - py * qx
            out.append((a, c, b) if turn > 0 else (a, b, c))  # they look down
    return out


def _without_doubles(ring: list[int]) -> list[int]:
    return [c for k, c in enumerate(ring) if c != ring[k - 1]]


def _edges(rings: list[list[int]]) -> dict[tuple[int, int], int]:
    """How often each edge is gone along one way, less how often the other."""
    out: dict[tuple[int, int], int] = {}
    for ring in rings:
        for a, b in zip(ring, [*ring[1:], *ring[:1]], strict=True):
            key, way = ((a, b), 1) if a < b else ((b, a), -1)
            out[key] = out.get(key, 0) + way
    return out


def _parted(rings: list[list[int]], points: Floats) -> list[list[int]]:
    """The rings with the corners of others that lie on their open edges."""
    loose = [edge for edge, balance in _edges(rings).items() if balance]
    if not loose:
        return rings
    ends = np.array(loose)
    mine = np.unique(ends)
    on: dict[tuple[int, int], list[int]] = {}
    for a, b in loose:
        way = points[b] - points[a]
        long = float(np.linalg.norm(way))
        if long < NEAR_MM:
            continue
        share = (points[mine] - points[a]) @ way / long**2
        off = np.linalg.norm(points[mine] - points[a] - share[:, None] * way, axis=1)
        there = (off < NEAR_MM * 2) & (share * long > NEAR_MM) & ((1 - share) * long > NEAR_MM)
        if there.any():
            on[a, b] = mine[there][np.argsort(share[there])].tolist()
    out = []
    for ring in rings:
        new: list[int] = []
        for a, b in zip(ring, [*ring[1:], *ring[:1]], strict=True):
            new.append(a)
            between = on.get((min(a, b), max(a, b)), [])
            new += between if a < b else between[::-1]
        out.append(new)
    return out
