"""How much of a receiver's bounced light comes from where: E = sum w_j rho_j B_j over texels j.

The weights are estimated by two kinds of rays at once: spread by the cosine, which find what is near and large, and towards points drawn
where most light comes from, which find what is small, far, or seen through a narrow opening. Each counts by the balance heuristic [veach1997].
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Floats, Ints, dot, rows
from fondale.core.light.patches import Scrambled, cosine_ways, trace
from fondale.core.light.texels import Texels
from fondale.core.progress import Progress, Quiet
from fondale.core.rays import LIFT_MM
from fondale.core.side_by_side import AT_ONCE, in_parts
from fondale.core.stage.cases import extent

if TYPE_CHECKING:
    from scipy import sparse

EVERYWHERE = 0.05  # of the rays towards light go anywhere: nothing that shines is never looked at
SECTORS = 48
MOST_APART = 300_000  # texels: of more the sectors are not told apart, which would take too much memory
_NEAREST = 0.05**2  # mm², between two points that shine on each other
Points = Callable[[int, int, Floats], tuple[Floats, Floats]]


@dataclass(frozen=True)
class Aim:
    """Where rays towards light go: ``drawn`` (sectors, n) is the share of them that goes to each texel from a sector of the scene, of
    whose case ``middle`` (3,) is the middle.
    """

    texels: Texels
    middle: Floats
    drawn: NDArray[np.float32]
    _summed: dict[int, Floats] = field(default_factory=dict)

    def density(self, sector: Ints, texel: Ints) -> Floats:
        """The share of rays a mm² (k,) that goes from sectors to texels (k,)."""
        out: Floats = self.drawn[sector, texel] / self.texels.area[texel]
        return out

    def drawn_from(self, sector: Ints, x: Floats) -> Ints:
        """The texels (k,) that numbers ``x`` (k,) in 0..1 draw from sectors (k,)."""
        out = np.empty(len(sector), np.int64)
        for which in np.flatnonzero(np.bincount(sector)).tolist():
            if which not in self._summed:
                self._summed[which] = np.cumsum(self.drawn[which], dtype=float)
            mine, summed = np.flatnonzero(sector == which), self._summed[which]
            out[mine] = np.searchsorted(summed, x[mine] * summed[-1], side="right")
        return np.minimum(out, self.texels.n - 1)

    def sectors(self, points: Floats, normals: Floats) -> Ints:
        """The sector (...) of points with normals (..., 3): by the eighth of the scene, and the axis and side that they face."""
        if len(self.drawn) == 1:
            return np.zeros(points.shape[:-1], np.int64)
        eighth = (points > self.middle) @ np.array([1, 2, 4])
        axis = np.abs(normals).argmax(-1)
        side = np.take_along_axis(normals, axis[..., None], -1)[..., 0] > 0
        out: Ints = eighth * 6 + axis * 2 + side
        return out


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
    So a slot that a sector's patches found draws the rays of all that lies there.
    """
    from scipy import sparse

    total, flux = texels.area / texels.area.sum(), shine * texels.area
    flux = flux / flux.sum() if flux.sum() > 0 else total
    low, high = extent(texels.patches.scene.case)
    middle: Floats = (low + high) / 2
    if reached is None or texels.n > MOST_APART:
        return Aim(texels, middle, ((1 - EVERYWHERE) * flux + EVERYWHERE * total)[None].astype(np.float32))
    n = texels.patches.n
    points, normals = (x[:, 0] for x in texels.patches.samples(np.full((n, 1, 2), 0.5)))
    sector = Aim(texels, middle, np.empty((SECTORS, 0), np.float32)).sectors(points, normals)
    # A patch in the dark has as much to say as one in the light.
    each = np.asarray(reached.sum(1)).ravel()
    share = np.where(each > 0, 1 / np.maximum(each, 1e-30), 0.0)
    of_sector = sparse.csr_array((share, (sector, np.arange(n))), shape=(SECTORS, n))
    by_patch = (of_sector @ reached).toarray()
    # Patches share out what comes from them among their texels by the flux.
    share_out = (flux / np.maximum((flux @ texels.onto_patches())[texels.patch], 1e-30)).astype(np.float32)
    drawn = by_patch.astype(np.float32)[:, texels.patch] * share_out
    drawn *= (1 - EVERYWHERE) / 2 / np.maximum(drawn.sum(1, keepdims=True), 1e-30)
    drawn += ((1 - EVERYWHERE) / 2 * flux + EVERYWHERE * total).astype(np.float32)
    drawn /= drawn.sum(1, keepdims=True)  # of a sector without patches nothing is seen
    return Aim(texels, middle, drawn)


