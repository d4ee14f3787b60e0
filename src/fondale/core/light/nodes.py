"""Bounced light between the middles of patches on rectangles: at *nodes*, their middles, corners and the middles of their sides, from where it is bilinear.

Each patch fits a polynomial to its own light and that of the patches about it, and a node has the mean of what the patches that meet there say. So light
bends from patch to patch as it does on the surface, and noise is taken out of it where two halves of the rays bear that out.
"""

from dataclasses import dataclass, fields
from functools import cached_property
from typing import TYPE_CHECKING

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


@dataclass(frozen=True)
class Fit:
    """How far the fit of each patch reaches (k,), in mm, and two factors, (k, steps, t) and (k, t, t), of how those near count in each of its terms."""

    reach: Floats
    counts: NDArray[np.float32]
    solved: NDArray[np.float32]


def _fit(way: Floats, reached: Bools, most: int, power: int, others: float) -> Fit:
    far = np.where(reached, length(way), np.inf)
    reach = np.take_along_axis(np.sort(far, 1), np.minimum(most, reached.sum(1) - 1)[:, None], 1) * _BEYOND
    reach = np.where(reach > 0, reach, 1.0)
    weight = falling(far, reach) * others
    weight[:, _OWN] = 1.0
    return Fit(reach[:, 0], *fitted(way / reach[..., None], weight, power, others))


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
    def _fits(self) -> tuple[Fit, ...]:
        grid, reached = self._near
        return tuple(_fit(grid.way, reached, *how) for how in FITS)

    def again(self, patches: Patches, covered: Bools) -> tuple["Nodes", Ints]:
        """The same where other patches are covered, and near which these are (m,)."""
        out, (grid, before) = Nodes(patches, covered), self._near
        some = np.flatnonzero(((covered != self.covered)[grid.near] & grid.inside).any(1))
        reached = before.copy()
        reached[some] = _reached(grid, covered, some)
        fits = []
        for fit, how in zip(self._fits, FITS, strict=True):
            new = _fit(grid.way[some], reached[some], *how)
            every = {f.name: getattr(fit, f.name).copy() for f in fields(Fit)}
            for name, values in every.items():
                values[some] = getattr(new, name)
            fits.append(Fit(**every))
        out.__dict__.update(_near=(grid, reached), _fits=tuple(fits))
        return out, some

    def best(self, halves: Floats) -> Ints:
        """Which of FITS, over more and more patches, is best at each (k,), by the light of patches (2, patches) by two halves of the rays that know nothing of each other:
        the one whose value by one half comes nearest to the other half, all around ([rousselle2012] chooses filters so).
        """
        grid, reached = self._near
        beside, (one, other), error = grid.near[:, _BESIDE], halves[:, grid.near].astype(np.float32), []
        for fit in self._fits:
            mean = (fit.counts @ fit.solved[..., :1])[..., 0]
            squares = ((mean * one).sum(1) - other[:, _OWN]) ** 2 + ((mean * other).sum(1) - one[:, _OWN]) ** 2
            error.append((squares[beside] * reached[:, _BESIDE]).sum(1))
        out: Ints = np.argmin(error, 0)
        return out

    def weights(self, light: Floats, best: Ints | None = None) -> "sparse.csr_array":
        """Weights (nodes, patches) of patches in the light at nodes, by the ``best`` of FITS for each (k,); by the first, which keeps their own values, where none is told.
        Free triangles' groups keep their own after them. By how ``light`` (patches,) falls no node between patches is darker or brighter than all of these.
        """
        from scipy import sparse

        patches, k, grid = self.patches, self.patches.rect_patches, self._near[0]
        best = np.zeros(k, np.int64) if best is None else best
        said, size = np.zeros((k, len(_CORNERS), len(_STEPS)), np.float32), length(patches.frames[:, 1:])
        for number, (fit, how) in enumerate(zip(self._fits, FITS, strict=True)):
            mine = np.flatnonzero(best == number)
            at = terms(_CORNERS * (size[mine] / fit.reach[mine, None])[:, None], how[1]).astype(np.float32)
            said[mine] = at @ (fit.counts[mine] @ fit.solved[mine]).transpose(0, 2, 1)
        node = patches.nodes_of
        tells = np.where(self.covered[:k, None], 0.0, np.ones(node.shape))
        tells[np.bincount(node.ravel(), tells.ravel())[node] == 0] = 1.0  # what is covered where nothing else does
        share = (tells / np.bincount(node.ravel(), tells.ravel())[node]).astype(np.float32)
        each = np.repeat(grid.near[:, None], len(_CORNERS), axis=1)
        ends = np.arange(node.size + 1) * len(_STEPS)
        mean = sparse.coo_array((share.ravel(), (node.ravel(), np.arange(node.size))), shape=(patches.rect_nodes, node.size)).tocsr()
        every = sparse.csr_array((said.ravel(), each.ravel(), ends), shape=(node.size, k))
        own = np.arange(k) * len(_CORNERS) + len(_CORNERS) // 2
        found, middles = mean @ every, mean @ every[np.repeat(own, len(_CORNERS))]
        at_nodes, between, at_own = (np.asarray(x @ light[:k]) for x in (found, middles, every[own]))
        share = self._overshot(at_nodes, between, at_own, tells > 0)[:, None]
        found = (found * (1 - share) + middles * share).tocsr()
        out: sparse.csr_array = sparse.block_diag((found, sparse.eye_array(patches.n - k, dtype=np.float32)), format="csr")
        return out

    def _overshot(self, found: Floats, mean: Floats, own: Floats, tells: Bools) -> NDArray[np.float32]:
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
