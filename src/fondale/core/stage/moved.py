# SPDX-License-Identifier: MIT
"""What has changed between two scenes in which nothing but free bodies have moved, and which ways lead past it."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Singles, folded
from fondale.core.rays import LIFT_MM
from fondale.core.stage.glass import Panes
from fondale.core.stage.paths import mirrored
from fondale.core.stage.scene import Scene

MOST = 3  # bodies that move at once; more change so much that all is looked at anew
_ONE_BOX = 0.8  # of the size of both
_SAME_AREA = 1e-3  # of a triangle's: a body that moves keeps it


@dataclass(frozen=True)
class Moved:
    """``boxes`` (b, 2, 3), low and high, about each body that has moved, where it stood and where it stands, or one about both; ``tris`` (t,) are the free triangles that did."""

    boxes: Floats
    tris: Bools

    def beside(self, low: Floats, high: Floats) -> Bools:
        """Which of other boxes (k, 3) touch one of these."""
        out = np.zeros(len(low), bool)
        for least, most in self.boxes:
            out |= folded(np.logical_and, (low <= most) & (high >= least))
        return out

    def crossed(self, begin: NDArray[Any], way: NDArray[Any], far: NDArray[Any]) -> Bools:
        """Which rays (k, 3) lead through one of the boxes within so many lengths of their ways (k,)."""
        from fondale.core.stage import loops

        out = np.empty(len(way), bool)
        loops.crossed(_single(self.boxes), _single(begin), _single(way), _single(far), out)
        return out

    def between(self, at: Floats, points: NDArray[Any], by: float = 0.0) -> Bools:
        """Whether the straight way from one place (3,) to each of ``points`` (k, 3) leads through one of the boxes, ``by`` so many mm too near."""
        from fondale.core.stage import loops

        out = np.empty(len(points), bool)
        loops.between(_single(self.boxes + np.array([[-by], [by]])), _single(np.asarray(at)), _single(points), out)
        return out

    def unfolded(self, panes: Panes, met: tuple[int, ...]) -> "Moved":
        """The same with the boxes as they show to who looks at the image of a lamp in the panes ``met``, in the order in which its light meets them."""
        corners = self.boxes[:, np.indices((2, 2, 2)).reshape(3, -1), np.arange(3)[:, None]].transpose(0, 2, 1).reshape(-1, 3)
        boxes = [self.boxes]
        for first in range(len(met) - 1, -1, -1):
            seen = corners
            for k in met[first:]:
                seen = np.stack([mirrored(panes, k, corner) for corner in seen])
            eight = seen.reshape(-1, 8, 3)
            boxes.append(np.stack([eight.min(1), eight.max(1)], 1))
        return Moved(np.concatenate(boxes), self.tris)


def _single(x: NDArray[Any]) -> Singles:
    """As the loops take it."""
    return np.ascontiguousarray(x, np.float32)


def moved_between(before: Scene, after: Scene) -> Moved | None:
    """What has moved from one scene to the other; None where anything else has changed, or too much."""
    if before is after:
        return None
    same = (
        before.tris.shape == after.tris.shape
        and all(np.array_equal(getattr(before, name), getattr(after, name)) for name in _STILL)
        and all(
            np.array_equal(getattr(before.panes, name), getattr(after.panes, name), equal_nan=True)
            for name in ("rects", "throws", "passes", "faces")
        )
    )
    if not same:
        return None
    tris: Bools = folded(np.logical_or, (before.tris != after.tris).reshape(-1, 9))
    bodies = np.unique(before.tri_owner[tris])
    first = 2 * len(before.rects)
    if not 0 < len(bodies) <= MOST or not np.allclose(before.area[first:], after.area[first:], rtol=_SAME_AREA):
        return None
    boxes = []
    for body in bodies:
        points = np.stack([scene.tris[scene.tri_owner == body].reshape(-1, 3) for scene in (before, after)])
        each = np.stack([points.min(1) - 2 * LIFT_MM, points.max(1) + 2 * LIFT_MM], 1)
        both = np.stack([each[:, 0].min(0), each[:, 1].max(0)])[None]
        size, whole = np.ptp(each, axis=1).prod(1).sum(), np.ptp(both, axis=1).prod()
        boxes.append(both if whole < _ONE_BOX * size else each)  # after a small step one is looked at faster than two
    return Moved(np.concatenate(boxes), tris)


_STILL = ("rects", "rect_owner", "rect_paint", "tri_owner", "tri_paint", "group", "siblings", "walls", "holes")