def weights(
    aim: Aim, count: int, where: Points, around: int, towards: int, seed: int, progress: Progress | None = None
) -> "sparse.csr_array":
    """The weights (count, n) of texels for receivers: ``around`` rays by the cosine, ``towards`` light, powers of two. ``where`` gives points and
    normals (k, rays, 3) of receivers from and to, for numbers (k, rays, 2) in 0..1.
    """
    progress = progress or Quiet()
    spread, aimed = Scrambled(count, around, 4, seed), Scrambled(count, towards, 5, seed + 1) if towards else None

    def some(lo: int, hi: int) -> "sparse.csr_array":
        return _weights(aim, where, (lo, hi), spread, aimed)

    def told(share: float) -> None:
        progress.step(0.1 + 0.7 * share, "tracing bounced light")

    if not count:
        return _matrix((np.zeros(0, np.float32), np.zeros((2, 0), np.int64)), (0, aim.texels.n))
    return stacked(in_parts(some, count, max(1, AT_ONCE // (around + towards)), told))


def _weights(aim: Aim, where: Points, part: tuple[int, int], spread: Scrambled, aimed: Scrambled | None) -> "sparse.csr_array":
    scene, texels, (lo, hi) = aim.texels.patches.scene, aim.texels, part
    k, around, towards = hi - lo, spread.each, aimed.each if aimed is not None else 0
    numbers = spread.of(lo, hi)
    points, normals = where(lo, hi, numbers[..., :2])
    ways = cosine_ways(numbers[..., 2:], normals).reshape(-1, 3)
    start, facing = points.reshape(-1, 3), normals.reshape(-1, 3)
    met = trace(scene, start, facing, ways)
    col = texels.of_hits(met.prim, met.where)
    begin, out = rows(start, met.ray), rows(facing, met.ray)
    way = met.where - begin
    cos = dot(rows(ways, met.ray), out) * -dot(rows(scene.normal, met.prim), met.way)
    by_cosine = np.maximum(cos, 1e-12) / (np.pi * np.maximum(dot(way, way), _NEAREST))
    # Light that a pane threw back on its way is found by this kind of ray alone.
    balance = around * by_cosine + towards * aim.density(aim.sectors(begin, out), col)
    found, cols, values = [met.ray // around], [col], [np.where(met.first, by_cosine / balance, 1.0 / around) * met.share]
    if aimed is not None:
        numbers = aimed.of(lo, hi)
        points, normals = where(lo, hi, numbers[..., :2])
        start, facing = points.reshape(-1, 3), normals.reshape(-1, 3)
        sector = aim.sectors(start, facing)
        col = aim.drawn_from(sector, numbers[..., 2].ravel())
        goal, there = texels.points(col, numbers[..., 3:].reshape(-1, 2))
        way = goal - start
        d2 = np.maximum(dot(way, way), 1e-12)
        cos = np.maximum(dot(way, facing), 0.0) * np.maximum(-dot(way, there), 0.0) / d2
        live = np.flatnonzero((cos > 0) & (d2 > _NEAREST))
        begin, end = (rows(at, live) + rows(out, live) * LIFT_MM for at, out in ((start, facing), (goal, there)))
        live = live[~scene.rays.blocked(begin, end)]
        by_cosine = cos[live] / (np.pi * d2[live])
        balance = around * by_cosine + towards * aim.density(sector[live], col[live])
        found.append(live // towards)
        cols.append(col[live])
        values.append(by_cosine / balance * scene.panes.through(rows(start, live), rows(goal, live)))
    # What begins inside a body is not there.
    good = np.maximum(met.outside.reshape(k, around).mean(1), 1 / around)
    row = np.concatenate(found)
    value = (np.concatenate(values) / good[row]).astype(np.float32)
    return _matrix((value, (row, np.concatenate(cols))), (k, texels.n))


def _matrix(entries: Any, shape: tuple[int, int]) -> "sparse.csr_array":
    from scipy import sparse

    out: Any = sparse.csr_array(entries, shape=shape)
    return out  # type: ignore[no-any-return]


def stacked(parts: "list[sparse.csr_array]") -> "sparse.csr_array":
    """Rows one after the other."""
    from scipy import sparse

    out: Any = sparse.vstack(parts, format="csr")
    return out  # type: ignore[no-any-return]
