"""Values of patches, blended between them."""

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Ints, rows
from fondale.core.light.patches import Patches
from fondale.core.rays import Prims
from fondale.core.side_by_side import in_parts

if TYPE_CHECKING:
    from scipy import sparse


def blending(patches: Patches, covered: Bools, prim: Prims, point: Floats, normal: Floats) -> "sparse.csr_array":
    """Weights (points, patches): bilinear between patch centres of one rectangle, and on beyond the outermost; on triangles, between the three groups of their part
    that face as ``normal`` does, each by its square (which add up to one).
    """
    from scipy import sparse

    def part(lo: int, hi: int) -> tuple[Ints, NDArray[np.float32]]:
        return _blended(patches, covered, prim[lo:hi], point[lo:hi], normal[lo:hi])

    index, weight = (np.concatenate(each) for each in zip(*in_parts(part, len(prim)), strict=True))
    k = len(prim)
    return sparse.csr_array((weight.ravel(), index.ravel(), np.arange(k + 1) * 4), shape=(k, patches.n))


def _blended(patches: Patches, covered: Bools, prim: Prims, point: Floats, normal: Floats) -> tuple[Ints, NDArray[np.float32]]:
    """Patches (k, 4) and their weights."""
    k = len(prim)
    index, weight = np.zeros((k, 4), np.int64), np.zeros((k, 4), np.float32)
    on_rects = prim < 2 * len(patches.scene.rects)
    loose = np.flatnonzero(~on_rects)
    if len(loose):
        group = patches.scene.group[prim[loose] - 2 * len(patches.scene.rects)]
        facing = rows(normal, loose)
        three = np.take_along_axis(rows(patches.scene.siblings, group), 2 * np.arange(3) + (facing > 0), 1)
        share = facing**2 * (three >= 0)
        total = share.sum(1)
        none = total <= 1e-6
        three[none, 0], share[none, 0], total[none] = group[none], 1.0, 1.0
        index[loose, :3] = patches.rect_patches + np.maximum(three, 0)
        weight[loose, :3] = share / total[:, None]
    flat = np.flatnonzero(on_rects)
    if len(flat):
        r, s, t = patches.shares(prim[flat], rows(point, flat))
        i, i0, i1, ws = _between(patches.s_key, patches.s_start, patches.s_count, r, s)
        j, j0, j1, wt = _between(patches.t_key, patches.t_start, patches.t_count, r, t)
        base, across = patches.base[r], patches.t_count[r]
        near = np.stack([base + i0 * across + j0, base + i0 * across + j1, base + i1 * across + j0, base + i1 * across + j1], 1)
        share = np.stack([(1 - ws) * (1 - wt), (1 - ws) * wt, ws * (1 - wt), ws * wt], 1)
        shut = covered[near]
        some = shut.any(1)
        share[some] = np.where(shut[some], 0.0, np.maximum(share[some], 0.0))  # beside what is shut in there is no slope to go on with
        total = share.sum(1)
        none = total <= 1e-6
        near[none, 0], share[none, 0], total[none] = (base + i * across + j)[none], 1.0, 1.0
        index[flat], weight[flat] = near, share / total[:, None]
    return index, weight


def _between(keys: Floats, start: Ints, count: Ints, r: Ints, share: Floats) -> tuple[Ints, Ints, Ints, Floats]:
    """The cell of a share, two neighbouring ones between whose centres it lies, and the weight of the second. Beyond the outermost centres light goes on as
    it falls between the last two: towards a corner it changes most.
    """
    first, last = start[r], count[r] - 1
    cell = np.searchsorted(keys, 2 * r + share, side="right") - 1 - first
    middles = (keys[:-1] + keys[1:]) / 2
    a = np.clip(cell - (share < middles[first + cell] - 2 * r), 0, np.maximum(last - 1, 0))
    b = np.minimum(a + 1, last)
    ca, cb = middles[first + a] - 2 * r, middles[first + b] - 2 * r
    return cell, a, b, np.clip((share - ca) / np.maximum(cb - ca, 1e-12), -0.5, 1.5) * (b > a)
