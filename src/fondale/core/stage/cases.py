# SPDX-License-Identifier: MIT
"""What a case is: its rooms, which of their sides are boards, panes or open, and its faces."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.limits import SMALLEST
from fondale.core.model import Boards, Case
from fondale.core.model.base import Rgb
from fondale.core.model.shapes import Opening
from fondale.core.model.stage import CaseKind, Hollow, Side
from fondale.core.shapes.pierced import face

Facing = Literal["board", "pane", "open"]
SIDES: tuple[Side, ...] = get_args(Side)
INSET_MM = 0.04  # rooms that touch do not share a face: each has its own, this far inside
ROUND = 48  # corners of a round base
_TOUCH_MM = 1.0


@dataclass(frozen=True)
class KindOfCase:
    """``words`` say what it is; ``sides`` are boards unless something else stands here; ``boards`` are what a maker cuts for it."""

    words: str
    sides: dict[Side, Facing]
    cut: bool = True


_OPEN: dict[Side, Facing] = dict.fromkeys(SIDES, "open")
KINDS: dict[CaseKind, KindOfCase] = {
    "glazed box": KindOfCase("boards all round, a pane in front", {"front": "pane"}),
    "open box": KindOfCase("boards all round, the front is open", {"front": "open"}),
    "shelf niche": KindOfCase("a place in a shelf that is there already", {"front": "open"}, cut=False),
    "closed box": KindOfCase("boards all round: it is looked into through openings", {}),
    "corner": KindOfCase("a back and a left wall on a base", {"front": "open", "right": "open", "top": "open"}),
    "open base": KindOfCase("a base that is seen from all sides", _OPEN),
    "frame base": KindOfCase("a picture frame that lies flat, its board the ground", _OPEN),
    "dome": KindOfCase("a base under a dome of glass", dict.fromkeys(SIDES, "pane")),
    "game board": KindOfCase("a board that is seen from above", _OPEN),
}


@dataclass(frozen=True)
class Cell:
    """One room of a case: ``ident`` is empty for the case's own. ``low`` (3,) is its inside lower left front corner."""

    ident: str
    name: str
    hollow: Hollow
    low: Floats
    sides: dict[Side, Facing]

    @property
    def size(self) -> Floats:
        """Inside width, depth and height (3,)."""
        return np.array([self.hollow.width, self.hollow.depth, self.hollow.height])

    @property
    def high(self) -> Floats:
        """The inside upper right back corner (3,)."""
        out: Floats = self.low + self.size
        return out

    def holds(self, point: Floats, slack: float = 0.0) -> bool:
        """Whether a point (3,) lies inside."""
        return bool(((point >= self.low - slack) & (point <= self.high + slack)).all())


def cells(case: Case) -> tuple[Cell, ...]:
    """The rooms of a case, its own first. Only cases that are boarded have more than one."""
    own = Cell("", "the case", case, np.zeros(3), _sides(case, KINDS[case.kind].sides))
    return (own, *(Cell(r.id, r.name, r, np.array([r.x, r.y, r.z]), _sides(r, {"front": r.front})) for r in case.rooms))


def _sides(hollow: Hollow, told: dict[Side, Facing]) -> dict[Side, Facing]:
    known = {side: told.get(side, "board") for side in SIDES}
    return {side: "pane" if is_ == "board" and side in hollow.panes else is_ for side, is_ in known.items()}


def storeys(case: Case) -> tuple[float, ...]:
    """The heights of the floors, from below; rooms that stand within a millimetre of one height are on one floor."""
    out: list[float] = []
    for z in sorted(float(c.low[2]) for c in cells(case)):
        if not out or z > out[-1] + _TOUCH_MM:
            out.append(z)
    return tuple(out)


def cells_on(case: Case, storey: float) -> tuple[Cell, ...]:
    """The rooms of one floor."""
    return tuple(c for c in cells(case) if -SMALLEST <= c.low[2] - storey <= _TOUCH_MM)


def cell_of(case: Case, ident: str) -> Cell:
    """The room with this id; the case's own where there is none."""
    return next((c for c in cells(case) if c.ident == ident), cells(case)[0])


