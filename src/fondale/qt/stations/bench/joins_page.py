# SPDX-License-Identifier: MIT
"""Joins: which adhesive for which pair, with its times and cautions, and the rod in a standing figure's foot."""

from functools import partial
from typing import Any

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from fondale.core.cautions import caution_words, cautions_of_row
from fondale.core.derived import WEIGHTS
from fondale.core.edits import Remove
from fondale.core.edits.boxes import add_join
from fondale.core.edits.handing import HandJoin
from fondale.core.fits.glue import Glue, glues_for
from fondale.core.fits.pins import pin_for, pin_told
from fondale.core.materials import material_name, materials_by_name
from fondale.core.model import JOINS, PIECES, Join, Piece
from fondale.core.model.shapes import Figure
from fondale.core.stage.solids import measured_height
from fondale.core.words import digits, wait_words
from fondale.qt.furniture.cells import Cells
from fondale.qt.furniture.columns import Columns
from fondale.qt.furniture.fields import Choice, Field, number, words
from fondale.qt.furniture.finder import Several
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import action, clear, headed, heading, hold, line_of
from fondale.qt.furniture.ticket import Row, Ticket
from fondale.qt.session import Session

CAPTION = 84
NEEDS = (
    ("hold", "hold"), ("adjust", "be set straight first"), ("fast", "hold at once"), ("take apart", "come apart again"), ("see through", "stay clear"),
)  # fmt: skip


