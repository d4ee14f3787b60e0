"""The scene cut into patches that each have one value of bounced light."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from fondale.core.arrays import Bools, Floats, Ints, dot
from fondale.core.rays import LIFT_MM, Prims
from fondale.core.stage.scene import Scene


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

    def shares(self, prim: Prims, points: Floats) -> tuple[Ints, Floats, Floats]:
        """Rectangle and shares (s, t) in 0..1 of points on rectangles."""
        r = prim.astype(np.int64) // 2
        rel = points - self.scene.rects[r, 0]
        u, v = self.scene.rects[r, 1], self.scene.rects[r, 2]
        s = dot(rel, u) / dot(u, u)
        t = dot(rel, v) / dot(v, v)
        return r, np.clip(s, 0, 1 - 1e-9), np.clip(t, 0, 1 - 1e-9)

    def of_hits(self, prim: Prims, points: Floats) -> Ints:
        """The patch (k,) at each hit; prim must be 0 or more."""
        out = np.empty(len(prim), np.int64)
        flat = prim < 2 * len(self.scene.rects)
        if flat.any():
            r, s, t = self.shares(prim[flat], points[flat])
            i = np.searchsorted(self.s_key, 2 * r + s, side="right") - 1 - self.s_start[r]
            j = np.searchsorted(self.t_key, 2 * r + t, side="right") - 1 - self.t_start[r]
            out[flat] = self.base[r] + i * self.t_count[r] + j
        loose = ~flat
        out[loose] = self.rect_patches + self.scene.group[prim[loose] - 2 * len(self.scene.rects)]
        return out

    def samples(self, x: Floats) -> tuple[Floats, Floats]:
        """Points and unit normals (n, k, 3) on every patch from uniform numbers ``x`` (n, k, 2)."""
        points = np.empty((*x.shape[:2], 3))
        normals = np.empty_like(points)
        count = self.s_count * self.t_count
        r = np.repeat(np.arange(len(count)), count)
        local = np.arange(self.rect_patches) - self.base[r]
        i, j = local // self.t_count[r], local % self.t_count[r]
        s0, s1 = self.s_key[self.s_start[r] + i] - 2 * r, self.s_key[self.s_start[r] + i + 1] - 2 * r
        t0, t1 = self.t_key[self.t_start[r] + j] - 2 * r, self.t_key[self.t_start[r] + j + 1] - 2 * r
        flat = slice(0, self.rect_patches)
        s = s0[:, None] + x[flat, :, 0] * (s1 - s0)[:, None]
        t = t0[:, None] + x[flat, :, 1] * (t1 - t0)[:, None]
        rect = self.scene.rects[r]
        points[flat] = rect[:, None, 0] + s[..., None] * rect[:, None, 1] + t[..., None] * rect[:, None, 2]
        normals[flat] = self.scene.normal[2 * r][:, None]
        if self.n > self.rect_patches:
            self._tri_samples(x[self.rect_patches :], points[self.rect_patches :], normals[self.rect_patches :])
        return points, normals

    def _tri_samples(self, x: Floats, points: Floats, normals: Floats) -> None:
        groups = len(self.group_start) - 1
        lo, hi = self.tri_cdf[self.group_start[:-1]], self.tri_cdf[self.group_start[1:]]
        want = lo[:, None] + x[..., 0] * (hi - lo)[:, None]
        pick = np.searchsorted(self.tri_cdf, want.ravel(), side="right").reshape(want.shape) - 1
        pick = np.clip(pick, self.group_start[:-1, None], self.group_start[1:, None] - 1)
        left, right = self.tri_cdf[pick], self.tri_cdf[pick + 1]
        again = np.clip((want - left) / np.maximum(right - left, 1e-30), 0, 1)
        tri = self.tri_order[pick]
        root = np.sqrt(again)[..., None]
        b = x[..., 1][..., None]
        t = self.scene.tris[tri]
        points[:groups] = (1 - root) * t[..., 0, :] + root * (1 - b) * t[..., 1, :] + root * b * t[..., 2, :]
        normals[:groups] = self.scene.normal[2 * len(self.scene.rects) + tri]


def _edges(cuts: Floats, length: float, patch_mm: float) -> Floats:
    """Shares 0..1 that contain ``cuts`` and lie at most ``patch_mm`` apart."""
    pieces = [np.linspace(a, b, max(1, int(np.ceil((b - a) * length / patch_mm - 1e-9))) + 1)[:-1] for a, b in pairwise(cuts)]
    return np.concatenate([*pieces, [1.0]])


def cut_patches(scene: Scene, patch_mm: float) -> Patches:
    """Cut ``scene`` into patches of at most ``patch_mm`` along each edge."""
    length = np.linalg.norm(scene.rects[:, 1:], axis=2)
    s_edges = [_edges(c[0], float(n), patch_mm) for c, n in zip(scene.cuts, length[:, 0], strict=True)]
    t_edges = [_edges(c[1], float(n), patch_mm) for c, n in zip(scene.cuts, length[:, 1], strict=True)]
    s_count, t_count = np.array([len(e) - 1 for e in s_edges]), np.array([len(e) - 1 for e in t_edges])
    base = np.concatenate([[0], np.cumsum(s_count * t_count)])
    areas = [np.outer(np.diff(a), np.diff(b)).ravel() * n[0] * n[1] for a, b, n in zip(s_edges, t_edges, length, strict=True)]
    paint = np.repeat(scene.rect_paint, s_count * t_count, axis=0)
    groups = int(scene.group.max()) + 1 if len(scene.group) else 0
    tri_area = np.linalg.norm(np.cross(scene.tris[:, 1] - scene.tris[:, 0], scene.tris[:, 2] - scene.tris[:, 0]), axis=1) / 2
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


def scrambled(n: int, k: int, dims: int, seed: int) -> Floats:
    """Uniform numbers (n, k, dims): one Sobol set, shifted anew for each of the n rows [cranley1976]."""
    from scipy.stats import qmc  # loads for most of a second: only where light is solved

    sobol = qmc.Sobol(dims, scramble=True, rng=np.random.default_rng(seed)).random(k)
    shift = np.random.default_rng(seed + 1).random((n, 1, dims))
    out: Floats = (sobol[None] + shift) % 1.0
    return out


def cosine_ways(x: Floats, normal: Floats) -> Floats:
    """Directions with density cos / pi about ``normal`` from uniform numbers ``x`` (..., 2)."""
    r, phi = np.sqrt(x[..., 0]), 2 * np.pi * x[..., 1]
    # [duff2017].
    sign = np.where(normal[..., 2] >= 0, 1.0, -1.0)
    a = -1.0 / (sign + normal[..., 2])
    b = normal[..., 0] * normal[..., 1] * a
    e1 = np.stack([1 + sign * normal[..., 0] ** 2 * a, sign * b, -sign * normal[..., 0]], -1)
    e2 = np.stack([b, sign + normal[..., 1] ** 2 * a, -normal[..., 1]], -1)
    up = np.sqrt(np.maximum(0.0, 1 - x[..., 0]))
    out: Floats = (r * np.cos(phi))[..., None] * e1 + (r * np.sin(phi))[..., None] * e2 + up[..., None] * normal
    return out


def trace(scene: Scene, points: Floats, normals: Floats, ways: Floats) -> tuple[Prims, Floats, Bools]:
    """First hits of rays from surfaces: triangle, point, and whether the ray started outside every solid."""
    start = points + normals * LIFT_MM
    prim, dist = scene.rays.hit(start, ways)
    hit = prim >= 0
    where = start + ways * np.where(hit, dist, 0.0)[:, None]
    facing = dot(scene.normal[np.maximum(prim, 0)], ways) < 0
    return prim, where, ~hit | facing
