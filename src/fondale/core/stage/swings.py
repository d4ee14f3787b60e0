# SPDX-License-Identifier: MIT
"""What turns in place, doors and cranes: how far it goes before it touches something."""

from dataclasses import dataclass

import numpy as np
import shapely

from fondale.core.arrays import Floats
from fondale.core.model import Case, Piece, Place, Project
from fondale.core.shapes import kind_of
from fondale.core.shapes.solid import placed
from fondale.core.stage.clearance import SLACK_MM, footprint, room_of
from fondale.core.stage.scene import placed_solid, rest_places
from fondale.core.stage.solids import solid_of

STEP_DEG = 1.0  # how finely a swing is looked at
CASE_WALL = ""  # what is touched where it is no piece


@dataclass(frozen=True)
class Swing:
    """A piece that cannot turn as far as it shall: what it touches first (CASE_WALL: the case), and after how many degrees."""

    piece: str
    touches: str
    at_deg: float


def pivot_of(piece: Piece, place: Place) -> Floats:
    """Where in plan (2,) a piece turns: its left or right end as seen from its front, or its middle."""
    corners = solid_of(piece).corners()
    x = {"left": float(corners[:, 0].min()), "right": float(corners[:, 0].max()), "middle": 0.0}[piece.pivot]
    y = float(corners[:, 1].min() + corners[:, 1].max()) / 2 if piece.pivot != "middle" else 0.0
    out: Floats = placed(np.array([[x, y, 0.0]]), np.array([place.x, place.y, 0.0]), place.turn_deg)[0, :2]
    return out


def swept(piece: Piece, place: Place, step_deg: float = STEP_DEG) -> tuple[Floats, Floats]:
    """Angles (n,) from 0 to the whole swing, and the outline in plan at each of them (n, k, 2)."""
    angles = np.linspace(0.0, piece.swing_deg, max(2, int(np.ceil(abs(piece.swing_deg) / step_deg)) + 1))
    ring, pivot = footprint(piece, place)[0], pivot_of(piece, place)
    a = np.radians(angles)
    turn = np.stack([np.stack([np.cos(a), -np.sin(a)], 1), np.stack([np.sin(a), np.cos(a)], 1)], 1)
    return angles, np.einsum("nij,kj->nki", turn, ring - pivot) + pivot


def swings(project: Project) -> tuple[Swing, ...]:
    """Of all pieces that shall turn, those that touch something on their way, and where.

    What a piece touches before it turns is what it is hung in, its frame; what it is part of turns with it, and so does what is part of it.
    """
    turning = [p for p in project.pieces if p.swing_deg and p.place is not None]
    if not turning:
        return ()
    places, found = rest_places(project), []
    for piece in turning:
        place = places[piece.id]
        ring, low, high = footprint(piece, place)
        if len(ring) < 3:
            continue
        angles, rings = swept(piece, place)
        way = shapely.polygons(rings)
        first: tuple[float, str] | None = None
        for other in project.pieces:
            if other is piece or other.id not in places or piece.id == other.part_of or other.id == piece.part_of:
                continue
            at = _first_touch(way, rings, (low, high), other, places[other.id])
            if at is not None and (first is None or abs(angles[at]) < abs(first[0])):
                first = float(angles[at]), other.id
        at = _leaves(project.case, piece, place, rings)
        if at is not None and (first is None or abs(angles[at]) < abs(first[0])):
            first = float(angles[at]), CASE_WALL
        if first is not None:
            found.append(Swing(piece.id, first[1], abs(first[0])))
    return tuple(found)


def _first_touch(way: Floats, rings: Floats, heights: tuple[float, float], other: Piece, at_other: Place) -> int | None:
    """The first of the outlines that shares room with another piece."""
    theirs, low, high = footprint(other, at_other)
    kind = kind_of(other.shape)
    if len(theirs) < 3 or kind.stepped or min(high, heights[1]) - max(low, heights[0]) <= SLACK_MM:
        return None
    if (theirs.min(0) > rings.max((0, 1))).any() or (theirs.max(0) < rings.min((0, 1))).any():
        return None
    body: shapely.Geometry = shapely.polygons(theirs)
    if kind.hollow or kind.open_above:  # only its faces are in the way
        sides = [r for r in placed_solid(other, at_other).rects if abs(np.cross(r[1], r[2])[2]) < 1e-9]
        upright = [r for r in sides if _heights_meet(r, heights)]
        lines = shapely.linestrings([[r[0, :2], (r[0] + _level(r))[:2]] for r in upright]) if upright else []
        body = shapely.buffer(shapely.union_all(lines), SLACK_MM / 4)
    shared: Floats = np.asarray(shapely.area(shapely.intersection(way, body)))
    hits = np.flatnonzero(shared > SLACK_MM**2)
    return int(hits[0]) if len(hits) and hits[0] else None


def _level(rect: Floats) -> Floats:
    """The edge (3,) of an upright rectangle that runs along the ground."""
    out: Floats = rect[1] if abs(rect[1, 2]) < abs(rect[2, 2]) else rect[2]
    return out


def _heights_meet(rect: Floats, heights: tuple[float, float]) -> bool:
    z = rect[0, 2] + np.array([0.0, rect[1, 2], rect[2, 2], rect[1, 2] + rect[2, 2]])
    return bool(min(z.max(), heights[1]) - max(z.min(), heights[0]) > SLACK_MM)


def _leaves(case: Case, piece: Piece, place: Place, rings: Floats) -> int | None:
    """The first of the outlines that leaves the room in which the piece stands; None where it stands outside anyway."""
    cell = room_of(case, place)
    low, high = cell.low[:2] - SLACK_MM, cell.high[:2] + SLACK_MM
    hits = np.flatnonzero(((rings < low) | (rings > high)).any((1, 2)))
    return int(hits[0]) if len(hits) and hits[0] else None
