# SPDX-License-Identifier: MIT
"""Eyes of a seat, the visible share of each piece, hidden floor and bare lamps, by rays."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fondale.core.arrays import Bools, Floats, Ints, dot, length
from fondale.core.bodies.parts import FACE, HAIR
from fondale.core.emitters import emitter_of
from fondale.core.how import How, Told, cite
from fondale.core.model import Case, Project, Seat
from fondale.core.model.shapes import Figure, Shape
from fondale.core.shapes import kind_of
from fondale.core.shapes.figures import body_of
from fondale.core.shapes.solid import placed, tilted
from fondale.core.stage.cases import cells, dome_over, floor_over_shelf
from fondale.core.stage.paths import in_mirrors
from fondale.core.stage.scene import Scene, on_piece
from fondale.core.stage.solids import measured_height
from fondale.core.words import digits, percent, show_mm
from fondale.knowledge import table

EYE_STEPS = 5  # sideways
RISE_STEPS = 3  # up and down
EYES_APART_MM = 250.0
BARE_STEPS = 17  # sideways, where bulbs are looked for
GRID_MM, GRID_MOST = 10.0, 200  # of the cells of a floor: their size, and how many at most along a side
BUDGET, FEWEST, MOST = 75_000, 40, 1200  # ways from eyes to points in one look; points of one piece
_SURFACE_MM = 0.4


@dataclass(frozen=True)
class PieceView:
    """From one seat: the share of what faces the eye that nothing else hides; of a figure's head too.

    ``seen`` is the mean over the seat's range, ``worst`` and ``head_seen`` the least; ``blocker`` is the
    piece that hides most ("": none). ``points`` of its surface were looked at.
    """

    seat: str
    piece: str
    seen: float
    worst: float
    head_seen: float | None
    blocker: str
    points: int = 0


@dataclass(frozen=True)
class BareLamp:
    """A lamp whose bulb is seen from a seat: along how many mm of the range; ``mirrored``: in mirrors alone."""

    seat: str
    lamp: str
    along_mm: float
    mirrored: bool = False


def eye_height_mm(seat: Seat) -> float:
    """Height of the eyes over the room's floor: stature x 0.936, or the chair plus the sitting eye height; a chair as usual is 450 mm high,
    a child's lower.

    Sitting eye = sitting height less the crown-to-eye part ([drillis1966]: 0.520 and 0.936).
    """
    seg = table("body")["segments"]
    if seat.eyes_mm:
        return seat.eyes_mm
    if not seat.sitting:
        return float(seat.stature_mm * seg["eye"])
    usual = float(table("scales")["things"]["seat"]["real_mm"]) * min(1.0, seat.stature_mm / 1600.0)
    return (seat.chair or usual) + float(seat.stature_mm) * float(seg["sitting_height"] - (1 - seg["eye"]))


def eye_of(project: Project, seat: Seat, along: float = 0.0, up: float = 0.0) -> Floats:
    """The eye (3,) in the case's axes; ``along`` and ``up`` from -0.5 to 0.5 move it through the seat's range and rise."""
    x = project.case.width / 2 + seat.offset + along * seat.range
    over = project.brief.shelf_height_mm + floor_over_shelf(project.case)
    return np.array([x, -seat.distance, eye_height_mm(seat) - over + up * seat.rise])


def steps_across(seat: Seat, least: int = EYE_STEPS) -> int:
    """How many eyes stand for a seat's range: along the front of a show they are no further apart than shoulders."""
    return max(least, int(seat.range // EYES_APART_MM) + 1) if seat.range > 0 else 1


def eyes_of(project: Project, seat: Seat, least: int = EYE_STEPS) -> Floats:
    """Eye positions (k, 3) through the range, at ``least`` so many at each height."""
    across = steps_across(seat, least)
    sides = np.linspace(-0.5, 0.5, across) if seat.range > 0 else [0.0]
    heights = np.linspace(-0.5, 0.5, RISE_STEPS) if seat.rise > 0 else [0.0]
    return np.stack([eye_of(project, seat, a, u) for u in heights for a in sides])


def samples(tris: Floats, count: int, seed: int) -> tuple[Floats, Floats]:
    """Area-weighted points and normals (count, 3) on triangles."""
    rng = np.random.default_rng(seed)
    cross = np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0])
    area = length(cross)
    pick = np.searchsorted(np.cumsum(area) / area.sum(), (np.arange(count) + rng.random(count)) / count)
    pick = np.minimum(pick, len(tris) - 1)
    root, b = np.sqrt(rng.random(count))[:, None], rng.random(count)[:, None]
    t = tris[pick]
    points = (1 - root) * t[:, 0] + root * (1 - b) * t[:, 1] + root * b * t[:, 2]
    return points, cross[pick] / np.maximum(area[pick, None], 1e-30)


