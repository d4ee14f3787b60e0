# SPDX-License-Identifier: MIT
"""By which odds receivers ask for points where light comes from, which they choose, and what a ray of one kind counts among those of all kinds [veach1997]."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Ints, rows, scaled
from fondale.core.light.aim import Aim, Drawn, gate_points
from fondale.core.light.gates import NO_GATES
from fondale.core.light.texels import Texels

PROMISED = np.float32(25.0)  # a receiver to which gates promise a fiftieth of its light sends half of its rays through them
TOLD_BY = 512  # others at most tell the odds, half as many as are drawn
ALREADY = 0.3  # of what is asked for goes by what was found before, where anything was
ANY = 0.1  # of what is asked for, whatever light is there
Vectors = NDArray[np.float32]


@dataclass(frozen=True)
class Found:
    """Rays (r,) that were not hidden: whose each is, the texel where it ended, which share of its light came through, and where it led: from which of ``begin`` (k, 3),
    that face ``up``, to which of ``end`` (m, 3), and which of ``normal`` (n, 3) that has.
    """

    row: Ints
    texel: Ints
    share: NDArray[Any]
    begins: Ints
    begin: Vectors
    up: Vectors
    ends: Ints
    end: NDArray[Any]
    faces: Ints
    normal: Vectors


@dataclass(frozen=True)
class Goals:
    """What receivers ask for (k,): the receiver, from where and which way it faces (k, 3), the point and its normal, its texel, -1 for a gate, and how far in lengths of
    the way to it something was met.
    """

    row: Ints
    begin: Vectors
    up: Vectors
    end: Vectors
    normal: Vectors
    texel: Ints
    far: NDArray[np.float32]


@dataclass(frozen=True)
class Odds:
    """By which odds receivers (k,), each of a ``group``, ask for the points that are drawn: those in gates by what is beyond, others by what texels send back, were
    all of it to arrive (``lit``), and by how much of it did before, which is ``open`` (k, patches); and ``any``, whatever light is there. ``each`` (groups, patches)
    is how many points are drawn on a patch. Other points tell the odds: what is drawn knows nothing of its own, so that nothing is found too often.
    """

    group: Ints
    lit: NDArray[np.float32]
    known: NDArray[np.float32]
    beyond: NDArray[np.float32]
    any: NDArray[np.float32]
    open: NDArray[np.float32]
    each: NDArray[np.float32]


def odds_of(
    told: Drawn, known: NDArray[np.float32] | None, drawn: Drawn, points: Vectors, normals: Vectors, around: int, towards: int
) -> Odds:
    """The odds of points that are ``drawn`` for groups of receivers (k, looks, 3), told by others: about ``towards`` of them are asked for, by how much light would come
    from there, and by how much did, of which patches have had the shares ``known`` (k, patches): in the place of these is put how open they are. Points in gates get up to
    half of what goes by promises wherever they may matter: what is promised before them may be hidden.
    """
    from fondale.core.light import loops

    k, least = len(points), np.float32(1e-30)
    lit, beyond, every, did = (np.zeros(k, np.float32) for _ in range(4))
    open_ = known if known is not None else np.zeros((k, 0), np.float32)
    # As many are drawn as tell.
    times, times_gates = drawn.texel.shape[1] / told.texel.shape[1], drawn.gate.shape[1] / max(told.gate.shape[1], 1)
    loops.told(
        told.points, told.normals, points, normals, told.bright, told.density, told.patch, open_, around, times, max(times_gates, 1.0),
        lit, beyond, every, did,
    )  # fmt: skip
    lit = np.maximum(lit, least)
    share: NDArray[Any] = beyond / (lit + beyond)
    share = np.maximum(share, np.minimum(np.float32(0.5), PROMISED * share))
    left: NDArray[Any] = np.full(k, (1 - ANY) * towards, np.float32)
    by_known: NDArray[Any] = np.where(did > 0, left * np.float32(ALREADY) / np.maximum(did, least), np.float32(0))
    left = np.where(did > 0, left * np.float32(1 - ALREADY), left)
    any_: NDArray[Any] = np.float32(ANY * towards) / np.maximum(every, least)
    by_promise, through = (x.astype(np.float32) for x in ((1 - share) * left / lit, share * left / np.maximum(beyond, least)))
    return Odds(np.repeat(np.arange(len(drawn.points)), k // len(drawn.points)), by_promise, by_known, through, any_, open_, drawn.each)


def chosen(drawn: Drawn, odds: Odds, points: Vectors, normals: Vectors, around: int, count: int, rng: np.random.Generator) -> Goals:
    """Which points the first ``count`` of receivers (k, looks, 3) ask for of those drawn for their groups, by their odds: one after the other, as even as they lie."""
    from fondale.core.light import loops

    row, begin, up, end, normal, texel = loops.choose(
        drawn.points, drawn.normals, points, normals, drawn.bright, drawn.density, drawn.patch, drawn.texel, around,
        odds.lit, odds.known, odds.beyond, odds.any, odds.open, rng.random(len(points), np.float32), count,
    )  # fmt: skip
    return Goals(row, begin, up, end, normal, texel, np.ones(len(row), np.float32))


def arrived(texels: Texels, goals: Goals, which: Ints) -> list[tuple[Found, Ints]]:
    """What of these goals (k,) is not hidden, and the number of each: the points themselves, and what rays through gates meet beyond, of which is noted how far it is."""
    scene = texels.patches.scene
    on, by = which[goals.texel[which] >= 0], which[goals.texel[which] < 0]
    begin, end = rows(goals.begin, on), rows(goals.end, on)
    free = np.flatnonzero(~scene.rays.blocked(begin, end))
    on = on[free]
    share = scene.panes.through(rows(begin, free), rows(end, free)) if len(scene.panes) else np.ones(len(on), np.float32)
    out = [(Found(goals.row[on], goals.texel[on], share, on, goals.begin, goals.up, on, goals.end, on, goals.normal), on)]
    if len(by):
        start = rows(goals.begin, by)
        way = rows(goals.end, by) - start
        prim, dist = scene.rays.hit(start, way)
        goals.far[by] = np.where(prim >= 0, dist, np.inf)
        some = np.flatnonzero((prim >= 0) & (dist > 1))
        prim, beyond, by = prim[some], rows(start, some) + scaled(rows(way, some), dist[some]), by[some]
        share = scene.panes.through(rows(start, some), beyond) if len(scene.panes) else np.ones(len(by), np.float32)
        texel, ends = texels.of_hits(prim, beyond), np.arange(len(by))
        out.append((Found(goals.row[by], texel, share, by, goals.begin, goals.up, ends, beyond, prim.astype(np.int64), scene.normal32), by))
    return out


def balanced(aim: Aim, found: Found, odds: Odds, around: int, towards: int) -> NDArray[np.float32]:
    """The weight of each ray: how much comes from a mm² where it ended, against how many rays of all kinds end there."""
    from fondale.core.light import loops

    out = np.empty(len(found.row), np.float32)
    gates = aim.gates.met_by(gate_points(towards)) if aim.gates is not None else NO_GATES
    loops.weigh(
        found.begins, found.begin, found.up, found.ends, found.end, found.faces, found.normal, found.row, found.share, found.texel, around,
        aim.texels.patch, aim.dense, aim.shine, odds.lit, odds.known, odds.beyond, odds.any, odds.open, odds.group, odds.each, *gates, out,
    )  # fmt: skip
    return out
