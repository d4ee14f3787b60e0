# SPDX-License-Identifier: MIT
"""The eye's picture, refined: bounced light is received at points of the picture itself, more of them where it changes, and spread between."""

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Ints
from fondale.core.emitters import Emitter
from fondale.core.light.frames import Frame
from fondale.core.light.picture import Picture
from fondale.core.light.receivers import FEW_LOOKS, Near, receivers
from fondale.core.light.smoothing import on_one_surface, smoothing
from fondale.core.light.solver import Lit, solve
from fondale.core.progress import Progress, Quiet

if TYPE_CHECKING:
    from scipy import sparse

RAYS, ENOUGH = 1024, 0.8  # of a receiver, and more where fewer of them than this share bear the light
ACROSS = 48  # receivers across a picture to begin with
MOST = 3000
APART = 0.01  # of the light: where neighbours disagree by more, there are receivers between
ALIKE = 0.5  # of the neighbours: with fewer on its surface, a pixel has a receiver of its own
_SLOPE = 0.3
_AROUND = [(0, 0), (0, 1), (0, -1), (1, 0), (-1, 0), (1, 1), (1, -1), (-1, 1), (-1, -1)]


class FinePicture(Picture):
    """A picture whose bounced light is right at its receivers, and between them as the patches tell it, mended by how far they were off."""

    def __init__(
        self,
        lit: Lit,
        frame: Frame,
        emitters: Sequence[Emitter],
        direct: dict[Emitter, NDArray[np.float32]] | None = None,
        progress: Progress | None = None,
    ) -> None:
        super().__init__(lit, frame, direct)
        self._progress = progress or Quiet()
        solve(lit, list(emitters))
        self._asked = np.zeros(0, np.int64)  # the seen rays where they are
        self._thrown: dict[Emitter, Floats] = {}
        self._received: list[sparse.csr_array] = []  # weights (k, m) of texels, by either half of the rays
        self._near: list[tuple[int, tuple[Near, ...]]] = []  # what is near to them, so many at a time
        self._coarse: sparse.csr_array | None = None  # the same receivers by the nodes of patches alone
        self._smooth: sparse.csr_array | None = None  # of receivers (k, k) in how far the patches are off at each
        self._spread: sparse.csr_array | None = None  # of receivers over the rays that see anything
        if emitters and len(self._seen):
            self._refine(list(dict.fromkeys(emitters)))

    def _bounced(self, wanted: dict[Emitter, Floats]) -> Any:
        out = super()._bounced(wanted)
        if self._spread is not None:
            out = out + self._spread @ self._off(wanted)
        return out

    def _off(self, wanted: dict[Emitter, Floats]) -> Floats:
        """How far the patches are off at the receivers (k, 3). What panes and mirrors throw is known without noise there, and as sharp as it is."""
        assert self._coarse is not None
        assert self._smooth is not None
        off: Floats = self._halves(wanted).mean(0) - self._coarse @ self.lit.at_nodes(wanted)
        if not len(self.lit.scene.panes):
            off = self._smooth @ off
            return off
        thrown, mean = np.zeros_like(off), np.zeros((self.lit.patches.n, 3))
        for emitter, bands in wanted.items():
            thrown += self._thrown_to(emitter)[:, None] * bands
            mean += self.lit.bases[emitter].thrown[:, None] * bands
        told = self._coarse @ self.lit.nodes().of(mean)
        off = self._smooth @ (off + told) + thrown - told
        return off

    def _halves(self, wanted: dict[Emitter, Floats]) -> Floats:
        """What bounces to the receivers (2, k, 3), by either half of the rays."""
        shine: Any = self.lit.shine(wanted)
        out: Any = np.stack([half @ shine for half in self._received])
        first = 0
        for count, every in self._near:
            for near in every:
                out[:, first : first + count] += near.light(self.lit, [wanted], shine).reshape(2, count, 3)
            first += count
        found: Floats = out
        return found

    def _thrown_to(self, emitter: Emitter) -> Floats:
        """What panes and mirrors throw to the receivers (k,) of a lamp of 1 cd."""
        known = self._thrown.get(emitter, np.zeros(0))
        if len(known) < len(self._asked):
            seen = self._seen[self._asked[len(known) :]]
            more = emitter.thrown(self.lit.scene, self.frame.point[seen], self.frame.normal[seen])
            known = self._thrown[emitter] = np.concatenate([known, more])
        return known

    def _refine(self, emitters: list[Emitter]) -> None:
        from scipy import sparse

        height, width = self.frame.height, self.frame.width
        alike = {e: np.full(3, 1.0 / max(float(self.lit.bases[e].direct.sum()), 1e-30)) for e in emitters}
        blend = self._blending()
        ray = np.full(height * width, -1)  # among the seen ones, of each pixel
        straight = np.flatnonzero(self._seen < height * width)
        ray[self._seen[straight]] = straight
        step = max(1, 2 ** round(np.log2(max(width / ACROSS, 1))))
        at = _lattice(height, width, step)
        at = at[ray[at] >= 0]
        self._receive(blend, ray[at], alike)
        spread: sparse.csr_array = sparse.eye_array(len(at), format="csr", dtype=np.float32)
        while step > 1:
            step //= 2
            new = np.setdiff1d(_lattice(height, width, step), at)
            new = new[ray[new] >= 0]
            near, there = self._between(at, new, ray, 2 * step)
            off = spread @ self._off(alike).mean(1)
            told = (blend[ray[at]] @ self.lit.at_nodes(alike)).mean(1)
            guess, square = near @ off, near @ off**2
            apart = np.sqrt(np.maximum(square - guess**2, 0.0)) / np.maximum(near @ (np.abs(off) + told), 1e-30)
            apart[there < ALIKE] = np.inf
            # The worst first, and some are left for what shows only closer by.
            room = max(MOST - spread.shape[1], 0)  # a tall picture may begin with more
            worst = np.argsort(-apart, kind="stable")[: room // 2 if step > 1 else room]
            ask = np.sort(worst[apart[worst] > APART])
            asked = np.zeros(len(new), bool)
            asked[ask] = True
            if len(ask):
                self._receive(blend, ray[new[asked]], alike)
            k, more = spread.shape[1], int(asked.sum())
            held = sparse.csr_array((np.ones(more, np.float32), (np.flatnonzero(asked), k + np.arange(more))), shape=(len(new), k + more))
            wide = sparse.csr_array((spread.data, spread.indices, spread.indptr), shape=(len(at), k + more))
            spread = sparse.vstack([wide, (near @ wide).multiply((~asked)[:, None]).tocsr() + held], format="csr", dtype=np.float32)
            at = np.concatenate([at, new])
        of_pixel = sparse.csr_array((np.ones(len(at), np.float32), (at, np.arange(len(at)))), shape=(height * width, len(at)))
        self._spread = (self._homes(ray) @ of_pixel) @ spread

    def _receive(self, blend: "sparse.csr_array", rays: Ints, alike: dict[Emitter, Floats]) -> None:
        """Receive bounced light where these of the seen rays end, and see anew how much of what is off there is noise."""
        from scipy import sparse

        frame, seen, k = self.frame, self._seen[rays], len(rays)
        self._progress.step(0.95, "refining the picture")
        self._asked = np.concatenate([self._asked, rays])
        found = receivers(self.lit, frame.point[seen], frame.normal[seen], RAYS, seed=31 + k, parts=2, enough=ENOUGH, looks=FEW_LOOKS)
        halves = [found.weights[:k], found.weights[k:]]
        self._near.append((k, found.near))
        self._received = (
            [sparse.vstack(both, format="csr") for both in zip(self._received, halves, strict=True)] if self._received else halves
        )
        self._coarse = blend[rays] if self._coarse is None else sparse.vstack([self._coarse, blend[rays]], format="csr")
        told = self._coarse @ self.lit.at_nodes(alike)
        all_seen = self._seen[self._asked]
        self._smooth = smoothing(
            frame.point[all_seen], frame.normal[all_seen], self.lit.scene.owner[frame.prim[all_seen]], (self._halves(alike) - told).mean(2)
        )

    def _compatible(self, one: Ints, other: Ints) -> Bools:
        """Whether two seen rays (k,) each end on one smooth surface."""
        frame, scene = self.frame, self.lit.scene
        a, b = self._seen[one], self._seen[other]
        same = scene.owner[frame.prim[a]] == scene.owner[frame.prim[b]]
        out: Bools = same & on_one_surface(frame.point[b] - frame.point[a], frame.normal[a], frame.normal[b], _SLOPE)
        return out

    def _between(self, at: Ints, new: Ints, ray: Ints, step: int) -> "tuple[sparse.csr_array, Floats]":
        """Weights (new, at) of the pixels ``at``, ``step`` apart, for those between them on the same surface, and which share of the neighbours these are."""
        from scipy import sparse

        height, width = self.frame.height, self.frame.width
        place = np.full(height * width, -1)
        place[at] = np.arange(len(at))
        row, column = np.divmod(new, width)
        r0, c0 = row // step * step, column // step * step
        r1, c1 = np.minimum(r0 + step, height - 1), np.minimum(c0 + step, width - 1)
        s, t = (row - r0) / np.maximum(r1 - r0, 1), (column - c0) / np.maximum(c1 - c0, 1)
        rows, cols, values = [], [], []
        for r, c, w in ((r0, c0, (1 - s) * (1 - t)), (r0, c1, (1 - s) * t), (r1, c0, s * (1 - t)), (r1, c1, s * t)):
            corner = r * width + c
            good = np.flatnonzero((place[corner] >= 0) & (w > 0))
            good = good[self._compatible(ray[new[good]], ray[corner[good]])]
            rows.append(good)
            cols.append(place[corner[good]])
            values.append(w[good])
        where, value = np.concatenate(rows), np.concatenate(values)
        total: Floats = np.bincount(where, value, len(new)).astype(float)
        share = (value / total[where]).astype(np.float32)
        return sparse.csr_array((share, (where, np.concatenate(cols))), shape=(len(new), len(at))), total

    def _homes(self, ray: Ints) -> "sparse.csr_array":
        """The pixel (seen, pixels) whose light each seen ray shares: its own, or one beside it that shows the same surface."""
        from scipy import sparse

        frame, height, width = self.frame, self.frame.height, self.frame.width
        mine = np.flatnonzero(self._seen < frame.straight)
        row, column = np.divmod(frame.pixel[self._seen[mine]], width)
        home = np.full(len(mine), -1)
        for down, across in _AROUND:
            r, c = np.clip(row + down, 0, height - 1), np.clip(column + across, 0, width - 1)
            pixel = r * width + c
            free = np.flatnonzero((home < 0) & (ray[pixel] >= 0))
            free = free[self._compatible(mine[free], ray[pixel[free]])]
            home[free] = pixel[free]
        found = home >= 0
        ones = np.ones(int(found.sum()), np.float32)
        return sparse.csr_array((ones, (mine[found], home[found])), shape=(len(self._seen), height * width))


def _lattice(height: int, width: int, step: int) -> Ints:
    """The pixels on every ``step``-th row and column, and on the last ones."""
    rows = np.unique(np.append(np.arange(0, height, step), height - 1))
    columns = np.unique(np.append(np.arange(0, width, step), width - 1))
    out: Ints = (rows[:, None] * width + columns).ravel()
    return out
