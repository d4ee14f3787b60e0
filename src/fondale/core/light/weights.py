"""How much of a receiver's bounced light comes from where: E = sum w_j rho_j B_j over texels j.

The weights are estimated by two kinds of rays at once: spread by the cosine, which find what is near and large, and towards points drawn
where most light comes from, which find what is small, far, or seen through a narrow opening. Each counts by the balance heuristic [veach1997].
Points are drawn for a group of receivers; each of these asks for those of them from where it would get most, were nothing between [talbot2005].
"""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Ints, dot, rows
from fondale.core.light.patches import Scrambled, cosine_ways, trace
from fondale.core.light.texels import Texels
from fondale.core.rays import LIFT_MM
from fondale.core.side_by_side import AT_ONCE, in_parts

if TYPE_CHECKING:
    from scipy import sparse

EVERYWHERE = 0.05  # of the rays towards light go anywhere: nothing that shines is never looked at
KNOWN = 0.7  # of them, where light was found before, go to where it was found from
NEIGHBOURS = 16  # patches, the nearest, tell of that; one that faces the other way counts as twice so far off:
FACING_MM = 60.0
DRAWN = 4  # points are drawn for each that is asked for
SELDOM = 0.1  # from where nothing was found
ANY = 0.1  # of what is asked for, whatever light is there
FEW, MORE = 0.2, 8  # receivers whose light comes as by fewer than this share of their rays send so many times as many towards it
PAIRS = 131_072  # of receivers and points at once, so that they stay in the cache
GROUP = 64  # receivers share the points that are drawn; their errors must not be alike where they lie next to each other:
REGION, REGION_MM = 256, 60.0  # from so many a group is taken by chance
_NEAREST = 0.05**2  # mm², between two points that shine on each other
Points = Callable[[Ints, Floats], tuple[Floats, Floats]]
Told = Callable[[float], object]


@dataclass(frozen=True)
class Aim:
    """Where rays towards light go: to a patch, then to one of its texels. ``flux`` (patches,) is the share of each in all that is sent back, ``within`` (n,)
    that of each texel in its patch's; ``shine`` (n,) is what a mm² of each sends back; ``seen`` (patches, patches), where it is known, what reached patches from
    others before.
    """

    texels: Texels
    flux: Floats
    within: Floats
    shine: NDArray[np.float32]
    seen: "sparse.csr_array | None" = None

    @cached_property
    def _places(self) -> Any:
        from scipy.spatial import KDTree

        patches = self.texels.patches
        points, normals = (x[:, 0] for x in patches.samples(np.full((patches.n, 1, 2), 0.5)))
        return KDTree(np.concatenate([points, normals * FACING_MM], 1))

    @cached_property
    def _by_patch(self) -> tuple[Ints, Floats]:
        """The texels (n,) in the order of their patches, and the number of each one's patch plus the share of it that ends with this texel."""
        order = np.argsort(self.texels.patch, kind="stable")
        patch, share = self.texels.patch[order], self.within[order]
        total = np.cumsum(share)
        before = total - share
        ends: Floats = patch.astype(float) + np.clip(total - before[np.searchsorted(patch, patch)], 0, 1)
        return order, ends

    @cached_property
    def dense(self) -> NDArray[np.float32]:
        """How many of the points that are drawn on a patch are drawn on a mm² of each texel (n,)."""
        return (self.within / self.texels.area).astype(np.float32)

    def drawn(self, points: Floats, normals: Floats, count: int, rng: np.random.Generator) -> "Drawn":
        """Points for a group of receivers (k, 3): where there is light, and from where the patches that lie and face nearly as they do were reached."""
        share, n, known = self.flux, self.texels.patches.n, None
        if self.seen is not None:
            _far, near = self._places.query(np.concatenate([points, normals * FACING_MM], 1), min(NEIGHBOURS, n))
            some, times = np.unique(near, return_counts=True)
            known = times / near.size @ self.seen[some]
            if known.any():
                share = share * (1 - KNOWN) + KNOWN * known / known.sum()
        summed = np.cumsum(share)
        x = (np.arange(count) + rng.random(count)) / count * summed[-1]
        patch = np.minimum(np.searchsorted(summed, x, side="right"), n - 1)
        left = np.where(patch > 0, summed[patch - 1], 0.0)
        order, ends = self._by_patch
        again = np.clip((x - left) / np.maximum(summed[patch] - left, 1e-30), 0, 1 - 1e-9)
        texel = order[np.minimum(np.searchsorted(ends, patch + again, side="right"), len(order) - 1)]
        there, facing = self.texels.points(texel, rng.random((count, 2)))
        return Drawn(self, points.mean(0), known, (share * (count / summed[-1])).astype(np.float32), texel, there, facing)


