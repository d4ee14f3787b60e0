# SPDX-License-Identifier: MIT
"""Where new things go: never on top of their like."""

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model import Piece, Place, Project
from fondale.core.shapes import kind_of
from fondale.core.stage.cases import Cell, cell_of
from fondale.core.stage.clearance import footprint
from fondale.core.stage.scene import rest_places

STEP_MM, MOST_STEPS, LAMPS_APART_MM = 5.0, 100, 15.0


def _nearest_first(cell: Cell) -> Floats:
    """Places (k, 2) all over the floor of a room of the case, its middle first."""
    width, depth, _height = cell.size.tolist()
    step = max(STEP_MM, max(width, depth) / MOST_STEPS)
    x, y = np.meshgrid(np.arange(0, width + 1, step), np.arange(0, depth + 1, step))
    middle = (cell.low + cell.size / 2)[:2]
    every = np.vstack([middle, np.column_stack([x.ravel(), y.ravel()]) + cell.low[:2]])
    ranked: Floats = every[np.argsort(np.hypot(*(every - middle).T), kind="stable")]
    return ranked


def free_place(project: Project, piece: Piece, room: str = "") -> Place:
    """A place for a piece as near to the middle of a room of the case as nothing is in its way; on what carries it where the floor is full,
    then where none of its like stands; the middle where there is no room.
    """
    cell, places = cell_of(project.case, room), rest_places(project)
    x, y = (cell.low + cell.size / 2)[:2].tolist()
    middle = Place(x=x, y=y, room=cell.ident)
    there = [(p, footprint(p, at)[0]) for p in project.pieces if (at := places.get(p.id)) and at.room == cell.ident and p.id != piece.id]
    solid = [(p, ring) for p, ring in there if p.role == piece.role or not kind_of(p.shape).open_above]
    mine = [ring for p, ring in there if p.role == piece.role]
    standing = [ring for p, ring in solid if p.role == piece.role or not _carries(p)]
    ring = footprint(piece, middle)[0]
    low, high = ring.min(axis=0), ring.max(axis=0)
    way = _nearest_first(cell) - (x, y)
    inside = ((low + way >= cell.low[:2]) & (high + way <= cell.high[:2])).all(axis=1)
    for others in ([ring for _p, ring in solid], standing, mine):
        free = inside.copy()
        for other in others:
            free &= ((low + way >= other.max(axis=0)) | (high + way <= other.min(axis=0))).any(axis=1)
        if free.any():
            dx, dy = way[free.argmax()]
            return middle.but(x=x + float(dx), y=y + float(dy))
    return middle


def _carries(piece: Piece) -> bool:
    """Whether something can stand on the middle of a piece, and not in it."""
    kind = kind_of(piece.shape)
    return not kind.hollow and kind.top(piece.shape, 0.0, 0.0) is not None


def free_point(project: Project) -> tuple[float, float]:
    """A point in plan for a new lamp, as near to the middle of the case as none hangs there; the middle where there is no room."""
    every = _nearest_first(cell_of(project.case, ""))
    taken = np.array([(m.x, m.y) for m in project.lamps]).reshape(-1, 2)
    far = (np.hypot(*(every[:, None] - taken[None]).transpose(2, 0, 1)) >= LAMPS_APART_MM).all(axis=1)
    x, y = every[far.argmax()]
    return float(x), float(y)
