"""Values of patches, blended between them."""

from typing import TYPE_CHECKING

import numpy as np

from fondale.core.arrays import Bools, Floats, Ints
from fondale.core.light.patches import Patches
from fondale.core.rays import Prims

if TYPE_CHECKING:
    from scipy import sparse


def blending(patches: Patches, covered: Bools, prim: Prims, point: Floats, normal: Floats) -> "sparse.csr_array":
    """Weights (points, patches): bilinear between patch centres of one rectangle; on triangles, between the three groups of their part
    that face as ``normal`` does, each by its square (which add up to one).
    """
    from scipy import sparse

    k = len(prim)
    index = np.repeat(patches.of_hits(prim, point)[:, None], 4, axis=1) if k else np.zeros((0, 4), np.int64)
    weight = np.zeros((k, 4), np.float32)
    weight[:, 0] = 1.0
    on_rects = prim < 2 * len(patches.scene.rects)
    loose = np.flatnonzero(~on_rects)
    if len(loose):
        six = patches.scene.siblings[index[loose, 0] - patches.rect_patches]
        three = np.take_along_axis(six, 2 * np.arange(3) + (normal[loose] > 0), 1)
        share = normal[loose] ** 2 * (three >= 0)
        total = share.sum(1)
        good = total > 1e-6
        index[loose[good], :3] = patches.rect_patches + np.maximum(three[good], 0)
        weight[loose[good], :3] = share[good] / total[good, None]
    flat = np.flatnonzero(on_rects)
    if len(flat):
        r, s, t = patches.shares(prim[flat], point[flat])
        i0, i1, ws = _between(patches.s_key, patches.s_start, patches.s_count, r, s)
        j0, j1, wt = _between(patches.t_key, patches.t_start, patches.t_count, r, t)
        corners = ((i0, j0, (1 - ws) * (1 - wt)), (i0, j1, (1 - ws) * wt), (i1, j0, ws * (1 - wt)), (i1, j1, ws * wt))
        near = np.stack([patches.base[r] + i * patches.t_count[r] + j for i, j, _w in corners], 1)
        share = np.stack([w for _i, _j, w in corners], 1) * ~covered[near]
        total = share.sum(1)
        good = total > 1e-6
        index[flat[good]] = near[good]
        weight[flat[good]] = share[good] / total[good, None]
    return sparse.csr_array((weight.ravel(), index.ravel(), np.arange(k + 1) * 4), shape=(k, patches.n))


def _between(keys: Floats, start: Ints, count: Ints, r: Ints, share: Floats) -> tuple[Ints, Ints, Floats]:
    """The two neighbouring cells of a share and the weight of the second, by cell centres."""
    cell = np.searchsorted(keys, 2 * r + share, side="right") - 1 - start[r]
    centre = (keys[start[r] + cell] + keys[start[r] + cell + 1]) / 2 - 2 * r
    low = np.where(share < centre, cell - 1, cell)
    a, b = np.clip(low, 0, count[r] - 1), np.clip(low + 1, 0, count[r] - 1)
    ca = (keys[start[r] + a] + keys[start[r] + a + 1]) / 2 - 2 * r
    cb = (keys[start[r] + b] + keys[start[r] + b + 1]) / 2 - 2 * r
    return a, b, np.clip((share - ca) / np.maximum(cb - ca, 1e-12), 0, 1)
