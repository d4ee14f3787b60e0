# SPDX-License-Identifier: MIT
"""Bounced light between the middles of patches on rectangles: at *nodes*, their middles, corners and the middles of their sides, from where it is bilinear.

Each patch fits a polynomial to its own light and that of the patches about it, and a node has the mean of what the patches that meet there say. So light
bends from patch to patch as it does on the surface, and noise is taken out of it where two halves of the rays bear that out.
"""

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Ints, length
from fondale.core.light.fits import falling, fitted, terms
from fondale.core.light.patches import Patches

if TYPE_CHECKING:
    from scipy import sparse

REACH = 2  # patches to either side are looked at
# Over so many patches, of which order, and how much others count.
FITS = ((9, 2, 1e-3), (13, 2, 1.0), (25, 3, 1.0))
BEYOND_EDGE = 2.0  # as bright, or dark, as the outermost patches light may be at the edge of a face
_ROUNDED = 1e-5  # no more than what single precision leaves out
_BEYOND = 1.02  # of the way to the last one a fit reaches
_STEPS = np.array([(a, b) for a in range(-REACH, REACH + 1) for b in range(-REACH, REACH + 1)])
_OWN, _BESIDE = len(_STEPS) // 2, np.flatnonzero(abs(_STEPS).max(1) <= 1)
_CORNERS = np.array([(a, b) for a in (-1, 0, 1) for b in (-1, 0, 1)]) / 2
_MIDDLE = len(_CORNERS) // 2


@dataclass(frozen=True)
class Grid:
    """The patches ``near`` each of those on rectangles in the grid of its own (k, steps), which of them are ``inside`` of that, and the ``way`` to their middles
    (k, steps, 2), in mm along either edge.
    """

    near: Ints
    inside: Bools
    way: Floats


def _grid(patches: Patches) -> Grid:
    rect = patches.rect_of
    count = np.stack([patches.s_count, patches.t_count], 1)[rect]
    at = np.stack(np.divmod(np.arange(len(rect)) - patches.base[rect], count[:, 1]), 1)
    there = at[:, None] + _STEPS
    inside = ((there >= 0) & (there < count[:, None])).all(2)
    near = np.where(inside, patches.base[rect][:, None] + there[..., 0] * count[:, 1:] + there[..., 1], np.arange(len(rect))[:, None])
    middle = np.stack([patches.middle(axis, rect, at[:, axis]) for axis in range(2)], 1) * length(patches.scene.rects[:, 1:])[rect]
    return Grid(near, inside, middle[near] - middle[:, None])


def _reached(grid: Grid, covered: Bools, some: Ints) -> Bools:
    """Which of those near these patches (m,) are reached without a step over what is covered (m, steps)."""
    free = grid.inside[some] & ~covered[grid.near[some]]
    out = np.zeros(free.shape, bool)
    out[:, _OWN] = True
    for step in sorted(range(len(_STEPS)), key=lambda k: int(abs(_STEPS[k]).sum()))[1:]:
        a, b = _STEPS[step]
        nearer = ([_number(a - np.sign(a), b)] if a else []) + ([_number(a, b - np.sign(b))] if b else [])
        out[:, step] = free[:, step] & out[:, nearer].all(1)
    return out


def _says(way: Floats, size: Floats, reached: Bools, most: int, power: int, others: float) -> NDArray[np.float32]:
    """How those near each patch of this ``size`` (m, 2) count in what its fit says of its nodes (m, corners, steps)."""
    far = np.where(reached, length(way), np.inf)
    reach = np.take_along_axis(np.sort(far, 1), np.minimum(most, reached.sum(1) - 1)[:, None], 1) * _BEYOND
    reach = np.where(reach > 0, reach, 1.0)
    weight = falling(far, reach) * others
    weight[:, _OWN] = 1.0
    counts, solved = fitted(way / reach[..., None], weight, power, others)
    at = terms(_CORNERS * (size / reach)[:, None], power).astype(np.float32)
    out: NDArray[np.float32] = at @ (counts @ solved).transpose(0, 2, 1)
    return out


@dataclass(frozen=True)
class Bent:
    """How light bends between patches: how those ``near`` each of ``patches`` on rectangles (k, steps) count in what it adds to the light at its nodes (k, corners, steps)."""

    patches: Patches
    near: Ints
    adds: NDArray[np.float32]

    def of(self, light: NDArray[Any]) -> NDArray[np.float32]:
        """Light at every node (nodes, c) from that of patches (patches, c); free triangles' groups keep their own after them."""
        node, k = self.patches.nodes_of.ravel(), self.patches.rect_patches
        added = (self.adds @ light.astype(np.float32)[self.near]).reshape(len(node), light.shape[1])
        out = np.empty((self.patches.rect_nodes + self.patches.n - k, added.shape[1]), np.float32)
        for column, each in enumerate(added.T):
            out[: self.patches.rect_nodes, column] = np.bincount(node, each, self.patches.rect_nodes)
        out[self.patches.rect_nodes :] = light[k:]
        return out

    def matrix(self) -> "sparse.csr_array":
        """The same as weights (nodes, patches)."""
        from scipy import sparse

        patches, k = self.patches, self.patches.rect_patches
        node, near = np.broadcast_arrays(patches.nodes_of[..., None], self.near[:, None])
        found = sparse.coo_array((self.adds.ravel(), (node.ravel(), near.ravel())), shape=(patches.rect_nodes, k))
        out: sparse.csr_array = sparse.block_diag((found, sparse.eye_array(patches.n - k, dtype=np.float32)), format="csr")
        return out


