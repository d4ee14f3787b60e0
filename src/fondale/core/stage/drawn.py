# SPDX-License-Identifier: MIT
"""The scene as flat lines: plan and the silhouette from the side, layer by layer, in mm with y up."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely

from fondale.core.arrays import Floats
from fondale.core.model import Project
from fondale.core.stage.cases import cells
from fondale.core.stage.scene import placed_solid, rest_places

View = Literal["plan", "silhouette"]
Layer = Literal["case", "scenery", "pieces", "lamps"]
LAYERS: tuple[Layer, ...] = ("case", "scenery", "pieces", "lamps")
LAMP_MM = 2.0


@dataclass(frozen=True)
class Line:
    """One closed outline (k, 2) of a thing, on its layer."""

    layer: Layer
    name: str
    ring: Floats


def lines(project: Project, view: View) -> tuple[Line, ...]:
    """Every outline of a plan (x, y) or of what is seen from the side (y, z): rooms, pieces by the hull of their bodies, lamps as small squares."""
    axes = [0, 1] if view == "plan" else [1, 2]
    out: list[Line] = []
    for cell in cells(project.case):
        (a0, b0), (a1, b1) = cell.low[axes].tolist(), cell.high[axes].tolist()
        out.append(Line("case", cell.name, np.array([[a0, b0], [a1, b0], [a1, b1], [a0, b1]])))
    places = rest_places(project)
    for piece in project.pieces:
        if piece.id in places:
            flat = placed_solid(piece, places[piece.id]).corners()[:, axes]
            hull = shapely.convex_hull(shapely.multipoints(flat))
            if hull.geom_type == "Polygon":
                ring = np.asarray(hull.exterior.coords)[:-1]
                out.append(Line("scenery" if piece.role == "scenery" else "pieces", piece.name, ring))
    square = np.array([[-1.0, -1], [1, -1], [1, 1], [-1, 1]]) * LAMP_MM / 2
    for lamp in project.lamps:
        out.append(Line("lamps", lamp.name, np.array([lamp.x, lamp.y, lamp.z])[axes] + square))
    return tuple(out)