@dataclass(frozen=True)
class Drawn:
    """Points that a group of receivers about ``middle`` (3,) may ask for, on texels (r,): where (r, 3), with their normals; ``each`` (patches,) is how
    many of them are to lie on a patch, ``known`` (patches,) what reached receivers thereabouts from it before.
    """

    aim: Aim
    middle: Floats
    known: Floats | None
    each: NDArray[np.float32]
    texel: Ints
    points: Floats
    normals: Floats

    @cached_property
    def density(self) -> NDArray[np.float32]:
        """How many are drawn on a mm² where each of them lies (r,)."""
        out: NDArray[np.float32] = self.each[self.aim.texels.patch[self.texel]] * self.aim.dense[self.texel]
        return out

    @cached_property
    def lifted(self) -> NDArray[np.float32]:
        """Where rays to them end (r, 3)."""
        return (self.points + self.normals * LIFT_MM).astype(np.float32)

    def by_look(self, looks: int) -> tuple[NDArray[np.float32], NDArray[np.float32], Floats, Floats]:
        """Places from the middle and normals (looks, 3, r), their products and the places' squares (looks, 1, r): those that follow each other lie near
        each other, and each look gets some from all over.
        """
        to, out = ((x.astype(np.float32)).reshape(-1, looks, 3).transpose(1, 2, 0) for x in (self.points - self.middle, self.normals))
        to, out = np.ascontiguousarray(to), np.ascontiguousarray(out)
        return to, out, (to * out).sum(1, keepdims=True), (to * to).sum(1, keepdims=True)


def alike(texels: Texels, spread: "sparse.csr_array", light: Iterable[tuple[NDArray[Any], NDArray[Any]]]) -> Floats:
    """What every texel sends back (n,), all lamps alike, from the light of each: direct on texels (n,), bounced on patches (patches, 3), which
    texels share in by ``spread``.
    """
    paint, mean = texels.paint, texels.paint.mean(1)
    seen, seen_back = mean * texels.area, spread.T @ (paint * texels.area[:, None]) / 3
    on, back = np.zeros(texels.n), np.zeros((texels.patches.n, 3))
    for direct, bounced in light:
        flux = max(float(np.dot(seen, direct)) + float((seen_back * bounced).sum()), 1e-30)
        on += direct / flux
        back += bounced / flux
    out: Floats = mean * on + (paint * (spread @ back)).mean(1)
    return out


def aim_at(texels: Texels, shine: Floats, reached: "sparse.csr_array | None" = None) -> Aim:
    """Aim by the flux that every texel sends back, ``shine`` (n,) times its area, and by what ``reached`` every patch from every other (patches, patches).
    So a slot that a few rays nearby have found draws all that are sent from there.
    """
    n, area, flux = texels.patches.n, texels.area / texels.area.sum(), shine * texels.area
    flux = flux / flux.sum() if flux.sum() > 0 else area
    anywhere = (1 - EVERYWHERE) * flux + EVERYWHERE * area
    of_patch: Floats = np.bincount(texels.patch, anywhere, n).astype(float)
    within = anywhere / np.maximum(of_patch, 1e-30)[texels.patch]
    return Aim(texels, of_patch, within, shine.astype(np.float32), reached)


