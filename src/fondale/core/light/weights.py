# SPDX-License-Identifier: MIT
"""How much of a receiver's bounced light comes from where: E = sum w_j rho_j B_j over texels j.

The weights are estimated by three kinds of rays at once: spread by the cosine, which find what is near and large; towards points drawn where most light
comes from, which find what is small and far; and through gates, which find what is seen through a narrow opening. Each counts by how many of all kinds
end where it ends [veach1997]. Points are drawn for a group of receivers; each of these asks for some of them, by how much would come from there, were nothing
between, and by how much did come to patches nearby [talbot2005].
"""

import math
from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any

import numpy as np

from fondale.core.arrays import Floats, Ints
from fondale.core.light.aim import DRAWN, Aim
from fondale.core.light.casts import Cast, matrix_of
from fondale.core.light.matrices import sparse_of, stacked
from fondale.core.light.odds import TOLD_BY, Goals, Odds, chosen, odds_of
from fondale.core.light.patches import Scrambled, cosine_ways, trace
from fondale.core.side_by_side import AT_ONCE, in_parts
from fondale.core.stage.paths import Leg

if TYPE_CHECKING:
    from scipy import sparse

FEW = 0.33  # where fewer of its rays than such a share bear the light, a patch sends many more towards it:
MORE, FINE_MORE = 12, 6  # times as many, when light is solved first, and when it is solved again
GROUP, GROUP_LEAST = 64, 8  # receivers share the points that are drawn; their errors must not be alike where they lie next to each other:
DRAWN_MOST = 131_072  # points by receivers: where many are drawn, groups are smaller
REGION, REGION_MM = 256, 60.0  # from so many a group is taken by chance
Points = Callable[[Ints, Floats], tuple[Floats, Floats]]
Told = Callable[[float], object]


def weights(
    aim: Aim,
    count: int,
    where: Points,
    around: int,
    towards: int,
    seed: int,
    looks: int = 1,
    told: Told | None = None,
    kept: "list[Cast] | None" = None,
) -> "sparse.csr_array":
    """The weights (count, n) of texels for receivers: ``around`` rays by the cosine, a power of two, and about ``towards`` many towards light. ``where`` gives points and
    normals (k, rays, 3) of some receivers for numbers (k, rays, 2) in 0..1; rays towards light start at ``looks`` of them, a square number. ``told`` hears which share is done;
    the rays are added to those that are ``kept``.
    """
    if not count or not around:
        return sparse_of((np.zeros(0, np.float32), np.zeros(0, np.int32), np.zeros(count + 1, np.int32)), (count, aim.texels.n))
    spread, (points, normals) = Scrambled(count, around, 4, seed), _middles(where, np.arange(count))
    order = _mixed(points, normals, aim.classes(points, normals), seed)
    if towards:
        towards = max(towards, looks * 2 // DRAWN)  # at each look there are some
        # What all parts look at is there before they begin.
        known = aim.known(points[:1], normals[:1])
        aim.drawn(aim.shares(1, known), looks, np.random.default_rng(seed))

    def some(lo: int, hi: int) -> "tuple[Cast | None, sparse.csr_array]":
        cast = _cast(aim, where, order[lo:hi], spread, towards, looks, np.random.default_rng((seed, lo)))
        found = matrix_of([replace(cast, which=np.arange(hi - lo))], hi - lo, aim.texels.n)
        return cast if kept is not None else None, found

    found = in_parts(some, count, GROUP * max(1, AT_ONCE // (around * GROUP)), told)
    if kept is not None:
        kept.extend(cast for cast, _found in found if cast is not None)
    return stacked([matrix for _cast, matrix in found])[np.argsort(order)]


def _middles(where: Points, which: Ints) -> tuple[Floats, Floats]:
    points, normals = where(which, np.full((len(which), 1, 2), 0.5))
    return points[:, 0], normals[:, 0]


def _mixed(points: Floats, normals: Floats, classes: Ints, seed: int) -> Ints:
    """The receivers (k,) in an order in which groups lie and face alike, and are of one class, and those that lie next to each other are in different groups."""
    rng, axis = np.random.default_rng(seed), np.abs(normals).argmax(1)
    side = np.take_along_axis(normals, axis[:, None], 1)[:, 0] > 0
    x, y, z = (points // REGION_MM).T
    out: Ints = np.lexsort((x, y, z, classes, side, axis))
    for low in range(0, len(out), REGION):
        rng.shuffle(out[low : low + REGION])
    return out


def _cast(aim: Aim, where: Points, which: Ints, spread: Scrambled, towards: int, looks: int, rng: np.random.Generator) -> Cast:
    """Send the rays of some receivers (k,)."""
    scene, around, numbers = aim.texels.patches.scene, spread.each, spread.of(which)
    # As precise as the rays are.
    start, facing = (np.array(x, np.float32, order="C").reshape(-1, 3) for x in where(which, numbers[..., :2]))
    ways: Any = cosine_ways(numbers[..., 2:].reshape(-1, 2).astype(np.float32), facing)
    legs = list[Leg]()
    met = trace(scene, start, facing, ways, legs)
    good = np.maximum(met.outside.reshape(-1, around).mean(1), 1 / around).astype(np.float32)
    goals, odds = _asked_by_all(aim, where, which, around, towards, looks, rng) if towards else (None, None)
    cast = Cast(aim, which, around, towards, good, start, facing, ways, legs, goals, odds)
    return cast.found(met, np.arange(len(start)), np.arange(len(goals.row)) if goals is not None else None)


def _asked_by_all(
    aim: Aim, where: Points, which: Ints, around: int, towards: int, looks: int, rng: np.random.Generator
) -> tuple[Goals, Odds]:
    """What receivers (k,) ask for of the points that are drawn for their groups, and by which odds."""
    side, drawn, count = math.isqrt(looks), towards * DRAWN, len(which)
    groups = -(-count // min(GROUP, max(GROUP_LEAST, DRAWN_MOST // drawn)))
    size = -(-count // groups)
    # The last of a group that is not full is there several times, and asks once.
    mine = np.minimum(np.arange(groups * size), count - 1)
    points, normals = _middles(where, which)
    known = aim.known(points[mine], normals[mine])
    share = aim.shares(groups, known)
    asked, others = (aim.drawn(share, n, rng) for n in (drawn, min(drawn // 2, TOLD_BY)))
    numbers = (np.indices((side, side)).reshape(2, -1).T + rng.random((len(mine), looks, 2))) / side
    at, up = (np.array(x, np.float32, order="C") for x in where(which[mine], numbers))
    odds = odds_of(others, known, asked, at, up, around, towards)
    return chosen(asked, odds, at, up, around, count, rng), odds
