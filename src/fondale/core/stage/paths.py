# SPDX-License-Identifier: MIT
"""Rays that go through panes and come back from mirrors: what each meets, and with which share of its light."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Ints, dot, rows, scaled
from fondale.core.rays import Prims
from fondale.core.stage.glass import Panes
from fondale.core.stage.scene import Scene

DEEPEST, LEAST = 4, 0.01  # a ray meets so many panes, and is dropped when it carries less
IMAGE_LEAST, IMAGES_MOST = 0.01, 40  # of a lamp in panes: those that are weaker, straight on, are left out
NOTICED = 0.1  # of its light: the image of a spot that throws less at the eye is not noticed (common practice, no source)


@dataclass(frozen=True)
class Met:
    """What rays meet: the number (k,) of each ray, triangle, point, and share of its light. ``first`` are entries of rays that were
    never thrown back; ``outside`` (n,) says of every ray whether it started outside every body.
    """

    ray: Ints
    prim: Prims
    where: Floats
    way: Floats
    share: Floats
    first: Bools
    outside: Bools


Leg = tuple[Ints, NDArray[Any], NDArray[Any], NDArray[Any]]  # of which rays (k,) it is, from where, which way, and how far in its lengths


def follow(scene: Scene, starts: NDArray[Any], ways: NDArray[Any], panes: Panes | None = None, legs: list[Leg] | None = None) -> Met:
    """Follow rays (n, 3) through and off the panes to whatever they meet, as precisely as these are; those that leave, or end inside a body, are left
    out. What they go along is added to ``legs``.
    """
    panes = scene.panes if panes is None else panes
    normals = scene.normal if ways.dtype == np.float64 else scene.normal32
    ray, share, first = np.arange(len(starts)), np.ones(len(starts), ways.dtype), np.ones(len(starts), bool)
    prim, dist = scene.rays.hit(starts, ways)
    outside = (prim < 0) | (dot(rows(normals, np.maximum(prim, 0)), ways) < 0)
    found: list[tuple[Ints, Prims, Floats, Floats, Floats, Bools]] = []
    for depth in range(DEEPEST + 1):
        if legs is not None:
            legs.append((ray, starts, ways, dist))
        which, at = panes.first(starts, ways, dist) if depth < DEEPEST else (np.full(len(ray), -1), dist)
        ends = np.flatnonzero((which < 0) & (prim >= 0))
        ends = ends[dot(rows(normals, prim[ends]), rows(ways, ends)) < 0]
        along = rows(ways, ends)
        found.append((ray[ends], prim[ends], rows(starts, ends) + scaled(along, dist[ends]), along, share[ends], first[ends]))
        on = np.flatnonzero(which >= 0)
        if not len(on):
            break
        met = rows(ways, on)
        normal = panes.normal.astype(met.dtype)[which[on]]
        cos = dot(met, normal)
        throws, passes = (x.astype(met.dtype) for x in panes.shares(which[on], cos))
        crossing = rows(starts, on) + scaled(met, at[on])
        on_through = np.flatnonzero((share[on] * passes > LEAST) & (prim[on] >= 0))
        back = np.flatnonzero(share[on] * throws > LEAST)
        through = on[on_through]
        thrown = rows(met, back) - 2 * cos[back, None] * normal[back]
        prim_back, dist_back = scene.rays.hit(crossing[back], thrown)
        prim, dist = np.concatenate([prim_back, prim[through]]), np.concatenate([dist_back, dist[through] - at[through]])
        share = np.concatenate([share[on[back]] * throws[back], share[through] * passes[on_through]])
        first = np.concatenate([np.zeros(len(back), bool), first[through]])
        ray = np.concatenate([ray[on[back]], ray[through]])
        starts, ways = np.concatenate([crossing[back], crossing[on_through]]), np.concatenate([thrown, ways[through]])
    rays, prims, wheres, ways, shares, firsts = (np.concatenate(each) for each in zip(*found, strict=True))
    return Met(rays, prims, wheres, ways, shares, firsts, outside)


@lru_cache(maxsize=8)
def _sequences(weights: tuple[float, ...]) -> tuple[tuple[int, ...], ...]:
    out: list[tuple[int, ...]] = []
    front: list[tuple[tuple[int, ...], float]] = [((), 1.0)]
    while front and len(out) < IMAGES_MOST:
        front = [
            ((*seen, k), share * w)
            for seen, share in front
            for k, w in enumerate(weights)
            if share * w >= IMAGE_LEAST and (not seen or seen[-1] != k)
        ]
        out += [seen for seen, _share in front]
    return tuple(out[:IMAGES_MOST])


def sequences(panes: Panes) -> tuple[tuple[int, ...], ...]:
    """In which panes a lamp shows, one after the other as its light meets them: (0,) in the first, (0, 1) in the second by way of the first."""
    return _sequences(panes.straight_on)


def mirrored(panes: Panes, k: int, point: Floats) -> Floats:
    """A point (3,) behind pane ``k`` as far as it is before it."""
    n = panes.normal[k]
    out: Floats = point - 2 * float((point - panes.rects[k, 0]) @ n) * n
    return out


def turned_back(panes: Panes, k: int, way: Floats) -> Floats:
    """A direction (3,) as it shows in pane ``k``."""
    n = panes.normal[k]
    out: Floats = way - 2 * float(way @ n) * n
    return out


def legs(scene: Scene, starts: Floats, at: Floats, met: tuple[int, ...]) -> tuple[Ints, Floats]:
    """Which of ``starts`` (n, 3) light from ``at`` (3,) reaches by way of the panes ``met``, and with which share of it."""
    panes, images = scene.panes, [at]
    for k in met:
        images.append(mirrored(panes, k, images[-1]))
    live, share, here = np.arange(len(starts)), np.ones(len(starts)), starts
    for step in range(len(met) - 1, -1, -1):
        k = met[step]
        way = images[step + 1] - here
        pick, t = panes.met(k, here, way, 1.0)
        there = here[pick] + way[pick] * t[:, None]
        free = ~scene.rays.blocked(here[pick], there)
        pick, there = pick[free], there[free]
        far = np.sqrt(dot(way[pick], way[pick]))
        throws = panes.shares(np.full(len(pick), k), way[pick] @ panes.normal[k] / np.maximum(far, 1e-12))[0]
        passes = panes.through(here[pick], there, but=k)
        live, share, here = live[pick], share[pick] * throws * passes, there
        if not len(live):
            return live, share
    pick = np.flatnonzero(~scene.rays.blocked(here, np.broadcast_to(at, here.shape)))
    live, share, here = live[pick], share[pick], here[pick]
    return live, share * panes.through(here, np.broadcast_to(at, here.shape), but=met[0])


def images(scene: Scene, at: Floats, axis: Floats) -> Iterator[tuple[tuple[int, ...], Floats, Floats]]:
    """The images of a lamp: the panes that it shows in, where it seems to be (3,), and its axis there."""
    for met in sequences(scene.panes):
        place, way = at, axis
        for k in met:
            place, way = mirrored(scene.panes, k, place), turned_back(scene.panes, k, way)
        yield met, place, way


def in_mirrors(scene: Scene, eyes: Floats, at: Floats) -> Iterator[tuple[Ints, Floats]]:
    """In which mirrors, one after the other, a spot (3,) shows: to which of the eyes (n, 3), and where it seems to be (3,). Clear panes are none."""
    for met in _sequences(tuple(np.nan_to_num(scene.panes.throws).tolist())):
        if len(met) > DEEPEST:
            continue
        live, share = legs(scene, eyes, at, met)
        noticed = live[share >= NOTICED]
        if len(noticed):
            place = at
            for k in met:
                place = mirrored(scene.panes, k, place)
            yield noticed, place
