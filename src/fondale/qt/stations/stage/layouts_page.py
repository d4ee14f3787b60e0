# SPDX-License-Identifier: MIT
"""Layouts side by side: how everything stands, and how it stood or might."""

from functools import partial

from PySide6.QtWidgets import QVBoxLayout, QWidget

from fondale.app.errands import COMPARE, Compared
from fondale.app.workers import Report
from fondale.core.derived import STAGE, VIEWS
from fondale.core.edits import remove
from fondale.core.edits.layouts import is_present, keep_layout, lay_out
from fondale.core.model import LAYOUTS, SEATS, Layout, Project
from fondale.core.words import percent
from fondale.qt.furniture.columns import Columns
from fondale.qt.furniture.fields import Field, words
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import Picks, ShortAction, action, headed, heading
from fondale.qt.furniture.seat_picture import SeatPicture
from fondale.qt.furniture.table import Column, Entry, Table
from fondale.qt.furniture.ticket import Row, Ticket
from fondale.qt.session import Session

COLUMNS = (Column("piece", 0.5), Column("seen now", 0.25, True), Column("seen there", 0.25, True))
POORER = 0.02  # of what is seen


class LayoutsPage(Page):
    """Left the present, right the chosen one; below what the seat sees of each piece in either."""

    title, shows = "Layouts", (LAYOUTS,)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._of: tuple[Project, Layout, str] | None = None
        self._found: Compared | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        head, _note = heading("Kept")
        self._kept = Picks(self._choose)
        head.insertLayout(1, self._kept)
        head.addWidget(action("Keep the present layout", self._keep, "As it stands now, to compare with or come back to"))
        column.addLayout(head)
        self.now, self.other = SeatPicture(session), SeatPicture(session)
        left, self.there = headed("Now"), QWidget()
        right = headed("There")
        left.addWidget(self.now, 1)
        right.addWidget(self.other, 1)
        right.setContentsMargins(0, 0, 0, 0)
        self.there.setLayout(right)
        column.addWidget(Columns(16, (left, 1), (self.there, 1)), 3)
        self.words = Prose("soft")
        column.addWidget(self.words)
        self.ticket = Ticket(2)
        self.ticket.removed.connect(self._remove)
        self.do_it = ShortAction("Lay it out so", self._lay_out)
        self.ticket.line.addWidget(self.do_it)
        column.addWidget(self.ticket)
        self.table = Table(session, "Seen share of every piece in both layouts", COLUMNS)
        column.addWidget(self.table.framed(), 2)

    def _keep(self) -> None:
        made = self.session.make(keep_layout)
        if made is not None and self.session.do(made[0]):
            self.session.select(LAYOUTS, made[1])
            self.refresh()

    def _lay_out(self) -> None:
        layout = self.chosen(LAYOUTS)
        edit = self.session.make(lay_out, layout) if layout is not None else None
        if edit is not None:
            self.session.do(edit)

    def _remove(self) -> None:
        layout = self.chosen(LAYOUTS)
        if layout is not None:
            self.session.do(remove(LAYOUTS, layout))

    def _rows(self, layout: Layout | None) -> list[Row]:
        if layout is None:
            return []
        spot = LAYOUTS.at(layout.id).then(lambda x: x.name)
        return [(Field("name", words(1, 120), str, self.session.setter(spot, "Rename"), 220), spot.find)]

    def refresh(self) -> None:
        """Follow the project, the seat and what is kept."""
        project, layout = self.session.project, self.chosen(LAYOUTS)
        seat = self.session.results.look.seat_of(project)
        self._kept.show_words([(x.id, x.name) for x in project.layouts], layout.id if layout is not None else "")
        stage = self.session.results[STAGE]
        self.now.show_view(stage if stage is not None and stage.seat == seat else None, self.session.results.fresh(STAGE))
        self.ticket.show_thing(layout.id if layout else "", layout.name if layout else "", layout is not None, partial(self._rows, layout))
        self.ticket.read(project)
        here = layout is not None and is_present(project, layout)
        self.do_it.setVisible(layout is not None and not here)
        if layout is None:
            self.words.setText("Nothing is kept yet. Keep the present layout, move things, and both stand here side by side.")
        else:
            self.words.setText(
                "It stands so now." if here else f"Another layout, from {self._seat_name(seat)}. The Diary keeps the hours of either."
            )
        self._ask(project, layout, seat)
        self.there.setVisible(layout is not None)
        found = self._found if layout is not None else None
        self.other.show_view(found.view if found is not None else None, self._of == (project, layout, seat))
        self._fill_table(project, seat, found)

    def _seat_name(self, seat: str) -> str:
        chosen = self.session.project.find(SEATS, seat)
        return chosen.name if chosen is not None else "nowhere"

    def _choose(self, ident: str) -> None:
        self.session.select(LAYOUTS, ident)
        self.refresh()

    def _ask(self, project: Project, layout: Layout | None, seat: str) -> None:
        """Look at the other layout in the background."""
        if layout is None or self._of == (project, layout, seat) or self.session.results.errands.doing(COMPARE):
            return
        asked = (project, layout, seat)

        def looked(report: Report) -> None:
            self._of, self._found = asked, report.found if report.good else None
            self.refresh()

        self.session.results.errands.ask(COMPARE, (*asked, self.session.results.look.width), looked)

    def _fill_table(self, project: Project, seat: str, found: Compared | None) -> None:
        here = {v.piece: v.seen for v in self.session.results[VIEWS] or () if v.seat == seat}
        there = {v.piece: v.seen for v in found.views if v.seat == seat} if found is not None else {}
        rows = []
        for piece in project.pieces:
            if piece.id in here or piece.id in there:
                a, b = here.get(piece.id), there.get(piece.id)
                told = tuple(percent(x) if x is not None else "" for x in (a, b))
                rows.append(Entry("", (piece.name, *told), a is not None and b is not None and a < b - POORER))
        self.table.show_entries(rows)
