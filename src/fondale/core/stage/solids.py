# SPDX-License-Identifier: MIT
"""Pieces as solids in their own axes."""

from functools import lru_cache

import numpy as np

from fondale.core.bodies.parts import NAMES
from fondale.core.model import Piece
from fondale.core.model.shapes import BodyPart, Figure, Shape
from fondale.core.scale.pieces import main_size
from fondale.core.shapes import kind_of
from fondale.core.shapes.solid import Solid, of_tris


def measured_height(piece: Piece) -> float:
    """The main size in mm as measured; until it is measured, as it is to be shown, or a guess at 1:35."""
    mm = main_size(piece)
    return mm if mm is not None else piece.shown_mm or kind_of(piece.shape).guess_mm


def face_cm2(piece: Piece) -> float:
    """All of a piece's faces in cm², inside ones too where it is hollow; half of that is a fair guess for one side."""
    return solid_of(piece).area() / 100


def part_areas(shape: Shape) -> dict[BodyPart, float]:
    """The area of each part of a figure, in squares of its measured height; empty for other things."""
    if not isinstance(shape, Figure):
        return {}
    solid = _solid(shape, 1.0)
    return {NAMES[k]: of_tris(solid.tris[solid.groups // 6 == k]).area() for k in np.unique(solid.groups // 6)}


def solid_of(piece: Piece) -> Solid:
    """The solid of a piece in its own axes, in mm."""
    return _solid(piece.shape, measured_height(piece))


@lru_cache(maxsize=512)
def _solid(shape: Shape, height: float) -> Solid:
    return kind_of(shape).solid(shape, height)


def top_at(piece: Piece, x: float, y: float) -> float | None:
    """Height over the piece's base on which something can stand at (x, y) of its own axes, or None beside it."""
    return kind_of(piece.shape).top(piece.shape, x, y)
