# SPDX-License-Identifier: MIT
"""How many of a figure, or of its base, go into a given inside without touching.

What is lifted straight up needs room for its whole plan, so bodies are packed by their plan outlines: rows of equal
outlines at the closest spacing that keeps the gap, tried in several directions. The count is reached, not proven the most.
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry import MultiPoint, Polygon, box

from fondale.core.arrays import Floats
from fondale.core.bodies.figure import figure
from fondale.core.bodies.poses import poses
from fondale.core.model import Piece
from fondale.core.model.shapes import Hull
from fondale.core.shapes import boats
from fondale.core.stage.solids import measured_height, solid_of
from fondale.core.words import show_mm
from fondale.knowledge import table

DIRECTIONS = 12
GAP_MM = 1.0  # fingers and tweezers: common practice, no source
ROUND, ROUND_ROOM = 96, 360  # corners that a circle is drawn with, on it
TOUCH_MM = 0.01  # what stands so far into a wall, or so much too near, touches it: nobody sees it, and sums of decimals do not end on it
STRAIGHT, BETWEEN = 0.999, 4  # an inside that fills its bounds, and how many starts of rows are tried where it does not
MOST = 400  # more are not counted
Facing = Literal["", "along", "across", "each other"]
FACINGS: dict[Facing, str] = {"": "any way", "along": "along it", "across": "across it", "each other": "each other, in pairs"}


@dataclass(frozen=True)
class Entrant:
    """What goes in: its name, and the corners of its hull (n, 3) in mm, facing -y, standing on z = 0."""

    name: str
    hull: Floats

    @property
    def plan(self) -> Polygon:
        """Its outline from above, the middle at 0."""
        flat = np.asarray(MultiPoint(self.hull[:, :2]).convex_hull.exterior.coords)
        return Polygon(flat - (flat.max(0) + flat.min(0)) / 2)

    @property
    def tall(self) -> float:
        """Its height in mm."""
        return float(self.hull[:, 2].max())


@dataclass(frozen=True)
class Capacity:
    """``places``: x, y in mm from the inside's lower left corner and the turn in degrees of each body; ``outlines`` their plans (k, 2)."""

    count: int
    places: tuple[tuple[float, float, float], ...]
    headroom_mm: float
    words: str
    outlines: tuple[Floats, ...] = ()


def _body(name: str, points: Floats) -> Entrant:
    from scipy.spatial import ConvexHull  # loads for a quarter of a second, and the window opens before

    points = np.asarray(points, float).reshape(-1, 3)
    try:
        points = points[ConvexHull(points).vertices]
    except ValueError as error:
        raise ValueError("nothing to put in") from error
    return Entrant(name, points - [0, 0, points[:, 2].min()])


@lru_cache(maxsize=64)
def a_person(person: str, pose: str, house_n: float) -> Entrant:
    """Somebody of mean stature at the house scale, with empty hands. Raises PoseError."""
    who = table("body")["people"][person]
    return _body(f"{who['name']}, {poses()[pose]}", figure(pose, person).tris * (who["mean_mm"] / house_n))


@lru_cache(maxsize=64)
def a_piece(piece: Piece) -> Entrant:
    """A piece as it was measured, with all that it wears and carries. Raises PoseError, ValueError."""
    return _body(f"{piece.name} as measured, {show_mm(measured_height(piece))}", solid_of(piece).corners())


def a_base(mm: float, square: bool, tall: float) -> Entrant:
    """A round base of a diameter, or a square one, with what stands on it ``tall``."""
    if square:
        ring = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * mm / 2
    else:
        t = np.linspace(0, 2 * np.pi, ROUND, endpoint=False)
        ring = np.column_stack([np.cos(t), np.sin(t)]) * mm / 2
    corners = np.concatenate([np.column_stack([ring, np.full(len(ring), z)]) for z in (0.0, tall)])
    return _body(f"{'square' if square else 'round'} base of {show_mm(mm)}", corners)


def inside_of(piece: Piece) -> tuple[Floats, float | None] | None:
    """The plan (k, 2) of the inside of a hollow piece, and its height, None where it is open above; None for what is not hollow."""
    shape = piece.shape
    if isinstance(shape, Hull):
        return boats.plan(shape.length, shape.beam), None
    wide, deep, high = (getattr(shape, name, 0.0) - 2 * getattr(shape, "thickness", 0.0) for name in ("width", "depth", "height"))
    if shape.kind != "room" or min(wide, deep) <= 0:
        return None
    return rectangle(wide, deep), high + shape.thickness


