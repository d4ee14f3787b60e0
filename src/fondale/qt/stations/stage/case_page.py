# SPDX-License-Identifier: MIT
"""The case: its rooms and their sides, what it is built of, and what is sawn for it."""

from functools import partial
from operator import attrgetter
from pathlib import Path
from typing import Any, get_args

from PySide6.QtWidgets import QButtonGroup, QFileDialog, QVBoxLayout

from fondale.core.cautions import cautions_of_case
from fondale.core.derived import CUTS
from fondale.core.edits import put, remove
from fondale.core.edits.new_things import add_room
from fondale.core.model import PROJECT, ROOMS, CaseRoom, Spot
from fondale.core.model.shapes import Clear
from fondale.core.model.stage import Side
from fondale.core.spreadsheets import PLAIN, Signs
from fondale.core.stage.cases import KINDS, SIDES, board_mm, layers
from fondale.core.stage.cutting import CutPlan, outer_told
from fondale.core.words import digits
from fondale.qt.furniture.columns import Columns
from fondale.qt.furniture.dialogs import TABLES, signs_of, write_file
from fondale.qt.furniture.fields import Choice, ColourField, Field, length_field, length_or_none, place_field, words
from fondale.qt.furniture.finder import Several
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import Picks, action, heading, line_of, menu_button, pick
from fondale.qt.furniture.table import Table
from fondale.qt.furniture.ticket import Row, Ticket
from fondale.qt.session import Session
from fondale.qt.stations.stage.cut_drawings import COLUMNS, SheetsDrawing, cut_entries
from fondale.qt.stations.stage.face import Face
from fondale.qt.stations.stage.openings import DEEDS, CaseOpenings

CAPTION, WIDE, CHOICE = 62, 76, 104
FACE_LEAST = 170  # of the drawing, at 100 %
FRONTS = [("pane", "a pane"), ("board", "a board"), ("open", "open")]


