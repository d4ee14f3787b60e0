"""How many figures of a pose go into a given inside without touching, and can be lifted out again.

What is lifted straight up needs room for its whole plan, so bodies are packed by their plan outlines: rows of equal
figures at the closest spacing that keeps the gap, tried in all directions. The count is reached, not proven the most.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry import MultiPoint, Polygon, box

from fondale.core.arrays import Floats
from fondale.core.bodies.mannequin import EXTRA, mannequin
from fondale.core.words import show_mm

DIRECTIONS = 12
GAP_MM = 1.0  # fingers and tweezers: common practice, no source


@dataclass(frozen=True)
class Capacity:
    """``places``: x, y in mm from the inside's lower left corner and the turn in degrees of each figure; ``outlines`` their plans (k, 2)."""

    count: int
    places: tuple[tuple[float, float, float], ...]
    plan: tuple[float, float]
    headroom_mm: float
    words: str
    outlines: tuple[Floats, ...] = ()


@lru_cache(maxsize=64)
def _plan(pose: str, person: str) -> Floats:
    """The hull of a figure's plan in fractions of stature, its middle at 0."""
    body = mannequin(pose, person)
    flat = body.tris[body.part != EXTRA].reshape(-1, 3)[:, :2]
    hull: Floats = np.asarray(MultiPoint(flat).convex_hull.exterior.coords)
    middle: Floats = (hull.max(0) + hull.min(0)) / 2
    out: Floats = hull - middle
    return out


def _reach(a: Polygon, b: Polygon, way: Floats, gap: float, start: float) -> float:
    """How far ``b`` must be moved along ``way`` so that it keeps ``gap`` from ``a``."""
    low, high = 0.0, start
    while a.distance(affinity.translate(b, *(way * high))) < gap:
        high *= 1.5
    for _ in range(22):
        middle = (low + high) / 2
        if a.distance(affinity.translate(b, *(way * middle))) < gap:
            low = middle
        else:
            high = middle
    return high


def _rows(inside: Polygon, shape: Polygon, gap: float) -> list[tuple[float, float]]:
    """Middles of a lattice of equal shapes inside, the most over a few starts."""
    x0, y0, x1, y1 = inside.bounds
    wide, deep = shape.bounds[2] - shape.bounds[0], shape.bounds[3] - shape.bounds[1]
    if wide > x1 - x0 or deep > y1 - y0:
        return []
    step = _reach(shape, shape, np.array([1.0, 0.0]), gap, wide + gap)
    shapely.prepare(inside)
    best: list[tuple[float, float]] = []
    for lean in (0.0, 0.5):
        shifted = affinity.translate(shape, step * lean, 0)
        pair = shapely.union_all([shifted, affinity.translate(shifted, -step, 0), affinity.translate(shifted, step, 0)])
        rise = _reach(shape, pair, np.array([0.0, 1.0]), gap, deep + gap)
        xs = np.arange(x0 + wide / 2, x1 - wide / 2 + 1e-6, step)
        ys = np.arange(y0 + deep / 2, y1 - deep / 2 + 1e-6, rise)
        for slack in (0.0, 0.5, 1.0):
            spare_x = (x1 - wide / 2 - xs[-1]) * slack
            spare_y = (y1 - deep / 2 - ys[-1]) * slack
            centres = [(float(x + spare_x + (step * lean if k % 2 else 0)), float(y + spare_y)) for k, y in enumerate(ys) for x in xs]
            middle = ((shape.bounds[0] + shape.bounds[2]) / 2, (shape.bounds[1] + shape.bounds[3]) / 2)
            found = [c for c in centres if inside.covers(affinity.translate(shape, c[0] - middle[0], c[1] - middle[1]))]
            if len(found) > len(best):
                best = found
    return best


def capacity(inside: Floats, height_mm: float | None, pose: str, person: str, stature_mm: float, gap_mm: float = GAP_MM) -> Capacity:
    """How many figures of ``stature_mm`` (at model size) go into the plan ``inside`` (k, 2) in mm.

    ``height_mm`` None means open above; otherwise nobody taller goes in. Raises PoseError, or ValueError for an inside without area.
    """
    room = Polygon(np.asarray(inside, float))
    if not room.is_valid or room.area <= 0 or not stature_mm > 0:
        raise ValueError("the inside has no area")
    body = mannequin(pose, person)
    tall = float(body.tris[body.part != EXTRA][..., 2].max()) * stature_mm
    headroom = (height_mm - tall) if height_mm is not None else float("inf")
    hull = Polygon(_plan(pose, person) * stature_mm)
    wide, deep = hull.bounds[2] - hull.bounds[0], hull.bounds[3] - hull.bounds[1]
    best: list[tuple[float, float]] = []
    turn = 0.0
    if headroom >= 0:
        free = room.buffer(-gap_mm / 2)
        for k in range(DIRECTIONS):
            angle = k * 180 / DIRECTIONS
            found = _rows(free, affinity.rotate(hull, angle, origin=(0, 0)), gap_mm) if not free.is_empty else []
            if len(found) > len(best):
                best, turn = found, angle
    if headroom < 0:
        words = f"None: they are {show_mm(-headroom)} too tall for it."
    elif not best:
        words = f"None: one needs {show_mm(wide)} by {show_mm(deep)}."
    else:
        lift = (
            "each can be lifted straight out"
            if height_mm is None
            else f"{show_mm(headroom)} over their heads; to lift them out, open the top"
        )
        words = f"{len(best)} go in without touching, {show_mm(gap_mm)} apart; {lift}."
    ring = np.asarray(affinity.rotate(hull, turn, origin=(0, 0)).exterior.coords)
    ring = ring - (ring.max(0) + ring.min(0)) / 2
    outlines = tuple(ring + np.array(c) for c in best)
    return Capacity(len(best), tuple((x, y, turn) for x, y in best), (wide, deep), headroom, words, outlines)


def rectangle(width: float, depth: float) -> Floats:
    """The plan of a rectangular inside."""
    return np.asarray(box(0, 0, width, depth).exterior.coords)
