# SPDX-License-Identifier: MIT
"""Wire ways and pours: the drill against the limb, the cavity against what goes in, and resin water pour by pour."""

from collections.abc import Callable
from datetime import datetime, time
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QVBoxLayout, QWidget

from fondale.core.bodies.measures import measures
from fondale.core.cautions import caution_words, cautions_of_row
from fondale.core.coats.pours import COAT, FORMS, Form, Pours, pour_lines, pours_of, pours_told
from fondale.core.edits.pouring import hand_pours
from fondale.core.fits.wire_ways import Way, cavity_lamps, cavity_of, cavity_told, way_of, way_told
from fondale.core.model import PIECES, SURFACES, Piece
from fondale.core.model.shapes import Figure
from fondale.core.stage.solids import measured_height
from fondale.core.troubles import Trouble
from fondale.core.words import digits
from fondale.knowledge import table
from fondale.qt.furniture.columns import Columns
from fondale.qt.furniture.fields import Choice, Field, length_field, length_or_none, number
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import action, headed, line_of
from fondale.qt.session import Session
from fondale.qt.theme import signs

CAPTION = 72


class Section(QWidget):
    """A limb cut across with its drill and wires, or water in its layers."""

    def __init__(self, session: Session, name: str) -> None:
        super().__init__()
        self._session = session
        self.way: Way | None = None
        self.wires = 2
        self.pours: Pours | None = None
        self.setAccessibleName(name)

    def minimumSizeHint(self) -> QSize:
        return QSize(0, self._session.theme.px(110))

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.way is not None:
            self._limb(p, self.way)
        elif self.pours is not None:
            self._layers(p, self.pours)

    def _limb(self, p: QPainter, way: Way) -> None:
        theme = self._session.theme
        middle = QPointF(self.rect().center()) - QPointF(0, theme.px(11))
        scale = (min(self.width(), self.height()) - theme.px(44)) / max(way.limb, way.drill.mm)
        limb, drill, bundle = (mm * scale / 2 for mm in (way.limb, way.drill.mm, way.bundle))
        p.setPen(QPen(theme.color("ink"), 1.2))
        p.setBrush(theme.color("line", 0.6))
        p.drawEllipse(middle, limb, limb)
        p.setPen(QPen(theme.color("ink" if way.goes else "stop"), 1.2))
        p.setBrush(theme.color("ground"))
        p.drawEllipse(middle, drill, drill)
        p.setBrush(theme.color("lamp", 0.5))
        p.setPen(QPen(theme.color("lamp"), 1))
        p.drawEllipse(middle, bundle, bundle)
        low = middle.y() + max(limb, drill) + 8
        signs.dimension(
            p, theme, QPointF(middle.x() - limb, low), QPointF(middle.x() + limb, low), f"{digits(way.limb, 1)} mm", above=False
        )

    def _layers(self, p: QPainter, pours: Pours) -> None:
        theme, room = self._session.theme, QRectF(self.rect()).adjusted(24, 8, -60, -10)
        deep = pours.each[-1].high
        for k, pour in enumerate(pours.each):
            top = room.bottom() - pour.high / deep * room.height()
            box = QRectF(room.left(), top, room.width(), (pour.high - pour.low) / deep * room.height())
            p.fillRect(box, theme.color("slate", 0.18 + 0.14 * (k % 2)))
            p.setPen(QPen(theme.color("slate"), 1))
            p.drawRect(box)
            if box.height() >= theme.px(13) or k == len(pours.each) - 1:
                p.setFont(theme.font(11))
                p.setPen(theme.text("ink"))
                p.drawText(QPointF(room.right() + 8, top + theme.px(10)), f"{digits(pour.high, 1)} mm")


