# SPDX-License-Identifier: MIT
"""Direct light in detail: patches of rectangles cut finer, and every free triangle for itself."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Ints, dot, folded, length, rows, scaled
from fondale.core.emitters import Emitter
from fondale.core.light.blending import blending
from fondale.core.light.gates import Beyond, beyond_gates
from fondale.core.light.nodes import Nodes
from fondale.core.light.patches import Patches, spread
from fondale.core.rays import Prims
from fondale.core.stage.moved import Moved

if TYPE_CHECKING:
    from scipy import sparse

SIDE, SIDE_MOST = 4, 48  # texels along each side of a patch
GROUP_LOOKS = 8  # points of a group of triangles that is left whole
AT_EDGES = 2  # times as many along each side where an edge of light runs: what a slot lets through is a strip of a few texels
NEAR = 0.3  # of the distance to a lamp: no texel is larger, down to the least


@dataclass(frozen=True)
class Texels:
    """``side`` (patches of rectangles,) texels along each side of a patch, from number ``first`` on; after ``flat`` of them come the free triangles,
    each for itself, or one texel a group of them where they are left ``whole``. At ``looks`` points of each, 1 or 4, it is seen how a lamp lights it.
    """

    patches: Patches
    side: Ints
    first: Ints
    flat: int
    looks: int
    whole: bool

    @cached_property
    def patch(self) -> Ints:
        """The patch of every texel (n,)."""
        on_rects, group = np.repeat(np.arange(len(self.side)), self.side**2), self.patches.scene.group
        groups = np.arange(self.patches.n - self.patches.rect_patches) if self.whole else group
        return np.concatenate([on_rects, self.patches.rect_patches + groups])

    @property
    def n(self) -> int:
        """How many there are."""
        return len(self.patch)

    @cached_property
    def area(self) -> Floats:
        """Of every texel (n,), in mm²."""
        flat = np.repeat(self.patches.area[: len(self.side)] / self.side**2, self.side**2)
        if self.whole:
            return np.concatenate([flat, self.patches.area[len(self.side) :]])
        return np.concatenate([flat, self.patches.scene.area[2 * len(self.patches.scene.rects) :]])

    @cached_property
    def paint(self) -> Floats:
        """Reflectance (n, 3)."""
        if self.whole:
            return self.patches.paint[self.patch]
        return np.concatenate([self.patches.paint[self.patch[: self.flat]], self.patches.scene.tri_paint])

    @cached_property
    def prim(self) -> Prims:
        """One triangle of the scene that each lies on (n,), where triangles are told apart."""
        count = len(self.patches.scene.rects)
        on_rects = 2 * self.patches.rect_of[self.patch[: self.flat]]
        return np.concatenate([on_rects, 2 * count + np.arange(len(self.patches.scene.tris))]).astype(np.int32)

    @cached_property
    def paint32(self) -> NDArray[np.float32]:
        """The same in single precision."""
        return self.paint.astype(np.float32)

    def of(self, patches: Patches) -> "Texels":
        """The same of patches that are the same on rectangles."""
        out = replace(self, patches=patches)
        out.__dict__["beside"] = self.beside  # no free triangle has a part in it, and it takes long to find
        out.__dict__["_frames"] = self._frames
        return out

    @cached_property
    def looked_at(self) -> tuple[tuple[NDArray[np.float32], NDArray[np.float32]], ...]:
        """Points and normals (n, 3) on every texel, one anywhere in it, or one in each of its quarters."""
        rng, split = np.random.default_rng(5), 2 if self.looks == 4 else 1
        corners = (np.array([part // split, part % split]) for part in range(self.looks))
        every = (self.points(np.arange(self.n), (corner + rng.random((self.n, 2))) / split) for corner in corners)
        return tuple((points.astype(np.float32), normals.astype(np.float32)) for points, normals in every)

    @cached_property
    def middles(self) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """Points and normals (flat, 3) in the middles of texels on rectangles."""
        return self.spread_over(np.arange(self.flat), np.full((1, 1, 2), 0.5))

    @cached_property
    def looked_over(self) -> tuple[Floats, Floats]:
        """Points and normals (groups, GROUP_LOOKS, 3) on the groups of triangles."""
        k = self.patches.rect_patches
        return self.patches.samples_of(np.arange(k, self.patches.n), np.random.default_rng(6).random((self.patches.n - k, GROUP_LOOKS, 2)))

    @cached_property
    def beside(self) -> Ints:
        """The texels (flat, 4) on the four sides of each that lies on a rectangle; its own where the rectangle ends."""
        every, rects, side = np.arange(self.flat), self.patches.scene.rects, self.side[self.patch[: self.flat]]
        local = every - self.first[self.patch[: self.flat]]
        out = np.repeat(every[:, None], 4, axis=1)
        for k, (x, step, place, last) in enumerate(
            (((1.2, 0.5), side, local // side, side - 1), ((-0.2, 0.5), -side, local // side, 0),
             ((0.5, 1.2), np.ones_like(side), local % side, side - 1), ((0.5, -0.2), -np.ones_like(side), local % side, 0))
        ):  # fmt: skip
            out[:, k] += step
            across = np.flatnonzero(place == last)  # into the next patch, if there is one
            points, _normals = self.points(across, np.tile(x, (len(across), 1)))
            rect = rects[self.prim[across] // 2]
            rel = points - rect[:, 0]
            shares = [dot(rel, rect[:, axis]) / dot(rect[:, axis], rect[:, axis]) for axis in (1, 2)]
            inside = np.logical_and.reduce([(share >= 0) & (share < 1) for share in shares])
            out[across, k] = across
            out[across[inside], k] = self.of_hits(self.prim[across[inside]], points[inside])
        return out

    @cached_property
    def _frames(self) -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.float32]]:
        """A corner of each texel on a rectangle and its edges (flat, 3)."""
        patch = self.patch[: self.flat]
        corner, right, up = (rows(x, patch) for x in np.moveaxis(self.patches.frames, 1, 0).astype(np.float32))
        side, local = self.side[patch], np.arange(self.flat) - self.first[patch]
        share = (1 / side).astype(np.float32)
        across, along = (x.astype(np.float32) for x in np.divmod(local, side))
        out: Any = (corner + scaled(right, across * share) + scaled(up, along * share), scaled(right, share), scaled(up, share))
        return out  # type: ignore[no-any-return]

    def spread_over(self, texel: Ints, x: Floats) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """Points and unit normals (k * c, 3) on texels of rectangles (k,), at numbers ``x`` (k, c, 2) of each."""
        corner, right, up = (rows(frame, texel)[:, None] for frame in self._frames)
        points = corner + x[..., :1].astype(np.float32) * right + x[..., 1:].astype(np.float32) * up
        normals = np.broadcast_to(rows(self.patches.scene.normal32, self.prim[texel])[:, None], points.shape)
        return points.reshape(-1, 3), normals.reshape(-1, 3)

    def at_edges(self, seen: NDArray[np.int8], beside: NDArray[np.int8]) -> Bools:
        """Which texels see a lamp from some of their looks and not from others, or see it and one ``beside`` them does not, or the other way round: ``seen`` from so
        many looks (k,), and of those beside them (k, 4).
        """
        out: Bools = ((seen > 0) & (seen < self.looks)) | folded(np.logical_or, (beside > 0) != (seen > 0)[:, None])
        return out

    @cached_property
    def beyond(self) -> Beyond:
        """What is seen through the gates of the scene."""
        return beyond_gates(self)

    def onto_patches(self) -> "sparse.csr_array":
        """Which patch each texel lies on (n, patches)."""
        from scipy import sparse

        ones = np.ones(self.n, np.float32)
        return sparse.csr_array((ones, self.patch, np.arange(self.n + 1)), shape=(self.n, self.patches.n))

    def sharing(self, covered: Bools, light: Floats) -> "sparse.csr_array":
        """How texels that are told apart share in what bounces on patches (n, patches): it bends from patch to patch, and the mean over a patch stays its own. Were it only
        blended it would be too bright wherever light falls off ever less, as it does behind openings. By how ``light`` (patches,) is known to fall no texel gets less than none.
        """
        points, normals = self.points(np.arange(self.n), np.full((self.n, 2), 0.5))
        onto = self.onto_patches()
        mean = (onto * (self.area / self.patches.area[self.patch])[:, None]).T
        blended = blending(self.patches, self.prim, points, normals) @ Nodes(self.patches, covered).bent(light).matrix()
        off = blended - onto @ (mean @ blended)
        least = np.zeros(self.patches.n)
        np.minimum.at(least, self.patch, off @ light)
        bends = np.minimum(np.divide(light, -least, out=np.ones_like(least), where=least < 0), 1.0)
        out: sparse.csr_array = (onto + off * bends[self.patch][:, None]).tocsr().astype(np.float32)
        return out

    def of_hits(self, prim: Prims, points: NDArray[Any]) -> Ints:
        """The texel (k,) at each hit; prim must be 0 or more."""
        from fondale.core.light import loops

        out = prim.astype(np.int64) - 2 * len(self.patches.scene.rects)
        if self.whole and len(self.patches.scene.group):
            out = self.patches.scene.group[np.maximum(out, 0)]
        out += self.flat
        loops.texels_at(prim, np.ascontiguousarray(points, np.float32), *self.patches.grids, self.side, self.first, out)
        return out

    def points(self, texel: Ints, x: NDArray[Any]) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """Points and unit normals (k, 3) on texels (k,) from uniform numbers ``x`` (k, 2)."""
        from fondale.core.light import loops

        points, normals, scene = np.empty((len(texel), 3), np.float32), np.empty((len(texel), 3), np.float32), self.patches.scene
        loops.points_on(texel, np.ascontiguousarray(x, np.float32), *self._frames, self.prim, scene.normal32, points, normals)
        loose = np.flatnonzero(texel >= self.flat)
        on, at = texel[loose] - self.flat, rows(x, loose)
        if self.whole:
            where, facing = self.patches.on_groups(on, at[:, None])
            points[loose], normals[loose] = where[:, 0], facing[:, 0]
        else:
            points[loose] = spread(rows(scene.tris, on), at[:, 0], at[:, 1])
            normals[loose] = rows(scene.normal, 2 * len(scene.rects) + on)
        return points, normals


def cut_texels(patches: Patches, emitters: Sequence[Emitter], fine: bool = False) -> Texels:
    """Texels of every patch; beside a lamp they are as small as its light is sharp there."""
    k = patches.rect_patches
    centre = patches.at(np.arange(k), np.full(k, 0.5), np.full(k, 0.5))
    edge = np.sqrt(patches.area[:k])
    near = np.full(k, np.inf)
    for emitter in emitters:
        for at in emitter.outline():
            near = np.minimum(near, np.maximum(length(centre - at) - edge * 0.7, 2.0))
    side = np.clip(np.ceil(edge / (NEAR * near)), SIDE, SIDE_MOST).astype(np.int64)
    return Texels(patches, side, np.concatenate([[0], np.cumsum(side**2)])[:-1], int((side**2).sum()), 4 if fine else 1, not fine)


@dataclass(frozen=True)
class Direct:
    """Mean direct illuminance ``on`` every texel (n,) for one candela of a lamp, and from how many looks at each that lies on a rectangle it was ``seen`` (flat,)."""

    on: NDArray[np.float32]
    seen: NDArray[np.int8]


def direct_on(texels: Texels, emitter: Emitter) -> Direct:
    """The direct light of an emitter, by the points where texels are looked at, and more of them where an edge of its light runs."""
    out, scene = np.zeros(texels.n, np.float32), texels.patches.scene
    upto = texels.flat if texels.whole else texels.n
    seen = np.zeros(texels.flat, np.int8)
    for points, normals in texels.looked_at:
        found = emitter.direct(scene, points[:upto], normals[:upto])
        out[:upto] += found / texels.looks
        seen += found[: texels.flat] > 0
    if texels.whole:
        out[upto:] = emitter.direct(scene, *(x.reshape(-1, 3) for x in texels.looked_over)).reshape(-1, GROUP_LOOKS) @ np.full(
            GROUP_LOOKS, 1 / GROUP_LOOKS
        )
    _look_closely(texels, emitter, np.arange(texels.flat), out, seen)
    return Direct(out, seen)


def direct_again(texels: Texels, emitter: Emitter, before: Direct, moved: Moved) -> Direct:
    """The direct light of an emitter on texels that are left whole, where something has ``moved`` between, and as it was ``before`` where nothing has."""
    out, seen, scene = before.on.copy(), before.seen.copy(), texels.patches.scene
    points, normals = texels.middles
    upto, some, half = texels.flat, np.zeros(len(points), bool), float(length(texels._frames[1] + texels._frames[2]).max()) / 2
    for at in emitter.outline():
        some |= moved.between(at, points, half)
    which = np.flatnonzero(some)
    out[which] = emitter.direct(scene, rows(points, which), rows(normals, which))
    seen[which] = out[which] > 0
    over, facing = texels.looked_over
    some = np.zeros(over.shape[:2], bool)
    for at in emitter.outline():
        some |= moved.between(at, over.reshape(-1, 3)).reshape(some.shape)  # what has moved lies in a box itself
    loose = np.flatnonzero(folded(np.logical_or, some))
    found = emitter.direct(scene, rows(over, loose).reshape(-1, 3), rows(facing, loose).reshape(-1, 3))
    out[upto + loose] = found.reshape(-1, GROUP_LOOKS) @ np.full(GROUP_LOOKS, 1 / GROUP_LOOKS)
    _look_closely(texels, emitter, np.unique(np.concatenate([which, texels.beside[which].ravel()])), out, seen)
    return Direct(out, seen)


def _look_closely(texels: Texels, emitter: Emitter, some: Ints, out: NDArray[np.float32], seen: NDArray[np.int8]) -> None:
    """Look again, from more points, at those of ``some`` texels on rectangles where an edge of light runs, and at those beside where it goes on."""
    scene, split, rng = texels.patches.scene, AT_EDGES * math.isqrt(texels.looks), np.random.default_rng(8)
    done, cells = np.zeros(texels.flat, bool), np.indices((split, split)).reshape(2, -1).T
    for _ in range(2):
        edge = some[texels.at_edges(seen[some], seen[rows(texels.beside, some)])]
        # As even along either side as over the whole: edges run along texels [chiu1994].
        x = (cells + (cells[:, ::-1] + rng.random((len(edge), len(cells), 2))) / split) / split
        found = emitter.direct(scene, *texels.spread_over(edge, x)).reshape(-1, len(cells))
        lit = folded(np.add, (found > 0).astype(np.int8))
        out[edge], done[edge], seen[edge] = folded(np.add, found) / len(cells), True, np.where(lit == len(cells), texels.looks, lit > 0)
        some = np.unique(rows(texels.beside, edge))  # the edge may go on where no look had found it
        some = some[~done[some]]
