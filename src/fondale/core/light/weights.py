"""How much of a receiver's bounced light comes from where: E = sum w_j rho_j B_j over texels j.

The weights are estimated by three kinds of rays at once: spread by the cosine, which find what is near and large; towards points drawn where most light
comes from, which find what is small and far; and through gates, which find what is seen through a narrow opening. Each counts by how many of all kinds
end where it ends [veach1997]. Points are drawn for a group of receivers; each of these asks for some of them, by how much would come from there, were nothing
between, and by how much did come to patches nearby [talbot2005].
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, fields
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Ints, rows, scaled
from fondale.core.light.aim import DRAWN, Aim, Drawn, gate_points
from fondale.core.light.gates import NEAREST, Rays, rays_between
from fondale.core.light.patches import Scrambled, cosine_ways, trace
from fondale.core.light.texels import Texels
from fondale.core.rays import LIFT_MM
from fondale.core.side_by_side import AT_ONCE, in_parts

if TYPE_CHECKING:
    from scipy import sparse

PROMISED = np.float32(25.0)  # a receiver to which gates promise a fiftieth of its light sends half of its rays through them
TOLD_BY = 512  # others at most tell the odds, half as many as are drawn
ALREADY = 0.3  # of what is asked for goes by what was found before, where anything was
ANY = 0.1  # of what is asked for, whatever light is there
FEW, MORE = 0.28, 8  # receivers send so many times as many rays towards light where fewer than this share of rays bears it
PAIRS = 131_072  # of receivers and points at once, so that they stay in the cache
GROUP, GROUP_LEAST = 64, 8  # receivers share the points that are drawn; their errors must not be alike where they lie next to each other:
REGION, REGION_MM = 256, 60.0  # from so many a group is taken by chance
Points = Callable[[Ints, Floats], tuple[Floats, Floats]]
Told = Callable[[float], object]
_Vectors = NDArray[np.float32]
_Goals = tuple[Ints, _Vectors, _Vectors, _Vectors, _Vectors, Ints]  # row, begin, up, end, normal, texel or -1


def weights(
    aim: Aim, count: int, where: Points, around: int, towards: int, seed: int, looks: int = 1, told: Told | None = None
) -> "sparse.csr_array":
    """The weights (count, n) of texels for receivers: ``around`` rays by the cosine, a power of two, and about ``towards`` many towards light. ``where`` gives points and
    normals (k, rays, 3) of some receivers for numbers (k, rays, 2) in 0..1; rays towards light start at ``looks`` of them, a square number. ``told`` hears which share is done.
    """
    if not count or not around:
        return _matrix((np.zeros(0, np.float32), np.zeros(0, np.int32), np.zeros(count + 1, np.int32)), (count, aim.texels.n))
    spread, (points, normals) = Scrambled(count, around, 4, seed), _middles(where, np.arange(count))
    order = _mixed(points, normals, aim.classes(points, normals), seed)
    if towards:
        towards = max(towards, looks * 2 // DRAWN)  # at each look there are some
        # What all parts look at is there before they begin.
        known = aim.known(points[:1], normals[:1])
        aim.drawn(points[:1], known[None] if known is not None else None, looks, np.random.default_rng(seed))

    def some(lo: int, hi: int) -> "sparse.csr_array":
        return _weights(aim, where, order[lo:hi], spread, towards, looks, np.random.default_rng((seed, lo)))

    return stacked(in_parts(some, count, GROUP * max(1, AT_ONCE // (around * GROUP)), told))[np.argsort(order)]


def bearing(found: "sparse.csr_array", shine: NDArray[Any], rays: Any) -> Floats:
    """How many of the ``rays`` (k,) of receivers bear their light, as a share (k,): of so many alike it would be known as well. NaN where there is none."""
    row, value = np.repeat(np.arange(found.shape[0]), np.diff(found.indptr)), lit_by(found, shine).data
    total, squares = (np.bincount(row, x, found.shape[0]) for x in (value, value * value))
    out: Floats = np.where(squares > 0, total**2 / np.maximum(rays * squares, 1e-300), np.nan)
    return out


def replaced(found: "sparse.csr_array", which: Ints, by: "sparse.csr_array") -> "sparse.csr_array":
    """The weights with these rows (k,) as they are in another (k, n)."""
    where = np.arange(found.shape[0])
    where[which] = found.shape[0] + np.arange(len(which))
    return stacked([found, by])[where]


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


@dataclass(frozen=True)
class _Found:
    """Whose each ray is (r,), the texel where it ended, and which share of its light came through."""

    row: Ints
    texel: Ints
    rays: Rays
    share: NDArray[Any]

    def of(self, some: Ints) -> "_Found":
        """Those of these numbers."""
        r = self.rays
        rays = Rays(rows(r.begin, some), rows(r.way, some), r.d2[some], r.rising[some], r.facing[some])
        return _Found(self.row[some], self.texel[some], rays, self.share[some])


def _joined(one: _Found, other: _Found) -> _Found:
    """Both, one after the other."""
    rays = Rays(*(np.concatenate([getattr(x.rays, f.name) for x in (one, other)]) for f in fields(Rays)))
    row, texel, share = (np.concatenate([getattr(x, name) for x in (one, other)]) for name in ("row", "texel", "share"))
    return _Found(row, texel, rays, share)


@dataclass(frozen=True)
class _Odds:
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

    def of_first(self, count: int) -> "_Odds":
        """Those of so many receivers."""
        return _Odds(**{f.name: getattr(self, f.name)[:count] for f in fields(_Odds)[:-1]}, each=self.each)

    def of(self, shine: NDArray[np.float32], patch: Ints) -> NDArray[np.float32]:
        """The odds (k, t) of the points of each group on these patches (g, t) that shine so (g, t)."""
        groups, t = shine.shape
        if self.open.size:
            out = _on(self.open, patch)
            out *= self.known[:, None]
            out += self.lit[:, None]
        else:
            out = np.repeat(self.lit[:, None], t, axis=1)
        out.reshape(groups, -1, t)[...] *= shine[:, None]
        out += self.any[:, None]
        return out


def _on(by_patch: NDArray[np.float32], patch: Ints) -> NDArray[np.float32]:
    """What receivers (k, patches), group by group, have on the patches of the points of each (g, t)."""
    parts = by_patch.reshape(len(patch), -1, by_patch.shape[1])
    return np.concatenate([np.take(part, which, axis=1) for part, which in zip(parts, patch, strict=True)])


def _together(odds: list[_Odds]) -> _Odds:
    """Those of some receivers after those of others, whose groups are others."""
    before = np.cumsum([0] + [len(o.each) for o in odds[:-1]])
    group = np.concatenate([o.group + first for o, first in zip(odds, before, strict=True)])
    return _Odds(group, *(np.concatenate([getattr(o, f.name) for o in odds]) for f in fields(_Odds)[1:]))


def _by_cosine(texels: Texels, where: Points, which: Ints, spread: Scrambled) -> tuple[_Found, Bools, NDArray[np.float32]]:
    """What rays by the cosine find, whether each went there straight, and which share of the rays of each receiver (k,) began outside every body."""
    scene, around, numbers = texels.patches.scene, spread.each, spread.of(which)
    # As precise as the rays are.
    start, facing = (x.reshape(-1, 3).astype(np.float32) for x in where(which, numbers[..., :2]))
    ways = cosine_ways(numbers[..., 2:].reshape(-1, 2).astype(np.float32), facing)
    met = trace(scene, start, facing, ways)
    good = np.maximum(met.outside.reshape(-1, around).mean(1), 1 / around).astype(np.float32)
    rays = rays_between(rows(start, met.ray), rows(facing, met.ray), met.where, rows(scene.normal32, met.prim))
    return _Found(met.ray // around, texels.of_hits(met.prim, met.where), rays, met.share), met.first, good


def _weights(
    aim: Aim, where: Points, which: Ints, spread: Scrambled, towards: int, looks: int, rng: np.random.Generator
) -> "sparse.csr_array":
    texels, k, around = aim.texels, len(which), spread.each
    found, straight, good = _by_cosine(texels, where, which, spread)
    value, row, texel = found.share / around, found.row, found.texel
    if towards:
        asked, odds = _asked_by_all(aim, where, which, around, towards, looks, rng)
        # Light that a pane threw back on its way is found by rays by the cosine alone.
        on = np.flatnonzero(straight)
        both = _joined(found.of(on), asked)
        balanced = _balanced(aim, both, odds, around, towards)
        value[on] = balanced[: len(on)]
        value = np.concatenate([value, balanced[len(on) :]])
        row, texel = np.concatenate([row, asked.row]), np.concatenate([texel, asked.texel])
    order = np.argsort(row.astype(np.uint16), kind="stable")
    ends = np.concatenate([[0], np.cumsum(np.bincount(row, minlength=k))])
    # What begins inside a body is not there.
    return _matrix((value[order].astype(np.float32) / good[row[order]], texel[order].astype(np.int32), ends), (k, texels.n))


def _asked_by_all(
    aim: Aim, where: Points, which: Ints, around: int, towards: int, looks: int, rng: np.random.Generator
) -> tuple[_Found, _Odds]:
    """What receivers (k,) are reached from of the points that are drawn for their groups, and by which odds they asked for these."""
    (points, normals), odds, goals = _middles(where, which), list[_Odds](), list[_Goals]()
    side, drawn = math.isqrt(looks), towards * DRAWN
    share = min(GROUP, max(GROUP_LEAST, PAIRS // drawn))
    at_once = share * max(1, PAIRS // (drawn * share))
    for low in range(0, len(which), at_once):
        count = min(at_once, len(which) - low)
        groups = -(-count // share)
        size = -(-count // groups)
        # The last of a group that is not full is there several times, and asks once.
        mine = low + np.minimum(np.arange(groups * size), count - 1)
        known = aim.known(points[mine], normals[mine])
        by_group = known.reshape(groups, size, -1) if known is not None else None
        middles = points[mine].reshape(groups, size, 3).mean(1)
        asked, others = (aim.drawn(middles, by_group, n, rng) for n in (drawn, min(drawn // 2, TOLD_BY)))
        numbers = (np.indices((side, side)).reshape(2, -1).T + rng.random((len(mine), looks, 2))) / side
        at, up = where(which[mine], numbers)
        theirs = _odds(others, known, asked, _forms(others, at, up), around, towards)
        goals.append(_chosen(asked, _forms(asked, at, up), theirs, at, up, around, count, low, rng))
        odds.append(theirs if len(mine) == count else theirs.of_first(count))
    return _arrived(aim.texels, goals), _together(odds)


def _balanced(aim: Aim, found: _Found, odds: _Odds, around: int, towards: int) -> NDArray[np.float32]:
    """The weight of each ray: how much comes from a mm² where it ended, against how many rays of all kinds end there."""
    form, patch, row = found.rays.forms, aim.texels.patch[found.texel], found.row
    density = odds.each[odds.group[row], patch] * aim.dense[found.texel]
    lit, beyond, any_ = odds.lit[row], odds.beyond[row], odds.any[row]
    if odds.open.size:
        lit += odds.known[row] * odds.open[row, patch]
    out = around * form + density * _chance(form, density, around, lit * aim.shine[found.texel] + any_)
    if aim.gates is not None:

        def chance(some: Ints, form: NDArray[Any], each: Any, bright: NDArray[Any]) -> NDArray[Any]:
            return _chance(form, each, around, beyond[some] * bright + any_[some])

        out += aim.gates.through(found.rays, aim.gates.each(gate_points(towards)), chance)
    weight: NDArray[np.float32] = form / np.maximum(out, np.float32(1e-30)) * found.share
    return weight


def _chance(form: NDArray[Any], density: Any, around: int, odds: NDArray[Any]) -> NDArray[Any]:
    """How likely a point is asked for, by what would come from it were nothing between, how many are drawn there, and the odds."""
    out: NDArray[Any] = np.minimum(form / (around * form + density + np.float32(1e-30)) * odds, 1.0)
    return out


def _odds(told: Drawn, known: NDArray[np.float32] | None, drawn: Drawn, forms: NDArray[np.float32], around: int, towards: int) -> _Odds:
    """The odds of points that are ``drawn``, by others, told by the forms (g, k, r) of these: about ``towards`` of them are asked for, by how much light would come
    from there, and by how much did, of which patches have had the shares ``known`` (g k, patches). Points in gates get up to half of what goes by promises wherever
    they may matter: what is promised before them may be hidden.
    """
    n, t, least = told.aim.texels.patches.n, told.texel.shape[1], np.float32(1e-30)
    groups, size, _points = forms.shape
    times = np.ones(forms.shape[2], np.float32)
    times[:t] = drawn.texel.shape[1] / t  # as many are drawn as tell
    times[t:] = drawn.gate.shape[1] / max(told.gate.shape[1], 1)
    value = forms / (np.float32(around) / times * forms + told.density[:, None] + least)
    bright = told.bright
    lit, beyond = (np.matmul(value[..., some], bright[:, some, None]).ravel() for some in (slice(t), slice(t, None)))
    lit = np.maximum(lit, least)
    share: NDArray[Any] = beyond / (lit + beyond)
    share = np.maximum(share, np.minimum(np.float32(0.5), PROMISED * share))
    by_known, open_ = np.zeros(len(lit), np.float32), np.zeros((len(lit), 0), np.float32)
    left = np.full(len(lit), (1 - ANY) * towards, np.float32)
    if known is not None:
        place = (told.patch + n * np.arange(groups)[:, None]).ravel()
        came = forms[..., :t].mean(1) * bright[:, :t] / np.maximum(told.density[:, :t], least)
        bare = np.bincount(place, came.ravel(), groups * n).reshape(groups, 1, n)
        open_ = (known.reshape(groups, size, n) * np.where(bare > 0, 1 / np.maximum(bare, least), 0.0)).astype(np.float32).reshape(-1, n)
        did = np.matmul(value[..., :t] * _on(open_, told.patch).reshape(groups, size, t), bright[:, :t, None]).ravel()
        by_known = np.where(did > 0, left * np.float32(ALREADY) / np.maximum(did, least), np.float32(0))
        left = np.where(did > 0, left * np.float32(1 - ALREADY), left)
    any_: NDArray[np.float32] = np.float32(ANY * towards) / np.maximum(value.sum(2).ravel(), least)
    by_promise, through = (x.astype(np.float32) for x in ((1 - share) * left / lit, share * left / np.maximum(beyond, least)))
    return _Odds(np.repeat(np.arange(groups), size), by_promise, by_known, through, any_, open_, drawn.each)


def _chosen(
    drawn: Drawn,
    forms: NDArray[np.float32],
    odds: _Odds,
    points: Floats,
    normals: Floats,
    around: int,
    count: int,
    low: int,
    rng: np.random.Generator,
) -> _Goals:
    """Which points the first ``count`` of receivers (k, looks, 3), that have the numbers from ``low`` on, ask for of those drawn for their groups, by their odds and
    the forms (g, k / g, r).
    """
    (groups, size, r), t, looks = forms.shape, drawn.texel.shape[1], points.shape[1]
    times = odds.of(drawn.bright[:, :t], drawn.patch)
    if r > t:
        beyond = odds.beyond.reshape(groups, size, 1) * drawn.bright[:, None, t:] + odds.any.reshape(groups, size, 1)
        times = np.concatenate([times, beyond.reshape(groups * size, -1)], 1)
    chance = _chance(forms, drawn.density[:, None], around, times.reshape(forms.shape))
    row, goal = np.divmod(_taken(chance.reshape(-1, r)[:count], rng), r)
    at, up = (rows(x.reshape(-1, 3).astype(np.float32), row * looks + goal % looks) for x in (points, normals))
    of_all = row // size * r + goal
    return (
        row + low,
        at + up * np.float32(LIFT_MM),
        up,
        rows(drawn.lifted.reshape(-1, 3), of_all),
        rows(drawn.facing.reshape(-1, 3), of_all),
        np.pad(drawn.texel, ((0, 0), (0, r - t)), constant_values=-1).ravel()[of_all],
    )


def _arrived(texels: Texels, goals: list[_Goals]) -> _Found:
    """What was asked for and not hidden: the points themselves, and what rays through gates meet beyond."""
    scene = texels.patches.scene
    row, begin, up, end, normal, texel = (np.concatenate(each) for each in zip(*goals, strict=True))
    on, by = np.flatnonzero(texel >= 0), np.flatnonzero(texel < 0)
    on = on[~scene.rays.blocked(begin[on], end[on])]
    if len(by):
        way = end[by] - begin[by]
        prim, dist = scene.rays.hit(begin[by], way)
        some = np.flatnonzero((prim >= 0) & (dist > 1))
        by, prim = by[some], prim[some]
        end[by] = begin[by] + scaled(way[some], dist[some])
        texel[by], normal[by] = texels.of_hits(prim, end[by]), rows(scene.normal32, prim)
        on = np.concatenate([on, by])
    row, begin, up, end, normal, texel = (rows(x, on) for x in (row, begin, up, end, normal, texel))
    share = scene.panes.through(begin, end) if len(scene.panes) else np.ones(len(on), np.float32)
    return _Found(row, texel, rays_between(begin, up, end, normal), share)


def _taken(chance: NDArray[np.float32], rng: np.random.Generator) -> Ints:
    """Which of these (k, r), by their numbers in all, are taken by their chance: one after the other, as even as they lie."""
    steps = np.cumsum(chance, axis=1)
    steps += rng.random((len(chance), 1), dtype=np.float32)
    np.floor(steps, out=steps)
    taken = np.empty(chance.shape, bool)
    np.greater(steps[:, 0], 0, out=taken[:, 0])
    np.greater(steps[:, 1:], steps[:, :-1], out=taken[:, 1:])
    return np.flatnonzero(taken)


def _forms(drawn: Drawn, points: Floats, normals: Floats) -> NDArray[np.float32]:
    """How much of what comes to receivers (k, looks, 3), spread by the cosine, would come from a mm² at the points that are drawn for their groups, were nothing
    between: (g, k / g, r).
    """
    groups, looks = len(drawn.middles), points.shape[1]
    to, out, to_out, to_to = drawn.by_look(looks)
    at, up = (
        np.ascontiguousarray(x.reshape(groups, -1, looks, 3).astype(np.float32).transpose(0, 2, 1, 3))
        for x in (points.reshape(groups, -1, looks, 3) - drawn.middles[:, None, None], normals)
    )  # (g, looks, k / g, 3)
    found = up @ to
    found -= (at * up).sum(3, keepdims=True)
    away = at @ out
    away -= to_out
    d2 = at @ to
    d2 *= -2
    d2 += (at * at).sum(3, keepdims=True)
    d2 += to_to
    np.maximum(found, 0.0, out=found)
    np.maximum(away, 0.0, out=away)
    found *= away
    np.maximum(d2, NEAREST, out=d2)
    d2 *= d2
    d2 *= np.float32(np.pi)
    found /= d2
    turned: NDArray[np.float32] = found.transpose(0, 2, 3, 1).reshape(groups, -1, to.shape[3] * looks)
    return turned


def lit_by(found: "sparse.csr_array", light: NDArray[Any]) -> "sparse.csr_array":
    """Weights (k, n) times what comes from each column (n,)."""
    return _matrix((found.data * light[found.indices].astype(np.float32), found.indices, found.indptr), found.shape)


def by_patch(found: "sparse.csr_array", texels: Texels) -> "sparse.csr_array":
    """Weights (k, n) of texels as those of their patches (k, patches), several of one patch left apart."""
    return _matrix((found.data, texels.patch[found.indices], found.indptr), (found.shape[0], texels.patches.n))


def at_most(found: "sparse.csr_array", most: float) -> "sparse.csr_array":
    """Weights whose sum in each row is no more than ``most``."""
    total = np.asarray(found.sum(1)).ravel()
    share = (most / np.maximum(total, most)).astype(np.float32)
    return _matrix((found.data * np.repeat(share, np.diff(found.indptr)), found.indices, found.indptr), found.shape)


def _matrix(entries: Any, shape: tuple[int, int]) -> "sparse.csr_array":
    from scipy import sparse

    out: Any = sparse.csr_array(entries, shape=shape)
    return out  # type: ignore[no-any-return]


def stacked(parts: "list[sparse.csr_array]") -> "sparse.csr_array":
    """Rows one after the other."""
    from scipy import sparse

    out: Any = sparse.vstack(parts, format="csr")
    return out  # type: ignore[no-any-return]
