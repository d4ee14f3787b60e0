# SPDX-License-Identifier: MIT
"""Narrow ways that light takes: openings, and gaps beside walls. Rays are sent through them, for what lies beyond is seldom met by chance."""

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Floats, Ints, crossed, dot, length, rows, scaled
from fondale.core.light.patches import Scrambled, cosine_ways, trace

if TYPE_CHECKING:
    from fondale.core.light.texels import Texels

MOST, DARKEST = 12, 1e4  # gates are made use of; what is so much darker than the brightest is dark
LOOKED = 64  # rays through each of them, either way, tell how bright it is beyond
_SIDES = np.array([0, 1]), np.array([1.0, -1.0])
# Corners and edges (g, 3, 3), of which each gives by a product how far along it something lies, normals (g, 3), what a mm² sends back beyond (g, 2), and how many
# points are drawn on one (g,).
ForRays = tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.float32], NDArray[np.float32]]
NO_GATES: ForRays = tuple(np.zeros(shape, np.float32) for shape in ((0, 3, 3), (0, 3), (0, 2), 0))  # type: ignore[assignment]


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

    def drawn(self, groups: int, count: int, rng: np.random.Generator) -> tuple[Ints, NDArray[np.float32], NDArray[np.float32], Ints]:
        """``count`` points for each of so many groups, more on larger gates but some on all: gate (groups, 2 count), point and the way it looks, first on one side of all
        gates and then on the other (groups, 2 count, 3), and side. They lie as evenly as they can, and so does every other of them, every fourth and so on.
        """
        from fondale.core.light import loops

        gate = np.empty((groups, 2, count), np.int64)
        points, facing = np.empty((2, *gate.shape, 3), np.float32)
        loops.draw_in_gates(
            rng.random(gate.shape, np.float32), np.cumsum(np.sqrt(self.area)), self.rects, self._normal, gate, points, facing
        )
        side, every = np.broadcast_to(np.arange(2)[:, None], gate.shape), (groups, 2 * count)
        return gate.reshape(every), points.reshape(*every, 3), facing.reshape(*every, 3), side.reshape(every)

    def each(self, count: int) -> NDArray[np.float32]:
        """How many of ``count`` points are drawn on a mm² of each (g,)."""
        share = np.sqrt(self.area)
        out: NDArray[np.float32] = (count * share / share.sum() / self.area).astype(np.float32)
        return out

    def met_by(self, count: int) -> "ForRays":
        """What rays need of them that may meet them, where ``count`` points are drawn."""
        edges = self.rects.copy()
        edges[:, 1:] /= dot(edges[:, 1:], edges[:, 1:])[..., None]
        single = (np.ascontiguousarray(x, np.float32) for x in (edges, self._normal, self.bright))
        return (*single, self.each(count))  # type: ignore[return-value]


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