@dataclass(frozen=True)
class Nodes:
    """The light at nodes by that of patches, some of which are ``covered`` (patches,) and tell nothing."""

    patches: Patches
    covered: Bools

    @cached_property
    def _near(self) -> tuple[Grid, Bools]:
        grid = _grid(self.patches)
        return grid, _reached(grid, self.covered, np.arange(len(grid.near)))

    @cached_property
    def _said(self) -> tuple[NDArray[np.float32], ...]:
        """By each of FITS."""
        grid, reached = self._near
        return tuple(_says(grid.way, self._size, reached, *how) for how in FITS)

    @property
    def _size(self) -> Floats:
        return length(self.patches.frames[:, 1:])

    def again(self, patches: Patches, covered: Bools) -> tuple["Nodes", Ints]:
        """The same where other patches are covered, and near which these are (m,)."""
        out, (grid, before) = Nodes(patches, covered), self._near
        some = np.flatnonzero(((covered != self.covered)[grid.near] & grid.inside).any(1))
        if not len(some):
            out.__dict__.update(_near=self._near, _said=self._said)
            return out, some
        reached = before.copy()
        reached[some] = _reached(grid, covered, some)
        every = tuple(said.copy() for said in self._said)
        for said, how in zip(every, FITS, strict=True):
            said[some] = _says(grid.way[some], self._size[some], reached[some], *how)
        out.__dict__.update(_near=(grid, reached), _said=every)
        return out, some

    def best(self, halves: Floats) -> Ints:
        """Which of FITS, over more and more patches, is best at each (k,), by the light of patches (2, patches) by two halves of the rays that know nothing of each other:
        the one whose value by one half comes nearest to the other half, all around ([rousselle2012] chooses filters so).
        """
        grid, reached = self._near
        beside, (one, other), error = grid.near[:, _BESIDE], halves[:, grid.near].astype(np.float32), []
        for said in self._said:
            mean = said[:, _MIDDLE]
            squares = ((mean * one).sum(1) - other[:, _OWN]) ** 2 + ((mean * other).sum(1) - one[:, _OWN]) ** 2
            error.append((squares[beside] * reached[:, _BESIDE]).sum(1))
        out: Ints = np.argmin(error, 0)
        return out

    def bent(self, light: Floats, best: Ints | None = None) -> Bent:
        """By the ``best`` of FITS for each (k,), or the first, which keeps their own values, where none is told. By how ``light`` (patches,) falls no node between patches is
        darker or brighter than all of these.
        """
        patches, k, near = self.patches, self.patches.rect_patches, self._near[0].near
        best = np.zeros(k, np.int64) if best is None else best
        said = self._said[0].copy()
        for number, other in enumerate(self._said[1:], 1):
            mine = np.flatnonzero(best == number)
            said[mine] = other[mine]
        node = patches.nodes_of
        tells = np.where(self.covered[:k, None], 0.0, np.ones(node.shape))
        tells[np.bincount(node.ravel(), tells.ravel())[node] == 0] = 1.0  # what is covered where nothing else does
        share = (tells / np.bincount(node.ravel(), tells.ravel())[node]).astype(np.float32)
        at_nodes = (said @ light[:k].astype(np.float32)[near][..., None])[..., 0]
        own = at_nodes[:, _MIDDLE]
        found, mean = (np.bincount(node.ravel(), (share * x).ravel()).astype(float) for x in (at_nodes, own[:, None]))
        held = self._overshot(found, mean, own, tells > 0)[node]
        some, corner = np.nonzero(held)
        said[some, corner] += held[some, corner, None] * (said[some, _MIDDLE] - said[some, corner])
        said *= share[..., None]
        return Bent(patches, near, said)

    def _overshot(self, found: Floats, mean: Floats, own: NDArray[np.float32], tells: Bools) -> NDArray[np.float32]:
        """Which share (nodes,) of the mean of the patches that meet there brings what is ``found`` at nodes back between these, which have their ``own`` (k,); at the edges of a
        face, and beside what is covered, it may go on to half and double.
        """
        node, values = self.patches.nodes_of, np.repeat(own[:, None], len(_CORNERS), axis=1)
        meet = np.bincount(node[tells], minlength=len(found))
        all_ = np.zeros(len(found))
        all_[node] = [1 if not a and not b else 4 if a and b else 2 for a, b in _CORNERS]
        low, high = np.full(len(found), np.inf), np.full(len(found), -np.inf)
        np.minimum.at(low, node[tells], values[tells])
        np.maximum.at(high, node[tells], values[tells])
        low, high = np.where(meet < all_, low / BEYOND_EDGE, low), np.where(meet < all_, high * BEYOND_EDGE, high)
        off = found - np.clip(found, np.minimum(low, mean), np.maximum(high, mean))
        out: NDArray[np.float32] = np.divide(
            off, found - mean, out=np.zeros(len(found)), where=np.abs(off) > _ROUNDED * np.abs(mean)
        ).astype(np.float32)
        return out


def _number(a: int, b: int) -> int:
    return int((a + REACH) * (2 * REACH + 1) + b + REACH)
