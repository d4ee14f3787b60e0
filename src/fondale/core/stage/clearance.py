# SPDX-License-Identifier: MIT
"""What touches what, what sticks out of the case."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely

from fondale.core.arrays import Floats
from fondale.core.model import Case, Piece, Place, Project
from fondale.core.shapes import kind_of
from fondale.core.stage.cases import SIDES, Cell, cell_of, cells, dome_over
from fondale.core.stage.scene import height_under, placed_solid, rest_places
from fondale.core.stage.solids import measured_height
from fondale.core.stage.touching import fills_its_hull, shared_mm

SLACK_MM = 0.3


@dataclass(frozen=True)
class Clash:
    """Two pieces that share room; ``overlap_mm`` is how deep in plan."""

    first: str
    second: str
    overlap_mm: float


@dataclass(frozen=True)
class Outside:
    """A piece that sticks out of the case; ``side`` says where, ``by_mm`` how far, ``move`` what brings its plan in, None where none does."""

    piece: str
    side: str
    by_mm: float
    move: tuple[float, float] | None


@lru_cache(maxsize=512)
def footprint(piece: Piece, place: Place) -> tuple[Floats, float, float]:
    """Convex outline in plan (k, 2) and the lowest and highest z of a placed piece, in mm."""
    corners = placed_solid(piece, place).corners()
    hull = shapely.convex_hull(shapely.linestrings(corners[:, :2]))
    ring = np.asarray(shapely.get_exterior_ring(hull).coords) if hull.geom_type == "Polygon" else corners[:1, :2]
    return ring, float(corners[:, 2].min()), float(corners[:, 2].max())


def clashes(project: Project) -> tuple[Clash, ...]:
    """Pairs of pieces whose outlines cross in plan and overlap in height, and whose bodies do.

    Scenery may be built into scenery, but two of a kind on one spot are one too many; a part goes into what it is part of.
    """
    places = rest_places(project)
    items = [(p, *footprint(p, places[p.id])) for p in project.pieces if p.id in places]
    found = []
    for i, (a, ring_a, low_a, high_a) in enumerate(items):
        for b, ring_b, low_b, high_b in items[i + 1 :]:
            kinds = (kind_of(a.shape), kind_of(b.shape))
            both = a.role == b.role == "scenery"
            if a.id == b.part_of or b.id == a.part_of:
                continue
            if min(len(ring_a), len(ring_b)) < 3 or (any(k.open_above for k in kinds) and not both):
                continue
            if both:
                level = max(abs(low_a - low_b), abs(high_a - high_b)) <= SLACK_MM
                if not (type(a.shape) is type(b.shape) and level and _one_spot(ring_a, ring_b)):
                    continue
            apart = (ring_a.min(0) > ring_b.max(0)).any() or (ring_b.min(0) > ring_a.max(0)).any()
            if apart or min(high_a, high_b) - max(low_a, low_b) <= SLACK_MM:
                continue
            if _rests_on(a, places[a.id], b, places[b.id]) or _rests_on(b, places[b.id], a, places[a.id]):
                continue
            if any(k.hollow for k in kinds) and not both and not _hollow(a, places[a.id], b, places[b.id]):
                continue
            shared = shapely.intersection(shapely.polygons(ring_a), shapely.polygons(ring_b))
            if shared.area > SLACK_MM**2:
                x0, y0, x1, y1 = shared.bounds
                depth = min(x1 - x0, y1 - y0)
                if not both and not all(fills_its_hull(p.shape, measured_height(p)) for p in (a, b)):
                    depth = min(depth, shared_mm(a, places[a.id], b, places[b.id]))
                if depth > SLACK_MM:
                    found.append(Clash(a.id, b.id, float(depth)))
    return tuple(found)


def _one_spot(ring_a: Floats, ring_b: Floats) -> bool:
    """Whether two outlines are one and the same, nearly."""
    a, b = shapely.polygons(ring_a), shapely.polygons(ring_b)
    return bool(shapely.intersection(a, b).area > 0.9 * max(a.area, b.area))


def _rests_on(top: Piece, at_top: Place, below: Piece, at_below: Place) -> bool:
    """Whether ``top`` stands on the steps of ``below``: their outline is a wedge, they are not."""
    if not kind_of(below.shape).stepped:
        return False
    height = height_under(below, at_below, at_top.x, at_top.y)
    return height is not None and (at_top.z or 0.0) >= height - SLACK_MM


def _hollow(a: Piece, at_a: Place, b: Piece, at_b: Place) -> bool:
    """Whether the other piece cuts the faces of a hollow one: its corners or centre lie within the walls."""
    if not kind_of(a.shape).hollow:
        a, at_a, b, at_b = b, at_b, a, at_a
    solid = placed_solid(a, at_a)
    ring, low, high = footprint(b, at_b)
    if len(ring) < 3:
        return False
    body = shapely.buffer(shapely.polygons(ring), -SLACK_MM)
    for p, u, v in solid.rects:
        corners = np.array([p, p + u, p + u + v, p + v])
        if corners[:, 2].max() <= low + SLACK_MM or corners[:, 2].min() >= high - SLACK_MM:
            continue
        if abs(np.cross(u, v)[2]) > 1e-9:
            continue
        if shapely.intersects(body, shapely.linestrings(corners[[0, 1], :2])):
            return True
    return False


def outside(project: Project) -> tuple[Outside, ...]:
    """Pieces that leave the room of the case in which they stand by more than the slack; what is open above has no ceiling."""
    places, case, found = rest_places(project), project.case, []
    for piece in project.pieces:
        if piece.id not in places:
            continue
        place = places[piece.id]
        cell = room_of(case, place)
        ring, low, high = footprint(piece, place)
        (x0, y0, z0), (x1, y1, z1) = cell.low, cell.high
        over = {
            "left": x0 - float(ring[:, 0].min()),
            "right": float(ring[:, 0].max()) - x1,
            "front": y0 - float(ring[:, 1].min()),
            "back": float(ring[:, 1].max()) - y1,
            "top": high - z1 if cell.sides["top"] != "open" else -1.0,
            "bottom": z0 - low,
        }
        if case.kind == "dome" and not cell.ident:
            over["glass"] = _through_dome(project, piece, place)
        side = max(over, key=lambda k: over[k])
        if over[side] > SLACK_MM:
            inside = cell.size[:2]
            shift = np.maximum(0, cell.low[:2] - ring.min(0)) - np.maximum(0, ring.max(0) - cell.high[:2])
            fits = side in ("left", "right", "front", "back") and bool((np.ptp(ring, axis=0) <= inside).all())
            found.append(Outside(piece.id, side, float(over[side]), (float(shift[0]), float(shift[1])) if fits else None))
    return tuple(found)


def room_of(case: Case, place: Place) -> Cell:
    """The room of the case in which a placed piece is: the one on whose floor it stands, or else that which holds its foot."""
    foot = np.array([place.x, place.y, place.z or 0.0])
    return next((c for c in cells(case) if not place.room and c.ident and c.holds(foot)), cell_of(case, place.room))


@dataclass(frozen=True)
class ShutIn:
    """A piece that goes through no opening of the closed room that it is in: its least two sizes in mm, and the largest opening."""

    piece: str
    sizes: tuple[float, float]
    opening: tuple[float, float]


def shut_in(project: Project) -> tuple[ShutIn, ...]:
    """Pieces that do not come out again by any opening, hatch or door of a room that is boarded all round."""
    places, found = rest_places(project), []
    for piece in project.pieces:
        if piece.id not in places or piece.role != "piece":
            continue
        cell = room_of(project.case, places[piece.id])
        holes = [tuple(sorted((o.width, o.height))) for o in cell.hollow.openings]
        if any(cell.sides[side] != "board" for side in SIDES) or not holes:
            continue
        a, b, _c = np.sort(np.ptp(placed_solid(piece, Place(x=0, y=0)).corners(), axis=0)).tolist()
        if not any(a <= w and b <= h for w, h in holes):
            largest = max(holes, key=lambda h: h[0] * h[1])
            found.append(ShutIn(piece.id, (a, b), (largest[0], largest[1])))
    return tuple(found)


def _through_dome(project: Project, piece: Piece, place: Place) -> float:
    """How far a piece reaches through the glass of a dome: a cylinder with a round cap."""
    middle, radius, spring = dome_over(project.case)
    corners = placed_solid(piece, place).corners()
    away = np.hypot(*(corners[:, :2] - middle).T)
    cap = max(project.case.height - spring, 1e-9)
    above = np.maximum(corners[:, 2] - spring, 0.0) / cap * radius  # a flat dome is a squeezed ball
    return float(np.hypot(away, above).max() - radius)