class WaysPage(Page):
    """Three columns: wires through a figure, the cavity for a lamp, the pours."""

    title = "Wires, water"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._asked: dict[str, Any] = {
            "who": "", "route": "head", "wires": 2, "kind": "enamelled", "sleeve": "none", "limb": 0.0, "tall": 50.0, "lamp": "c0805", "resistor": "none",
            "across": 4.0, "deep": 6.0, "form": "basin", "a": 120.0, "b": 60.0, "depth": 9.0, "thick": 3.0, "surface": "",
        }  # fmt: skip
        self.fields: dict[str, Field | Choice] = {}
        self._pours: Pours | None = None
        self.lay_out(Columns(20, (self._wires(), 1), (self._cavity(), 1), (self._pour(), 1)))

    def _field(self, column: QVBoxLayout, name: str, field: Field | Choice) -> None:
        self.fields[name] = field.caption_width(CAPTION)
        column.addWidget(field)

    def _ask(self, name: str) -> Callable[[Any], None]:
        def ask(value: Any) -> None:
            self._asked[name] = value
            self.refresh()

        return ask

    def _rows(self, section: str, part: str) -> list[tuple[Any, str]]:
        return [(k, row["name"]) for k, row in table(section)[part].items()]

    def _length(self, column: QVBoxLayout, name: str, caption: str) -> None:
        self._field(column, name, length_field(caption, self._ask(name), lambda: self.session.project.brief.house_n, 92))

    def _wires(self) -> QVBoxLayout:
        column, facts = headed("Wires through a figure", 4), table("fits")["wires"]
        self._field(column, "who", Choice("through", [], self._ask("who")))
        self._length(column, "tall", "stature")
        self._field(column, "route", Choice("from", self._rows("body", "routes"), self._ask("route")))
        self._field(column, "wires", Field("wires", lambda t: round(number(1, 60)(t)), lambda v: digits(v, 0), self._ask("wires"), 92))
        self._field(column, "kind", Choice("each", [(k, r["name"]) for k, r in facts["kind"].items()], self._ask("kind")))
        self._field(column, "sleeve", Choice("sleeve", [(k, r["name"]) for k, r in facts["sleeve"].items()], self._ask("sleeve")))
        self._field(column, "limb", length_or_none("thinnest", self._ask("limb"), "a figure’s", 92))
        self.wall = HowButton()
        column.addLayout(line_of(self.wall))
        self.section = Section(self.session, "The limb, cut across")
        column.addWidget(self.section, 1)
        self._way_words = Prose()
        column.addWidget(self._way_words)
        return column

    def _cavity(self) -> QVBoxLayout:
        column, facts = headed("A cavity for a lamp", 4), table("fits")["cavity"]
        self._field(column, "lamp", Choice("lamp", lambda: [(k, r["name"]) for k, r in cavity_lamps().items()], self._ask("lamp")))
        self._field(column, "resistor", Choice("with", [(k, r["name"]) for k, r in facts["resistor"].items()], self._ask("resistor")))
        self._length(column, "across", "across")
        self._length(column, "deep", "deep")
        self.hole = HowButton()
        column.addLayout(line_of(self.hole))
        self._cavity_words = Prose()
        column.addWidget(self._cavity_words)
        column.addStretch(1)
        return column

    def _pour(self) -> QVBoxLayout:
        column = headed("Water, pour by pour", 4)
        self._field(column, "form", Choice("in", list(FORMS.items()), self._ask("form")))
        for name, caption in (("a", "long"), ("b", "wide"), ("depth", "deep"), ("thick", "a pour")):
            self._length(column, name, caption)
        self.volume = HowButton()
        column.addLayout(line_of(self.volume))
        self.layers = Section(self.session, "The pours, one on the other")
        column.addWidget(self.layers, 1)
        self._pour_words = Prose()
        column.addWidget(self._pour_words)
        self._field(column, "surface", Choice("on", [], self._ask("surface")))
        self.hand = action("Hand the pours to Coats", self._hand_over, "A step for each; each waits until the one before has set")
        column.addLayout(line_of(self.hand))
        return column

    def _figures(self) -> list[Piece]:
        return [p for p in self.session.project.pieces if isinstance(p.shape, Figure) and p.shape.pose]

    def refresh(self) -> None:
        """Follow the project and what is asked."""
        figures, asked = self._figures(), self._asked
        self.note = "drill before paint; pour when the scenery is done"
        who = self.fields["who"]
        if isinstance(who, Choice):
            who.set_options([*((p.id, p.name) for p in figures), ("", "a figure of that stature")])
        if asked["who"] and asked["who"] not in {p.id for p in figures}:
            asked["who"] = ""
        surfaces = self.session.project.surfaces
        on = self.fields["surface"]
        if isinstance(on, Choice):
            on.set_options([(s.id, s.name) for s in surfaces])
        if asked["surface"] not in {s.id for s in surfaces}:
            asked["surface"] = surfaces[0].id if surfaces else ""
        for name, field in self.fields.items():
            field.set_value(asked[name] or None if name == "limb" else asked[name])
        self.fields["tall"].setVisible(not asked["who"])
        self.fields["b"].setVisible(asked["form"] != "round basin")
        for name, words in (
            ("a", "long" if asked["form"] == "basin" else "across"),
            ("b", "wide" if asked["form"] == "basin" else "deep"),
            ("depth", "water"),
        ):
            field = self.fields[name]
            if isinstance(field, Field):
                field.caption = words
        on.setVisible(bool(surfaces))
        self._show_way()
        cavity = cavity_of(asked["lamp"], asked["resistor"], asked["across"], asked["deep"], asked["wires"], asked["kind"])
        self.hole.show_told(cavity_told(cavity))
        self.hole.setProperty("verdict", "verdigris" if cavity.goes else "stop")
        self._cavity_words.setText(cavity.words)
        self._show_pours()

    def _show_way(self) -> None:
        asked = self._asked
        piece = self.session.project.find(PIECES, asked["who"]) if asked["who"] else None
        stature = asked["tall"]
        if piece is not None and isinstance(piece.shape, Figure):
            stature = measured_height(piece) / measures(piece.shape.pose, piece.shape.person).crown
        try:
            way = way_of(stature, asked["route"], asked["wires"], asked["kind"], asked["sleeve"], asked["limb"])
        except (Trouble, ValueError) as error:
            way = None
            self._way_words.setText(str(error))
        self.wall.setVisible(way is not None)
        self.section.way = way
        self.section.update()
        if way is not None:
            self.wall.show_told(way_told(way))
            self._way_words.setText(f"{way.words}\n{' '.join(caution_words(('drill',)))}")

    def _show_pours(self) -> None:
        asked, brief = self._asked, self.session.project.brief
        form: Form = asked["form"]
        try:
            self._pours = pours_of(form, asked["a"], asked["b"], asked["depth"], asked["thick"], brief.bench_c, brief.bench_rh)
        except ValueError as error:
            self._pours = None
            self._pour_words.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
        self.volume.setVisible(self._pours is not None)
        self.hand.setVisible(self._pours is not None and bool(asked["surface"]))
        self.layers.pours = self._pours
        self.layers.update()
        if self._pours is not None:
            self.volume.show_told(pours_told(self._pours))
            start = datetime.combine(self.session.results.look.today, time(brief.evening_from // 60, brief.evening_from % 60))
            lines = pour_lines(self._pours, start)
            more = f"\n… and {len(lines) - 6} more" if len(lines) > 6 else ""
            self._pour_words.setText(
                f"{self._pours.words}\nIf the first goes in tonight:\n"
                + "\n".join(lines[:6])
                + f"{more}\n{' '.join(caution_words(cautions_of_row('coat', COAT)))}"
            )

    def _hand_over(self) -> None:
        if self._pours is not None and self.session.project.find(SURFACES, self._asked["surface"]) is not None:
            edits = self.session.make(hand_pours, self._asked["surface"], self._pours)
            if edits and self.session.do(*edits, label="Hand the pours over"):
                self.session.said.emit(f"{len(edits)} {'pour stands' if len(edits) == 1 else 'pours stand'} among the steps on Coats.")
