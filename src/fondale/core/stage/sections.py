# SPDX-License-Identifier: MIT
"""The scene cut by a plane: what is cut as areas with their holes, and what lies beyond as outlines; flat, in mm, with what is up or behind upwards."""

import re
from dataclasses import dataclass
from functools import reduce
from typing import Literal

import numpy as np
import shapely

from fondale.core.arrays import Floats, Ints
from fondale.core.lengths import LengthError, parse_length
from fondale.core.model import Case, Project
from fondale.core.model.shapes import Opening
from fondale.core.shapes.sewn import sewn
from fondale.core.stage.cases import SIDES, base_mm, board_mm, cells, frame_of, openings_of
from fondale.core.stage.drawn import Layer, Line
from fondale.core.stage.scene import placed_solid, rest_places
from fondale.core.words import digits

Axis = Literal["x", "y", "z"]
FLAT: dict[Axis, tuple[int, int]] = {"x": (1, 2), "y": (0, 2), "z": (0, 1)}
OFF_MM = 1e-5  # a plane through corners is moved by so much
GRID_MM, SMALLEST_MM2 = 1e-4, 1e-4
_CUT = re.compile(r"\s*(?P<axis>[xyz])\s*[=: ]\s*(?P<at>.+)")


@dataclass(frozen=True)
class Plane:
    """A plane square to an axis of the case: ``x`` from its left, ``y`` from its front, ``z`` from its floor, in mm."""

    axis: Axis
    at: float

    @property
    def words(self) -> str:
        """``cut at x 210 mm``."""
        return f"cut at {self.axis} {digits(self.at, 1)} mm"


@dataclass(frozen=True)
class Area:
    """What is cut of a thing, on its layer: a polygon with holes."""

    layer: Layer
    name: str
    shape: shapely.Polygon


def parse_plane(text: str) -> Plane:
    """Read ``x 210``, ``y=130 mm`` or ``z 1 in``. Raises LengthError."""
    match = _CUT.fullmatch(text.lower())
    if match is None:
        raise LengthError("Say an axis and where: x 210 from the left, y 130 from the front, or z 40 from the floor.")
    axis: Axis = match["axis"]  # type: ignore[assignment]
    told = match["at"].strip()
    return Plane(axis, 0.0 if re.fullmatch(r"0+(?:[.,]0+)?\s*(?:mm)?", told) else parse_length(told))


def section(project: Project, cut: Plane) -> tuple[tuple[Area, ...], tuple[Line, ...]]:
    """What a plane cuts of the case's boards and of every piece that stands, and the outlines of the pieces that lie beyond it."""
    axes = list(FLAT[cut.axis])
    areas = [Area("case", "Case", shape) for shape in _parts(_boards(project.case, cut))]
    beyond: list[Line] = []
    places, k = rest_places(project), "xyz".index(cut.axis)
    for piece in project.pieces:
        if piece.id not in places:
            continue
        layer: Layer = "scenery" if piece.role == "scenery" else "pieces"
        points, faces = sewn(placed_solid(piece, places[piece.id]))
        if not len(faces):
            continue
        found = _parts(sliced(points, faces, k, cut.at, axes))
        areas += [Area(layer, piece.name, shape) for shape in found]
        # One looks along x and z against the axis, along y with it.
        there = points[:, k].max() > cut.at if cut.axis == "y" else points[:, k].min() < cut.at
        hull = shapely.convex_hull(shapely.multipoints(points[:, axes]))
        if not found and there and hull.geom_type == "Polygon":
            beyond.append(Line(layer, piece.name, np.asarray(hull.exterior.coords)[:-1]))
    return tuple(areas), tuple(beyond)


def sliced(points: Floats, faces: Ints, k: int, at: float, axes: list[int]) -> shapely.Geometry:
    """What a plane square to axis ``k`` cuts out of a closed body, flat on the other two ``axes``: what is gone round once is full, twice is a hole."""
    away = points[:, k] - at
    away = np.where(np.abs(away) < OFF_MM, OFF_MM, away)
    side = away[faces] > 0
    crossed = faces[side.any(1) & ~side.all(1)]
    if not len(crossed):
        return shapely.Polygon()
    ends = []
    for tri in crossed:
        found = [
            points[a] + (points[b] - points[a]) * (away[a] / (away[a] - away[b]))
            for a, b in ((tri[0], tri[1]), (tri[1], tri[2]), (tri[2], tri[0]))
            if (away[a] > 0) != (away[b] > 0)
        ]
        ends.append([found[0][axes], found[1][axes]])
    lines = shapely.union_all(shapely.linestrings(np.array(ends)), grid_size=GRID_MM)
    parts = shapely.get_parts(shapely.polygonize(shapely.get_parts(lines)))
    full = [p for p in parts if p.area > SMALLEST_MM2 and _inside(points, faces, k, at, axes, p)]
    return shapely.union_all(full) if full else shapely.Polygon()