def _seen(scene: Scene, eyes: Floats, points: Floats, normals: Floats) -> tuple[Bools, Bools, Ints]:
    """For each eye and point (e, k): facing the eye, seen, and who is in the way (owner; -1 nobody)."""
    facing = dot(normals, points)[None] < eyes @ normals.T
    e, k = np.nonzero(facing)
    origin = eyes[e]
    way = points[k] - origin
    prim, dist = scene.rays.hit(origin, way)
    reach = length(way)
    seen, who = np.zeros(facing.shape, bool), np.full(facing.shape, -1)
    seen[e, k] = (prim < 0) | (dist * reach >= reach - _SURFACE_MM)
    who[e, k] = np.where(prim >= 0, scene.owner[np.maximum(prim, 0)], -1)
    return facing, seen, who


def head_of(shape: Shape) -> Bools:
    """Which triangles of a figure are its head; none of other shapes."""
    if not isinstance(shape, Figure):
        return np.zeros(0, bool)
    part = body_of(shape).part
    out: Bools = (part == FACE) | (part == HAIR)
    return out


def head_triangles(project: Project, scene: Scene, index: int) -> Floats:
    """The triangles of a figure's head where it stands, or none for other pieces."""
    head = head_of(project.pieces[index].shape)
    tris: Floats = scene.tris[scene.tri_owner == index]
    return tris[head] if len(tris) == len(head) else tris[:0]


@lru_cache(maxsize=1024)
def _spread(shape: Shape, tall: float, count: int, head: bool) -> tuple[Floats, Floats]:
    """Points and normals (count, 3) over a piece's surface or a figure's head, in its own axes: kept, as what is dragged stays the same."""
    solid = kind_of(shape).solid(shape, tall)
    tris = solid.triangles()
    if head:
        mine = head_of(shape)
        tris = tris[mine] if len(mine) == len(tris) else tris[:0]
    if not len(tris):
        return np.zeros((0, 3)), np.zeros((0, 3))
    return samples(tris, count, 6 if head else 5)


