# SPDX-License-Identifier: MIT
"""What everything weighs, what hangs on which line, and whether the whole stands."""

import math
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QVBoxLayout, QWidget

from fondale.core.cautions import caution_words, cautions_of_load
from fondale.core.derived import WEIGHTS
from fondale.core.edits import put
from fondale.core.edits.new_things import hung
from fondale.core.materials import materials_by_name
from fondale.core.model import PIECES, Piece, Sling
from fondale.core.prints.balance import SAFE_DEG
from fondale.core.stage.carrying import Way, carried, carried_told
from fondale.core.stage.cutting import outer
from fondale.core.stage.together import can_bear
from fondale.core.stage.weights import Weight, Weights, pulls_words, tips_told, weight_told
from fondale.core.words import digits
from fondale.qt.furniture.columns import Columns, FieldGrid
from fondale.qt.furniture.fields import Choice, Field, length_or_none, number, place_field, words
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.one_of import OneOf
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import action, headed, heading, line_of
from fondale.qt.furniture.table import Column, Entry, Table
from fondale.qt.furniture.ticket import Row, Ticket
from fondale.qt.session import Session

CAPTION, WIDE, CHOICE = 58, 76, 104
BASE_LEAST = 170  # of the drawing, at 100 %
COLUMNS = (Column("piece", 0.40), Column("weighs", 0.16, True), Column("known by", 0.16), Column("it stands", 0.28))


def entries(pieces: tuple[Piece, ...], found: Weights | None) -> list[Entry]:
    """One row for each placed piece: its weight, how it is known, and how it stands or hangs."""
    out = []
    for piece in pieces:
        weight = found.pieces.get(piece.id) if found is not None else None
        if weight is not None:
            known = {"weighed": "the scales", "printed": "its print", "reckoned": "its stuff", "": "nobody"}[weight.known]
            grams = f"{digits(weight.grams, 1)} g" if weight.known else "?"
            stands, poor = _stands(piece, weight)
            out.append(Entry(piece.id, (piece.name, grams, known, stands), poor or not weight.known))
    return out


def _stands(piece: Piece, weight: Weight) -> tuple[str, bool]:
    if weight.hang is not None:
        return ("hangs still" if weight.hang.still else "hangs askew"), not weight.hang.still
    if weight.tip_deg is None:
        over = weight.arm_gmm / 10
        return (f"{digits(over, 0)} g cm at its joint", over > 0) if over >= 1 else ("as a part", False)
    return (f"tips at {digits(weight.tip_deg, 0)}°", False) if weight.tip_deg > 0 else ("falls", piece.role == "piece")


class Lines(OneOf[Sling]):
    """Those that the chosen piece hangs on."""

    def _piece(self) -> Piece | None:
        return self.session.project.find(PIECES, self.session.chosen(PIECES))

    def now(self) -> tuple[Sling, ...]:
        piece = self._piece()
        return piece.slings if piece is not None else ()

    def put(self, new: tuple[Any, ...], label: str, gesture: str = "") -> None:
        piece = self._piece()
        if piece is not None:
            self.session.do(put(PIECES.at(piece.id).then(lambda p: p.slings), new, f"{label} of {piece.name}", gesture))