def extent(case: Case) -> tuple[Floats, Floats]:
    """The lowest and the highest inside corner (3,) of all rooms together."""
    every = cells(case)
    return np.min([c.low for c in every], axis=0), np.max([c.high for c in every], axis=0)


def layers(thickness: float, sheet: float) -> int:
    """How many sheets are glued up to a thickness in mm: 25 mm of 3.2 mm are 8 sheets. ``sheet`` 0: one is a board."""
    return max(1, math.ceil(thickness / sheet - 1e-6)) if sheet else 1


def board_mm(boards: Boards) -> float:
    """How thick the boards really get."""
    return layers(boards.board, boards.sheet) * (boards.sheet or boards.board)


def base_mm(boards: Boards) -> float:
    """How thick the base really gets."""
    return layers(boards.base, boards.sheet) * (boards.sheet or boards.base)


def floor_over_shelf(case: Case) -> float:
    """How high the floor of a case lies over what it stands on, in mm: the base, the box under it with its bottom, the room for fingers."""
    boards = case.boards
    if not KINDS[case.kind].cut:
        return 0.0
    return base_mm(boards) + (boards.box + board_mm(boards) if boards.box else 0.0) + boards.fingers


def as_it_stands(case: Case) -> tuple[object, ...]:
    """What the scene depends on: all that is told of a case but what it is sawn of."""
    return (*(v for k, v in case.__dict__.items() if k != "boards"), board_mm(case.boards))


def fronted(case: Case) -> bool:
    """Whether a case is looked into through its front alone."""
    return all(cell.sides[side] == "board" for cell in cells(case) for side in SIDES if side != "front")


def lipped(case: Case) -> bool:
    """Whether a lip can hang in front: from a board over a pane or an open side."""
    sides = cells(case)[0].sides
    return sides["front"] != "board" and sides["top"] == "board"


def dome_over(case: Case) -> tuple[Floats, float, float]:
    """Of a dome: the middle of its foot (2,), its radius, and the height at which the round cap begins; the cap is half a ball, or less."""
    radius = min(case.width, case.depth) / 2
    return np.array([case.width / 2, case.depth / 2]), radius, max(0.0, case.height - radius)


# Faces. A side is told as it is seen from outside: a corner below on the left, the way to the right, the way up.


@dataclass(frozen=True)
class Frame:
    """Where a side lies: ``corner`` (3,), unit ways ``right`` and ``up`` (3,) seen from outside, and its ``length`` and ``height``."""

    corner: Floats
    right: Floats
    up: Floats
    length: float
    height: float

    @property
    def out(self) -> Floats:
        """The way out (3,)."""
        return np.cross(self.right, self.up)

    def at(self, flat: Floats, out: float = 0.0) -> Floats:
        """Points (..., 2) of the side in the case's axes (..., 3), ``out`` of its plane."""
        points: Floats = self.corner + flat[..., :1] * self.right + flat[..., 1:] * self.up + out * self.out
        return points


_X, _Y, _Z = np.eye(3)


def frame_of(cell: Cell, side: Side) -> Frame:
    """Where a side of a room lies."""
    (w, d, h), low = cell.size.tolist(), cell.low
    match side:
        case "front":
            return Frame(low, _X, _Z, w, h)
        case "back":
            return Frame(low + np.array([w, d, 0]), -_X, _Z, w, h)
        case "left":
            return Frame(low + np.array([0, d, 0]), -_Y, _Z, d, h)
        case "right":
            return Frame(low + np.array([w, 0, 0]), _Y, _Z, d, h)
        case "top":
            return Frame(low + np.array([0, 0, h]), _X, _Y, w, d)


_FACES: dict[Side, Side] = {"front": "back", "back": "front", "left": "right", "right": "left"}


def openings_of(case: Case, cell: Cell, side: Side) -> tuple[Opening, ...]:
    """What is open in a side of a room: its own openings to look in by, and those of a room that stands against it."""
    own = [o for o in cell.hollow.openings if o.side == side and o.use == "look in"]
    if side not in _FACES:
        return tuple(own)
    return (*own, *_beyond(case, cell, side))


