"""Where new things go: never on top of their like."""

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model import Case, Piece, Place, Project
from fondale.core.stage.clearance import footprint
from fondale.core.stage.scene import rest_places

STEP_MM, MOST_STEPS, LAMPS_APART_MM = 5.0, 100, 15.0


def _nearest_first(case: Case) -> Floats:
    """Places (k, 2) all over the floor of a case, its middle first."""
    step = max(STEP_MM, max(case.width, case.depth) / MOST_STEPS)
    x, y = np.meshgrid(np.arange(0, case.width + 1, step), np.arange(0, case.depth + 1, step))
    middle = np.array([case.width / 2, case.depth / 2])
    every = np.vstack([middle, np.column_stack([x.ravel(), y.ravel()])])
    ranked: Floats = every[np.argsort(np.hypot(*(every - middle).T), kind="stable")]
    return ranked


def free_place(project: Project, piece: Piece) -> Place:
    """A place for a piece as near to the middle of the case as none of its like stands there; the middle where there is no room."""
    case, places = project.case, rest_places(project)
    middle = Place(x=case.width / 2, y=case.depth / 2)
    others = [footprint(p, places[p.id])[0] for p in project.pieces if p.id in places and p.role == piece.role]
    ring = footprint(piece, middle)[0]
    low, high = ring.min(axis=0), ring.max(axis=0)
    way = _nearest_first(case) - (middle.x, middle.y)
    inside = ((low + way >= 0) & (high + way <= (case.width, case.depth))).all(axis=1)
    for other in others:
        apart = (low + way >= other.max(axis=0)) | (high + way <= other.min(axis=0))
        inside &= apart.any(axis=1)
    if not inside.any():
        return middle
    dx, dy = way[inside.argmax()]
    return middle.but(x=middle.x + float(dx), y=middle.y + float(dy))


def free_point(project: Project) -> tuple[float, float]:
    """A point in plan for a new lamp, as near to the middle of the case as none hangs there; the middle where there is no room."""
    every = _nearest_first(project.case)
    taken = np.array([(m.x, m.y) for m in project.lamps]).reshape(-1, 2)
    far = (np.hypot(*(every[:, None] - taken[None]).transpose(2, 0, 1)) >= LAMPS_APART_MM).all(axis=1)
    x, y = every[far.argmax()]
    return float(x), float(y)