def _reach(a: Polygon, b: Polygon, way: Floats, gap: float, start: float) -> float:
    """How far ``b`` must be moved along ``way`` so that it keeps ``gap`` from ``a``."""

    def too_near(by: float) -> bool:
        return bool(a.distance(shapely.transform(b, lambda at: at + way * by)) < gap)

    low, high = 0.0, start
    while too_near(high):
        high *= 1.5
    for _ in range(34):
        middle = (low + high) / 2
        low, high = (middle, high) if too_near(middle) else (low, middle)
    return high


Place = tuple[float, float, int]  # x, y, and which of the two outlines


def _inside(walls: Polygon, shapes: tuple[Polygon, Polygon], places: list[Place]) -> list[Place]:
    """Those places at which the outlines lie within the walls, all looked at together."""
    if not places:
        return []
    rings = np.stack([np.asarray(s.exterior.coords) for s in shapes])  # one plan, turned: as many corners
    x, y, which = zip(*places, strict=True)
    there = shapely.polygons(rings[list(which)] + np.column_stack([x, y])[:, None])
    return [place for place, goes in zip(places, shapely.covers(walls, there).tolist(), strict=True) if goes]


def _rows(inside: Polygon, shapes: tuple[Polygon, Polygon], gap: float) -> list[Place]:
    """Middles of a lattice whose rows take the two outlines in turn, the most over a few starts."""
    x0, y0, x1, y1 = inside.bounds
    shape, other = shapes
    wide, deep = shape.bounds[2] - shape.bounds[0], shape.bounds[3] - shape.bounds[1]
    if wide > x1 - x0 + 1e-9 or deep > y1 - y0 + 1e-9:
        return []
    step = max(_reach(s, s, np.array([1.0, 0.0]), gap, wide + gap) for s in shapes)
    straight = inside.area > STRAIGHT * (x1 - x0) * (y1 - y0)
    walls = inside.buffer(1e-6, join_style="mitre")  # what touches it exactly is in, whatever the last digit says
    shapely.prepare(walls)
    best: list[Place] = []
    for lean in (0.0, 0.5):
        rises = []
        for low, high in ((shape, other), (other, shape)):
            shifted = affinity.translate(high, step * lean, 0)
            row = shapely.union_all([affinity.translate(shifted, step * k, 0) for k in (-1, 0, 1)])
            rises.append(_reach(low, row, np.array([0.0, 1.0]), gap, deep + gap))
        ys = [y0 + deep / 2]
        while ys[-1] + rises[(len(ys) - 1) % 2] <= y1 - deep / 2 + 1e-6:
            ys.append(ys[-1] + rises[(len(ys) - 1) % 2])
        xs = np.arange(x0 + wide / 2, x1 - wide / 2 + 1e-6, step)
        starts = [((x1 - wide / 2 - xs[-1]) * slack, (y1 - deep / 2 - ys[-1]) * slack) for slack in (0.0, 0.5, 1.0)]
        if not straight:  # where walls lean or bend, a row may do better away from them
            starts += [(x, (y1 - deep / 2 - ys[-1]) / 2 + rises[0] * k / BETWEEN) for x, _y in starts for k in range(1, BETWEEN)]
        for spare_x, spare_y in starts:
            for odd in (0, 1) if lean and not straight else (0,):  # which rows are shifted
                places = [(float(x + spare_x + step * lean * ((k + odd) % 2)), y + spare_y, k % 2) for k, y in enumerate(ys) for x in xs]
                found = _inside(walls, shapes, places)
                if len(found) > len(best):
                    best = found
    return best


def _benches(inside: Polygon, shapes: tuple[Polygon, Polygon], gap: float, every: float) -> list[Place]:
    """Middles on benches that stand ``every`` mm along x, those on each as near as goes; the most over a few first benches."""
    x0, y0, x1, y1 = inside.bounds
    shape = shapes[0]
    wide, deep = shape.bounds[2] - shape.bounds[0], shape.bounds[3] - shape.bounds[1]
    if wide > x1 - x0 + 1e-9 or deep > y1 - y0 + 1e-9:
        return []
    step = _reach(shape, shape, np.array([0.0, 1.0]), gap, deep + gap)
    need = max(_reach(a, b, np.array([1.0, 0.0]), gap, wide + gap) for a, b in (shapes, shapes[::-1]))
    every *= math.ceil(need / every - 1e-9)
    ys = np.arange(y0 + deep / 2, y1 - deep / 2 + 1e-6, step)
    walls = inside.buffer(1e-6, join_style="mitre")
    shapely.prepare(walls)
    best: list[Place] = []
    for first in np.linspace(0, min(every, max(0.0, x1 - x0 - wide)), 9):
        found: list[Place] = []
        for k, x in enumerate(np.arange(x0 + wide / 2 + first, x1 - wide / 2 + 1e-6, every)):
            rows: list[list[Place]] = []
            for slack in (0.0, 0.5, 1.0):
                row = [(float(x), float(y + (y1 - deep / 2 - ys[-1]) * slack), k % 2) for y in ys]
                rows.append(_inside(walls, shapes, row))
            fullest: list[Place] = max(rows, key=len)
            found += fullest
        if len(found) > len(best):
            best = found
    return best