def _inside(points: Floats, faces: Ints, k: int, at: float, axes: list[int], ring: shapely.Polygon) -> bool:
    """Whether what lies within a ring is within the body: the faces before it are gone through once more one way than the other."""
    x0, y0, x1, y1 = ring.bounds
    aside = 1e-3 * min(x1 - x0, y1 - y0) * np.array([0.37, 0.61])  # no edge of a face goes through there but by ill luck
    middle = np.asarray(shapely.point_on_surface(ring).coords[0]) + aside
    flat = points[faces][:, :, axes] - middle
    a, b, c = flat[:, 0], flat[:, 1], flat[:, 2]

    def turn(u: Floats, v: Floats) -> Floats:
        return u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]

    ab, bc, ca = turn(a, b), turn(b, c), turn(c, a)
    whole = ab + bc + ca
    over = ((ab > 0) & (bc > 0) & (ca > 0)) | ((ab < 0) & (bc < 0) & (ca < 0))
    deep = points[faces][:, :, k]
    with np.errstate(divide="ignore", invalid="ignore"):
        where = (deep[:, 0] * bc + deep[:, 1] * ca + deep[:, 2] * ab) / whole
    return int(np.sign(whole[over & (where > at)]).sum()) != 0


def _parts(shape: shapely.Geometry) -> list[shapely.Polygon]:
    return [p for p in shapely.get_parts(shape) if p.geom_type == "Polygon" and p.area > SMALLEST_MM2]


def _boards(case: Case, cut: Plane) -> shapely.Geometry:
    """What is cut of the boards round the rooms, less what is open in them, and of the base."""
    k, axes, thick = "xyz".index(cut.axis), list(FLAT[cut.axis]), board_mm(case.boards)
    out: list[shapely.Geometry] = []
    for cell in cells(case):
        inside = cell.low[k] <= cut.at <= cell.high[k]
        for side in SIDES:
            at = frame_of(cell, side)
            if cell.sides[side] != "board" or not inside or abs(at.out[k]) > 0.5:
                continue
            level = abs(at.right[k]) < 0.5  # the board is cut along its length
            way, length, square = (at.right, at.length, at.up) if level else (at.up, at.height, at.right)
            share = float(square[k]) * (cut.at - float(at.corner[k]))
            board = shapely.box(0, 0, at.length, at.height).difference(
                shapely.union_all([_hole(o) for o in openings_of(case, cell, side)] or [shapely.Polygon()])
            )
            line = shapely.LineString([(0, share), (length, share)] if level else [(share, 0), (share, length)])
            for piece in shapely.get_parts(shapely.intersection(board, line)):
                ends = [c[0] if level else c[1] for c in shapely.get_coordinates(piece)]
                if len(ends) > 1 and max(ends) - min(ends) > OFF_MM:
                    low, high = at.corner + way * min(ends), at.corner + way * max(ends) + at.out * thick
                    out.append(shapely.box(*np.minimum(low[axes], high[axes]), *np.maximum(low[axes], high[axes])))
        if not cell.ident and cut.axis != "z" and inside:
            a, b = float(cell.low[axes[0]]), float(cell.high[axes[0]])
            out.append(shapely.box(a - thick, cell.low[2] - base_mm(case.boards), b + thick, cell.low[2]))
    return reduce(lambda x, y: x.union(y), out, shapely.Polygon())


def _hole(opening: Opening) -> shapely.Geometry:
    """An opening in the plane of its side."""
    x, z, w, h = opening.x, opening.z, opening.width, opening.height
    if opening.form == "round":
        return shapely.affinity.scale(shapely.Point(x + w / 2, z + h / 2).buffer(0.5, 32), w, h)
    if opening.form == "arch" and h > w / 2:
        return shapely.box(x, z, x + w, z + h - w / 2).union(shapely.Point(x + w / 2, z + h - w / 2).buffer(w / 2, 32))
    return shapely.box(x, z, x + w, z + h)
