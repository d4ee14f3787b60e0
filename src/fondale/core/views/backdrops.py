# SPDX-License-Identifier: MIT
"""How large a backdrop must be: what of its plane any seat can see through all that is open before it."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Bools, Floats
from fondale.core.how import How, Told
from fondale.core.model import Piece, Project
from fondale.core.model.shapes import Backdrop
from fondale.core.shapes.backdrops import arc_of, bent
from fondale.core.shapes.solid import placed
from fondale.core.stage.cases import Cell
from fondale.core.stage.clearance import room_of
from fondale.core.stage.scene import Scene, build_scene, rest_places
from fondale.core.views.depth import ARC_MINUTE, dpi_for
from fondale.core.views.sight import eyes_of
from fondale.core.words import digits

STEP_MM, MOST, FINER, MARGIN_MM = (
    4.0,
    400,
    16,
    5.0,
)  # of the grid, its cells along a side at most, and those of a cell at the edge; what a print is larger than what is seen
A4, LETTER, LAP_MM = (210.0, 297.0), (215.9, 279.4), 10.0
UNPRINTED_MM = 5.0  # round a sheet, where printers do not print (common practice, no source)
_BEYOND = 1.6  # the plane is looked at this many times the case's size
Box = tuple[float, float, float, float]
See = Callable[..., Bools]


@dataclass(frozen=True)
class BackdropView:
    """One backdrop. ``seen`` is what any seat sees of its plane: left, right, low, high in mm from the middle of its foot; None where nobody
    sees it. ``wants`` is that with its margin. ``edges`` are the sides at which its own edge is seen, and by whom.

    ``horizons`` are the heights over its foot where the sky meets the ground for each seat; ``dpi`` is what the nearest eye tells apart.
    """

    piece: str
    seen: Box | None
    wants: Box | None
    edges: dict[str, str]
    horizons: dict[str, float]
    dpi: float

    @property
    def size(self) -> tuple[float, float]:
        """Breadth and height that it wants, in mm."""
        if self.wants is None:
            return 0.0, 0.0
        return self.wants[1] - self.wants[0], self.wants[3] - self.wants[2]


def backdrop_views(project: Project) -> tuple[BackdropView, ...]:
    """Every backdrop that stands in the scene, looked at from every seat."""
    out = []
    places = rest_places(project)
    for piece in project.pieces:
        if isinstance(piece.shape, Backdrop) and piece.id in places:
            out.append(_view(project, piece))
    return tuple(out)


def _view(project: Project, piece: Piece) -> BackdropView:
    assert isinstance(piece.shape, Backdrop)
    place, scene = rest_places(project)[piece.id], build_scene(project, leave_out=piece.id)
    at = np.array([place.x, place.y, place.z or 0.0])
    eyes = {s.id: eyes_of(project, s) for s in project.seats}
    every = np.concatenate(list(eyes.values())) if eyes else np.zeros((0, 3))
    cell = room_of(project.case, place)
    low, high = cell.low, cell.high
    reach = float(np.linalg.norm(high - low)) * _BEYOND

    shape = piece.shape

    def seen(x: Floats, z: Floats, who: Floats = every) -> Bools:
        points = placed(_on(shape, x, z), at, place.turn_deg)
        points[:, 2] = np.maximum(points[:, 2], low[2] + 0.05)
        return _seen(scene, cell, who, points)

    box = _bounds(seen, reach, float(high[2] - low[2]), low[2] - at[2])
    horizons = {s.id: float(eyes[s.id][:, 2].mean() - at[2]) for s in project.seats}
    if box is None:
        return BackdropView(piece.id, None, None, {}, horizons, 0.0)
    x0, x1, z0, z1 = box
    wants = (x0 - MARGIN_MM, x1 + MARGIN_MM, max(z0 - MARGIN_MM, float(low[2] - at[2])), z1 + MARGIN_MM)
    edges = _edges(project, shape, box, seen, eyes)
    corners = placed(_on(shape, np.array([x0, x0, x1, x1]), np.array([z0, z1, z0, z1])), at, place.turn_deg)
    near = float(np.linalg.norm(corners[None] - every[:, None], axis=2).min())
    return BackdropView(piece.id, box, wants, edges, horizons, dpi_for(near))


def _on(shape: Backdrop, x: Floats, z: Floats) -> Floats:
    """Points (k, 3) of a backdrop's sheet at ``x`` along it from its middle and ``z`` up."""
    return np.stack([*bent(shape, x), z], 1)


def _seen(scene: Scene, cell: Cell, eyes: Floats, points: Floats) -> Bools:
    """Which points (k,) any of the eyes (e, 3) sees in a room of the case or through it; what is seen beside it is another, or the flat."""
    out = np.zeros(len(points), bool)
    for eye in eyes:
        left = np.flatnonzero(~out & _through(cell, eye, points))
        if len(left):
            out[left] = ~scene.rays.blocked(np.broadcast_to(eye, (len(left), 3)).copy(), points[left])
    return out


