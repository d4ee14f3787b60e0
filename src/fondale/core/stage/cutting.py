# SPDX-License-Identifier: MIT
"""What is cut for a case: its boards and panes with their sizes, the sheets that they come out of, and how large it is outside."""

from dataclasses import dataclass

import numpy as np

from fondale.core.how import How, Told
from fondale.core.limits import SMALLEST
from fondale.core.model import Case, Project
from fondale.core.model.stage import Boards, CaseOpening, Side
from fondale.core.stage.cases import KINDS, SIDES, Cell, base_mm, board_mm, cells, extent, floor_over_shelf, frame_of, layers
from fondale.core.words import digits

AIR_MM = 0.5  # round a pane, a hatch or a door, so that it goes in (common practice, no source)
FOOT_MM = 25.0


Point = tuple[float, float, float]


@dataclass(frozen=True)
class Panel:
    """One entry of the cut list: ``count`` alike, each glued up of ``layers`` sheets ``thick`` mm; lengths in mm. ``holes`` are cut into it. ``at`` is the
    middle of them all in the case's axes.
    """

    name: str
    stuff: str
    count: int
    long: float
    wide: float
    thick: float
    layers: int = 1
    holes: tuple[CaseOpening, ...] = ()
    at: Point = (0.0, 0.0, 0.0)

    @property
    def pieces(self) -> int:
        """How many pieces are sawn."""
        return self.count * self.layers


@dataclass(frozen=True)
class Outer:
    """Outside sizes in mm, what is under the floor included; how thick each side is, and how high the floor lies."""

    width: float
    depth: float
    height: float
    sides: dict[Side, float]
    floor: float


def outer(case: Case) -> Outer:
    """How large a case is outside."""
    boards, every = case.boards, cells(case)
    low, high = extent(case)
    thick = {"board": board_mm(boards), "pane": boards.pane, "open": 0.0}
    sides: dict[Side, float] = {}
    for side in SIDES:
        reach = [frame_of(c, side) for c in every]
        far = max(float(f.corner @ f.out) for f in reach)
        at_the_end = [c for c, f in zip(every, reach, strict=True) if float(f.corner @ f.out) > far - 1.0]
        sides[side] = max(thick[c.sides[side]] for c in at_the_end)
    if case.kind == "frame base":
        sides |= dict.fromkeys(("front", "back", "left", "right"), case.frame)
    w, d, h = (high - low).tolist()
    floor = floor_over_shelf(case)
    return Outer(w + sides["left"] + sides["right"], d + sides["front"] + sides["back"], h + sides["top"] + floor, sides, floor)


def cut_list(case: Case) -> tuple[Panel, ...]:
    """Every board and pane to be cut. The base and the tops lie under and over the sides; backs and fronts stand between them.

    What two rooms share is cut once.
    """
    if not KINDS[case.kind].cut:
        return ()
    boards, out = case.boards, outer(case)
    (x0, y0), (x1, y1) = (-out.sides["left"], -out.sides["front"]), (out.width - out.sides["left"], out.depth - out.sides["front"])
    x, y, under = (x0 + x1) / 2, (y0 + y1) / 2, base_mm(boards)
    panels = [_board(boards, "base", out.width, out.depth, base=True, at=(x, y, -under / 2))]
    for cell in cells(case):
        panels += _of_room(case, cell)
    if boards.box:
        t = board_mm(boards)
        middle, under = (x, y, -under - boards.box / 2), under + boards.box
        panels += [
            _board(boards, "box below, front and back", out.width, boards.box, 2, at=middle),
            _board(boards, "box below, sides", max(out.depth - 2 * t, SMALLEST), boards.box, 2, at=middle),
            _board(boards, "box below, bottom", out.width, out.depth, at=(x, y, -under - t / 2)),
        ]
        under += t
    if boards.fingers:
        panels.append(Panel("feet", "board", 4, FOOT_MM, FOOT_MM, boards.fingers, at=(x, y, -under - boards.fingers / 2)))
    if case.kind == "frame base" and case.frame:
        panels += [
            _board(boards, "frame, long", max(out.width, out.depth), case.frame, 2, at=(x, y, board_mm(boards) / 2)),
            _board(
                boards,
                "frame, short",
                max(min(out.width, out.depth) - 2 * case.frame, SMALLEST),
                case.frame,
                2,
                at=(x, y, board_mm(boards) / 2),
            ),
        ]
    return tuple(panels)


