# SPDX-License-Identifier: MIT
"""The scene cut into patches that each have one value of bounced light."""

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Ints, dot, rows, scaled
from fondale.core.rays import LIFT_MM, Prims
from fondale.core.stage.paths import Leg, Met, follow
from fondale.core.stage.scene import Scene

if TYPE_CHECKING:
    from scipy.spatial import KDTree

BESIDE = 8  # patches nearest to a place tell of it
FACING_MM = 60.0  # among the nearest, one that faces the other way counts as twice so far off


Grids = tuple[Ints, Ints, Ints, Ints, Floats, Floats, Floats, Floats]


@dataclass(frozen=True)
class Patches:
    """``n`` patches: first those of the rectangles, rectangle by rectangle, then one a triangle group.

    Rectangle r holds ``s_count[r]`` x ``t_count[r]`` patches from ``base[r]`` on, t running fastest.
    ``s_key`` are its edges as 2 r + share in one sorted array, beginning at ``s_start[r]`` (t alike).
    """

    scene: Scene
    n: int
    base: Ints
    s_count: Ints
    t_count: Ints
    s_key: Floats
    t_key: Floats
    s_start: Ints
    t_start: Ints
    area: Floats
    paint: Floats
    tri_cdf: Floats
    tri_order: Ints
    group_start: Ints

    @property
    def rect_patches(self) -> int:
        """How many patches lie on rectangles."""
        return int((self.s_count * self.t_count).sum())

    @cached_property
    def _onto(self) -> tuple[tuple[Floats, Floats], ...]:
        """For both edges of every rectangle what a point is multiplied by (r, 3) and what is taken off then (r,) to make it a share of the edge."""
        corner = self.scene.rects[:, 0]
        edges = (self.scene.rects[:, axis] / dot(self.scene.rects[:, axis], self.scene.rects[:, axis])[:, None] for axis in (1, 2))
        return tuple((edge, dot(edge, corner)) for edge in edges)

    @cached_property
    def grids(self) -> "Grids":
        """How patches lie on every rectangle: where edges begin, how many patches lie along t, the first, the edges, and what makes shares of points."""
        (s, off_s), (t, off_t) = self._onto
        return self.s_start, self.t_start, self.t_count, self.base, self.s_key, self.t_key, np.stack([s, t], 1), np.stack([off_s, off_t], 1)

    def shares(self, prim: Prims, points: Floats) -> tuple[Ints, Floats, Floats]:
        """Rectangle and shares (s, t) in 0..1 of points on rectangles."""
        r = prim.astype(np.int64) // 2
        s, t = (np.clip(dot(points, rows(edge, r)) - start[r], 0, 1 - 1e-9) for edge, start in self._onto)
        return r, s, t

    @cached_property
    def _first_node(self) -> Ints:
        """The first of every rectangle's nodes (r + 1,): of s_count x t_count patches (2 s + 1) x (2 t + 1), one after the other along t."""
        return np.concatenate([[0], np.cumsum((2 * self.s_count + 1) * (2 * self.t_count + 1))])

    @property
    def rect_nodes(self) -> int:
        """How many nodes there are on rectangles; each group of triangles has one more after them."""
        return int(self._first_node[-1])

    @cached_property
    def nodes_of(self) -> Ints:
        """The nodes (k, 9) of every patch on a rectangle: corners, middles of sides and its own, along t first."""
        rect, wide = self.rect_of, 2 * self.t_count[self.rect_of] + 1
        i, j = np.divmod(np.arange(len(rect)) - self.base[rect], self.t_count[rect])
        a, b = np.divmod(np.arange(9), 3)
        out: Ints = self._first_node[rect][:, None] + (2 * i[:, None] + a) * wide[:, None] + 2 * j[:, None] + b
        return out

    @cached_property
    def halves(self) -> "tuple[Halves, Halves]":
        """Between which nodes shares of rectangles lie, along either edge."""
        wide = 2 * self.t_count + 1
        along = _halves(self.t_key, self.t_start, self.t_count, np.ones_like(wide), np.zeros_like(wide))
        return _halves(self.s_key, self.s_start, self.s_count, wide, self._first_node[:-1]), along

    def middle(self, axis: int, rect: Ints, at: Ints) -> Floats:
        """The share of the middle of the patches (k,) that are number ``at`` along an edge of rectangles."""
        key, start = (self.t_key, self.t_start) if axis else (self.s_key, self.s_start)
        out: Floats = (key[start[rect] + at] + key[start[rect] + at + 1]) / 2 - 2 * rect
        return out

    @cached_property
    def rect_of(self) -> Ints:
        """The rectangle of every patch that lies on one."""
        count = self.s_count * self.t_count
        return np.repeat(np.arange(len(count)), count)

    @cached_property
    def frames(self) -> Floats:
        """A corner of every patch that lies on a rectangle, and its edges (k, 3, 3)."""
        rect, local = self.rect_of, np.arange(len(self.rect_of)) - self.base[self.rect_of]
        i, j = self.s_start[rect] + local // self.t_count[rect], self.t_start[rect] + local % self.t_count[rect]
        corner, right, up = np.moveaxis(self.scene.rects[rect], 1, 0)
        begin = corner + scaled(right, self.s_key[i] - 2 * rect) + scaled(up, self.t_key[j] - 2 * rect)
        return np.stack([begin, scaled(right, self.s_key[i + 1] - self.s_key[i]), scaled(up, self.t_key[j + 1] - self.t_key[j])], 1)

    def at(self, patch: Ints, s: Floats, t: Floats) -> Floats:
        """Points (..., 3) at shares (s, t) of patches of rectangles, of shapes that fit."""
        frame = rows(self.frames, patch)
        out = scaled(frame[..., 1, :], s)
        out += scaled(frame[..., 2, :], t)
        out += frame[..., 0, :]
        return out

    @cached_property
    def nearest(self) -> "KDTree":
        """The middles of all patches and the ways that they face, FACING_MM long, to look for those that lie and face alike."""
        from scipy.spatial import KDTree

        return KDTree(placed_and_facing(*(x[:, 0] for x in self.samples(np.full((self.n, 1, 2), 0.5)))))

    @cached_property
    def beside(self) -> Ints:
        """Each patch and the BESIDE that are nearest to it (n, BESIDE + 1), or all there are."""
        _far, near = self.nearest.query(self.nearest.data, min(BESIDE + 1, self.n))
        out: Ints = near.reshape(self.n, -1)
        return out

    @cached_property
    def quarters(self) -> tuple[Floats, Floats]:
        """Points and unit normals (4 n, 3): the middles of the quarters of every patch."""
        middles = (np.stack(np.meshgrid(np.arange(2), np.arange(2), indexing="ij"), -1).reshape(-1, 2) + 0.5) / 2
        points, normals = self.samples(np.repeat(middles[None], self.n, axis=0))
        return points.reshape(-1, 3), normals.reshape(-1, 3)

    def samples(self, x: Floats) -> tuple[Floats, Floats]:
        """The same on all patches (n, rays, 3)."""
        return self.samples_of(np.arange(self.n), x)

    def samples_of(self, which: Ints, x: Floats) -> tuple[Floats, Floats]:
        """Points and unit normals (k, rays, 3) on patches (k,) from uniform numbers ``x`` (k, rays, 2)."""
        points, normals = np.empty((*x.shape[:2], 3)), np.empty((*x.shape[:2], 3))
        flat, loose = np.flatnonzero(which < self.rect_patches), np.flatnonzero(which >= self.rect_patches)
        on = which[flat]
        points[flat] = self.at(on[:, None], x[flat, :, 0], x[flat, :, 1])
        normals[flat] = self.scene.normal[2 * self.rect_of[on]][:, None]
        if len(loose):
            points[loose], normals[loose] = self.on_groups(which[loose] - self.rect_patches, x[loose])
        return points, normals

    def on_groups(self, groups: Ints, x: Floats) -> tuple[Floats, Floats]:
        """Points and unit normals (k, rays, 3) on groups (k,) of triangles from uniform numbers ``x`` (k, rays, 2)."""
        begin, end = self.group_start[groups], self.group_start[groups + 1]
        lo, hi = self.tri_cdf[begin], self.tri_cdf[end]
        want = lo[:, None] + x[..., 0] * (hi - lo)[:, None]
        pick = np.searchsorted(self.tri_cdf, want.ravel(), side="right").reshape(want.shape) - 1
        pick = np.clip(pick, begin[:, None], end[:, None] - 1)
        left, right = self.tri_cdf[pick], self.tri_cdf[pick + 1]
        again = np.clip((want - left) / np.maximum(right - left, 1e-30), 0, 1)
        tri = self.tri_order[pick]
        return spread(rows(self.scene.tris, tri), again, x[..., 1]), rows(self.scene.normal, 2 * len(self.scene.rects) + tri)