def _through(cell: Cell, eye: Floats, points: Floats) -> Bools:
    """Whether the way from an eye (3,) to each point (k, 3) leads through a room of the case, by its slabs."""
    way = points - eye
    way = np.where(np.abs(way) < 1e-12, 1e-12, way)
    a, b = (cell.low - eye) / way, (cell.high - eye) / way
    enters, leaves = np.minimum(a, b).max(axis=1), np.maximum(a, b).min(axis=1)
    out: Bools = (enters < leaves) & (leaves > 0) & (enters < 1)
    return out


def step_of(length: float) -> float:
    """How far apart the points of a grid lie along a side of so many mm: what is as large as a hall is looked at by no more of them."""
    return max(STEP_MM, length / MOST)


def _bounds(seen: See, reach: float, high: float, foot: float) -> Box | None:
    """Left, right, low and high end of what is seen: on a grid, then finer at the four ends."""
    wide, tall = step_of(reach), step_of(high)
    xs = np.arange(-reach / 2, reach / 2 + wide, wide)
    zs = np.arange(foot + tall / 2, foot + high + tall, tall)
    gx, gz = np.meshgrid(xs, zs)
    found = seen(gx.ravel(), gz.ravel()).reshape(gx.shape)
    if not found.any():
        return None
    columns, rows = np.flatnonzero(found.any(0)), np.flatnonzero(found.any(1))
    fine = np.arange(1, FINER + 1) / FINER

    def end(at: float, way: int, across: Floats, upright: bool) -> float:
        steps = at + way * fine * (wide if upright else tall)
        a, b = np.meshgrid(steps, across)
        grid = seen(*((a.ravel(), b.ravel()) if upright else (b.ravel(), a.ravel()))).reshape(a.shape).any(0)
        last = np.flatnonzero(grid)
        return float(steps[last.max()]) if len(last) else at

    left = end(float(xs[columns[0]]), -1, zs[found[:, columns[0]]], True)
    right = end(float(xs[columns[-1]]), 1, zs[found[:, columns[-1]]], True)
    low = end(float(zs[rows[0]]), -1, xs[found[rows[0]]], False)
    top = end(float(zs[rows[-1]]), 1, xs[found[rows[-1]]], False)
    return left, right, max(low, foot), top


def _edges(project: Project, shape: Backdrop, box: Box, seen: See, eyes: dict[str, Floats]) -> dict[str, str]:
    """The sides at which the sheet's own edge can be seen, and the first seat that sees it."""
    half = arc_of(shape.width, shape.cove)[1]
    out: dict[str, str] = {}
    along, tall = np.arange(-half, half, step_of(2 * half)), step_of(shape.height)
    up = np.arange(tall / 2, shape.height, tall)
    over = {
        "left": (box[0] < -half, np.full(len(up), -half - 0.3), up), "right": (box[1] > half, np.full(len(up), half + 0.3), up),
        "top": (box[3] > shape.height, along, np.full(len(along), shape.height + 0.3)),
    }  # fmt: skip
    for side, (may, x, z) in over.items():
        if not may or not len(x):
            continue
        for seat in project.seats:
            if seen(x, z, eyes[seat.id]).any():
                out[side] = seat.id
                break
    return out


def tiles(width: float, height: float, sheet: tuple[float, float] = A4) -> tuple[int, int, bool]:
    """How many sheets side by side and one over the other print it, with their laps, and whether they lie on their side: the fewest."""
    best = []
    for turned in (False, True):
        w, h = (sheet[1], sheet[0]) if turned else sheet
        use = [s - 2 * UNPRINTED_MM for s in (w, h)]
        count = [max(1, math.ceil((size - LAP_MM) / (room - LAP_MM) - 1e-9)) for size, room in zip((width, height), use, strict=True)]
        best.append((count[0] * count[1], turned, count[0], count[1]))
    _total, turned, across, up = min(best)
    return across, up, turned


def backdrop_told(view: BackdropView, piece: Piece) -> Told:
    """How large it must be."""
    w, h = view.size
    said = f"{digits(w, 1)} × {digits(h, 1)} mm"
    if view.seen is None or view.wants is None:
        return Told("nobody sees it", How("Backdrop", "No ray from any seat comes to its plane.", "", "ray casting"))
    x0, x1, z0, z1 = view.seen
    formula = (
        f"seen of its plane by all eyes: {digits(x0, 1)} to {digits(x1, 1)} mm along it, {digits(z0, 1)} to {digits(z1, 1)} mm over its foot"
        f"\n+ {digits(MARGIN_MM, 0)} mm margin on every side but its foot\n"
        f"resolution: one dot in a minute of arc at the nearest eye: 25.4 ÷ (distance × {ARC_MINUTE:.6f}) = {digits(view.dpi, 0)} dpi"
    )
    return Told(f"print it {said}", How(f"Size of {piece.name}", formula, said, "rays from every eye through all that is open before it"))