def capacity(
    inside: Floats, height_mm: float | None, body: Entrant, gap_mm: float = GAP_MM, facing: Facing = "", every_mm: float = 0.0
) -> Capacity:
    """How many of ``body`` go into the plan ``inside`` (k, 2) in mm, ``gap_mm`` from each other and half of that from the walls.

    ``height_mm`` None means open above; otherwise nobody taller goes in. ``facing``: along x, across it, by rows towards each other, or any
    way. ``every_mm``: on benches or in ranks so far apart along x; 0: as near as goes. Raises ValueError for an inside without area.
    """
    room = Polygon(np.asarray(inside, float))
    if not room.is_valid or room.area <= 0:
        raise ValueError("the inside has no area")
    headroom = (height_mm - body.tall) if height_mm is not None else float("inf")
    plan = body.plan
    wide, deep = plan.bounds[2] - plan.bounds[0], plan.bounds[3] - plan.bounds[1]
    if room.area > MOST * plan.area * 2:
        return Capacity(0, (), headroom, "More than can be counted here: there is room for hundreds.")
    best: list[Place] = []
    turns = (0.0, 0.0)
    free = room.buffer(-gap_mm / 2 + TOUCH_MM, join_style="mitre")
    if headroom >= 0 and not free.is_empty:
        for turn, pair in _turns(facing):
            both = affinity.rotate(plan, turn, origin=(0, 0)), affinity.rotate(plan, turn + pair, origin=(0, 0))
            for quarter in (False, True):
                found = _packed(free, both, gap_mm, every_mm, quarter)
                if len(found) > len(best):
                    best, turns = found, (turn, turn + pair)
    if headroom < 0:
        words = f"None: {body.name} is {show_mm(-headroom)} too tall for it."
    elif not best:
        words = f"None: one needs {show_mm(wide)} by {show_mm(deep)}."
    else:
        lift = (
            "each can be lifted straight out" if height_mm is None else f"{show_mm(headroom)} over their heads; to lift them out, open the top"
        )  # fmt: skip
        words = f"{len(best)} go in without touching, {show_mm(gap_mm)} apart; {lift}."
    rings = [np.asarray(affinity.rotate(plan, t, origin=(0, 0)).exterior.coords) for t in turns]
    places = tuple((x, y, turns[k] % 360) for x, y, k in best)
    return Capacity(len(best), places, headroom, words, tuple(rings[k] + np.array([x, y]) for x, y, k in best))


def _turns(facing: Facing) -> list[tuple[float, float]]:
    """Turns to try, each with what the other rows are turned by more. A body faces -y, so that a quarter turn faces along x."""
    if facing == "along":
        return [(90.0, 0.0)]
    if facing == "across":
        return [(0.0, 0.0), (180.0, 0.0)]
    if facing == "each other":
        return [(180.0, 180.0), (90.0, 180.0)]
    return [(k * 180 / DIRECTIONS, pair) for k in range(DIRECTIONS) for pair in (0.0, 180.0)]


def _packed(free: Polygon, shapes: tuple[Polygon, Polygon], gap: float, every: float, quarter: bool) -> list[Place]:
    """Rows along x, or with a ``quarter`` turn along y; benches always stand across x."""
    if every > 0:
        return [] if quarter else _benches(free, shapes, gap, every)
    if not quarter:
        return _rows(free, shapes, gap)
    turned = affinity.rotate(free, 90, origin=(0, 0)), tuple(affinity.rotate(s, 90, origin=(0, 0)) for s in shapes)
    return [(y, -x, k) for x, y, k in _rows(turned[0], (turned[1][0], turned[1][1]), gap)]


def rectangle(width: float, depth: float) -> Floats:
    """The plan of a rectangular inside."""
    return np.asarray(box(0, 0, width, depth).exterior.coords)


def circle(diameter: float) -> Floats:
    """The plan of a round inside, drawn within it."""
    t = np.linspace(0, 2 * np.pi, ROUND_ROOM, endpoint=False)
    out: Floats = (np.column_stack([np.cos(t), np.sin(t)]) + 1) * diameter / 2
    return out