@dataclass(frozen=True)
class Halves:
    """The halves of patches along one edge of their rectangles, in the order of ``key``, 2 r + share at which they begin. For a share in each (h,): the number of the
    node where it begins, how far on the next one is, and what a share of the rectangle is of the way to it.
    """

    key: Floats
    first: NDArray[np.int32]
    step: NDArray[np.int32]
    rate: Floats

    def between(self, r: Ints, share: Floats) -> tuple[NDArray[np.int32], NDArray[np.int32], NDArray[np.float32]]:
        """Two nodes between which shares (k,) of rectangles lie: the number of one, how far on the other is, and its weight."""
        at = 2 * r + share
        half = np.searchsorted(self.key, at, side="right") - 1
        return self.first[half], self.step[half], ((at - self.key[half]) * self.rate[half]).astype(np.float32)


def _halves(key: Floats, start: Ints, count: Ints, step: Ints, first: Ints) -> Halves:
    """The same of patches whose edges begin at ``start`` (r,) among all, so many of each rectangle, with nodes numbered from ``first`` on in steps."""
    rect = np.repeat(np.arange(len(count)), 2 * count)
    side = np.arange(len(rect)) - np.repeat(np.cumsum(2 * count) - 2 * count, 2 * count)
    at = start[rect] + side // 2
    begin, end, second = key[at], key[at + 1], side % 2
    return Halves(
        begin + second * (end - begin) / 2,
        (first[rect] + side * step[rect]).astype(np.int32),
        step[rect].astype(np.int32),
        2 / (end - begin),
    )


