# SPDX-License-Identifier: MIT
"""Blocks and stairs: solid, with flat tops that carry."""

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model.shapes import Box, Stairs
from fondale.core.shapes.kind import ShapeKind
from fondale.core.shapes.solid import Solid, box_faces, centred, of_rects


class BoxKind(ShapeKind[Box]):
    """A solid block."""

    model, words, scenery, main = Box, "Block", True, "height"
    axes = {"width": 0, "depth": 1, "height": 2}  # noqa: RUF012

    def new(self) -> Box:
        return Box(width=60, depth=40, height=20)

    def solid(self, shape: Box, height: float) -> Solid:
        return centred(of_rects(box_faces((0, 0, 0, shape.width, shape.depth, shape.height))), shape.width, shape.depth)

    def top(self, shape: Box, x: float, y: float) -> float | None:
        return shape.height if abs(x) <= shape.width / 2 and abs(y) <= shape.depth / 2 else None

    def evens(self) -> bool:
        return True


class StairsKind(ShapeKind[Stairs]):
    """Solid stairs that rise away from the front: their outline is a wedge, their steps are not."""

    model, words, scenery, stepped = Stairs, "Stairs", True, True
    axes = {"width": 0, "depth": 1, "height": 2}  # noqa: RUF012

    def new(self) -> Stairs:
        return Stairs(width=60, depth=50, height=30)

    def solid(self, shape: Stairs, height: float) -> Solid:
        return centred(of_rects(_faces(shape)), shape.width, shape.depth)

    def top(self, shape: Stairs, x: float, y: float) -> float | None:
        if abs(x) > shape.width / 2 or abs(y) > shape.depth / 2:
            return None
        step = min(int((y + shape.depth / 2) / shape.depth * shape.steps), shape.steps - 1)
        return (step + 1) * shape.height / shape.steps


def _faces(s: Stairs) -> Floats:
    going, rise = s.depth / s.steps, s.height / s.steps
    parts = []
    for i in range(s.steps):
        block = box_faces((0, i * going, 0, s.width, s.depth, (i + 1) * rise), bottom=False)
        front, _back, left, right, top = block
        front[0, 2], front[2, 2] = i * rise, rise
        top[2, 1] = going
        for side in (left, right):
            side[0, 2], side[2, 2] = i * rise, rise
        parts += [front, left, right, top]
    parts.append(box_faces((0, 0, 0, s.width, s.depth, s.height), bottom=False)[1])
    return np.array(parts)