def _beyond(case: Case, cell: Cell, side: Side) -> Iterator[Opening]:
    """Openings of rooms beyond a side, as they lie in it."""
    here = frame_of(cell, side)
    for other in cells(case):
        if other.ident == cell.ident:
            continue
        there = frame_of(other, _FACES[side])
        if _gap(case, here, there) is None:
            continue
        across = float((there.corner - here.corner) @ here.right)  # where their left end lies, which is our right one
        lift = float((there.corner - here.corner) @ here.up)
        for o in other.hollow.openings:
            if o.side == _FACES[side] and o.use == "look in" and lift + o.z >= -_TOUCH_MM:
                yield Opening(x=across - o.x - o.width, z=max(0.0, lift + o.z), width=o.width, height=o.height, form=o.form)


def holes_in_floor(case: Case, cell: Cell) -> tuple[Opening, ...]:
    """What is open in the floor of a room: openings in the top of the room that it stands upon, told from above."""
    out: list[Opening] = []
    for other in cells(case):
        if other.ident != cell.ident and -SMALLEST <= cell.low[2] - other.high[2] <= board_mm(case.boards) + _TOUCH_MM:
            dx, dy = (other.low - cell.low)[:2]
            for o in other.hollow.openings:
                if o.side == "top" and o.use == "look in" and o.z + dy >= -_TOUCH_MM:
                    out.append(Opening(x=o.x + dx, z=max(0.0, o.z + dy), width=o.width, height=o.height, form=o.form))
    return tuple(out)


def ways_through(case: Case) -> Floats:
    """What is open in the sides of the rooms of a case (h, 3, 3), corner and edges, in the middle of the board; a front that is open altogether is none."""
    out = []
    for cell in cells(case):
        for o in cell.hollow.openings:
            if o.use == "look in":
                at = frame_of(cell, o.side)
                corner = at.at(np.array([o.x, o.z]), _thickness(case, cell, o.side) / 2)
                out.append([corner, at.right * o.width, at.up * o.height])
    return np.array(out).reshape(-1, 3, 3)


def _gap(case: Case, here: Frame, there: Frame) -> float | None:
    """How far two sides that face each other stand apart, if a board or less."""
    gap = float((there.corner - here.corner) @ here.out)
    return gap if -SMALLEST <= gap <= board_mm(case.boards) + _TOUCH_MM else None


def _thickness(case: Case, cell: Cell, side: Side) -> float:
    """How thick a side is where it is pierced: the board, or what lies between it and the next room."""
    here = frame_of(cell, side)
    if side == "top":
        gaps = [c.low[2] - cell.high[2] for c in cells(case) if c.ident != cell.ident]
        near = [g for g in gaps if -SMALLEST <= g <= board_mm(case.boards) + _TOUCH_MM]
    else:
        others = (frame_of(c, _FACES[side]) for c in cells(case) if c.ident != cell.ident)
        near = [g for o in others if (g := _gap(case, here, o)) is not None]
    return float(max(0.0, min([board_mm(case.boards), *near])))


@dataclass(frozen=True)
class Faces:
    """The case's own faces: ``rects`` (r, 3, 3) and ``tris`` (t, 3, 3), looking inwards or out of the thickness of a board, and their paint."""

    rects: Floats
    rect_paint: Floats
    tris: Floats
    tri_paint: Floats


def case_faces(case: Case) -> Faces:
    """All faces of a case but glass: light leaves there."""
    rects: list[Floats] = []
    tris: list[Floats] = []
    paints: tuple[list[Rgb], list[Rgb]] = ([], [])

    def add(flat: Floats, loose: Floats, paint: Rgb) -> None:
        rects.append(flat)
        paints[0].extend([paint] * len(flat))
        tris.append(loose)
        paints[1].extend([paint] * len(loose))

    for cell in cells(case):
        shrunk = cell if not cell.ident else _drawn_in(cell)
        for flat, loose, paint in _cell_faces(case, shrunk):
            add(flat, loose, paint)
    if case.kind == "frame base" and case.frame:
        add(_moulding(case), np.zeros((0, 3, 3)), case.wall_paint)
    return Faces(
        np.concatenate(rects), np.array(paints[0], float).reshape(-1, 3), np.concatenate(tris), np.array(paints[1], float).reshape(-1, 3)
    )


