# SPDX-License-Identifier: MIT
"""Where everything stands, and who sees what from where: plan and section, and the view from a seat."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any, get_args

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QButtonGroup, QFileDialog, QHBoxLayout, QScrollArea, QStackedWidget, QVBoxLayout

from fondale.core.derived import SEAMS, STAGE, VIEWS
from fondale.core.edits import remove
from fondale.core.edits.new_things import SEAT_KINDS, add_piece, add_seat
from fondale.core.lengths import LengthError
from fondale.core.model import PIECES, SEATS, Piece, Seat
from fondale.core.model.shapes import Figure, Ground
from fondale.core.shapes import FURNITURE, KINDS, ShapeKind, kind_of
from fondale.core.stage.cases import cells_on, storeys
from fondale.core.stage.clearance import room_of
from fondale.core.stage.glass import see_through
from fondale.core.stage.scene import rest_places
from fondale.core.stage.seams import seam_told
from fondale.core.views.places import Found, Target
from fondale.core.views.sight import eyes_told, seen_told
from fondale.core.words import digits
from fondale.qt.furniture.again import Again
from fondale.qt.furniture.columns import Columns
from fondale.qt.furniture.dialogs import ask, write_file
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Line
from fondale.qt.furniture.rows import Picks, heading, hold, menu_button, pick
from fondale.qt.furniture.ticket import Row, Ticket
from fondale.qt.session import Session, Way
from fondale.qt.stations.stage.composed import Composed
from fondale.qt.stations.stage.drawing import Drawing, outline_in
from fondale.qt.stations.stage.face import Face
from fondale.qt.stations.stage.ground_lines import DEEDS as GROUND_DEEDS
from fondale.qt.stations.stage.lamp_handles import Axis
from fondale.qt.stations.stage.openings import DEEDS
from fondale.qt.stations.stage.relief import Relief
from fondale.qt.stations.stage.rows import StageRows, parse_point
from fondale.qt.stations.stage.seat_view import SeatView
from fondale.qt.stations.stage.seen import SeenTable
from fondale.qt.stations.stage.seen_from import SeenFrom

SEEN_LEAST = 96  # the table's head and some rows, at 100 %
DRAWN_LEAST = 200  # of each drawing either way


class StagePage(Page):
    """Plan and section on the left, the view from the chosen seat on the right, the ticket below."""

    title, shows = "The scene", (PIECES, SEATS)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._rows = StageRows(session)
        left = QVBoxLayout()
        left.setSpacing(4)
        head, _note = heading("Plan")
        self._storeys = Picks(self._show_storey)
        head.insertLayout(1, self._storeys)
        offers = [(k.words, lambda k=k: self._add(k)) for k in KINDS if k.words]
        furniture = [(k.words, lambda k=k: self._add(k)) for k in FURNITURE]
        menus = (("Seen from where…", self._targets), ("Furniture…", furniture), ("Add a piece…", offers))
        left.addWidget(Columns(4, (head, 1), *((menu_button(said, entries), 0) for said, entries in menus)))
        self.plan = Drawing(session, "plan")
        left.addWidget(self.plan, 5)
        head, self._section_note = heading("Section")
        self._group = QButtonGroup(self)
        self._picks = [pick(t, partial(self._show_drawing, k), self._group) for k, t in enumerate(("section", "its face"))]
        self._picks[0].setChecked(True)
        for button in self._picks:
            head.addWidget(button)
        left.addLayout(head)
        self.section = Drawing(session, "section")
        self.face = Face(session, self._rows.openings)
        self._drawings = QStackedWidget()
        self._drawings.addWidget(self.section)
        self._drawings.addWidget(self.face)
        self.relief = Relief(session, self._rows.lines)
        self._drawings.addWidget(self.relief)
        left.addWidget(self._drawings, 4)
        self.seen_from = SeenFrom(session)
        self.seen_from.found.connect(self._show_sight)
        left.addWidget(self.seen_from)
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addWidget(self._seat_bar())
        self.view = SeatView(session)
        right.addWidget(self.view, 4)
        self.composed = Composed(session, self.view)
        right.addWidget(self.composed)
        self._editing, self._last_piece = "pieces", ""
        self.ticket = Ticket(4)
        self.ticket.removed.connect(self._remove_chosen)
        self.seen = HowButton()
        self.ticket.line.addWidget(self.seen)
        self.openings = menu_button("Openings…", [(said, partial(self._change_openings, how)) for how, said in DEEDS.items()])
        self.lines = menu_button("Lines…", [(said, partial(self._change_lines, how)) for how, said in GROUND_DEEDS.items()])
        self.again = Again(session, lambda: (PIECES, session.chosen(PIECES)))
        for button in (self.openings, self.lines, self.again.button):
            self.ticket.line.addWidget(button)
        right.addWidget(self.ticket)
        self.seam = HowButton()
        right.addWidget(self.seam, 0, Qt.AlignmentFlag.AlignLeft)
        self.seen_table = SeenTable(session)
        self.seen_table.chosen.connect(lambda i: session.select(PIECES, i))
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        hold(scroll, self.seen_table)
        self._seen_scroll = scroll
        right.addWidget(scroll, 1)
        self.lay_out(Columns(16, (left, 9), (right, 11)))

    def _seat_bar(self) -> Columns:
        bar = QHBoxLayout()
        bar.setSpacing(4)
        label = Line("soft", "From")
        bar.addWidget(label)
        self._seats = Picks(self.session.choose_seat)
        bar.addLayout(self._seats)
        bar.addStretch(1)
        entries: list[tuple[str, Callable[[], object]]] = [
            *((f"Add a {kind}", partial(self._add_seat, kind)) for kind in SEAT_KINDS),
            ("Edit this seat", lambda: self._choose("seats")),
            ("How is the view composed?", lambda: self.composed.switch()),
            ("Save this view as a picture…", self._save_view),
        ]
        return Columns(4, (bar, 1), (menu_button("Seats…", entries), 0))

    def _targets(self) -> list[tuple[str, Callable[[], object]]]:
        """What can be looked for: the chosen piece, its face, every lamp; and nothing."""
        project, look = self.session.project, self.seen_from.look_for
        piece = project.find(PIECES, self.session.chosen(PIECES))
        out: list[tuple[str, Callable[[], object]]] = [("nothing", lambda: look(None))]
        if piece is not None and piece.place is not None:
            out.append((piece.name, lambda: look(Target("piece", piece.id))))
            if isinstance(piece.shape, Figure):
                out.append((f"the face of {piece.name}", lambda: look(Target("face", piece.id))))
        out.append(("a point…", self._ask_point))
        return [*out, *((f"the bulb of {m.name}", partial(look, Target("lamp", m.id))) for m in project.lamps)]

    def _ask_point(self) -> None:
        """Ask for a point of the case: a wire's end, the edge of a backdrop, an unpainted corner."""
        high = self.session.project.case
        text = ask(
            self, "A point", "From the left, from the front, and up, in mm", f"{digits(high.width / 2, 0)}, {digits(high.depth / 2, 0)}, 20"
        )
        if text is None:
            return
        try:
            self.seen_from.look_for(Target("point", at=parse_point(text)))
        except LengthError as error:
            self.session.said.emit(str(error))

    def _show_sight(self, found: Found | None) -> None:
        for drawing in (self.plan, self.section):
            drawing.show_sight(found)

    def _show_drawing(self, which: int, _checked: bool = False) -> None:
        self._picks[which].setChecked(True)
        above = bool(which) and self._rows.lines.shape is not None
        self._drawings.setCurrentIndex(2 if above else which)
        self._section_note.setText("" if which else "front on the left")

    def _change_openings(self, how: str) -> None:
        piece = self.session.project.find(PIECES, self.session.chosen(PIECES))
        if piece is not None:
            self._rows.openings.change(how)
            self._show_drawing(1)
            self.refresh()

    def _change_lines(self, how: str) -> None:
        self._rows.lines.change(how)
        self._show_drawing(1)
        self.refresh()

    def _choose(self, what: str) -> None:
        self._editing = what
        self.refresh()

    def _add(self, kind: ShapeKind[Any]) -> None:
        on_show = cells_on(self.session.project.case, self.plan.storey)
        edit, ident = add_piece(self.session.project, kind, room=on_show[0].ident if on_show else "")
        if self.session.do(edit):
            self.session.select(PIECES, ident)
            self._choose("pieces")

    def _save_view(self) -> None:
        name, _filter = QFileDialog.getSaveFileName(self, "Save this view", "view.png", "Pictures (*.png)")
        if name:
            self.save_view(Path(name))

    def save_view(self, path: Path) -> bool:
        """Write the view as a picture."""
        data = self.view.png()
        if data is None:
            self.session.said.emit("There is no view yet: add a seat first.")
            return False
        return write_file(self, self.session, path, data)

    def _add_seat(self, kind: str = "visitor, standing") -> None:
        edit, ident = add_seat(self.session.project, kind)
        if self.session.do(edit):
            self.session.choose_seat(ident)
            self._choose("seats")

    def _remove_chosen(self) -> None:
        project = self.session.project
        seat, piece = project.find(SEATS, self.session.results.look.seat_of(project)), project.find(PIECES, self.session.chosen(PIECES))
        if self._editing == "seats" and seat is not None:
            self.session.do(remove(SEATS, seat))
        elif self._editing == "pieces" and piece is not None:
            self.session.do(remove(PIECES, piece))

    def preparing(self) -> Way:
        """Where everything stands, and the outline of each piece of scenery."""
        project = self.session.project
        yield partial(rest_places, project)
        places = rest_places(project)
        for axis in get_args(Axis):
            yield from (
                partial(outline_in, self.session, axis, p, places[p.id])
                for p in project.pieces
                if p.id in places and not kind_of(p.shape).living
            )

    def refresh(self) -> None:
        """Follow the project, the seat and the results."""
        piece = self.session.selected.get(PIECES, "")
        if piece and piece != self._last_piece:
            self._editing = "pieces"
            self._to_storey_of(piece)
        self._last_piece = piece
        project = self.session.project
        self._seats.show_words(
            [(s.id, s.name.removeprefix("the ")) for s in project.seats], self.session.results.look.seat_of(project), "Look from"
        )
        self._fill_storeys()
        self.seen_from.refresh()
        self.composed.refresh()
        stage = self.session.results[STAGE]
        current = stage if stage is not None and stage.seat == self.session.results.look.seat_of(self.session.project) else None
        self.view.show_view(current, self.session.results.fresh(STAGE))
        self.plan.update()
        self.section.update()
        self.seen_table.updateGeometry()
        self.seen_table.update()
        self._seen_scroll.setMinimumHeight(self.session.theme.px(SEEN_LEAST))
        for drawing in (self.plan, self._drawings):
            drawing.setMinimumSize(self.session.theme.px(DRAWN_LEAST), self.session.theme.px(DRAWN_LEAST))
        self._fill_ticket()

    def _to_storey_of(self, ident: str) -> None:
        """The plan shows the floor on which the chosen piece stands."""
        project = self.session.project
        piece = project.find(PIECES, ident)
        if piece is not None and piece.place is not None and project.case.rooms:
            self.plan.storey = float(room_of(project.case, piece.place).low[2])

    def _fill_storeys(self) -> None:
        """One word for each floor, where there is more than one."""
        floors = storeys(self.session.project.case)
        if self.plan.storey not in floors:
            self.plan.storey = min(floors, key=lambda z: abs(z - self.plan.storey))
        words = [(z, "ground" if z == 0 else f"at {digits(z, 0)} mm") for z in floors]
        self._storeys.show_words(words if len(floors) > 1 else [], self.plan.storey)

    def _show_storey(self, z: float) -> None:
        self.plan.storey = z
        self.refresh()

    def _fill_ticket(self) -> None:
        project = self.session.project
        piece = project.find(PIECES, self.session.chosen(PIECES))
        seat = project.find(SEATS, self.session.results.look.seat_of(project))
        if self._editing == "seats" and seat is not None:
            what, title = f"seat {seat.id} {bool(seat.lens_mm)}", seat.name
        elif piece is not None:
            openings = getattr(piece.shape, "openings", None)
            more: tuple[object, ...] = (len(openings), self._rows.openings.at) if openings is not None else ()
            more = self._rows.lines.key if isinstance(piece.shape, Ground) else more
            rooms = [r.id for r in project.case.rooms]
            what, title = f"piece {piece.id} {piece.shape.kind} {piece.place is None} {more} {rooms} {bool(piece.swing_deg)}", piece.name
            what += f" {see_through(piece.shape)}"  # paint makes no difference to what one sees through
        else:
            what, title = "nothing", "Nothing placed yet: add a piece."
        removable = what.startswith(("piece", "seat"))
        walled = what.startswith("piece") and piece is not None and hasattr(piece.shape, "openings")
        ground = what.startswith("piece") and piece is not None and isinstance(piece.shape, Ground)
        self.openings.setVisible(walled)
        self.lines.setVisible(ground)
        self.again.button.setVisible(what.startswith("piece"))
        for button in self._picks:
            button.setVisible(walled or ground)
        self._picks[1].setText("from above" if ground else "its face")
        self._show_drawing(int(self._picks[1].isChecked() and (walled or ground)))
        self.face.update()
        self.relief.update()
        self.ticket.show_thing(what, title, removable, lambda: self._make_rows(piece, seat))
        self.ticket.read(project)
        self._show_seen(piece)

    def _make_rows(self, piece: Piece | None, seat: Seat | None) -> list[Row]:
        """Fields and how to read their values, for what is being edited."""
        if self._editing == "seats" and seat is not None:
            return self._rows.seat(seat)
        return self._rows.piece(piece) if piece is not None else []

    def _show_seen(self, piece: Piece | None) -> None:
        project, known = self.session.project, self.session.results[VIEWS] or ()
        self._show_seam(piece if self._editing == "pieces" else None)
        seat = project.find(SEATS, self.session.results.look.seat_of(project))
        if self._editing == "seats" and seat is not None:
            self.seen.show_told(eyes_told(project, seat))
            self.seen.setVisible(True)
            return
        view = next((v for v in known if piece and v.piece == piece.id and seat and v.seat == seat.id), None)
        self.seen.setVisible(view is not None and self._editing == "pieces")
        if view is not None and piece is not None and seat is not None:
            place = rest_places(self.session.results.project).get(piece.id)
            self.seen.show_told(seen_told(view, seat, place.z or 0.0 if place else 0.0))

    def _show_seam(self, piece: Piece | None) -> None:
        """Where the chosen piece is sawn so that it sits on what it is part of."""
        found = next((s for s in self.session.results[SEAMS] or () if piece and s.piece == piece.id), None)
        host = self.session.project.find(PIECES, found.host) if found is not None else None
        self.seam.setVisible(host is not None)
        if found is not None and piece is not None and host is not None:
            self.seam.show_told(seam_told(found, piece, host))
