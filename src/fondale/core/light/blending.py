# SPDX-License-Identifier: MIT
"""Values at nodes of patches, blended between them."""

from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Ints, folded, rows
from fondale.core.light.patches import Patches
from fondale.core.rays import Prims
from fondale.core.side_by_side import in_parts

if TYPE_CHECKING:
    from scipy import sparse


def blending(patches: Patches, prim: Prims, point: NDArray[Any], normal: NDArray[Any]) -> "sparse.csr_array":
    """Weights (points, nodes): bilinear between nodes of one rectangle; on triangles, between the three groups of their part that face as ``normal`` does, each by its
    square (which add up to one).
    """

    def part(lo: int, hi: int) -> tuple[NDArray[np.int32], NDArray[np.float32]]:
        return _blended(patches, prim[lo:hi], point[lo:hi], normal[lo:hi])

    index, weight = (np.concatenate(each) for each in zip(*in_parts(part, len(prim)), strict=True))
    return _four_each(index, weight, patches)


def blended_again(
    before: "sparse.csr_array", known: Ints, patches: Patches, prim: Prims, point: NDArray[Any], normal: NDArray[Any]
) -> "sparse.csr_array":
    """The same, where some rows are ``known`` (points,) by their numbers among those before (-1: they are not)."""
    index, weight = (rows(x.reshape(-1, 4), np.maximum(known, 0)) for x in (before.indices, before.data))
    some = np.flatnonzero(known < 0)
    index[some], weight[some] = _blended(patches, prim[some], point[some], normal[some])
    return _four_each(index, weight, patches)


def _four_each(index: NDArray[np.int32], weight: NDArray[np.float32], patches: Patches) -> "sparse.csr_array":
    from scipy import sparse

    k, nodes = len(index), patches.rect_nodes + patches.n - patches.rect_patches
    return sparse.csr_array((weight.ravel(), index.ravel(), np.arange(k + 1, dtype=np.int32) * 4), shape=(k, nodes))


def _blended(patches: Patches, prim: Prims, point: NDArray[Any], normal: NDArray[Any]) -> tuple[NDArray[np.int32], NDArray[np.float32]]:
    """Nodes (k, 4) and their weights."""
    k = len(prim)
    index, weight = np.zeros((k, 4), np.int32), np.zeros((k, 4), np.float32)
    on_rects = prim < 2 * len(patches.scene.rects)
    loose = np.flatnonzero(~on_rects)
    if len(loose):
        group = patches.scene.group[prim[loose] - 2 * len(patches.scene.rects)]
        facing = rows(normal, loose)
        three = np.take_along_axis(rows(patches.scene.siblings, group), 2 * np.arange(3) + (facing > 0), 1)
        share = facing**2 * (three >= 0)
        total = folded(np.add, share)
        none = total <= 1e-6
        three[none, 0], share[none, 0], total[none] = group[none], 1.0, 1.0
        index[loose, :3] = patches.rect_nodes + np.maximum(three, 0)
        weight[loose, :3] = share / total[:, None]
    flat = np.flatnonzero(on_rects)
    if len(flat):
        r, s, t = patches.shares(prim[flat], rows(point, flat))
        first, across, ws = patches.halves[0].between(r, s)
        second, along, wt = patches.halves[1].between(r, t)
        near, share = np.empty((len(flat), 4), np.int32), np.empty((len(flat), 4), np.float32)
        near[:, 0] = first + second
        near[:, 1] = near[:, 0] + along
        near[:, 2] = near[:, 0] + across
        near[:, 3] = near[:, 2] + along
        share[:, 3] = ws * wt
        share[:, 2] = ws - share[:, 3]
        share[:, 1] = wt - share[:, 3]
        share[:, 0] = 1 - ws - share[:, 1]
        index[flat], weight[flat] = near, share
    return index, weight
