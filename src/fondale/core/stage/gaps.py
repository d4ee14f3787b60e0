# SPDX-License-Identifier: MIT
"""Distances in a drawing: from a piece to what is next to it on every side, and the places that it snaps to."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Floats

Box = tuple[float, float, float, float]  # the lowest and the highest corner in a drawing: a0, b0, a1, b1


@dataclass(frozen=True)
class Gap:
    """The air on one side: from ``start`` to ``end`` (a, b) in the drawing, ``mm`` long."""

    side: str
    start: tuple[float, float]
    end: tuple[float, float]
    mm: float


def box_of(ring: Floats) -> Box:
    """The box about an outline (k, 2)."""
    (a0, b0), (a1, b1) = ring.min(0).tolist(), ring.max(0).tolist()
    return a0, b0, a1, b1


def gaps(box: Box, others: Sequence[Box], room: Box) -> tuple[Gap, ...]:
    """The air beside a box on its four sides, to the nearest of the others that lies beside it, or to the wall of the room.

    What it stands in or on has no air between; a side whose next thing overlaps it has no gap.
    """
    out = []
    a0, b0, a1, b1 = box
    for axis, side, way in ((0, "left", -1), (0, "right", 1), (1, "low", -1), (1, "high", 1)):
        mine = box[axis + (2 if way > 0 else 0)]
        wall = room[axis + (2 if way > 0 else 0)]
        best = (wall - mine) * way
        across = 1 - axis
        for other in others:
            beside = min(box[across + 2], other[across + 2]) - max(box[across], other[across])
            far = (other[axis + (0 if way > 0 else 2)] - mine) * way
            if beside > 1e-6 and -1e-6 <= far < best:
                best = far
        if best > 1e-6:
            middle = (b0 + b1) / 2 if axis == 0 else (a0 + a1) / 2
            end = mine + way * best
            ends = ((mine, middle), (end, middle)) if axis == 0 else ((middle, mine), (middle, end))
            out.append(Gap(side, ends[0], ends[1], float(best)))
    return tuple(out)


def snap(box: Box, others: Sequence[Box], room: Box, within: float) -> tuple[float, float]:
    """The move (da, db) that brings an edge of a box against a wall or an edge of another, or in line with it, if one is ``within`` reach."""
    moves = []
    for axis in (0, 1):
        mine = np.array([box[axis], box[axis + 2]])
        lines = np.array([x for other in (room, *others) for x in (other[axis], other[axis + 2])])
        ways = (lines[:, None] - mine).ravel()
        best = ways[np.abs(ways).argmin()]
        moves.append(float(best) if abs(best) <= within else 0.0)
    return moves[0], moves[1]
