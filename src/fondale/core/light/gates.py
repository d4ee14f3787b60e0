"""Narrow ways that light takes: openings, and gaps beside walls. Rays are sent through them, for what lies beyond is seldom met by chance."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Floats, Ints, crossed, dot, length, rows, scaled
from fondale.core.light.patches import Scrambled, cosine_ways, trace

if TYPE_CHECKING:
    from fondale.core.light.texels import Texels

NEAREST = 0.05**2  # mm², between two points that shine on each other
MOST, DARKEST = 12, 1e4  # gates are made use of; what is so much darker than the brightest is dark
LOOKED = 64  # rays through each of them, either way, tell how bright it is beyond
_INSIDE = 1e-4  # of a gate: what goes through it is found to go through it
_SIDES = np.array([0, 1]), np.array([1.0, -1.0])
_LAST, _BITS = 1 - 1e-9, 32  # of the curve that fills a gate
_SPREAD = 0x55555555, 0x33333333, 0x0F0F0F0F, 0x00FF00FF, 0x0000FFFF  # every other bit, every other two of them and so on
Chance = Callable[[Ints, NDArray[Any], Any, NDArray[Any]], NDArray[Any]]


@dataclass(frozen=True)
class Rays:
    """From where they ``begin`` (k, 3), their ``way`` to where they end (k, 3), its square (k,), and how much of the way runs along the normal that it leaves
    (``rising``) and against the one that it meets (``facing``).
    """

    begin: NDArray[Any]
    way: NDArray[Any]
    d2: NDArray[Any]
    rising: NDArray[Any]
    facing: NDArray[Any]

    @property
    def forms(self) -> NDArray[Any]:
        """How much of what comes to where each begins, spread by the cosine, comes from a mm² where it ends (k,)."""
        out: NDArray[Any] = self.rising * self.facing / (np.pi * self.d2 * self.d2)
        return out


def rays_between(begin: NDArray[Any], up: NDArray[Any], end: NDArray[Any], normal: NDArray[Any]) -> Rays:
    """Rays from points that face ``up`` to points with this ``normal``, all (k, 3)."""
    way = end - begin
    return Rays(begin, way, np.maximum(dot(way, way), NEAREST), np.maximum(dot(way, up), 0.0), np.maximum(-dot(way, normal), 0.0))


@dataclass(frozen=True)
class Gates:
    """``rects`` (g, 3, 3), corner and edges. ``bright`` (g, 2) is what a mm² sends back beyond, on an average: for those who look at it from where its
    normal points, and for those on the other side.
    """

    rects: Floats
    bright: Floats

    @property
    def n(self) -> int:
        """How many there are."""
        return len(self.rects)

    @cached_property
    def _across(self) -> Floats:
        return crossed(self.rects[:, 1], self.rects[:, 2])

    @cached_property
    def _normal(self) -> Floats:
        return scaled(self._across, 1 / self.area)

    @cached_property
    def area(self) -> Floats:
        """Of each (g,), in mm²."""
        return length(self._across)

    def _points(self, gate: Ints, x: Floats) -> Floats:
        """Points (..., 3) on gates (...), at numbers ``x`` (..., 2) of each in 0..1."""
        rect = rows(self.rects, gate)
        out: Floats = rect[..., 0, :] + x[..., :1] * rect[..., 1, :] + x[..., 1:] * rect[..., 2, :]
        return out

    def drawn(self, groups: int, count: int, rng: np.random.Generator) -> tuple[Ints, Floats, Floats, Ints]:
        """``count`` points for each of so many groups, more on larger gates but some on all: gate (groups, 2 count), point and the way it looks, first on one side of all
        gates and then on the other (groups, 2 count, 3), and side. They lie as evenly as they can, and so does every other of them, every fourth and so on.
        """
        ends = np.cumsum(np.sqrt(self.area))
        begins = np.concatenate([[0.0], ends[:-1]])
        x = (np.arange(count) + rng.random((groups, 2, count))) / count * ends[-1]
        gate = np.minimum(np.searchsorted(ends, x.ravel(), side="right").reshape(x.shape), self.n - 1)
        along = np.clip((x - begins[gate]) / (ends - begins)[gate], 0.0, _LAST)
        points = self._points(gate, _INSIDE + (1 - 2 * _INSIDE) * filling(along))
        sides, signs = (np.broadcast_to(k[:, None], gate.shape) for k in _SIDES)
        facing, every = self._normal[gate] * signs[..., None], (groups, 2 * count)
        return gate.reshape(every), points.reshape(*every, 3), facing.reshape(*every, 3), sides.reshape(every)

    def each(self, count: int) -> NDArray[np.float32]:
        """How many of ``count`` points are drawn on a mm² of each (g,)."""
        share = np.sqrt(self.area)
        out: NDArray[np.float32] = (count * share / share.sum() / self.area).astype(np.float32)
        return out

    def through(self, rays: Rays, each: NDArray[np.float32], chance: Chance) -> NDArray[np.float32]:
        """How many rays (k,) that are asked for through points of gates, so many ``each`` drawn on a mm², go to a mm² where each of ``rays`` ends. A gate's mm² at t of
        the way is seen through by t² facing / |way · normal| of its own. ``chance`` tells how many of the points of a gate are asked for.
        """
        begin, way = rays.begin, rays.way
        out = np.zeros(len(begin), np.float32)
        for gate, (rect, normal) in enumerate(zip(self.rects.astype(begin.dtype), self._normal.astype(begin.dtype), strict=True)):
            along = way @ normal
            t = ((rect[0] - begin) @ normal) / np.where(np.abs(along) < 1e-9, 1e-9, along)
            some = np.flatnonzero((t > 0) & (t < 1))
            met = begin[some] + t[some, None] * way[some] - rect[0]
            s, u = met @ (rect[1] / (rect[1] @ rect[1])), met @ (rect[2] / (rect[2] @ rect[2]))
            some = some[(s >= 0) & (s <= 1) & (u >= 0) & (u <= 1)]
            share, across = t[some] ** 2, np.maximum(np.abs(along[some]), 1e-9)
            form = rays.rising[some] * across / (np.pi * np.maximum(share, 1e-12) * rays.d2[some] ** 2)
            bright = np.where(along[some] < 0, *self.bright[gate]).astype(np.float32)
            out[some] += each[gate] * chance(some, form, each[gate], bright) * share * rays.facing[some] / across
        return out


def filling(along: Floats) -> Floats:
    """Places (..., 2) in 0..1 of a square along a curve that fills it, at shares (...) of its length: each fourth of it fills a quarter of the square, and so on
    [morton1966].
    """
    number, out = (along * 2.0**_BITS).astype(np.uint64), []
    for first in (1, 0):
        bits = number >> np.uint64(first) & np.uint64(_SPREAD[0])
        for k, mask in enumerate(_SPREAD[1:]):
            bits = (bits | bits >> np.uint64(1 << k)) & np.uint64(mask)
        out.append((bits + 0.5) / 2.0 ** (_BITS // 2))
    return np.stack(out, -1)


@dataclass(frozen=True)
class Beyond:
    """What LOOKED rays through every gate of a scene meet, whatever light there is: the texel (2, k) of each that meets one, the number of its gate, and the share of light
    that comes through; for those who look at it from where its normal points, and for those on the other side.
    """

    rects: Floats
    sides: tuple[tuple[Ints, Ints, NDArray[Any]], ...]

    def bright(self, shine: Floats) -> Floats:
        """What a mm² sends back beyond every gate (g, 2) on an average, by what texels send back (m,)."""
        count = len(self.rects)
        return np.stack([np.bincount(gate, shine[texel] * share, count) / LOOKED for texel, gate, share in self.sides], 1)


def beyond_gates(texels: "Texels", seed: int = 17) -> Beyond:
    """Look through every gate of the scene."""
    scene = texels.patches.scene
    gates, sides = Gates(scene.gates, np.zeros((len(scene.gates), 2))), []
    if gates.n:
        numbers = Scrambled(2 * gates.n, LOOKED, 4, seed).of(np.arange(2 * gates.n)).reshape(2, gates.n, LOOKED, 4)
        for side, sign in zip(*_SIDES, strict=True):
            x = numbers[side]
            points = gates._points(np.arange(gates.n)[:, None], x[..., :2])
            out = np.broadcast_to(-sign * gates._normal[:, None], points.shape).reshape(-1, 3)
            met = trace(scene, points.reshape(-1, 3), out, cosine_ways(x[..., 2:].reshape(-1, 2), out))
            sides.append((texels.of_hits(met.prim, met.where), met.ray // LOOKED, met.share))
    return Beyond(gates.rects, tuple(sides))


def gates_of(beyond: Beyond, shine: Floats) -> Gates | None:
    """The gates of a scene by what its texels send back, ``shine`` (m,), the MOST that matter; None where no light comes through any."""
    if not len(beyond.rects):
        return None
    bright = beyond.bright(shine)
    brighter, darker = bright.max(1), bright.min(1)
    # Most of all rays are wanted from where it is dark to where it is bright.
    apart = brighter / np.maximum(darker, max(brighter.max(), 1e-30) / DARKEST)
    lit = np.argsort(-apart, kind="stable")[: min(MOST, int((brighter > 0).sum()))]
    return Gates(beyond.rects[lit], bright[lit]) if len(lit) else None
