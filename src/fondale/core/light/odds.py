"""By which odds receivers ask for points where light comes from, which they choose, and what a ray of one kind counts among those of all kinds [veach1997]."""

from dataclasses import dataclass, fields
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Floats, Ints, rows, scaled
from fondale.core.light.aim import Aim, Drawn, gate_points
from fondale.core.light.gates import NEAREST, Rays, rays_between
from fondale.core.light.texels import Texels
from fondale.core.rays import LIFT_MM

PROMISED = np.float32(25.0)  # a receiver to which gates promise a fiftieth of its light sends half of its rays through them
TOLD_BY = 512  # others at most tell the odds, half as many as are drawn
ALREADY = 0.3  # of what is asked for goes by what was found before, where anything was
ANY = 0.1  # of what is asked for, whatever light is there
Vectors = NDArray[np.float32]


@dataclass(frozen=True)
class Found:
    """Whose each ray is (r,), the texel where it ended, and which share of its light came through."""

    row: Ints
    texel: Ints
    rays: Rays
    share: NDArray[Any]

    def of(self, some: Ints) -> "Found":
        """Those of these numbers."""
        r = self.rays
        rays = Rays(rows(r.begin, some), rows(r.way, some), r.d2[some], r.rising[some], r.facing[some])
        return Found(self.row[some], self.texel[some], rays, self.share[some])


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


def joined(one: Found, other: Found) -> Found:
    """Both, one after the other."""
    rays = Rays(*(np.concatenate([getattr(x.rays, f.name) for x in (one, other)]) for f in fields(Rays)))
    row, texel, share = (np.concatenate([getattr(x, name) for x in (one, other)]) for name in ("row", "texel", "share"))
    return Found(row, texel, rays, share)


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

    def of_first(self, count: int) -> "Odds":
        """Those of so many receivers."""
        return Odds(**{f.name: getattr(self, f.name)[:count] for f in fields(Odds)[:-1]}, each=self.each)

    def of(self, shine: NDArray[np.float32], patch: Ints) -> NDArray[np.float32]:
        """The odds (k, t) of the points of each group on these patches (g, t) that shine so (g, t)."""
        groups, t = shine.shape
        if self.open.size:
            out = on_patches(self.open, patch)
            out *= self.known[:, None]
            out += self.lit[:, None]
        else:
            out = np.repeat(self.lit[:, None], t, axis=1)
        out.reshape(groups, -1, t)[...] *= shine[:, None]
        out += self.any[:, None]
        return out


def on_patches(by_patch: NDArray[np.float32], patch: Ints) -> NDArray[np.float32]:
    """What receivers (k, patches), group by group, have on the patches of the points of each (g, t)."""
    parts = by_patch.reshape(len(patch), -1, by_patch.shape[1])
    return np.concatenate([np.take(part, which, axis=1) for part, which in zip(parts, patch, strict=True)])


def together(odds: list[Odds]) -> Odds:
    """Those of some receivers after those of others, whose groups are others."""
    before = np.cumsum([0] + [len(o.each) for o in odds[:-1]])
    group = np.concatenate([o.group + first for o, first in zip(odds, before, strict=True)])
    return Odds(group, *(np.concatenate([getattr(o, f.name) for o in odds]) for f in fields(Odds)[1:]))


def chance_of(form: NDArray[Any], density: Any, around: int, odds: NDArray[Any]) -> NDArray[Any]:
    """How likely a point is asked for, by what would come from it were nothing between, how many are drawn there, and the odds."""
    out: NDArray[Any] = np.minimum(form / (around * form + density + np.float32(1e-30)) * odds, 1.0)
    return out


def odds_of(told: Drawn, known: NDArray[np.float32] | None, drawn: Drawn, forms: NDArray[np.float32], around: int, towards: int) -> Odds:
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
        did = np.matmul(value[..., :t] * on_patches(open_, told.patch).reshape(groups, size, t), bright[:, :t, None]).ravel()
        by_known = np.where(did > 0, left * np.float32(ALREADY) / np.maximum(did, least), np.float32(0))
        left = np.where(did > 0, left * np.float32(1 - ALREADY), left)
    any_: NDArray[np.float32] = np.float32(ANY * towards) / np.maximum(value.sum(2).ravel(), least)
    by_promise, through = (x.astype(np.float32) for x in ((1 - share) * left / lit, share * left / np.maximum(beyond, least)))
    return Odds(np.repeat(np.arange(groups), size), by_promise, by_known, through, any_, open_, drawn.each)


def forms_of(drawn: Drawn, points: Floats, normals: Floats) -> NDArray[np.float32]:
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


