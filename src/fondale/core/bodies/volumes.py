# SPDX-License-Identifier: MIT
"""Rounded volumes that flow into each other, on a grid, and the skin around them: what bodies, clothes and animals are made of.

A volume tells how far a point lies outside it (below zero: inside). Distances are exact on the skin and good near it, which is all that a
blend and a skin need. Everything is in the units of whoever builds: people in shares of stature, animals in their own measure.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Floats, Ints

Grid = NDArray[np.float32]
Folds = Callable[[Grid, Grid], Grid]
Mesh = tuple[Floats, Ints]
FAR = np.float32(1.0)
_STEPS = 96


def unit(v: Floats) -> Floats:
    """A vector, or rows of them, made one long."""
    out: Floats = np.asarray(v, float) / np.linalg.norm(v, axis=-1, keepdims=True)
    return out


def turned(axis: Floats, degrees: float) -> Floats:
    """The rotation (3, 3) about an axis, after Rodrigues."""
    k, a = unit(np.asarray(axis, float)), np.radians(degrees)
    cross = np.array([[0, -k[2], k[1]], [k[2], 0, -k[0]], [-k[1], k[0], 0]])
    out: Floats = np.eye(3) + np.sin(a) * cross + (1 - np.cos(a)) * cross @ cross
    return out


def monotone(at: Floats, rows: Floats, where: Floats) -> Floats:
    """Values (w, c) between ``rows`` (n, c) given at ``at`` (n,): a cubic that never swings beyond its neighbours [fritsch1984]."""
    step = np.diff(at)
    slope = np.diff(rows, axis=0) / step[:, None]
    bend = np.zeros_like(rows)
    if len(at) > 2:
        a, b = slope[:-1], slope[1:]
        both = a * b > 0
        bend[1:-1] = np.where(both, 2 * a * b / np.where(both, a + b, 1.0), 0.0)
    bend[0], bend[-1] = slope[0], slope[-1]
    i = np.clip(np.searchsorted(at, where, side="right") - 1, 0, len(at) - 2)
    u, h = ((where - at[i]) / step[i])[:, None], step[i][:, None]
    v = 1 - u
    out: Floats = v * v * ((1 + 2 * u) * rows[i] + u * h * bend[i]) + u * u * ((3 - 2 * u) * rows[i + 1] - v * h * bend[i + 1])
    return out


class Volume(Protocol):
    """``low`` and ``high`` (3,) hold all of it; called with grids that broadcast together it gives the distances."""

    low: Floats
    high: Floats

    def __call__(self, x: Grid, y: Grid, z: Grid) -> Grid: ...


class Tube:
    """Ellipses along a straight axis, rounded at both ends.

    ``rows`` (n, 3 to 5): how far along ``way``, half width along ``across``, half depth square to both, and, where given, how far the
    middle is shifted along each of the two. ``ends``: how far the rounding reaches beyond the first and the last row. ``folds`` gives what
    is added to the radius, from the way along and the angle around; ``most`` is the most that it adds. ``twist`` turns the last ellipse by
    so many degrees against the first.
    """

    def __init__(
        self, start: Floats, way: Floats, across: Floats, rows: Sequence[Sequence[float]], ends: tuple[float | None, float | None] = (None, None),
        folds: Folds | None = None, most: float = 0.0, twist: float = 0.0,
    ) -> None:  # fmt: skip
        self._start, self._way = np.asarray(start, float), unit(way)
        self._u = unit(across - self._way * (np.asarray(across, float) @ self._way))
        self._v = np.cross(self._way, self._u)
        table = np.array([(*r, 0.0, 0.0)[:5] for r in rows], float)
        self._from, self._to = table[0, 0], table[-1, 0]
        at = np.linspace(self._from, self._to, _STEPS)
        cols = monotone(table[:, 0], table[:, 1:], at)
        self._folds = folds
        turn = np.radians(twist) * np.linspace(0, 1, _STEPS)
        self._twisted, self._shifted = bool(twist), bool(np.abs(cols[:, 2:]).max() > 0)
        self._table = np.column_stack([1 / cols[:, :2], cols[:, 2:], np.cos(turn), np.sin(turn)]).astype(np.float32)
        self._ends = [e if e is not None else float(cols[i, :2].mean()) for e, i in zip(ends, (0, -1), strict=True)]
        middle = self._start + np.outer(at, self._way) + np.outer(cols[:, 2], self._u) + np.outer(cols[:, 3], self._v)
        half = cols[:, :2].max(1, keepdims=True).repeat(2, 1) if twist else cols[:, :2]
        reach = np.sqrt((half[:, :1] * self._u) ** 2 + (half[:, 1:] * self._v) ** 2) + most
        tips = np.stack([middle[0] - self._way * self._ends[0], middle[-1] + self._way * self._ends[1]])
        self.low = np.minimum((middle - reach).min(0), tips.min(0))
        self.high = np.maximum((middle + reach).max(0), tips.max(0))

    def __call__(self, x: Grid, y: Grid, z: Grid) -> Grid:
        f = np.float32
        dx, dy, dz = x - f(self._start[0]), y - f(self._start[1]), z - f(self._start[2])

        def along(w: Floats) -> Grid:
            out: Grid = dx * f(w[0]) + dy * f(w[1]) + dz * f(w[2])
            return out

        s, p, q = along(self._way), along(self._u), along(self._v)
        held = np.clip(s, f(self._from), f(self._to))
        row = ((held - f(self._from)) * f((_STEPS - 1) / max(self._to - self._from, 1e-9)) + f(0.5)).astype(np.int32)
        wide, deep = self._table[:, 0][row], self._table[:, 1][row]
        if self._twisted:
            c, n = self._table[:, 4][row], self._table[:, 5][row]
            p, q = p * c + q * n, q * c - p * n
        if self._shifted:
            p, q = p - self._table[:, 2][row], q - self._table[:, 3][row]
        p, q = p * wide, q * deep
        if self._folds is not None:
            more = self._folds(held, np.arctan2(q, p)).astype(np.float32)
            p, q = p / (1 + more * wide), q / (1 + more * deep)
        over = s - held
        end = np.where(over < 0, f(1 / self._ends[0]), f(1 / self._ends[1]))
        o = over * end
        k = np.sqrt(p * p + q * q + o * o)
        steep = np.sqrt((p * wide) ** 2 + (q * deep) ** 2 + (o * end) ** 2)
        out: Grid = (k - 1) * k / (steep + f(1e-6))
        return out


def ball(centre: Floats, half: tuple[float, float, float], up: Sequence[float] = (0, 0, 1), across: Sequence[float] = (1, 0, 0)) -> Tube:
    """An ellipsoid: half axes along ``across``, square to both, and along ``up``."""
    row = half[:2]
    return Tube(centre, np.array(up, float), np.array(across, float), [(-1e-5, *row), (1e-5, *row)], (half[2], half[2]))


def rod(a: Floats, b: Floats, ra: float, rb: float | None = None) -> Tube:
    """A round rod from ``a`` to ``b``, with a radius at each."""
    way = np.asarray(b, float) - np.asarray(a, float)
    long = float(np.linalg.norm(way))
    across = np.array([1.0, 0, 0]) if abs(way[0]) < 0.9 * long else np.array([0, 1.0, 0])
    rb = ra if rb is None else rb
    return Tube(a, way, across, [(0, ra, ra), (long, rb, rb)])


class Sheet:
    """A triangle with thickness: all that lies nearer to it than ``thick``."""

    def __init__(self, a: Floats, b: Floats, c: Floats, thick: float) -> None:
        self._corners = [np.asarray(p, float) for p in (a, b, c)]
        self._thick = thick
        self.low, self.high = np.min(self._corners, 0) - thick, np.max(self._corners, 0) + thick

    def __call__(self, x: Grid, y: Grid, z: Grid) -> Grid:
        a, b, c = self._corners
        at = np.stack(np.broadcast_arrays(x, y, z), -1).astype(np.float32)
        n = np.cross(b - a, c - a)
        edge2, inside = np.full(at.shape[:-1], np.inf, np.float32), np.ones(at.shape[:-1], bool)
        for p, q in ((a, b), (b, c), (c, a)):
            side = (q - p).astype(np.float32)
            rel = at - p.astype(np.float32)
            t = np.clip(rel @ side / (side @ side), 0, 1)[..., None]
            edge2 = np.minimum(edge2, ((rel - t * side) ** 2).sum(-1))
            inside &= rel @ np.cross(n, q - p).astype(np.float32) > 0
        flat2 = ((at - a.astype(np.float32)) @ n.astype(np.float32)) ** 2 / np.float32(n @ n)
        out: Grid = np.sqrt(np.where(inside, flat2, edge2)) - np.float32(self._thick)
        return out


@dataclass(frozen=True)
class Blend:
    """How a volume joins what stands: rounded by ``soft`` near ``at``, hardly any more from ``reach`` on; everywhere where ``at`` is None.

    One softness all along would swell straight limbs. ``cut``: the volume is taken away.
    """

    volume: Volume
    soft: float = 0.0
    at: Floats | None = None
    reach: float = 0.1
    cut: bool = False


class Field:
    """Distances on a grid of ``cell`` that holds all of ``blends``, joined in their order."""

    def __init__(self, blends: Sequence[Blend], cell: float) -> None:
        kept = [b.volume for b in blends if not b.cut]
        low, high = np.min([v.low for v in kept], 0) - 2.5 * cell, np.max([v.high for v in kept], 0) + 2.5 * cell
        self.cell, self.low = cell, low
        count = np.ceil((high - low) / cell).astype(int) + 1
        self.axes = [(low[i] + cell * np.arange(count[i])).astype(np.float32) for i in range(3)]
        self.distance = np.full(count, FAR, np.float32)
        for blend in blends:
            self._join(blend)

    def _join(self, blend: Blend) -> None:
        margin = blend.soft + 2 * self.cell
        top = np.array(self.distance.shape) - 1
        first = np.clip(np.floor((blend.volume.low - margin - self.low) / self.cell).astype(int), 0, top)
        last = np.clip(np.ceil((blend.volume.high + margin - self.low) / self.cell).astype(int) + 1, 1, top + 1)
        box = tuple(slice(a, b) for a, b in zip(first, last, strict=True))
        x, y, z = self.axes[0][box[0], None, None], self.axes[1][None, box[1], None], self.axes[2][None, None, box[2]]
        there, new = self.distance[box], blend.volume(x, y, z)
        soft: Grid | np.float32 = np.float32(max(blend.soft, 1e-5))
        if blend.at is not None:
            away = np.sqrt(sum((g - np.float32(c)) ** 2 for g, c in zip((x, y, z), blend.at, strict=True)))
            soft = np.float32(0.004) + np.float32(max(blend.soft - 0.004, 0)) * np.clip(1.6 - away * np.float32(1.6 / blend.reach), 0, 1)
        if blend.cut:
            new = -new
        near = np.maximum(soft - np.abs(there - new), 0) / soft
        round_off = near * near * soft * np.float32(0.25)
        self.distance[box] = np.maximum(there, new) + round_off if blend.cut else np.minimum(there, new) - round_off

    def keep_above(self, point: Floats, normal: Floats) -> None:
        """Cut off flat what lies below a plane, on the side away from ``normal``."""
        rel = [(a - np.float32(p)) * np.float32(n) for a, p, n in zip(self.axes, point, normal, strict=True)]
        plane = rel[0][:, None, None] + rel[1][None, :, None] + rel[2][None, None, :]
        self.distance = np.maximum(self.distance, -plane)

    def skin(self, most: int) -> Mesh:
        """The closed skin: vertices (v, 3) and triangles (t, 3), outwards, thinned to at most about ``most``."""
        from skimage.measure import marching_cubes

        d = self.distance
        for axis in range(3):
            edge = np.moveaxis(d, axis, 0)
            edge[0] = edge[-1] = FAR
        points, tris, _normals, _values = marching_cubes(d, 0.0, allow_degenerate=False)
        points, tris = thinned(points, tris, most)
        points = np.asarray(points, float) * self.cell + self.low
        tris = np.asarray(tris, np.int64)
        a, b, c = (points[tris[:, i]] for i in range(3))
        return points, tris if float(np.einsum("ij,ij->", a, np.cross(b, c))) > 0 else tris[:, ::-1]


def thinned(points: Floats, tris: Ints, most: int) -> Mesh:
    """A closed skin of at most about ``most`` triangles."""
    import fast_simplification

    if len(tris) <= most:
        return points, tris
    less, left = fast_simplification.simplify(points.astype(np.float32), tris.astype(np.int32), target_count=most, agg=5)
    return np.asarray(less, float), np.asarray(left, np.int64)


def joined(blends: Sequence[Blend], cell: float, most: int) -> Mesh:
    """The skin of volumes that flow into each other."""
    return Field(blends, cell).skin(most)


def lathe(start: Floats, way: Floats, rows: Sequence[tuple[float, float]], sides: int, scallop: float = 0.0, ribs: int = 8) -> Mesh:
    """A closed surface turned about an axis: ``rows`` of (along, radius), the first and the last on the axis (radius 0).

    ``scallop`` draws the radius in by that share between ``ribs``.
    """
    w = unit(way)
    u = unit(np.cross(w, [0.31, 0.95, 0.0]))
    v = np.cross(w, u)
    phi = np.linspace(0, 2 * np.pi, sides, endpoint=False)
    around = np.outer(np.cos(phi), u) + np.outer(np.sin(phi), v)
    wave = 1 - scallop * (0.5 - 0.5 * np.cos(ribs * phi))
    rings = [start + w * s + around * (r * wave)[:, None] for s, r in rows[1:-1]]
    points = np.concatenate([[start + w * rows[0][0]], *rings, [start + w * rows[-1][0]]])
    j = np.arange(sides)
    k = (j + 1) % sides
    first = 1 + sides * np.arange(len(rings))
    tris = [np.column_stack([np.zeros(sides, int), 1 + k, 1 + j])]
    for p, q in pairwise(first):
        tris += [np.column_stack([p + j, p + k, q + k]), np.column_stack([p + j, q + k, q + j])]
    tris.append(np.column_stack([np.full(sides, len(points) - 1), first[-1] + j, first[-1] + k]))
    return points, np.concatenate(tris).astype(np.int64)


def corner_normals(points: Floats, tris: Ints) -> Floats:
    """Smooth unit normals (v, 3): faces at a point count by the angle that they have there [thurmer1998]."""
    edge = [points[tris[:, (i + 1) % 3]] - points[tris[:, i]] for i in range(3)]
    face = np.cross(edge[0], -edge[2])
    face /= np.linalg.norm(face, axis=1, keepdims=True) + 1e-30
    way = [e / (np.linalg.norm(e, axis=1, keepdims=True) + 1e-30) for e in edge]
    out = np.zeros_like(points)
    for i in range(3):
        angle = np.arccos(np.clip(-(way[i] * way[i - 1]).sum(1), -1, 1))
        for axis in range(3):
            out[:, axis] += np.bincount(tris[:, i], face[:, axis] * angle, len(points))
    out /= np.linalg.norm(out, axis=1, keepdims=True) + 1e-30
    return out
