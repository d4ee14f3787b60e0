# SPDX-License-Identifier: MIT
"""Outlines of bodies as seen from the side of the bench, by a fast projection."""

from functools import lru_cache

import numpy as np

from fondale.core.arrays import Floats, Ints
from fondale.core.bodies.animals import animal
from fondale.core.bodies.figure import figure
from fondale.core.bodies.poses import lies

Outline = tuple[Floats, ...]
_KEY = np.array([1.0, np.sqrt(2.0), np.pi])  # makes one number of a point: equal points have equal ones
FINE, EDGE_ON = 1e-3, 1e-12  # of the size: what an outline is simplified by, and what is seen from its edge


def silhouette(tris: Floats, turn_deg: float = 38.0) -> Outline:
    """Rings (k, 2) of the outline of ``tris`` (n, 3, 3) turned about the vertical: x right, y up; closed body or not.

    Outer rings and holes alike; fill with the odd-even rule. Every face is turned to the eye; edges that two faces run along in opposite ways
    cancel out, and what is left bounds all of them: where it winds at least once there is body.
    """
    import manifold3d as m3

    a, size = np.radians(turn_deg), float(np.abs(tris).max())
    flat = np.stack([tris[..., 0] * np.cos(a) - tris[..., 1] * np.sin(a), tris[..., 2]], -1)
    e1, e2 = flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]
    cross = e1[:, 0] * e2[:, 1] - e1[:, 1] * e2[:, 0]
    names, whole = tris @ _KEY, np.abs(cross) > EDGE_ON * size**2
    back = cross < 0
    flat[back], names[back] = flat[back][:, ::-1], names[back][:, ::-1]
    rings = _rings(flat[whole], names[whole])
    outline = m3.CrossSection(rings, m3.FillRule.Positive).simplify(size * FINE)
    return tuple(np.vstack([ring, ring[:1]]) for ring in (np.asarray(r, float) for r in outline.to_polygons()))


def _rings(flat: Floats, names: Floats) -> list[Floats]:
    """Closed chains (k, 2) of the edges of triangles (n, 3, 2) that do not cancel out; ``names`` (n, 3) tell their corners apart."""
    start, end = names.ravel(), np.roll(names, -1, axis=1).ravel()
    at = flat.reshape(-1, 2)
    way = np.where(start < end, 1, -1)
    pair = np.minimum(start, end) * np.e + np.maximum(start, end)
    _edges, first, edge = np.unique(pair, return_index=True, return_inverse=True)
    net: Ints = np.rint(np.bincount(edge, way)).astype(np.int64)
    left = np.flatnonzero(net)
    # The two corners of each edge that is left, as the first face that has it knows them.
    here, there = first[left], first[left] // 3 * 3 + (first[left] + 1) % 3
    turned = (way[here] > 0) != (net[left] > 0)
    begin, goal = np.where(turned, there, here), np.where(turned, here, there)
    times = np.abs(net[left])
    begin, goal = np.repeat(begin, times), np.repeat(goal, times)
    follow: dict[float, list[int]] = {}
    for k, name in enumerate(names.ravel()[begin].tolist()):
        follow.setdefault(name, []).append(k)
    goals, rings = names.ravel()[goal].tolist(), []
    for name in list(follow):
        while follow[name]:
            chain, here_ = [], name
            while follow[here_]:
                k = follow[here_].pop()
                chain.append(int(begin[k]))
                here_ = goals[k]
            rings.append(at[chain])
    return rings


@lru_cache(maxsize=256)
def figure_outline(pose: str, person: str = "man", extras: tuple[str, ...] = (), heroic: bool = False, build: str = "plain") -> Outline:
    """The outline of a person in shares of stature; of one that lies, the whole length."""
    tris = figure(pose, person, extras, heroic, build).tris
    return silhouette(tris, 90.0) if lies(pose) else silhouette(tris)


@lru_cache(maxsize=32)
def animal_outline(species: str, rests: bool = False) -> Outline:
    """The outline of an animal in shares of its own measure when it stands, seen from the side."""
    return silhouette(animal(species, rests).tris, 90.0)
