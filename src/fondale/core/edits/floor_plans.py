# SPDX-License-Identifier: MIT
"""Walls from a floor plan."""

import math

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.edits.edit import Add, Edit, EditError, Together, maker
from fondale.core.edits.ids import named_anew
from fondale.core.model import PIECES, Piece, Place, Project
from fondale.core.model.shapes import Wall
from fondale.core.stage.cases import cell_of

LEAST_MM, MOST_WALLS = 3.0, 300
THICK_SHARE = 0.02  # of the longest wall


@maker
def walls_from(project: Project, lines: Floats, times: float = 1.0, room: str = "") -> Together:
    """The edit that stands a wall on every line (n, 2, 2) in mm, ``times`` as large, its corner in the room's front left corner.

    Walls are as high as the room, and as thick as the boards of the case; lines one upon the other make one wall, those shorter than 3 mm
    none. Raises EditError where there are none or too many.
    """
    cell = cell_of(project.case, room)
    lines = lines * times
    lines = lines[np.hypot(*(lines[:, 1] - lines[:, 0]).T) >= LEAST_MM]
    if not len(lines):
        raise EditError("There is no line of 3 mm or more in it.")
    ends = np.sort(np.round(lines, 1).reshape(-1, 2).view("f8,f8").reshape(-1, 2), axis=1).view("f8").reshape(-1, 4)
    lines = lines[np.sort(np.unique(ends, axis=0, return_index=True)[1])]
    if len(lines) > MOST_WALLS:
        raise EditError(f"It has {len(lines)} lines; at most {MOST_WALLS} walls are built at once. Leave out what is no wall.")
    lines = lines - lines.reshape(-1, 2).min(0) + cell.low[:2]
    thick = project.case.boards.board
    pieces, edits = list(project.pieces), list[Edit]()
    for (x0, y0), (x1, y1) in lines.tolist():
        ident, name = named_anew(pieces, "Wall")
        length = math.hypot(x1 - x0, y1 - y0)
        shape = Wall(length=round(length, 2), height=cell.hollow.height, thickness=thick)
        turn = math.degrees(math.atan2(y1 - y0, x1 - x0))
        place = Place(x=round((x0 + x1) / 2, 2), y=round((y0 + y1) / 2, 2), turn_deg=round(turn, 3), room=cell.ident)
        piece = Piece(id=ident, name=name, shape=shape, role="scenery", place=place)
        pieces.append(piece)
        edits.append(Add("Walls from a floor plan", PIECES, piece))
    return Together("Walls from a floor plan", tuple(edits))