MOST_PATCHES = 12_000  # of the rectangles of a scene, but for those that begin at their own edges


def placed_and_facing(points: Floats, normals: Floats) -> Floats:
    """Points and the ways that they face (k, 6)."""
    return np.concatenate([points, normals * FACING_MM], 1)


def _edges(cuts: Floats, length: float, patch_mm: float) -> Floats:
    """Shares 0..1 that contain ``cuts`` and lie at most ``patch_mm`` apart."""
    pieces = [np.linspace(a, b, max(1, int(np.ceil((b - a) * length / patch_mm - 1e-9))) + 1)[:-1] for a, b in pairwise(cuts)]
    return np.concatenate([*pieces, [1.0]])


def cut_patches(scene: Scene, patch_mm: float) -> Patches:
    """Cut ``scene`` into patches of at most ``patch_mm`` along each edge; what is as large as a hall into larger ones, so that they stay few."""
    length = np.linalg.norm(scene.rects[:, 1:], axis=2)
    patch_mm = max(patch_mm, float(np.sqrt(length.prod(axis=1).sum() / MOST_PATCHES)))
    s_edges = [_edges(c[0], float(n), patch_mm) for c, n in zip(scene.cuts, length[:, 0], strict=True)]
    t_edges = [_edges(c[1], float(n), patch_mm) for c, n in zip(scene.cuts, length[:, 1], strict=True)]
    s_count, t_count = np.array([len(e) - 1 for e in s_edges]), np.array([len(e) - 1 for e in t_edges])
    base = np.concatenate([[0], np.cumsum(s_count * t_count)])
    areas = [np.outer(np.diff(a), np.diff(b)).ravel() * n[0] * n[1] for a, b, n in zip(s_edges, t_edges, length, strict=True)]
    paint = np.repeat(scene.rect_paint, s_count * t_count, axis=0)
    groups = int(scene.group.max()) + 1 if len(scene.group) else 0
    tri_area = scene.area[2 * len(scene.rects) :]
    order = np.argsort(scene.group, kind="stable")
    group_area = np.bincount(scene.group, tri_area, groups) if groups else np.zeros(0)
    group_paint = np.zeros((groups, 3))
    if groups:
        group_paint[scene.group] = scene.tri_paint
    return Patches(
        scene=scene,
        n=int(base[-1]) + groups,
        base=base[:-1],
        s_count=s_count,
        t_count=t_count,
        s_key=np.concatenate([2 * r + e for r, e in enumerate(s_edges)]),
        t_key=np.concatenate([2 * r + e for r, e in enumerate(t_edges)]),
        s_start=np.concatenate([[0], np.cumsum(s_count + 1)])[:-1],
        t_start=np.concatenate([[0], np.cumsum(t_count + 1)])[:-1],
        area=np.concatenate([*areas, group_area]),
        paint=np.concatenate([paint, group_paint]),
        tri_cdf=np.concatenate([[0.0], np.cumsum(tri_area[order])]),
        tri_order=order,
        group_start=np.concatenate([[0], np.cumsum(np.bincount(scene.group, minlength=groups))]) if groups else np.zeros(1, np.int64),
    )  # fmt: skip