def _board(
    boards: Boards,
    name: str,
    long: float,
    wide: float,
    count: int = 1,
    base: bool = False,
    holes: tuple[CaseOpening, ...] = (),
    at: Point = (0.0, 0.0, 0.0),
) -> Panel:
    told = boards.base if base else boards.board
    return Panel(name, "board", count, long, wide, boards.sheet or told, layers(told, boards.sheet), holes, at)


def _of_room(case: Case, cell: Cell) -> list[Panel]:
    """Boards, panes, lips, posts, hatches and doors of one room."""
    boards, found = case.boards, []
    (w, d, h), said = cell.size.tolist(), f"{cell.name}: " if cell.ident else ""
    thick = {s: {"board": board_mm(boards), "pane": boards.pane, "open": 0.0}[cell.sides[s]] for s in SIDES}
    deep = d + thick["front"] + thick["back"]
    sizes: dict[Side, tuple[float, float]] = {
        "front": (w, h), "back": (w, h), "left": (deep, h), "right": (deep, h), "top": (w + thick["left"] + thick["right"], deep),
    }  # fmt: skip
    if case.kind == "dome" and not cell.ident:
        return []
    for side in SIDES:
        long, wide = sizes[side]
        frame, around = frame_of(cell, side), (thick["back"] - thick["front"]) / 2 if side in ("left", "right", "top") else 0.0
        aside = (thick["right"] - thick["left"]) / 2 if side == "top" else 0.0
        middle = frame.at(np.array([frame.length / 2, frame.height / 2]), thick[side] / 2) + np.array([aside, around, 0.0])
        at: Point = (float(middle[0]), float(middle[1]), float(middle[2]))
        own = tuple(o for o in cell.hollow.openings if o.side == side)
        if cell.sides[side] == "board" and not _shared(case, cell, side):
            found.append(_board(boards, f"{said}{side}", long, wide, holes=own, at=at))
        if cell.sides[side] == "board":
            for o in own:
                if o.use != "look in":
                    air = 2 * AIR_MM
                    size = (max(o.width - air, SMALLEST), max(o.height - air, SMALLEST))
                    found.append(_board(boards, f"{said}{o.use} in the {side}", *size, at=at))
        if cell.sides[side] == "pane":
            air = 0.0 if side == "top" else 2 * AIR_MM
            found.append(
                Panel(f"{said}{side} pane", boards.pane_kind, 1, max(long - air, SMALLEST), max(wide - air, SMALLEST), boards.pane, at=at)
            )
            if cell.hollow.frame:
                f = cell.hollow.frame
                found += [
                    _board(boards, f"{said}{side} rails", long, f, 2, at=at),
                    _board(boards, f"{said}{side} posts", max(wide - 2 * f, SMALLEST), f, 2, at=at),
                ]
    if not cell.ident and cell.sides["front"] != "board" and cell.sides["top"] == "board":
        if case.lip_top > cell.hollow.frame:
            found.append(_board(boards, "top lip", w, min(case.lip_top, h), at=(w / 2, 0.0, h - min(case.lip_top, h) / 2)))
        if case.lip_sides > cell.hollow.frame:
            low = max(h - case.lip_top, SMALLEST)
            found.append(_board(boards, "side lips", low, min(case.lip_sides, w / 2), 2, at=(w / 2, 0.0, low / 2)))
    return found


def _shared(case: Case, cell: Cell, side: Side) -> bool:
    """Whether another room's board closes this side too: the one told first has it."""
    facing: dict[Side, Side] = {"front": "back", "back": "front", "left": "right", "right": "left", "top": "top"}
    here, every = frame_of(cell, side), cells(case)
    for other in every[: [c.ident for c in every].index(cell.ident)]:
        there = frame_of(other, facing[side])
        if side == "top" or other.sides[facing[side]] != "board":
            continue
        gap = float((there.corner - here.corner) @ here.out)
        if not -SMALLEST <= gap <= board_mm(case.boards) + 1.0:
            continue
        left = float((there.corner - here.corner) @ here.right) - there.length
        foot = float((there.corner - here.corner) @ here.up)
        if left <= 1.0 and left + there.length >= here.length - 1.0 and foot <= 1.0 and foot + there.height >= here.height - 1.0:
            return True
    return False


@dataclass(frozen=True)
class Laid:
    """One piece on a sheet: of which panel, and where it lies (mm)."""

    name: str
    x: float
    y: float
    long: float
    wide: float