class BaseDrawing(QWidget):
    """The base from above: the load of each foot, where the weight of the whole lies, and how far it may wander before it tips."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._found: Weights | None = None
        self.setAccessibleName("The base from above")
        self.setMinimumSize(QSize(220, 150))

    def show_weights(self, found: Weights | None) -> None:
        """Show these."""
        self._found = found if found is not None else self._found
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p, found = self._session.theme, QPainter(self), self._found
        if found is None:
            return
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        case, whole = self._session.project.case, found.whole
        out = outer(case)
        pad = theme.px(26)
        scale = min((self.width() - 2 * pad) / out.width, (self.height() - 2 * pad) / out.depth)
        left, top = (self.width() - out.width * scale) / 2, (self.height() - out.depth * scale) / 2
        base = QRectF(left, top, out.width * scale, out.depth * scale)
        p.setPen(QPen(theme.color("ink"), 1.2))
        p.setBrush(theme.color("card"))
        p.drawRect(base)

        def at(x: float, y: float) -> QPointF:
            return QPointF(base.left() + (x + out.sides["left"]) * scale, base.bottom() - (y + out.sides["front"]) * scale)

        # Within this the whole leans 15 degrees to every side.
        need = max(whole.centre[2] + out.floor, 0.0) * math.tan(math.radians(SAFE_DEG)) * scale
        safe = base.adjusted(need, need, -need, -need)
        if safe.width() > 0 and safe.height() > 0:
            p.setPen(QPen(theme.color("verdigris"), 1, Qt.PenStyle.DashLine))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(safe)
        most = max((w.grams for w in found.pieces.values()), default=0.0)
        p.setPen(QPen(theme.color("soft"), 1))
        p.setBrush(theme.color("line", 0.6))
        for weight in found.pieces.values():
            if weight.grams > 0:
                size = theme.px(2) + theme.px(9) * (weight.grams / most) ** 0.5
                p.drawEllipse(at(weight.centre[0], weight.centre[1]), size, size)
        middle, arm = at(whole.centre[0], whole.centre[1]), theme.px(7)
        p.setPen(QPen(theme.color("curtain"), 2))
        p.drawLine(middle - QPointF(arm, 0), middle + QPointF(arm, 0))
        p.drawLine(middle - QPointF(0, arm), middle + QPointF(0, arm))
        p.setFont(theme.font(11))
        p.setPen(theme.text("slate"))
        corners = (base.bottomLeft(), base.bottomRight(), base.topLeft(), base.topRight())
        for k, (corner, grams) in enumerate(zip(corners, whole.feet, strict=True)):
            box = QRectF(0, 0, theme.px(90), theme.px(16))
            box.moveCenter(corner + QPointF(theme.px(30) * (1 if k % 2 == 0 else -1), theme.px(12) * (1 if k < 2 else -1)))
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{digits(grams, 0)} g")
        p.drawText(QRectF(0, base.bottom() + 3, self.width(), theme.px(16)), Qt.AlignmentFlag.AlignCenter, "front")


class WeightsPage(Page):
    """Left every piece with its weight, and the chosen one's lines; right the whole on its base."""

    title = "Weight"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._lines, self.way = Lines(session), Way()
        self.lay_out(Columns(24, (self._left(), 6), (self._right(), 5)))

    def _left(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(6)
        column.addLayout(heading("Pieces")[0])
        self.table = Table(self.session, "What each piece weighs", COLUMNS)
        self.table.chosen.connect(lambda ident: self.session.select(PIECES, ident))
        column.addWidget(self.table.framed(), 1)
        self.ticket, self.weighs = Ticket(3), HowButton()
        self.ticket.line.addWidget(self.weighs)
        column.addWidget(self.ticket)
        head, _note = heading("Hung on")
        head.addWidget(
            action("Add a line", self._add_line, "A line to the top of the piece from what is over it: another piece, or the ceiling")
        )
        self._out = action("Take this one out", lambda: self._lines.drop("A line less"))
        head.addWidget(self._out)
        column.addLayout(head)
        self.lines = Ticket(3)
        column.addWidget(self.lines)
        self._pulls = Prose("soft")
        column.addWidget(self._pulls)
        return column

    def _right(self) -> QVBoxLayout:
        column = headed("The whole")
        self.tips, self._whole = HowButton(), Prose()
        column.addLayout(line_of(self.tips))
        column.addWidget(self._whole)
        self.base = BaseDrawing(self.session)
        column.addWidget(self.base, 1)
        column.addLayout(heading("Out of the flat")[0])
        grid = FieldGrid(2)
        names = (("door", "door_wide"), ("its height", "door_high"), ("corridor", "first"), ("round to", "second"))
        self.way_fields = {name: length_or_none(caption, self._ask(name), "none", WIDE).caption_width(CAPTION) for caption, name in names}
        grid.fill(list(self.way_fields.values()))
        column.addWidget(grid)
        self.goes, self._carry = HowButton(), Prose("soft")
        column.addLayout(line_of(self.goes))
        column.addWidget(self._carry)
        return column

    def _ask(self, name: str) -> Callable[[Any], None]:
        def ask(value: Any) -> None:
            news: dict[str, Any] = {name: value}
            self.way = replace(self.way, **news)
            self.refresh()

        return ask

    # Rows.

    def _piece_rows(self, piece: Piece) -> list[Row]:
        at, name = PIECES.at(piece.id), piece.name
        weighed, filled, stuff = at.then(lambda p: p.weight_g), at.then(lambda p: p.filled), at.then(lambda p: p.material)
        scales = Field(
            "weighed",
            number(0, 1e6, "g"),
            lambda v: f"{digits(v, 2)} g" if v else "",
            self.session.setter(weighed, f"Weight of {name}"),
            WIDE,
        )
        scales.edit.setPlaceholderText("not yet")
        set_filled = self.session.setter(filled, f"How solid {name} is")
        solid = Field("solid", number(0, 100, "%"), lambda v: f"{digits((v or 0) * 100, 0)} %", lambda v: set_filled(v / 100), WIDE)
        return [
            (scales.caption_width(CAPTION), weighed.find),
            (
                Choice(
                    "it is of", lambda: [("", "not told"), *materials_by_name()], self.session.setter(stuff, f"What {name} is of"), CHOICE
                ).caption_width(CAPTION),
                stuff.find,
            ),
            (solid.caption_width(CAPTION), filled.find),
        ]

    def _line_rows(self, piece: Piece) -> list[Row]:
        if not piece.slings:
            return []
        rows = [self._lines.which("line", [s.name or f"line {k + 1}" for k, s in enumerate(piece.slings)], CHOICE, CAPTION)]
        name = Field("name", words(0, 120), lambda v: v or "", partial(self._lines.set, "Line", "name"), WIDE).caption_width(CAPTION)
        rows.append((name, self._lines.reader("name")))
        owners = [("", "the case"), *((p.id, p.name) for p in can_bear(self.session.project, piece.id))]
        rows.append(
            (Choice("hook on", owners, partial(self._lines.set, "Line", "on"), CHOICE).caption_width(CAPTION), self._lines.reader("on"))
        )
        for caption, field in (
            ("hook x", "x"),
            ("hook y", "y"),
            ("hook up", "z"),
            ("tied x", "at_x"),
            ("tied y", "at_y"),
            ("tied up", "at_z"),
        ):
            rows.append(
                (place_field(caption, partial(self._lines.set, "Line", field), WIDE).caption_width(CAPTION), self._lines.reader(field))
            )
        bears = Field(
            "bears", number(0, 1e6, "g"), lambda v: f"{digits(v, 0)} g" if v else "", partial(self._lines.set, "Line", "bears_g"), WIDE
        )
        bears.edit.setPlaceholderText("not told")
        rows.append((bears.caption_width(CAPTION), self._lines.reader("bears_g")))
        return rows

    # What is done.

    def _add_line(self) -> None:
        piece = self.chosen(PIECES)
        if piece is None:
            self.session.said.emit("Choose a piece first.")
            return
        edits = self.session.make(hung, piece)
        if edits is not None and self.session.do(*edits):
            self._lines.choose(len(self._lines.now()) - 1)

    def refresh(self) -> None:
        """Follow the project and what was weighed."""
        found, piece, project = self.session.results[WEIGHTS], self.chosen(PIECES), self.session.project
        self.table.show_entries(entries(project.pieces, found), piece.id if piece is not None else "")
        weight = found.pieces.get(piece.id) if found is not None and piece is not None else None
        self.ticket.show_thing(
            piece.id if piece else "",
            piece.name if piece else "No piece yet: add one on the scene.",
            False,
            lambda: self._piece_rows(piece) if piece else [],
        )
        self.ticket.read(project)
        about = f"{piece.id} {[s.name for s in piece.slings]}" if piece is not None else ""
        self.lines.show_thing(
            about,
            "" if piece is None or piece.slings else "It stands. Add a line to hang it.",
            False,
            lambda: self._line_rows(piece) if piece else [],
        )
        self.lines.read(project)
        self._out.setVisible(bool(self._lines.now()))
        self.weighs.setVisible(weight is not None)
        if weight is not None and piece is not None:
            self.weighs.show_told(weight_told(piece, weight))
        fresh = piece is not None and weight is not None and (weight.hang is None or len(weight.hang.pulls) == len(piece.slings))
        self._pulls.setText(pulls_words(piece, weight) if fresh and piece is not None and weight is not None else "")
        self._say_whole(found)

    def _say_whole(self, found: Weights | None) -> None:
        self.base.setMinimumHeight(self.session.theme.px(BASE_LEAST))
        self.base.show_weights(found)
        if found is None:
            return
        whole, bears = found.whole, self.session.project.brief.shelf_bears_kg
        self.tips.show_told(tips_told(whole))
        said = f"{digits(whole.grams / 1000, 2)} kg in all, {digits(whole.case_grams / 1000, 2)} kg of it the case."
        if bears:
            said += f" The shelf bears {digits(bears, 1)} kg."
        if whole.unknown:
            said += f" {len(whole.unknown)} {'piece has' if len(whole.unknown) == 1 else 'pieces have'} no weight yet."
        self._whole.setText(" ".join((said, *caution_words(cautions_of_load(whole.grams)))))
        lift, out = whole.grams * 2 / 4, outer(self.session.project.case)
        for name, field in self.way_fields.items():
            field.set_value(getattr(self.way, name))
        self.goes.show_told(carried_told(out, self.way))
        self._carry.setText(
            f"{carried(out, self.way)[1]} Carried upside down by a lid on four magnets, each must hold {digits(lift, 0)} g: twice its share. "
            "Carry it level, with both hands under the base; take out what hangs, or tie it down."
        )
