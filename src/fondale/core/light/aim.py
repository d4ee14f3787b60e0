# SPDX-License-Identifier: MIT
"""Where rays towards light go: to points on what shines, by what it sends and by what was found before, and through gates."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Floats, Ints, folded
from fondale.core.light.gates import Gates, gates_of
from fondale.core.light.patches import BESIDE, placed_and_facing
from fondale.core.light.texels import Texels

if TYPE_CHECKING:
    from scipy import sparse

EVERYWHERE = 0.05  # of the rays towards light go anywhere: nothing that shines is never looked at
KNOWN = 0.7  # of them, where light was found before, go to where it was found from
NEIGHBOURS = 16  # patches, the nearest that face alike, tell of that
DRAWN = 4  # points are drawn for each that is asked for
OF_GATES, GATES_LEAST = 4, 16  # a quarter as many lie in gates
BRIGHTER = 3.0  # classes of receivers lie so far apart


@dataclass(frozen=True)
class Aim:
    """Where rays towards light go: to a patch, then to one of its texels. ``flux`` (patches,) is the share of each in all that is sent back, ``within`` (n,)
    that of each texel in its patch's; ``shine`` (n,) is what a mm² of each sends back; ``seen`` (patches, patches), where it is known, what reached patches from
    others before; ``gates`` are narrow ways with light beyond, which rays are sent through.
    """

    texels: Texels
    flux: Floats
    within: Floats
    shine: NDArray[np.float32]
    seen: "sparse.csr_array | None" = None
    gates: Gates | None = None

    @cached_property
    def _level(self) -> NDArray[np.float32]:
        """How much reached every patch before (patches,)."""
        assert self.seen is not None
        level: NDArray[np.float32] = np.asarray(self.seen.sum(1)).ravel().astype(np.float32)
        return np.maximum(level, np.float32(1e-30))

    def known(self, points: Floats, normals: Floats) -> NDArray[np.float32] | None:
        """The share of each patch in what reached receivers (k, 3) before (k, patches), as the patches tell it that lie and face nearly as they do; each of these
        counts alike, however bright it is there. None where nothing is known.
        """
        from fondale.core.light import loops

        if self.seen is None:
            return None
        n = self.texels.patches.n
        _far, near = self.texels.patches.nearest.query(placed_and_facing(points, normals), min(NEIGHBOURS, n))
        out = np.empty((len(points), n), np.float32)
        loops.known(near.reshape(len(points), -1), self.seen.indptr, self.seen.indices, self.seen.data, self._level, out)
        return out

    def around(self, share: Floats) -> Floats:
        """Which share of rays (patches,) bears the light of those that lie and face nearly as each patch does, without its own: who decides by his own luck whether to
        look again keeps his bad luck and not his good one. As errors are: one that few rays bear light to counts for more than several that many do.
        """
        near = self.texels.patches.beside
        others = (near != np.arange(len(near))[:, None]) & (share[near] > 0)
        lacking = np.divide(1.0, share[near], out=np.zeros(near.shape), where=others).sum(1)
        out: Floats = np.divide(others.sum(1), lacking, out=np.ones(len(near)), where=lacking > 0)
        return out

    def at(self, share: Floats, points: Floats, normals: Floats) -> Floats:
        """The same at receivers (k, 3), by what is told about patches (patches,)."""
        count = min(BESIDE, len(share))
        _far, near = self.texels.patches.nearest.query(placed_and_facing(points, normals), count)
        out: Floats = 1 / (1 / share[near.reshape(len(points), count)]).mean(1)
        return out

    def classes(self, points: Floats, normals: Floats) -> Ints:
        """How bright it was before at receivers (k, 3), in steps of three times, as the nearest patch that faces as they do tells it."""
        if self.seen is None:
            return np.zeros(len(points), np.int64)
        _far, near = self.texels.patches.nearest.query(placed_and_facing(points, normals))
        out: Ints = np.round(np.log(self._level[near]) / np.log(BRIGHTER)).astype(np.int64)
        return out

    @cached_property
    def _by_patch(self) -> tuple[Ints, Floats, Ints]:
        """The texels (n,) in the order of their patches, the share of each one's patch that ends with it, and the number of every patch's first (patches + 1,)."""
        order = np.argsort(self.texels.patch, kind="stable")
        first = np.searchsorted(self.texels.patch[order], np.arange(self.texels.patches.n + 1))
        total = np.concatenate([[0.0], np.cumsum(self.within[order])])
        ends: Floats = total[1:] - np.repeat(total[first[:-1]], np.diff(first))
        return order, ends, first

    @cached_property
    def dense(self) -> NDArray[np.float32]:
        """How many of the points that are drawn on a patch are drawn on a mm² of each texel (n,)."""
        return (self.within / self.texels.area).astype(np.float32)

    def shares(self, groups: int, known: NDArray[np.float32] | None) -> Floats:
        """The share of every patch (groups, patches) in the points that are drawn for as many groups of receivers: where there is light, and from where it is ``known``
        (receivers, patches) to have reached them.
        """
        share = np.repeat(self.flux[None], groups, axis=0)
        if known is not None:
            came = known.reshape(groups, -1, len(self.flux)).sum(1, dtype=float)
            total = came.sum(1, keepdims=True)
            share = np.where(total > 0, share * (1 - KNOWN) + KNOWN * came / np.maximum(total, 1e-30), share)
            share[:, self.flux <= 0] = 0.0  # what is asked for no more, however much came from there
        return share

    def drawn(self, share: Floats, count: int, rng: np.random.Generator) -> "Drawn":
        """So many points for each of some groups of receivers, by the ``share`` of every patch (groups, patches)."""
        from fondale.core.light import loops

        groups, n = share.shape
        few = gate_points(count // DRAWN) if self.gates is not None else 0
        (texel, patch), each = np.empty((2, groups, count), np.int64), np.empty((groups, n), np.float32)
        density, bright = np.empty((2, groups, count + 2 * few), np.float32)
        loops.draw(
            share, rng.random((groups, count), np.float32), *self._by_patch, self.dense, self.shine, each, texel, patch, density, bright
        )
        there, facing = (
            p.reshape(groups, count, 3) for p in self.texels.points(texel.ravel(), rng.random((groups * count, 2), np.float32))
        )
        gate = np.zeros((groups, 0), np.int64)
        if self.gates is not None:
            gate, at, out, side = self.gates.drawn(groups, few, rng)
            density[:, count:], bright[:, count:] = self.gates.each(few)[gate], self.gates.bright[gate, side]
            there, facing = np.concatenate([there, at], 1), np.concatenate([facing, out], 1)
        return Drawn(each, texel, patch, gate, there, facing, density, bright)


@dataclass(frozen=True)
class Drawn:
    """Points that groups of receivers may ask for: on texels (g, t), each on a ``patch``, and after these in gates (g, r - t); where (g, r, 3), with their normals, how many are
    drawn on a mm² there (g, r), and what comes from one, or from beyond it. ``each`` (g, patches) is how many of them are to lie on a patch.
    """

    each: NDArray[np.float32]
    texel: Ints
    patch: Ints
    gate: Ints
    points: NDArray[np.float32]
    normals: NDArray[np.float32]
    density: NDArray[np.float32]
    bright: NDArray[np.float32]


def gate_points(towards: int) -> int:
    """How many points are drawn in gates where so many rays go towards light."""
    return max(GATES_LEAST, towards * DRAWN // OF_GATES)


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
    out: Floats = mean * on + folded(np.add, paint * (spread @ back)) / 3
    return np.maximum(out, 0.0)  # where light ends blending may say less than nothing


def aim_at(texels: Texels, shine: Floats, reached: "sparse.csr_array | None" = None) -> Aim:
    """Aim by the flux that every texel sends back, ``shine`` (n,) times its area, and by what ``reached`` every patch from every other (patches, patches).
    So a slot that a few rays nearby have found draws all that are sent from there.
    """
    n, area, flux = texels.patches.n, texels.area / texels.area.sum(), shine * texels.area
    flux = flux / flux.sum() if flux.sum() > 0 else area
    anywhere = (1 - EVERYWHERE) * flux + EVERYWHERE * area
    of_patch: Floats = np.bincount(texels.patch, anywhere, n).astype(float)
    within = anywhere / np.maximum(of_patch, 1e-30)[texels.patch]
    return Aim(texels, of_patch, within, shine.astype(np.float32), reached, gates_of(texels.beyond, shine))
