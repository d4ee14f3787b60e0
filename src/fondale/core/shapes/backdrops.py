# SPDX-License-Identifier: MIT
"""Backdrops: a painted or printed sheet that stands behind, flat or bent to a cove."""

import math
from itertools import pairwise

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model.shapes import Backdrop
from fondale.core.shapes.kind import ShapeKind
from fondale.core.shapes.solid import Solid, of_rects

FACETS, SHEET_MM = 24, 1.0


class BackdropKind(ShapeKind[Backdrop]):
    """A sheet whose face looks to the front."""

    model, words, scenery, hollow = Backdrop, "Backdrop", True, True
    axes = {"width": 0, "height": 2}  # noqa: RUF012

    def new(self) -> Backdrop:
        return Backdrop(width=200, height=150)

    def solid(self, shape: Backdrop, height: float) -> Solid:
        half = arc_of(shape.width, shape.cove)[1]
        along = np.linspace(-half, half, 2 if shape.cove <= 0 else FACETS + 1)
        x, y = bent(shape, along)
        front = np.stack([x, y, np.zeros_like(x)], 1)
        up = np.array([0.0, 0.0, shape.height])
        back = front + np.array([0.0, SHEET_MM, 0.0])
        faces = [[a, b - a, up] for a, b in pairwise(front)]
        faces += [[b, a - b, up] for a, b in pairwise(back)]
        faces += [[a + up, b - a, [0.0, SHEET_MM, 0.0]] for a, b in pairwise(front)]
        faces += [[back[0], front[0] - back[0], up], [front[-1], back[-1] - front[-1], up]]
        rects = np.array(faces)
        rects[:, 0, 1] -= SHEET_MM / 2
        return of_rects(rects)


def arc_of(width: float, cove: float) -> tuple[float, float]:
    """Radius of the arc over a chord ``width`` mm broad whose middle lies ``cove`` mm behind it, and half its length along the sheet."""
    if cove <= 0:
        return math.inf, width / 2
    radius = (width**2 / 4 + cove**2) / (2 * cove)
    return radius, radius * 2 * math.atan2(2 * cove, width)


def bent(shape: Backdrop, along: Floats) -> tuple[Floats, Floats]:
    """x and y of a sheet at lengths along it from its middle: the ends of a cove come to the front; beyond them it goes on straight."""
    radius, half = arc_of(shape.width, shape.cove)
    if math.isinf(radius):
        return along, np.zeros_like(along)
    on = np.clip(along, -half, half)
    turn, rest = on / radius, along - on
    return radius * np.sin(turn) + rest * np.cos(turn), -radius * (1 - np.cos(turn)) - np.abs(rest) * np.sin(np.abs(turn))
