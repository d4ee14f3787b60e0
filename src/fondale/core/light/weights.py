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
GROUP = 64  # receivers share the points that are drawn; their errors must not be alike where they lie next to each other:
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
        aim.drawn(points[0], aim.known(points[:1], normals[:1]), looks, np.random.default_rng(seed))

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
    """By which odds receivers (k,) ask for the points that are drawn: those in gates by what is beyond, others by what texels send back, were all of it to
    arrive (``lit``), and by how much of it did before, which is ``open`` (k, patches); and ``any``, whatever light is there. ``each`` (patches,) is how many
    points are drawn on a patch. Other points tell the odds: what is drawn knows nothing of its own, so that nothing is found too often.
    """

    lit: NDArray[np.float32]
    known: NDArray[np.float32]
    beyond: NDArray[np.float32]
    any: NDArray[np.float32]
    open: NDArray[np.float32]
    each: NDArray[np.float32]

    def of(self, shine: NDArray[np.float32], patch: Ints) -> NDArray[np.float32]:
        """The odds (k, t) of points on these patches (t,) that shine so (t,)."""
        out = (
            self.known[:, None] * np.take(self.open, patch, axis=1) if self.open.size else np.zeros((len(self.lit), len(patch)), np.float32)
        )
        out += self.lit[:, None]
        out *= shine
        out += self.any[:, None]
        return out


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
        asked, odds, batch = _asked_by_all(aim, where, which, around, towards, looks, rng)
        # Light that a pane threw back on its way is found by rays by the cosine alone.
        on = np.flatnonzero(straight)
        both = _joined(found.of(on), asked)
        balanced = _balanced(aim, both, odds, batch, around, towards)
        value[on] = balanced[: len(on)]
        value = np.concatenate([value, balanced[len(on) :]])
        row, texel = np.concatenate([row, asked.row]), np.concatenate([texel, asked.texel])
    order = np.argsort(row.astype(np.uint16), kind="stable")
    ends = np.concatenate([[0], np.cumsum(np.bincount(row, minlength=k))])
    # What begins inside a body is not there.
    return _matrix((value[order].astype(np.float32) / good[row[order]], texel[order].astype(np.int32), ends), (k, texels.n))