def piece_views(project: Project, scene: Scene, seats: tuple[Seat, ...]) -> tuple[PieceView, ...]:
    """How much of every placed piece (not scenery) is seen from each seat."""
    shown = [(i, p) for i, p in enumerate(project.pieces) if p.id in scene.places and p.role != "scenery"]
    eyes = {s.id: eyes_of(project, s) for s in seats}
    ways = max(1, sum(map(len, eyes.values())) * len(shown))
    count = int(np.clip(BUDGET // ways, FEWEST, MOST))
    parts: list[tuple[int, bool, Floats, Floats]] = []
    for i, piece in shown:
        place, tall = scene.places[piece.id], measured_height(piece)
        for head in (False, True) if isinstance(piece.shape, Figure) else (False,):
            points, normals = _spread(piece.shape, tall, count // 2 if head else count, head)
            if len(points):
                turned = placed(tilted(normals, place.tilt_deg), np.zeros(3), place.turn_deg)
                parts.append((i, head, on_piece(piece, place, points), turned))
    if not parts:
        return ()
    points, normals = np.concatenate([p[2] for p in parts]), np.concatenate([p[3] for p in parts])
    sizes = [len(p[2]) for p in parts]
    starts, mine = np.cumsum([0, *sizes[:-1]]), np.repeat([p[0] for p in parts], sizes)
    out = []
    for seat in seats:
        facing, seen, who = _seen(scene, eyes[seat.id], points, normals)
        counted = facing & (seen | (who != mine))  # what a piece hides of itself is left out
        total, got = (np.add.reduceat(x, starts, axis=1, dtype=np.int64) for x in (counted, counted & seen))
        shares = np.where(total > 0, got / np.maximum(total, 1), 1.0)
        e, k = np.nonzero(counted & ~seen & (who >= 0))
        most: dict[int, tuple[int, int]] = {}  # of every piece how often its worst hider hides it, and who that is
        pairs, counts = np.unique(mine[k] * len(project.pieces) + who[e, k], return_counts=True)
        for (i, other), often in zip((divmod(p, len(project.pieces)) for p in pairs.tolist()), counts.tolist(), strict=True):
            most[i] = max(most.get(i, (0, 0)), (often, other), key=lambda m: m[0])
        heads = {i: float(shares[:, n].min()) for n, (i, is_head, _p, _n) in enumerate(parts) if is_head}
        for n, (i, is_head, _points, _normals) in enumerate(parts):
            if not is_head:
                blocker = project.pieces[most[i][1]].id if i in most else ""
                each = shares[:, n]
                out.append(PieceView(seat.id, project.pieces[i].id, float(each.mean()), float(each.min()), heads.get(i), blocker, count))
    return tuple(out)


def straight(scene: Scene, eyes: Floats, points: Floats) -> Bools:
    """Which of the points (k, 3) each eye (e, 3) sees with nothing between, (e, k)."""
    origin, target = np.repeat(eyes, len(points), axis=0), np.tile(points, (len(eyes), 1))
    out: Bools = ~scene.rays.blocked(origin, target).reshape(len(eyes), len(points))
    return out


def bare_lamps(project: Project, scene: Scene, seat: Seat) -> tuple[BareLamp, ...]:
    """Lamps whose dazzling part can be seen from somewhere in the seat's range, in mirrors too."""
    eyes = eyes_of(project, seat, BARE_STEPS)
    out = []
    for lamp in project.lamps:
        points = emitter_of(lamp).seen()
        by_eye: Bools = np.asarray(straight(scene, eyes, points).any(1))
        directly = bool(by_eye.any())
        for who, _place in in_mirrors(scene, eyes, points[0]):  # its middle
            by_eye[who] = True
        if by_eye.any():
            along = float(seat.range * by_eye.reshape(-1, steps_across(seat, BARE_STEPS)).any(0).mean())
            out.append(BareLamp(seat.id, lamp.id, along, not directly))
    return tuple(out)


def floor_grid(case: Case) -> Floats:
    """Cells (k, 5) that the floors of all rooms are looked at in: the middle of each, just under the ceiling, its breadth and its depth."""
    out = []
    for cell in cells(case):
        (w, d, _h), (nx, ny) = cell.size, np.clip((cell.size[:2] // GRID_MM).astype(int), 1, GRID_MOST)
        x, y = np.meshgrid((np.arange(nx) + 0.5) * w / nx, (np.arange(ny) + 0.5) * d / ny)
        grid = np.stack([x.ravel(), y.ravel()], 1) + cell.low[:2]
        if case.kind == "dome" and not cell.ident:
            middle, radius, _spring = dome_over(case)
            grid = grid[length(grid - middle) <= radius]
        rest = [cell.high[2] - 0.1, w / nx, d / ny]
        out.append(np.column_stack([grid, np.tile(rest, (len(grid), 1))]))
    return np.concatenate(out)


def hidden_floor(project: Project, scene: Scene, seat: Seat) -> tuple[Floats, Bools]:
    """Cells (k, 5) of whatever lies uppermost in each room, by their middle, breadth and depth, and which of them the seat never sees."""
    grid = floor_grid(project.case)
    prim, dist = scene.rays.hit(grid[:, :3], np.tile([0.0, 0.0, -1.0], (len(grid), 1)))
    grid = grid[prim >= 0]  # where the floor is pierced there is none
    grid[:, 2] -= dist[prim >= 0]
    up = np.tile([0.0, 0.0, 1.0], (len(grid), 1))
    _facing, seen, _who = _seen(scene, eyes_of(project, seat), grid[:, :3], up)
    hidden: Bools = np.logical_not(seen.any(0))
    return grid, hidden


def eyes_told(project: Project, seat: Seat) -> Told:
    """How high a seat's eyes are over the case's floor."""
    seg, height, shelf = table("body")["segments"], eye_height_mm(seat), project.brief.shelf_height_mm
    floor = floor_over_shelf(project.case)
    over = height - shelf - floor
    chair = show_mm(seat.chair) if seat.chair else "chair"
    standing = f"stature {digits(seat.stature_mm, 0)} × {seg['eye']}"
    sitting = f"{chair} + stature {digits(seat.stature_mm, 0)} × ({seg['sitting_height']} − {digits(1 - seg['eye'], 3)})"
    said = f"{digits(abs(over), 0)} mm"
    told = "as you told it" if seat.eyes_mm else sitting if seat.sitting else standing
    formula = f"eyes over the floor of the room: {told} = {digits(height, 0)} mm\nless the shelf’s height, {digits(shelf, 0)} mm, and that of the case’s floor over it, {digits(floor, 0)} mm"
    return Told(
        f"eyes {said} {'over' if over >= 0 else 'under'} the case’s floor", How("Eyes of this seat", formula, said, cite("drillis1966"))
    )


def seen_told(view: PieceView, seat: Seat, stands_mm: float) -> Told:
    """How much of a piece is seen from a seat."""
    head = f", head {percent(view.head_seen)}" if view.head_seen is not None else ""
    formula = (
        f"Rays from {steps_across(seat) * (RISE_STEPS if seat.rise else 1)} eye positions along the seat’s {digits(seat.range, 0)} mm"
        f"{f' and {digits(seat.rise, 0)} mm up and down' if seat.rise else ''} to {view.points} points spread over the surface"
        " by area; counted are points that face the eye and are not hidden by the piece itself."
        f"\nIt stands {digits(stands_mm, 1)} mm over the floor, on what is beneath it. The worst position sees {percent(view.worst)}, their mean"
    )
    said = percent(view.seen)
    return Told(f"{said} seen{head}", How("Seen share", formula, said, "ray casting"))