class Scrambled:
    """Uniform numbers (n, ``each``, dims): one Sobol set, shifted anew for each of the n rows [cranley1976]."""

    def __init__(self, n: int, each: int, dims: int, seed: int) -> None:
        from scipy.stats import qmc  # loads for most of a second: only where light is solved

        self.each = each
        found: Floats = qmc.Sobol(dims, scramble=True, rng=np.random.default_rng(seed)).random(each)
        # Neighbours that are alike find what they look for in the cache. Every other number is of one half of the set, and as even as the other half.
        halves = [half[np.argsort(half[:, min(2, dims - 1)])] for half in np.array_split(found, 2)]
        self._sobol = np.stack(halves, 1).reshape(each, dims) if each > 1 else found
        self._shift = np.random.default_rng(seed + 1).random((n, 1, dims))

    def of(self, which: Ints) -> Floats:
        """Those of these rows (k,)."""
        out: Floats = self._sobol[None] + self._shift[which]
        out -= out >= 1.0
        return out


def spread(corners: Floats, x: Floats, y: Floats) -> Floats:
    """Points (..., 3) of triangles (..., 3, 3), as even on them as the numbers ``x`` and ``y`` (...) are in 0..1 [turk1990]."""
    root = np.sqrt(x)
    out = scaled(corners[..., 0, :], 1 - root)
    out += scaled(corners[..., 1, :], root * (1 - y))
    out += scaled(corners[..., 2, :], root * y)
    return out


def cosine_ways(x: NDArray[Any], normal: NDArray[Any]) -> Floats:
    """Directions with density cos / pi about ``normal`` from uniform numbers ``x`` (..., 2)."""
    r, phi = np.sqrt(x[..., 0]), 2 * np.pi * x[..., 1]
    # [duff2017].
    nx, ny, nz = (normal[..., axis] for axis in range(3))
    sign = np.where(nz >= 0, 1.0, -1.0).astype(normal.dtype)
    a = -1.0 / (sign + nz)
    b = nx * ny * a
    c, s, up = r * np.cos(phi), r * np.sin(phi), np.sqrt(np.maximum(0.0, 1 - x[..., 0]))
    out: Floats = np.empty((*c.shape, 3), c.dtype)
    out[..., 0] = c * (1 + sign * nx * nx * a) + s * b + up * nx
    out[..., 1] = c * sign * b + s * (sign + ny * ny * a) + up * ny
    out[..., 2] = up * nz - c * sign * nx - s * ny
    return out


def first_hits(scene: Scene, points: Floats, normals: Floats, ways: Floats) -> tuple[Prims, Floats, Bools]:
    """First bodies that rays from surfaces meet: triangle, point, and whether the ray started outside every solid."""
    start = points + normals * LIFT_MM
    prim, dist = scene.rays.hit(start, ways)
    hit = prim >= 0
    where = start + scaled(ways, np.where(hit, dist, 0.0))
    facing = dot(rows(scene.normal, np.maximum(prim, 0)), ways) < 0
    return prim, where, ~hit | facing


def trace(scene: Scene, points: NDArray[Any], normals: NDArray[Any], ways: NDArray[Any], legs: list[Leg] | None = None) -> Met:
    """What rays from surfaces meet, through panes and by way of mirrors."""
    return follow(scene, points + normals * LIFT_MM, ways, legs=legs)
