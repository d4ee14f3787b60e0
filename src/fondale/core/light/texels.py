"""Direct light in detail: patches of rectangles cut finer, and every free triangle for itself."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Floats, Ints, length, rows
from fondale.core.emitters import Emitter
from fondale.core.light.patches import Patches, spread
from fondale.core.rays import Prims

if TYPE_CHECKING:
    from scipy import sparse

SIDE, SIDE_MOST = 4, 16  # texels along each side of a patch
GROUP_LOOKS = 8  # points of a group of triangles that is left whole
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

    @cached_property
    def looked_at(self) -> tuple[tuple[NDArray[np.float32], NDArray[np.float32]], ...]:
        """Points and normals (n, 3) on every texel, one anywhere in it, or one in each of its quarters."""
        rng, split = np.random.default_rng(5), 2 if self.looks == 4 else 1
        corners = (np.array([part // split, part % split]) for part in range(self.looks))
        every = (self.points(np.arange(self.n), (corner + rng.random((self.n, 2))) / split) for corner in corners)
        return tuple((points.astype(np.float32), normals.astype(np.float32)) for points, normals in every)

    @cached_property
    def looked_over(self) -> tuple[Floats, Floats]:
        """Points and normals (groups, GROUP_LOOKS, 3) on the groups of triangles."""
        k = self.patches.rect_patches
        return self.patches.samples_of(np.arange(k, self.patches.n), np.random.default_rng(6).random((self.patches.n - k, GROUP_LOOKS, 2)))

    def onto_patches(self) -> "sparse.csr_array":
        """Which patch each texel lies on (n, patches)."""
        from scipy import sparse

        ones = np.ones(self.n, np.float32)
        return sparse.csr_array((ones, self.patch, np.arange(self.n + 1)), shape=(self.n, self.patches.n))

    def of_hits(self, prim: Prims, points: Floats) -> Ints:
        """The texel (k,) at each hit; prim must be 0 or more."""
        flat = np.flatnonzero(prim < 2 * len(self.patches.scene.rects))
        out = prim.astype(np.int64) - 2 * len(self.patches.scene.rects)
        if self.whole and len(self.patches.scene.group):
            out = self.patches.scene.group[np.maximum(out, 0)]
        out += self.flat
        patch, s, t = self.patches.within(prim[flat], rows(points, flat))
        side = self.side[patch]
        across, along = np.minimum((s * side).astype(np.int64), side - 1), np.minimum((t * side).astype(np.int64), side - 1)
        out[flat] = self.first[patch] + across * side + along
        return out

    def points(self, texel: Ints, x: Floats) -> tuple[Floats, Floats]:
        """Points and unit normals (k, 3) on texels (k,) from uniform numbers ``x`` (k, 2)."""
        points, normals, scene = np.empty((len(texel), 3)), np.empty((len(texel), 3)), self.patches.scene
        flat, loose = np.flatnonzero(texel < self.flat), np.flatnonzero(texel >= self.flat)
        on, at = texel[flat], rows(x, flat)
        patch = self.patch[on]
        side, local = self.side[patch], on - self.first[patch]
        points[flat] = self.patches.at(patch, (local // side + at[:, 0]) / side, (local % side + at[:, 1]) / side)
        normals[flat] = rows(scene.normal, 2 * self.patches.rect_of[patch])
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


def direct_on(texels: Texels, emitter: Emitter) -> NDArray[np.float32]:
    """Mean direct illuminance (n,) of every texel for one candela of an emitter, by the points where it is looked at."""
    out, scene = np.zeros(texels.n, np.float32), texels.patches.scene
    upto = texels.flat if texels.whole else texels.n
    for points, normals in texels.looked_at:
        out[:upto] += emitter.direct(scene, points[:upto], normals[:upto]) / texels.looks
    if texels.whole:
        out[upto:] = emitter.direct(scene, *(x.reshape(-1, 3) for x in texels.looked_over)).reshape(-1, GROUP_LOOKS).mean(1)
    return out