class CasePage(Page):
    """Left the rooms with their values and the openings of a side; right the boards, the cut list and the sheets."""

    title, shows = "The case", (ROOMS,)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.openings = CaseOpenings(session)
        self.lay_out(Columns(24, (self._left(), 5), (self._right(), 6)))

    # What stands on it.

    def _left(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(6)
        head, _note = heading("Rooms")
        self._rooms = Picks(self._show_room)
        head.insertLayout(1, self._rooms)
        head.addWidget(action("Add a room", self._add_room, "One more room, upon the highest"))
        column.addLayout(head)
        self.ticket = Ticket(3)
        self.ticket.removed.connect(self._remove_room)
        self.foresee(self.ticket, "the case", self._case_rows)
        column.addWidget(self.ticket)
        head, _note = heading("Sides")
        self._group = QButtonGroup(self)
        self.sides = {side: pick(side, partial(self._show_side, side), self._group) for side in SIDES}
        for button in self.sides.values():
            head.insertWidget(head.count() - 1, button)
        head.addWidget(menu_button("Openings…", [(said, partial(self._change, how)) for how, said in DEEDS.items()]))
        column.addLayout(head)
        self._what = Prose("soft")
        column.addWidget(self._what)
        self.face = Face(self.session, self.openings)
        column.addWidget(self.face, 1)
        self.opening = Ticket(3)
        column.addWidget(self.opening)
        return column

    def _right(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(6)
        column.addLayout(heading("Boards")[0])
        self.boards = Ticket(4)
        self.foresee(self.boards, "boards", self._board_rows)
        column.addWidget(self.boards)
        self.outside, self._glued = HowButton(), Prose("soft")
        column.addLayout(line_of(self.outside))
        column.addWidget(self._glued)
        head, self._sawn = heading("Cut list")
        head.addWidget(action("Write it as a table…", self._write, "The cut list as CSV"))
        column.addLayout(head)
        self.table = Table(self.session, "Cut list", COLUMNS)
        column.addWidget(self.table.framed(), 3)
        self._sheets = Prose("soft")
        column.addWidget(self._sheets)
        self.sheets = SheetsDrawing(self.session)
        column.addWidget(self.sheets, 2)
        return column

    # Rows of the tickets.

    def _length(self, caption: str, spot: Spot[float], label: str) -> Row:
        field = length_field(caption, self.session.setter(spot, label), lambda: self.session.project.brief.house_n, WIDE)
        return field.caption_width(CAPTION), spot.find

    def _or_none(self, caption: str, spot: Spot[float], label: str, nothing: str = "none") -> Row:
        return length_or_none(caption, self.session.setter(spot, label), nothing, WIDE).caption_width(CAPTION), spot.find

    def _at(self, caption: str, spot: Spot[float], label: str) -> Row:
        return place_field(caption, self.session.setter(spot, label), WIDE).caption_width(CAPTION), spot.find

    def _choice(self, caption: str, options: list[tuple[Any, str]], spot: Spot[Any], label: str) -> Row:
        return Choice(caption, options, self.session.setter(spot, label), CHOICE).caption_width(CAPTION), spot.find

    def _paint(self, caption: str, hollow: Spot[Any], name: str) -> Row:
        """The paint of a side; a side wall without one of its own has that of the back."""
        spot, back = hollow.then(attrgetter(name)), hollow.then(lambda h: h.wall_paint)
        field = ColourField(caption, self.session.setter(spot, f"Paint of the {caption}"), WIDE)
        return field.caption_width(CAPTION), lambda p: spot.find(p) or back.find(p)

    def _hollow_rows(self, hollow: Spot[Any], name: str) -> list[Row]:
        """What every room has."""
        sizes = [self._length(size, hollow.then(attrgetter(size)), f"Inside {size} of {name}") for size in ("width", "depth", "height")]
        panes = Several(
            "also glazed:", lambda: [(s, s) for s in SIDES], lambda: self._panes(hollow), lambda side: self._glaze(hollow, side)
        )
        paints = (
            ("floor", "floor_paint"),
            ("back", "wall_paint"),
            ("left", "left_paint"),
            ("right", "right_paint"),
            ("ceiling", "ceiling_paint"),
        )
        return [
            *sizes,
            (panes, lambda _p: None),
            self._or_none("posts", hollow.then(lambda h: h.frame), f"Posts and rails of {name}"),
            *(self._paint(caption, hollow, field) for caption, field in paints),
        ]  # fmt: skip

    def _panes(self, hollow: Spot[Any]) -> tuple[Side, ...]:
        return tuple(hollow.read(self.session.project).panes)

    def _glaze(self, hollow: Spot[Any], side: Side) -> None:
        now = self._panes(hollow)
        new = tuple(s for s in now if s != side) if side in now else (*now, side)
        self.session.do(put(hollow.then(lambda h: h.panes), new, f"Glaze the {side}" if side in new else f"Board the {side}"))

    def _case_rows(self) -> list[Row]:
        case = PROJECT.then(lambda p: p.case)
        hollow: Spot[Any] = case
        kinds = [(k, k) for k in KINDS]
        return [
            self._choice("kind", list(kinds), case.then(lambda c: c.kind), "Kind of case"),
            *self._hollow_rows(hollow, "the case"),
            self._or_none("top lip", case.then(lambda c: c.lip_top), "Lip at the top"),
            self._or_none("side lips", case.then(lambda c: c.lip_sides), "Lips at the sides"),
        ]

    def _room_rows(self, room: CaseRoom) -> list[Row]:
        at, hollow = ROOMS.at(room.id), self.openings.hollow
        name = Field("name", words(1, 120), str, self.session.setter(at.then(lambda r: r.name), "Rename"))
        return [
            (name.caption_width(CAPTION), at.then(lambda r: r.name).find),
            self._at("x", at.then(lambda r: r.x), f"Move {room.name}"),
            self._at("y", at.then(lambda r: r.y), f"Move {room.name}"),
            self._at("up", at.then(lambda r: r.z), f"Move {room.name}"),
            *self._hollow_rows(hollow, room.name),
            self._choice("front", list(FRONTS), at.then(lambda r: r.front), f"Front of {room.name}"),
        ]

    def _board_rows(self) -> list[Row]:
        boards = PROJECT.then(lambda p: p.case).then(lambda c: c.boards)
        panes = [(k, k) for k in get_args(Clear)]
        return [
            self._length("boards", boards.then(lambda b: b.board), "Thickness of the boards"),
            self._length("base", boards.then(lambda b: b.base), "Thickness of the base"),
            self._or_none("sheet", boards.then(lambda b: b.sheet), "Sheet that boards are glued up of", "as thick"),
            self._length("long", boards.then(lambda b: b.sheet_long), "Length of a sheet"),
            self._length("wide", boards.then(lambda b: b.sheet_wide), "Breadth of a sheet"),
            self._or_none("kerf", boards.then(lambda b: b.kerf), "Kerf of the saw"),
            self._length("pane", boards.then(lambda b: b.pane), "Thickness of the panes"),
            self._choice("of", list(panes), boards.then(lambda b: b.pane_kind), "What the panes are of"),
            self._or_none("box below", boards.then(lambda b: b.box), "Box under the floor"),
            self._or_none("fingers", boards.then(lambda b: b.fingers), "Room for fingers"),
        ]

    # What is done.

    def _add_room(self) -> None:
        made = self.session.make(add_room)
        if made is not None and self.session.do(made[0]):
            self._show_room(made[1])

    def _remove_room(self) -> None:
        room = self.session.project.find(ROOMS, self.openings.room)
        if room is not None and self.session.do(remove(ROOMS, room)):
            self._show_room("")

    def _show_room(self, ident: str) -> None:
        self.openings.at = 0
        self.session.select(ROOMS, ident)
        self.refresh()

    def _show_side(self, side: Side, _checked: bool = False) -> None:
        self.openings.side, self.openings.at = side, 0
        self.refresh()

    def _change(self, how: str) -> None:
        self.openings.change(how)
        self.refresh()

    def _write(self) -> None:
        name, kind = QFileDialog.getSaveFileName(self, "Write the cut list", "cut-list.csv", ";;".join(TABLES))
        plan = self.session.results[CUTS]
        if name and plan is not None:
            self.write(Path(name), plan, signs_of(kind))

    def write(self, path: Path, plan: CutPlan, signs: Signs = PLAIN) -> bool:
        """Write the cut list as a table."""
        from fondale.papers.lists import cut_table

        return write_file(self, self.session, path, cut_table(plan, signs).encode())

    def refresh(self) -> None:
        """Follow the project."""
        project = self.session.project
        self.openings.room = self.session.selected.get(ROOMS, "")
        cell = self.openings.cell
        self.openings.room = cell.ident
        room = project.find(ROOMS, cell.ident)
        self._rooms.show_words([("", "the case"), *((r.id, r.name) for r in project.case.rooms)], cell.ident)
        what = f"room {room.id}" if room is not None else "the case"
        title = room.name if room is not None else KINDS[project.case.kind].words
        self.ticket.show_thing(
            what, title[:1].upper() + title[1:], room is not None, lambda: self._room_rows(room) if room else self._case_rows()
        )
        self.ticket.read(project)
        for side, button in self.sides.items():
            button.setChecked(side == self.openings.side)
        is_ = cell.sides[self.openings.side]
        said = {"board": "A board", "pane": "A pane: it has no openings", "open": "Open: there is nothing to cut into"}[is_]
        self._what.setText(f"{said}, seen from outside." if self.openings.side != "top" else f"{said}, seen from above, the front below.")
        now = self.openings.now()
        about = f"{cell.ident} {self.openings.side} {len(now)} {self.openings.at}"
        self.opening.show_thing(about, "" if now else "No openings here.", False, self.openings.rows)
        self.opening.read(project)
        self.face.setMinimumHeight(self.session.theme.px(FACE_LEAST))
        self.face.update()
        self.boards.show_thing("boards", "", False, self._board_rows)
        self.boards.read(project)
        self.boards.show_care(cautions_of_case(project.case))
        self.outside.show_told(outer_told(project))
        self._say_sheets(self.session.results[CUTS])

    def _say_sheets(self, plan: CutPlan | None) -> None:
        boards = self.session.project.case.boards
        glued = (
            f"{layers(boards.board, boards.sheet)} sheets of {digits(boards.sheet, 2)} mm make {digits(board_mm(boards), 2)} mm."
            if boards.sheet
            else ""
        )
        self._glued.setText(glued)
        self._glued.setVisible(bool(glued))
        self.table.show_entries(cut_entries(plan))
        self.sheets.show_plan(plan)
        if plan is None:
            return
        self._sawn.setText(f"{sum(p.pieces for p in plan.panels)} pieces, {digits(plan.area_m2, 2)} m² of board" if plan.panels else "")
        if not plan.panels:
            self._sheets.setText("Nothing is sawn for a place in a shelf that is there already.")
            return
        count = len(plan.sheets)
        said = f"{count} {'sheet' if count == 1 else 'sheets'} of {digits(boards.sheet_long, 0)} × {digits(boards.sheet_wide, 0)} mm."
        for name in plan.too_large:
            said += f" No sheet holds “{name}”: join it of two, or tell a larger sheet."
        self._sheets.setText(said)