def chosen(
    drawn: Drawn,
    forms: NDArray[np.float32],
    odds: Odds,
    points: Floats,
    normals: Floats,
    around: int,
    count: int,
    low: int,
    rng: np.random.Generator,
) -> Goals:
    """Which points the first ``count`` of receivers (k, looks, 3), that have the numbers from ``low`` on, ask for of those drawn for their groups, by their odds and
    the forms (g, k / g, r).
    """
    (groups, size, r), t, looks = forms.shape, drawn.texel.shape[1], points.shape[1]
    times = odds.of(drawn.bright[:, :t], drawn.patch)
    if r > t:
        beyond = odds.beyond.reshape(groups, size, 1) * drawn.bright[:, None, t:] + odds.any.reshape(groups, size, 1)
        times = np.concatenate([times, beyond.reshape(groups * size, -1)], 1)
    chance = chance_of(forms, drawn.density[:, None], around, times.reshape(forms.shape))
    row, goal = np.divmod(_taken(chance.reshape(-1, r)[:count], rng), r)
    at, up = (rows(x.reshape(-1, 3).astype(np.float32), row * looks + goal % looks) for x in (points, normals))
    of_all = row // size * r + goal
    return Goals(
        row + low,
        at + up * np.float32(LIFT_MM),
        up,
        rows(drawn.lifted.reshape(-1, 3), of_all),
        rows(drawn.facing.reshape(-1, 3), of_all),
        np.pad(drawn.texel, ((0, 0), (0, r - t)), constant_values=-1).ravel()[of_all],
        np.ones(len(row), np.float32),
    )


def _taken(chance: NDArray[np.float32], rng: np.random.Generator) -> Ints:
    """Which of these (k, r), by their numbers in all, are taken by their chance: one after the other, as even as they lie."""
    steps = np.cumsum(chance, axis=1)
    steps += rng.random((len(chance), 1), dtype=np.float32)
    np.floor(steps, out=steps)
    taken = np.empty(chance.shape, bool)
    np.greater(steps[:, 0], 0, out=taken[:, 0])
    np.greater(steps[:, 1:], steps[:, :-1], out=taken[:, 1:])
    return np.flatnonzero(taken)


def arrived(texels: Texels, goals: Goals, which: Ints) -> tuple[Found, Ints]:
    """What of these goals (k,) is not hidden, and the number of each: the points themselves, and what rays through gates meet beyond, of which is noted how far it is."""
    scene = texels.patches.scene
    on, by = which[goals.texel[which] >= 0], which[goals.texel[which] < 0]
    begin, end = rows(goals.begin, on), rows(goals.end, on)
    free = np.flatnonzero(~scene.rays.blocked(begin, end))
    on = on[free]
    row, begin, up, end = goals.row[on], rows(begin, free), rows(goals.up, on), rows(end, free)
    normal, texel = rows(goals.normal, on), goals.texel[on]
    if len(by):
        start = rows(goals.begin, by)
        way = rows(goals.end, by) - start
        prim, dist = scene.rays.hit(start, way)
        goals.far[by] = np.where(prim >= 0, dist, np.inf)
        some = np.flatnonzero((prim >= 0) & (dist > 1))
        prim, beyond, on = prim[some], rows(start, some) + scaled(rows(way, some), dist[some]), np.concatenate([on, by[some]])
        row, up = np.concatenate([row, goals.row[by[some]]]), np.concatenate([up, rows(goals.up, by[some])])
        begin, end = np.concatenate([begin, rows(start, some)]), np.concatenate([end, beyond])
        normal, texel = np.concatenate([normal, rows(scene.normal32, prim)]), np.concatenate([texel, texels.of_hits(prim, beyond)])
    share = scene.panes.through(begin, end) if len(scene.panes) else np.ones(len(on), np.float32)
    return Found(row, texel, rays_between(begin, up, end, normal), share), on


def balanced(aim: Aim, found: Found, odds: Odds, around: int, towards: int) -> NDArray[np.float32]:
    """The weight of each ray: how much comes from a mm² where it ended, against how many rays of all kinds end there."""
    form, patch, row = found.rays.forms, aim.texels.patch[found.texel], found.row
    density = odds.each[odds.group[row], patch] * aim.dense[found.texel]
    lit, beyond, any_ = odds.lit[row], odds.beyond[row], odds.any[row]
    if odds.open.size:
        lit += odds.known[row] * odds.open[row, patch]
    out = around * form + density * chance_of(form, density, around, lit * aim.shine[found.texel] + any_)
    if aim.gates is not None:

        def chance(some: Ints, form: NDArray[Any], each: Any, bright: NDArray[Any]) -> NDArray[Any]:
            return chance_of(form, each, around, beyond[some] * bright + any_[some])

        out += aim.gates.through(found.rays, aim.gates.each(gate_points(towards)), chance)
    weight: NDArray[np.float32] = form / np.maximum(out, np.float32(1e-30)) * found.share
    return weight