def _drawn_in(cell: Cell) -> Cell:
    size = np.maximum(cell.size - 2 * INSET_MM, SMALLEST)
    hollow = cell.hollow.but(width=float(size[0]), depth=float(size[1]), height=float(size[2]))
    return Cell(cell.ident, cell.name, hollow, cell.low + INSET_MM, cell.sides)


def _cell_faces(case: Case, cell: Cell) -> Iterator[tuple[Floats, Floats, Rgb]]:
    """Faces of one room: rectangles, triangles, their paint."""
    hollow = cell.hollow
    (w, d, _h), none = cell.size, np.zeros((0, 3, 3))
    floor = Frame(cell.low + np.array([0, d, 0]), _X, -_Y, w, d)  # from beneath, so that its openings lie mirrored
    holes = holes_in_floor(case, cell)
    turned = tuple(o.but(z=max(0.0, d - o.z - o.height)) for o in holes)
    if case.kind == "dome" and not cell.ident and not holes:
        yield np.zeros((0, 3, 3)), _round(case), hollow.floor_paint
    else:
        yield (*(_inner(floor, turned) if holes else (np.array([[cell.low, [w, 0, 0], [0, d, 0]]]), none)), hollow.floor_paint)
    left, right = hollow.left_paint or hollow.wall_paint, hollow.right_paint or hollow.wall_paint
    paint: dict[Side, Rgb] = {
        "top": hollow.ceiling_paint, "left": left, "right": right, "back": hollow.wall_paint, "front": hollow.wall_paint,
    }  # fmt: skip
    for side in ("top", "left", "right", "back", "front"):
        at, is_ = frame_of(cell, side), cell.sides[side]
        if is_ == "board":
            yield (*_board(case, cell, side, at), paint[side])
        elif side == "front" or is_ == "pane":
            yield from ((rects, none, colour) for rects, colour in _border(case, cell, side, at, paint))


def _round(case: Case) -> Floats:
    """The base under a dome (t, 3, 3): a disc, facing up."""
    (x, y), radius, _spring = dome_over(case)
    t = np.linspace(0, 2 * np.pi, ROUND + 1)
    ring = np.column_stack([x + radius * np.cos(t), y + radius * np.sin(t), np.zeros(ROUND + 1)])
    middle = np.broadcast_to(np.array([x, y, 0.0]), (ROUND, 3))
    out: Floats = np.stack([middle, ring[:-1], ring[1:]], axis=1)
    return out


def _board(case: Case, cell: Cell, side: Side, at: Frame) -> tuple[Floats, Floats]:
    """A side of board: its inside, and where it is pierced also its outside and what is seen of its thickness."""
    openings = openings_of(case, cell, side)
    if not openings:
        # Told from the left of who stands inside, as its cells of light always were; the ceiling from the front left.
        edges = [at.up * at.height, at.right * at.length] if side == "top" else [-at.right * at.length, at.up * at.height]
        corner = at.corner if side == "top" else at.corner + at.right * at.length
        inside = np.array([[corner, *edges]])
        # Beside other rooms a front that nobody looks in by is looked at.
        looked_at = side == "front" and case.rooms
        outside = _flat(at, np.array([[0.0, at.length, 0.0, at.height]]), board_mm(case.boards)) if looked_at else inside[:0]
        return np.concatenate([inside, outside]), np.zeros((0, 3, 3))
    rects, tris = _inner(at, openings)
    thick = _thickness(case, cell, side)
    if thick < SMALLEST or not any(o.side == side and o.use == "look in" for o in cell.hollow.openings):
        return rects, tris
    left = face(at.length, at.height, openings)
    more, loose = [rects, _flat(at, left.rects, thick)], [tris, at.at(left.tris, thick)]
    for ring in left.rings:
        for a, b in zip(ring, np.roll(ring, -1, axis=0), strict=True):
            if _on_border(a, b, at):
                continue
            quad = np.array([at.at(a, thick), -at.out * thick, at.at(b) - at.at(a)])
            if 0 in np.abs(b - a).round(6):
                more.append(quad[None])
            else:
                p, u, v = quad
                loose.append(np.array([[p, p + u, p + u + v], [p, p + u + v, p + v]]))
    return np.concatenate(more), np.concatenate(loose)


