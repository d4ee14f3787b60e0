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
from fondale.core.rays import LIFT_MM

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
    def _level(self) -> Floats:
        """How much reached every patch before (patches,)."""
        assert self.seen is not None
        level: Floats = np.asarray(self.seen.sum(1)).ravel().astype(float)
        return np.maximum(level, 1e-30)

    def known(self, points: Floats, normals: Floats) -> NDArray[np.float32] | None:
        """The share of each patch in what reached receivers (k, 3) before (k, patches), as the patches tell it that lie and face nearly as they do; each of these
        counts alike, however bright it is there. None where nothing is known.
        """
        from scipy import sparse

        if self.seen is None:
            return None
        k, n = len(points), self.texels.patches.n
        _far, near = self.texels.patches.nearest.query(placed_and_facing(points, normals), min(NEIGHBOURS, n))
        near = near.reshape(k, -1)
        some, at = np.unique(near, return_inverse=True)
        count = near.shape[1]
        mean = sparse.csr_array(((1 / (count * self._level[near])).ravel(), at.ravel(), np.arange(k + 1) * count), shape=(k, len(some)))
        out: NDArray[np.float32] = (mean @ self.seen[some]).toarray().astype(np.float32)
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

    def drawn(self, middles: Floats, known: NDArray[np.float32] | None, count: int, rng: np.random.Generator) -> "Drawn":
        """So many points for each of the groups of receivers about ``middles`` (g, 3): where there is light, and from where it is ``known`` (g, k, patches) to
        have reached them.
        """
        groups, n = len(middles), self.texels.patches.n
        share = np.repeat(self.flux[None], groups, axis=0)
        if known is not None:
            came = known.sum(1, dtype=float)
            total = came.sum(1, keepdims=True)
            share = np.where(total > 0, share * (1 - KNOWN) + KNOWN * came / np.maximum(total, 1e-30), share)
            share[:, self.flux <= 0] = 0.0  # what is asked for no more, however much came from there
        summed = np.cumsum(share, axis=1)
        summed /= summed[:, -1:]
        x = (np.arange(count) + rng.random((groups, count))) / count
        row = np.arange(groups)[:, None]
        patch = np.searchsorted((summed + row).ravel(), (x + row).ravel(), side="right").reshape(x.shape) - row * n
        patch = np.minimum(patch, n - 1)
        right, left = summed[row, patch], np.where(patch > 0, summed[row, patch - 1], 0.0)
        order, ends = self._by_patch
        again = np.clip((x - left) / np.maximum(right - left, 1e-30), 0, 1 - 1e-9)
        texel = order[np.minimum(np.searchsorted(ends, (patch + again).ravel(), side="right"), len(order) - 1)]
        there, facing = (p.reshape(groups, count, 3) for p in self.texels.points(texel, rng.random((groups * count, 2))))
        gate = side = np.zeros((groups, 0), np.int64)
        of_gates = np.zeros(0, np.float32)
        if self.gates is not None:
            few = gate_points(count // DRAWN)
            gate, at, out, side = self.gates.drawn(groups, few, rng)
            of_gates = self.gates.each(few)
            there, facing = np.concatenate([there, at], 1), np.concatenate([facing, out], 1)
        each = (share * (count / share.sum(1, keepdims=True))).astype(np.float32)
        return Drawn(self, middles, each, texel.reshape(groups, count), there, facing, gate, side, of_gates)


@dataclass(frozen=True)
class Drawn:
    """Points that groups of receivers about ``middles`` (g, 3) may ask for: on texels (g, t), and after these in gates (g, r - t), seen from one side or the other;
    where (g, r, 3), with their normals. ``each`` (g, patches) is how many of them are to lie on a patch, ``of_gates`` how many on a mm² of every gate.
    """

    aim: Aim
    middles: Floats
    each: NDArray[np.float32]
    texel: Ints
    points: Floats
    normals: Floats
    gate: Ints
    side: Ints
    of_gates: NDArray[np.float32]

    @cached_property
    def patch(self) -> Ints:
        """The patches of those on texels (g, t)."""
        out: Ints = self.aim.texels.patch[self.texel]
        return out

    @cached_property
    def density(self) -> NDArray[np.float32]:
        """How many are drawn on a mm² where each of them lies (g, r)."""
        on = np.take_along_axis(self.each, self.patch, 1) * self.aim.dense[self.texel]
        return np.concatenate([on, self.of_gates[self.gate]], 1)

    @cached_property
    def bright(self) -> NDArray[np.float32]:
        """What comes from a mm² where each of them lies (g, r), or from beyond it."""
        shine = self.aim.shine[self.texel]
        if self.aim.gates is None:
            return shine
        return np.concatenate([shine, self.aim.gates.bright[self.gate, self.side].astype(np.float32)], 1)

    @cached_property
    def lifted(self) -> NDArray[np.float32]:
        """Where rays to them end (g, r, 3)."""
        return (self.points + self.normals * LIFT_MM).astype(np.float32)

    @cached_property
    def facing(self) -> NDArray[np.float32]:
        """Their normals in single precision (g, r, 3)."""
        return self.normals.astype(np.float32)

    def by_look(self, looks: int) -> tuple[NDArray[np.float32], NDArray[np.float32], Floats, Floats]:
        """Places from the middles and normals (g, looks, 3, r), their products and the places' squares (g, looks, 1, r): those that follow each other lie near
        each other, and each look gets some from all over.
        """
        to, out = (
            np.ascontiguousarray(x.astype(np.float32).reshape(len(x), -1, looks, 3).transpose(0, 2, 3, 1))
            for x in (self.points - self.middles[:, None], self.normals)
        )
        return to, out, (to * out).sum(2, keepdims=True), (to * to).sum(2, keepdims=True)


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
