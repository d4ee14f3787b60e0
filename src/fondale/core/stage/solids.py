"""Pieces as solids in their own axes, and the faces of the case."""

from functools import lru_cache

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.bodies.parts import NAMES
from fondale.core.model import Case, Piece
from fondale.core.model.base import SMALLEST
from fondale.core.model.shapes import BodyPart, Figure, Shape
from fondale.core.scale.reading import main_size
from fondale.core.shapes import kind_of
from fondale.core.shapes.solid import Solid, of_tris


def measured_height(piece: Piece) -> float:
    """The main size in mm as measured; until it is measured, a guess at 1:35."""
    mm = main_size(piece)
    return mm if mm is not None else kind_of(piece.shape).guess_mm


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


def case_faces(case: Case) -> tuple[Floats, Floats]:
    """Inward rectangles of the case (r, 3, 3) and their paint (r, 3); glass is left out: light leaves there."""
    w, d, h = case.width, case.depth, case.height
    floor = [[0, 0, 0], [w, 0, 0], [0, d, 0]]
    faces, paints = [floor], [case.floor_paint]
    if case.kind in ("glazed box", "closed box"):
        faces += [
            [[0, 0, h], [0, d, 0], [w, 0, 0]],
            [[0, 0, 0], [0, d, 0], [0, 0, h]],
            [[w, d, 0], [0, -d, 0], [0, 0, h]],
            [[0, d, 0], [w, 0, 0], [0, 0, h]],
        ]
        left, right = case.left_paint or case.wall_paint, case.right_paint or case.wall_paint
        paints += [case.ceiling_paint, left, right, case.wall_paint]
        if case.kind == "closed box":
            faces.append([[w, 0, 0], [-w, 0, 0], [0, 0, h]])
            paints.append(case.wall_paint)
        else:
            if case.lip_top >= SMALLEST:
                lip = min(case.lip_top, h)
                faces.append([[w, 0, h - lip], [-w, 0, 0], [0, 0, lip]])
                paints.append(case.ceiling_paint)
            for x, paint in ((0.0, left), (w - min(case.lip_sides, w / 2), right)):
                if case.lip_sides >= SMALLEST:
                    side = min(case.lip_sides, w / 2)
                    faces.append([[x + side, 0, 0], [-side, 0, 0], [0, 0, h]])
                    paints.append(paint)
    return np.array(faces, float), np.array(paints, float)