def _on_border(a: Floats, b: Floats, at: Frame) -> bool:
    """Whether an edge of the side is part of the border of the whole side."""
    ends = ((0, at.length), (1, at.height))
    return any(abs(a[k] - b[k]) < 1e-6 and min(abs(a[k]), abs(a[k] - end)) < 1e-6 for k, end in ends)


def _flat(at: Frame, boxes: Floats, out: float) -> Floats:
    """Rectangles (r, 3, 3) of a side that look outwards, from x0, x1, z0, z1 (r, 4)."""
    corner = at.at(boxes[:, [0, 2]], out)
    return np.stack([corner, (boxes[:, 1] - boxes[:, 0])[:, None] * at.right, (boxes[:, 3] - boxes[:, 2])[:, None] * at.up], 1)


def _inner(at: Frame, openings: tuple[Opening, ...]) -> tuple[Floats, Floats]:
    """The inside of a pierced side."""
    left = face(at.length, at.height, openings)
    rects = _flat(at, left.rects, 0.0)
    rects[:, 0] += rects[:, 1]
    rects[:, 1] *= -1
    return rects, at.at(left.tris)[:, ::-1]


def _border(case: Case, cell: Cell, side: Side, at: Frame, paint: dict[Side, Rgb]) -> Iterator[tuple[Floats, Rgb]]:
    """What stands round an open or glazed side: posts and rails, and in front of the case's own room the lips."""
    frame = cell.hollow.frame if cell.sides[side] == "pane" and case.kind != "dome" else 0.0
    own = side == "front" and not cell.ident and lipped(case)
    top = min(max(frame, case.lip_top if own else 0.0), at.height)
    across = min(max(frame, case.lip_sides if own else 0.0), at.length / 2)
    foot = min(frame, at.height - top)
    bars = [
        ((0.0, at.length, at.height - top, at.height), top, paint["top"]),
        ((0.0, across, foot, at.height - top), across, paint["left"]),
        ((at.length - across, at.length, foot, at.height - top), across, paint["right"]),
        ((0.0, at.length, 0.0, foot), foot, paint["front"]),
    ]
    for (x0, x1, z0, z1), size, colour in bars:
        if size >= SMALLEST and z1 - z0 >= SMALLEST and x1 - x0 >= SMALLEST:
            rects = _flat(at, np.array([[x0, x1, z0, z1]]), 0.0)
            rects[:, 0] += rects[:, 1]
            rects[:, 1] *= -1
            yield rects, colour


def _moulding(case: Case) -> Floats:
    """The frame round a scene that lies in one: four bars outside it, a board high."""
    from fondale.core.shapes.solid import box_faces

    w, d, f, h = case.width, case.depth, case.frame, board_mm(case.boards)
    bars = ((-f, -f, 0, w + f, 0, h), (-f, d, 0, w + f, d + f, h), (-f, 0, 0, 0, d, h), (w, 0, 0, w + f, d, h))
    return np.concatenate([box_faces(bar) for bar in bars])


def overlaps(case: Case) -> tuple[tuple[Cell, Cell, float], ...]:
    """Pairs of rooms that share room, and how deep they stand in each other."""
    every, found = cells(case), []
    for i, a in enumerate(every):
        for b in every[i + 1 :]:
            shared = float((np.minimum(a.high, b.high) - np.maximum(a.low, b.low)).min())
            if shared > _TOUCH_MM / 2:
                found.append((a, b, shared))
    return tuple(found)


def upheld(case: Case, cell: Cell) -> float:
    """The share of a room's floor that lies upon rooms beneath it, or on the ground."""
    if cell.low[2] <= _TOUCH_MM:
        return 1.0
    area = 0.0
    for other in cells(case):
        if other.ident != cell.ident and -_TOUCH_MM <= cell.low[2] - other.high[2] <= board_mm(case.boards) + _TOUCH_MM:
            sides = np.minimum(cell.high, other.high)[:2] - np.maximum(cell.low, other.low)[:2]
            area += float(np.maximum(sides, 0.0).prod())
    return min(1.0, area / float(cell.size[:2].prod()))