class JoinCells(Cells):
    """All joints."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Joints", 220, 66, "No joints yet. Add one for each pair that must hold.", across=1)

    def words(self, thing: Any) -> str:
        found = glues_for(thing)
        return f"{thing.name}: {material_name(thing.a)} to {material_name(thing.b)}, {found[0].name if found else 'nothing known holds'}"

    def draw(self, p: QPainter, box: QRectF, thing: Any, chosen: bool) -> None:
        found = glues_for(thing)
        self.line(p, box, 2, thing.name, weight=600)
        self.line(p, box, 1, f"{material_name(thing.a)} to {material_name(thing.b)}", size=11)
        self.line(p, box, 0, found[0].name if found else "nothing known holds", "verdigris" if found else "stop", size=11)


class GlueCard(QFrame):
    """One way to join, with everything that must be known before the tube is opened."""

    def __init__(self, glue: Glue, first: bool) -> None:
        super().__init__()
        self.setProperty("role", "card")
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 6, 10, 6)
        column.setSpacing(2)
        times = f"work {wait_words(glue.work_h)}, handle after {wait_words(glue.handle_h)}, full strength {wait_words(glue.full_h)}"
        cautions = ((text, "note") for text in caution_words(cautions_of_row("glue", glue.key)))
        for text, role in ((glue.name, "bold"), (times, ""), (glue.prepare, "soft"), (glue.beware, "soft"), *cautions):
            if text:
                label = Prose(role, text)
                column.addWidget(label)
        self.setAccessibleName(f"{'Best: ' if first else ''}{glue.name}")


class JoinsPage(Page):
    """Joints on the left, the ticket and the ways in the middle, pins on the right."""

    title = "Joins"
    shows = (JOINS,)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._shown: object = "not yet"
        self._lean = self._rod = 0.0
        left = QVBoxLayout()
        head, _note = heading("Joints")
        head.addWidget(action("Add a joint", self._add))
        left.addLayout(head)
        self.cells = JoinCells(session)
        self.cells.chosen.connect(lambda i: session.select(JOINS, i))
        left.addWidget(self.cells.framed(), 1)
        self.ticket = Ticket(1)
        self.ticket.removed.connect(self._remove)
        left.addWidget(self.ticket)
        self.hand = action("Hand it to Coats", self._hand_over, "A step that closes this joint, with its glue's hours")
        left.addLayout(line_of(self.hand))
        middle = QVBoxLayout()
        head, _note = heading("What holds it, best first")
        middle.addLayout(head)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        inner = QWidget()
        self._ways = QVBoxLayout(inner)
        self._ways.setContentsMargins(0, 0, 4, 0)
        hold(self._scroll, inner)
        middle.addWidget(self._scroll, 1)
        self.lay_out(Columns(20, (left, 8), (middle, 11), (self._pins(), 9)))

    def _pins(self) -> QVBoxLayout:
        column = headed("A pin for a standing figure", 4)
        self.who = Choice("figure", [], lambda i: self.session.select(PIECES, i)).caption_width(64)
        self.weight = Field(
            "weighs",
            lambda t: number(0, 100_000, "g")(t) if t.strip() else 0.0,
            lambda v: f"{digits(v, 1)} g" if v else "",
            self._set_weight,
            80,
        ).caption_width(64)
        self.weight.edit.setPlaceholderText("not yet")
        self.lean = Field("leans", number(0, 80, "°"), lambda v: f"{digits(v, 0)}°", self._set_lean, 80).caption_width(64)
        self.rod = Field(
            "rod", lambda t: number(0.2, 10, "mm")(t) if t.strip() else 0.0, lambda v: f"{digits(v, 2)} mm" if v else "", self._set_rod, 80
        )
        self.rod.caption_width(64).edit.setPlaceholderText("proposed")
        for field in (self.who, self.weight, self.lean, self.rod):
            column.addWidget(field)
        self.pin = HowButton()
        column.addLayout(line_of(self.pin))
        self._pin_words = Prose()
        column.addWidget(self._pin_words)
        column.addStretch(1)
        return column

    @property
    def join(self) -> Join | None:
        """The chosen joint."""
        found = self.chosen(JOINS)
        return found if isinstance(found, Join) else None

    @property
    def figure(self) -> Piece | None:
        """The figure to be pinned: the chosen piece if it is one, else the first."""
        figures = [p for p in self.session.results.project.pieces if isinstance(p.shape, Figure)]
        ident = self.session.chosen(PIECES)
        return next((p for p in figures if p.id == ident), figures[0] if figures else None)

    def _set_weight(self, grams: float) -> None:
        figure = self.figure
        if figure is not None:
            self.session.select(PIECES, figure.id)
            self.put_in(PIECES, lambda p: p.weight_g, grams, "Weight")

    def _set_rod(self, mm: float) -> None:
        self._rod = mm
        self.refresh()

    def _set_lean(self, degrees: float) -> None:
        self._lean = degrees
        self.refresh()

    def _rows(self) -> list[Row]:
        materials = partial(materials_by_name, solid=True)
        fields = (
            self.row(JOINS, lambda j: j.name, "Rename", lambda put: Field("name", words(1, 120), str, put)),
            self.row(JOINS, lambda j: j.a, "Material", lambda put: Choice("one side", materials, put)),
            self.row(JOINS, lambda j: j.b, "Material", lambda put: Choice("other side", materials, put)),
            self.row(JOINS, lambda j: j.need, "What the joint must do", lambda put: Choice("it must", list(NEEDS), put)),
        )
        between = Several("between", lambda: [(p.id, p.name) for p in self.session.project.pieces], self._joined, self._toggle_piece)
        return [*((f.caption_width(CAPTION), read) for f, read in fields), (between, lambda _p: None)]

    def _joined(self) -> tuple[str, ...]:
        return self.join.pieces if self.join is not None else ()

    def _toggle_piece(self, ident: str) -> None:
        now = self._joined()
        self.put_in(JOINS, lambda j: j.pieces, tuple(p for p in now if p != ident) if ident in now else (*now, ident), "What is joined")

    def _hand_over(self) -> None:
        if self.join is not None and self.session.do(HandJoin(f"Steps of {self.join.name}", self.join.id)):
            self.session.said.emit(f"“Join {self.join.name}” is among the steps on Coats.")

    def _add(self) -> None:
        edit, ident = add_join(self.session.project)
        if self.session.do(edit):
            self.session.select(JOINS, ident)

    def _remove(self) -> None:
        join = self.join
        if join is not None:
            self.session.do(Remove(f"Remove {join.name}", JOINS, join.id))

    def refresh(self) -> None:
        """Follow the project."""
        project, join, figure = self.session.project, self.join, self.figure
        self.note = "the adhesive, its preparation and times; what holds a figure up"
        self.cells.show_things(project.joins, join.id if join else "")
        self.ticket.setVisible(join is not None)
        self.hand.setVisible(join is not None)
        if join is not None:
            self.ticket.show_thing("join", join.name, True, self._rows)
            self.ticket.read(project)
        self._show_ways(join)
        figures = [(p.id, p.name) for p in project.pieces if isinstance(p.shape, Figure)]
        self.who.set_options(figures)
        for widget in (self.who, self.weight, self.lean, self.rod, self.pin):
            widget.setVisible(figure is not None)
        if figure is None:
            self._pin_words.setText("Add a figure on the shelf, and its pin is reckoned here.")
            return
        self.who.set_value(figure.id)
        self.weight.set_value(figure.weight_g)
        self.lean.set_value(self._lean)
        self.rod.set_value(self._rod)
        height = measured_height(figure)
        # An unweighed figure is taken as solid resin: volume goes with the cube of the height (7 g at 54 mm, common practice, no source).
        weighed = self.session.results[WEIGHTS]
        known = weighed.grams.get(figure.id, 0.0) if weighed is not None else 0.0
        grams = known or 7.0 * (height / 54) ** 3
        pin = pin_for(height, grams, self._lean, own_mm=self._rod)
        self.pin.show_told(pin_told(pin))
        guess = "" if known else f" Not weighed: taken as {digits(grams, 0)} g."
        self._pin_words.setText(f"{pin.words} Drill {pin.drill}.{guess}\n\n{' '.join(caution_words(('drill',)))}")

    def _show_ways(self, join: Join | None) -> None:
        state = (join.a, join.b, join.need) if join else None
        if state == self._shown:
            return
        self._shown = state
        clear(self._ways)
        found = glues_for(join) if join else ()
        for k, glue in enumerate(found):
            card = GlueCard(glue, k == 0)
            self._ways.addWidget(card)
            card.show()
        if not found:
            none = "Nothing in the table holds this pair and does that. Choose something less of the joint, or a pin or a screw."
            self._ways.addWidget(Prose("", none) if join else Prose("soft", "Add a joint, and the glues that hold it stand here."))
        self._ways.addStretch(1)