def _asked_by_all(
    aim: Aim, where: Points, which: Ints, around: int, towards: int, looks: int, rng: np.random.Generator
) -> tuple[_Found, list[_Odds], Ints]:
    """What receivers (k,) are reached from of the points that are drawn for their groups; by which odds, batch by batch, and the batch of each."""
    (points, normals), odds, batch, goals = _middles(where, which), list[_Odds](), np.empty(len(which), np.int64), list[_Goals]()
    side, at_once = math.isqrt(looks), max(1, PAIRS // (DRAWN * towards))
    tell = min(towards * DRAWN // 2, TOLD_BY)
    told = aim.drawn(points.mean(0), None, tell, rng) if aim.seen is None else None  # alike for all where nothing is known
    for first in range(0, len(which), GROUP):
        mine = slice(first, first + GROUP)
        middle, known = points[mine].mean(0), aim.known(points[mine], normals[mine])
        drawn, others = aim.drawn(middle, known, towards * DRAWN, rng), told or aim.drawn(middle, known, tell, rng)
        seen, heard = drawn.by_look(looks), others.by_look(looks)
        for low in range(first, min(first + GROUP, len(which)), at_once):
            some = which[low : min(low + at_once, first + GROUP)]
            numbers = (np.indices((side, side)).reshape(2, -1).T + rng.random((len(some), looks, 2))) / side
            at, up = where(some, numbers)
            batch[low : low + len(some)] = len(odds)
            theirs = known[low - first :][: len(some)] if known is not None else None
            odds.append(_odds(others, theirs, drawn, _forms(at - others.middle, up, *heard), around, towards))
            goals.append(_chosen(drawn, _forms(at - drawn.middle, up, *seen), odds[-1], at, up, around, low, rng))
    return _arrived(aim.texels, goals), odds, batch


def _balanced(aim: Aim, found: _Found, odds: list[_Odds], batch: Ints, around: int, towards: int) -> NDArray[np.float32]:
    """The weight of each ray: how much comes from a mm² where it ended, against how many rays of all kinds end there."""
    form, patch = found.rays.forms, aim.texels.patch[found.texel]
    lit, known, beyond, any_ = (np.concatenate([getattr(o, name) for o in odds])[found.row] for name in ("lit", "known", "beyond", "any"))
    density = np.stack([o.each for o in odds])[batch[found.row], patch] * aim.dense[found.texel]
    if odds[0].open.size:
        lit = lit + known * np.concatenate([o.open for o in odds])[found.row, patch]
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
    """The odds of points that are ``drawn``, by others, told by the forms (k, t, looks) of these: about ``towards`` of a row are asked for, by how
    much light would come from there, and by how much did, of which patches have had the shares ``known`` (k, patches). Points in gates get up to half of
    what goes by promises wherever they may matter: what is promised before them may be hidden.
    """
    n, t, least = told.aim.texels.patches.n, len(told.texel), np.float32(1e-30)
    patch, bright, forms = told.aim.texels.patch[told.texel], told.bright[:t], forms.reshape(len(forms), -1)
    times = np.full(len(told.density), len(drawn.texel) / t, np.float32)  # as many are drawn as tell
    times[t:] = len(drawn.gate) / max(len(told.gate), 1)
    value = times * forms / (around * forms + times * told.density + least)
    lit, beyond = np.maximum(value[:, :t] @ bright, least), value[:, t:] @ told.bright[t:]
    share: NDArray[Any] = beyond / (lit + beyond)
    share = np.maximum(share, np.minimum(np.float32(0.5), PROMISED * share))
    by_known, open_ = np.zeros(len(forms), np.float32), np.zeros((len(forms), 0), np.float32)
    left = np.full(len(forms), (1 - ANY) * towards, np.float32)
    if known is not None:
        bare = np.bincount(patch, forms[:, :t].mean(0) * bright / np.maximum(told.density[:t], least), n)
        open_ = known * np.where(bare > 0, 1 / np.maximum(bare, least), 0.0).astype(np.float32)
        did = np.einsum("kt,kt->k", value[:, :t] * bright, np.take(open_, patch, axis=1))
        by_known = np.where(did > 0, left * np.float32(ALREADY) / np.maximum(did, least), np.float32(0))
        left = np.where(did > 0, left * np.float32(1 - ALREADY), left)
    any_: NDArray[np.float32] = np.float32(ANY * towards) / np.maximum(value.sum(1), least)
    by_promise, through = (x.astype(np.float32) for x in ((1 - share) * left / lit, share * left / np.maximum(beyond, least)))
    return _Odds(by_promise, by_known, through, any_, open_, drawn.each)


def _chosen(
    drawn: Drawn, forms: NDArray[np.float32], odds: _Odds, points: Floats, normals: Floats, around: int, low: int, rng: np.random.Generator
) -> _Goals:
    """Which points receivers (k, looks, 3), from number ``low`` on, ask for of those drawn for them, by their odds and the forms (k, r / looks, looks)."""
    (k, looks), r, t = points.shape[:2], len(drawn.density), len(drawn.texel)
    times = odds.of(drawn.bright[:t], drawn.aim.texels.patch[drawn.texel])
    if r > t:
        times = np.concatenate([times, odds.beyond[:, None] * drawn.bright[t:] + odds.any[:, None]], 1)
    row, goal = np.divmod(_taken(_chance(forms.reshape(k, r), drawn.density, around, times), rng), r)
    at, up = (rows(x.reshape(-1, 3).astype(np.float32), row * looks + goal % looks) for x in (points, normals))
    return (
        row + low,
        at + up * np.float32(LIFT_MM),
        up,
        rows(drawn.lifted, goal),
        rows(drawn.facing, goal),
        np.append(drawn.texel, -1)[np.minimum(goal, t)],
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


def _forms(points: Floats, normals: Floats, to: Any, out: Any, to_out: Any, to_to: Any) -> NDArray[np.float32]:
    """How much of what comes to receivers (k, looks, 3), spread by the cosine, would come from a mm² at points (see ``by_look``) were nothing between:
    (k, r, looks).
    """
    at, up = (np.ascontiguousarray(x.astype(np.float32).transpose(1, 0, 2)) for x in (points, normals))  # (looks, k, 3)
    found = up @ to
    found -= (at * up).sum(2, keepdims=True)
    away = at @ out
    away -= to_out
    d2 = at @ to
    d2 *= -2
    d2 += (at * at).sum(2, keepdims=True)
    d2 += to_to
    np.maximum(found, 0.0, out=found)
    np.maximum(away, 0.0, out=away)
    found *= away
    np.maximum(d2, NEAREST, out=d2)
    d2 *= d2
    d2 *= np.float32(np.pi)
    found /= d2
    turned: NDArray[np.float32] = found.transpose(1, 2, 0)
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