def weights(
    aim: Aim, count: int, where: Points, around: int, towards: int, seed: int, looks: int = 1, told: Told | None = None
) -> "sparse.csr_array":
    """The weights (count, n) of texels for receivers: ``around`` rays by the cosine, ``towards`` light, powers of two. ``where`` gives points and
    normals (k, rays, 3) of some receivers for numbers (k, rays, 2) in 0..1; rays towards light start at ``looks`` of them, a square number. ``told`` hears which share is done.
    """
    if not count or not around:
        return _matrix((np.zeros(0, np.float32), np.zeros(0, np.int32), np.zeros(count + 1, np.int32)), (count, aim.texels.n))
    spread, (points, normals) = Scrambled(count, around, 4, seed), _middles(where, np.arange(count))
    order = _mixed(points, normals, seed)
    if towards:
        aim.drawn(points[:1], normals[:1], looks, np.random.default_rng(seed))  # what all parts look at is there before they begin

    def some(lo: int, hi: int) -> "sparse.csr_array":
        return _weights(aim, where, order[lo:hi], spread, towards, looks, np.random.default_rng((seed, lo)))

    return stacked(in_parts(some, count, GROUP * max(1, AT_ONCE // (around * GROUP)), told))[np.argsort(order)]


def few(found: "sparse.csr_array", shine: NDArray[Any], rays: Any) -> Ints:
    """The receivers (k,) whose light comes as by less than FEW of their ``rays`` (k,): of so many alike their light would be known as well."""
    row, value = np.repeat(np.arange(found.shape[0]), np.diff(found.indptr)), lit_by(found, shine).data
    total, squares = (np.bincount(row, x, found.shape[0]) for x in (value, value * value))
    return np.flatnonzero(total**2 < FEW * rays * squares)


def replaced(found: "sparse.csr_array", which: Ints, by: "sparse.csr_array") -> "sparse.csr_array":
    """The weights with these rows (k,) as they are in another (k, n)."""
    where = np.arange(found.shape[0])
    where[which] = found.shape[0] + np.arange(len(which))
    return stacked([found, by])[where]


def _middles(where: Points, which: Ints) -> tuple[Floats, Floats]:
    points, normals = where(which, np.full((len(which), 1, 2), 0.5))
    return points[:, 0], normals[:, 0]


def _mixed(points: Floats, normals: Floats, seed: int) -> Ints:
    """The receivers (k,) in an order in which groups lie and face alike, and those that lie next to each other are in different groups."""
    rng, axis = np.random.default_rng(seed), np.abs(normals).argmax(1)
    side = np.take_along_axis(normals, axis[:, None], 1)[:, 0] > 0
    x, y, z = (points // REGION_MM).T
    out: Ints = np.lexsort((x, y, z, side, axis))
    for low in range(0, len(out), REGION):
        rng.shuffle(out[low : low + REGION])
    return out


@dataclass(frozen=True)
class _Found:
    """What rays by the cosine found: whose each is (r,), the texel, its weight were there no other rays, whether it went straight, and its share of the
    light; and which share of the rays of each receiver (k,) began outside every body.
    """

    row: Ints
    texel: Ints
    by_cosine: NDArray[Any]
    straight: Bools
    share: NDArray[Any]
    good: NDArray[np.float32]


def _by_cosine(texels: Texels, where: Points, which: Ints, spread: Scrambled) -> _Found:
    scene, around, numbers = texels.patches.scene, spread.each, spread.of(which)
    # As precise as the rays are.
    start, facing = (x.reshape(-1, 3).astype(np.float32) for x in where(which, numbers[..., :2]))
    ways = cosine_ways(numbers[..., 2:].reshape(-1, 2).astype(np.float32), facing)
    met = trace(scene, start, facing, ways)
    way = met.where - rows(start, met.ray)
    cos = dot(rows(ways, met.ray), rows(facing, met.ray)) * -dot(rows(scene.normal32, met.prim), met.way)
    form = np.maximum(cos, 1e-12) / (np.pi * np.maximum(dot(way, way), _NEAREST))
    good = np.maximum(met.outside.reshape(-1, around).mean(1), 1 / around).astype(np.float32)
    return _Found(met.ray // around, texels.of_hits(met.prim, met.where), form, met.first, met.share, good)


def _weights(
    aim: Aim, where: Points, which: Ints, spread: Scrambled, towards: int, looks: int, rng: np.random.Generator
) -> "sparse.csr_array":
    texels, k, around = aim.texels, len(which), spread.each
    one = _by_cosine(texels, where, which, spread)
    balance, groups, (points, normals) = around * one.by_cosine, range(0, k if towards else 0, GROUP), _middles(where, which)
    drawn = [aim.drawn(points[low : low + GROUP], normals[low : low + GROUP], towards * DRAWN, rng) for low in groups]
    if drawn:
        balance += np.stack([d.each for d in drawn])[one.row // GROUP, texels.patch[one.texel]] * aim.dense[one.texel]
    # Light that a pane threw back on its way is found by this kind of ray alone.
    value = np.where(one.straight, one.by_cosine / balance, np.float32(1 / around)) * one.share
    found: list[tuple[Ints, Ints, NDArray[Any]]] = [(one.row, one.texel, value)]
    side, at_once = math.isqrt(looks), max(1, PAIRS // (DRAWN * max(1, towards)))
    for first, some in zip(groups, drawn, strict=True):
        goals = some.by_look(looks)
        for low in range(first, min(first + GROUP, k), at_once):
            mine = which[low : min(low + at_once, first + GROUP)]
            numbers = (np.indices((side, side)).reshape(2, -1).T + rng.random((len(mine), looks, 2))) / side
            asked = _asked(some, goals, *where(mine, numbers), around, towards, rng)
            found.append((asked[0] + low, *asked[1:]))
    row, texel, value = (np.concatenate(each) for each in zip(*found, strict=True))
    order = np.argsort(row.astype(np.uint16), kind="stable")
    ends = np.concatenate([[0], np.cumsum(np.bincount(row, minlength=k))])
    # What begins inside a body is not there.
    return _matrix((value[order].astype(np.float32) / one.good[row[order]], texel[order].astype(np.int32), ends), (k, texels.n))


def _asked(
    drawn: Drawn, goals: Any, points: Floats, normals: Floats, around: int, towards: int, rng: np.random.Generator
) -> tuple[Ints, Ints, NDArray[np.float32]]:
    """Rows, texels and weights of what receivers (k, looks, 3) are reached from, of the points drawn for them: each asks for ``towards`` of these."""
    scene, (k, looks), r, texel = drawn.aim.texels.patches.scene, points.shape[:2], len(drawn.texel), drawn.texel
    forms = _forms(points - drawn.middle, normals, *goals).reshape(k, r)
    value = forms / (around * forms + drawn.density + np.float32(1e-30))
    live, stands_for = _some(value, drawn.aim.shine[texel] * _open(drawn, forms), towards, rng)
    row, goal = np.divmod(live, r)
    begin, end = rows((points + normals * LIFT_MM).astype(np.float32).reshape(-1, 3), row * looks + goal % looks), rows(drawn.lifted, goal)
    free = np.flatnonzero(~scene.rays.blocked(begin, end))
    through = scene.panes.through(begin[free], end[free]) if len(scene.panes) else np.float32(1)
    return row[free], texel[goal[free]], stands_for[free] * through


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
    np.maximum(d2, _NEAREST, out=d2)
    d2 *= d2
    d2 *= np.float32(np.pi)
    found /= d2
    turned: NDArray[np.float32] = found.transpose(1, 2, 0)
    return turned


def _open(drawn: Drawn, forms: NDArray[np.float32]) -> NDArray[np.float32]:
    """How much of what would come to receivers from each point (r,), were nothing between, did come from its patch before: what is hidden is seldom
    asked for.
    """
    if drawn.known is None:
        return np.ones(len(drawn.texel), np.float32)
    patch = drawn.aim.texels.patch[drawn.texel]
    bare = np.bincount(patch, forms.mean(0) * drawn.aim.shine[drawn.texel] / np.maximum(drawn.density, 1e-30), len(drawn.known))
    out: NDArray[np.float32] = np.clip(drawn.known / np.maximum(bare, 1e-30), SELDOM, 1.0).astype(np.float32)[patch]
    return out


def _some(value: NDArray[np.float32], shine: NDArray[np.float32], asked: int, rng: np.random.Generator) -> tuple[Ints, NDArray[np.float32]]:
    """Which of ``value`` (k, r), by their numbers in all, are asked for, about ``asked`` of a row, by how much light comes from there; and what each
    stands for.
    """
    chance = value * shine
    chance *= (1 - ANY) * asked / np.maximum(chance.sum(1, keepdims=True), 1e-30)
    chance += value * (ANY * asked / np.maximum(value.sum(1, keepdims=True), 1e-30))
    np.minimum(chance, 1.0, out=chance)
    # One after the other, as even as they lie.
    steps = np.cumsum(chance, axis=1)
    steps += rng.random((len(value), 1), dtype=np.float32)
    np.floor(steps, out=steps)
    taken = np.empty(value.shape, bool)
    np.greater(steps[:, 0], 0, out=taken[:, 0])
    np.greater(steps[:, 1:], steps[:, :-1], out=taken[:, 1:])
    live = np.flatnonzero(taken)
    return live, value.ravel()[live] / chance.ravel()[live]


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