@dataclass(frozen=True)
class Sheet:
    """One sheet of a stuff with what is sawn out of it, and the share that is left over."""

    stuff: str
    thick: float
    laid: tuple[Laid, ...]
    left: float


@dataclass(frozen=True)
class CutPlan:
    """The cut list with the sheets of board that it needs; ``too_large`` are panels that no sheet holds."""

    panels: tuple[Panel, ...]
    outer: Outer
    sheets: tuple[Sheet, ...]
    too_large: tuple[str, ...]

    @property
    def area_m2(self) -> float:
        """All that is sawn of board, in square metres."""
        return sum(p.pieces * p.long * p.wide for p in self.panels if p.stuff == "board") / 1e6


def cut_plan(case: Case) -> CutPlan:
    """The cut list, laid out on sheets with the saw's kerf between the pieces: cuts run from edge to edge, pieces may be turned."""
    from rectpack import SORT_AREA, PackingMode, newPacker
    from rectpack.guillotine import GuillotineBssfSas

    panels, boards = cut_list(case), case.boards
    kerf, long, wide = boards.kerf, boards.sheet_long, boards.sheet_wide
    sheets: list[Sheet] = []
    too_large = []
    for thick in sorted({p.thick for p in panels if p.stuff == "board" and p.name != "feet"}):
        packer = newPacker(mode=PackingMode.Offline, pack_algo=GuillotineBssfSas, sort_algo=SORT_AREA, rotation=True)
        count = 0
        for panel in (p for p in panels if p.stuff == "board" and p.thick == thick and p.name != "feet"):
            if not _goes_on(panel, long, wide):
                too_large.append(panel.name)
                continue
            for _k in range(panel.pieces):
                packer.add_rect(panel.long + kerf, panel.wide + kerf, rid=panel.name)
                count += 1
        if not count:
            continue
        packer.add_bin(long + kerf, wide + kerf, count=count)
        packer.pack()
        for sheet in packer:
            laid = tuple(Laid(str(r.rid), float(r.x), float(r.y), float(r.width) - kerf, float(r.height) - kerf) for r in sheet)
            used = sum(x.long * x.wide for x in laid)
            sheets.append(Sheet("board", thick, laid, 1 - used / (long * wide)))
    return CutPlan(panels, outer(case), tuple(sheets), tuple(too_large))


def _goes_on(panel: Panel, long: float, wide: float) -> bool:
    return max(panel.long, panel.wide) <= max(long, wide) and min(panel.long, panel.wide) <= min(long, wide)


def panel_words(panel: Panel) -> tuple[str, str, str, str]:
    """A panel in words: name, pieces, size, and of what."""
    holes = f", {len(panel.holes)} {'opening' if len(panel.holes) == 1 else 'openings'}" if panel.holes else ""
    size = f"{digits(panel.long, 1)} × {digits(panel.wide, 1)} mm"
    count = f"{panel.count} × {panel.layers}" if panel.layers > 1 else str(panel.count)
    return panel.name[:1].upper() + panel.name[1:] + holes, count, size, f"{panel.stuff}, {digits(panel.thick, 2)} mm"


def outer_told(project: Project) -> Told:
    """How large the case is outside, and from what."""
    case, out = project.case, outer(project.case)
    boards = case.boards
    low, high = extent(case)
    said = " × ".join(digits(v, 1) for v in (out.width, out.depth, out.height)) + " mm"
    lines = [
        f"inside {' × '.join(digits(float(v), 1) for v in high - low)} mm",
        f"left {digits(out.sides['left'], 1)}, right {digits(out.sides['right'], 1)}, front {digits(out.sides['front'], 1)}, "
        f"back {digits(out.sides['back'], 1)}, top {digits(out.sides['top'], 1)} mm thick",
        f"under the floor {digits(out.floor, 1)} mm: base {digits(base_mm(boards), 1)}"
        + (f", box {digits(boards.box, 1)} and its bottom {digits(board_mm(boards), 1)}" if boards.box else "")
        + (f", fingers {digits(boards.fingers, 1)}" if boards.fingers else ""),
    ]
    if boards.sheet:
        lines.append(
            f"boards of {layers(boards.board, boards.sheet)} sheets of {digits(boards.sheet, 2)} mm: {digits(board_mm(boards), 2)} mm; "
            f"the base of {layers(boards.base, boards.sheet)}: {digits(base_mm(boards), 2)} mm"
        )
    return Told(f"outside {said}", How("Outside sizes", "\n".join(lines), said, "addition"))
