# SPDX-License-Identifier: MIT
"""What the tables say: every row with its values, units and source, where it lies among its like, and rows of the maker's own."""

import math
import re
from functools import partial
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QScrollArea, QVBoxLayout, QWidget

from fondale.core.edits import Add
from fondale.core.edits.own_rows import DropOwn, changed_own, make_own, names_of
from fondale.core.lengths import LengthError, parse_number
from fondale.core.model import OWN, OwnRow, Project
from fondale.core.tables import BY_NAME, SECTIONS, Column, Row, Section, allowed, is_own, row_name, rows_of, shown, source_of, wrong_with
from fondale.core.words import clipped
from fondale.qt.furniture import table
from fondale.qt.furniture.fields import Choice, Field, words
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import action, hold, line_of
from fondale.qt.furniture.table import Entry, Table
from fondale.qt.furniture.ticket import Row as TicketRow
from fondale.qt.furniture.ticket import Ticket
from fondale.qt.session import Session
from fondale.qt.theme import signs

MOST_ROWS = 400
_BETWEEN, _PAIRS = re.compile(r"\s*;\s*|,\s+|\s+"), re.compile(r"\s*;\s*|,\s+")


class Among(QWidget):
    """Where a row lies among its like: a rule with a mark for each, the chosen one named. A press chooses the nearest."""

    chosen = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._marks: list[tuple[str, float]] = []
        self._column: Column | None = None
        self.at = ""
        self.setAccessibleName("Where it lies among its like")

    def sizeHint(self) -> QSize:
        return QSize(300, self._session.theme.px(58))

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def show_rows(self, section: Section, rows: dict[str, Row], at: str) -> None:
        """Show the first number that the rows have."""
        drawn = [c for c in section.columns if c.kind in ("number", "numbers") and c.shown]
        self._column = next((c for c in drawn if c.key == section.drawn), next(iter(drawn), None))
        self._marks, self.at = [], at
        for key, row in rows.items():
            value = row.get(self._column.key) if self._column is not None else None
            value = max(value) if isinstance(value, list | tuple) and value else value
            if isinstance(value, int | float) and value > 0:
                self._marks.append((key, float(value)))
        found = dict(self._marks).get(at)
        self.setAccessibleDescription(self._told(found) if found else "")
        self.setVisible(len(self._marks) > 1)
        self.update()

    def _told(self, value: float) -> str:
        assert self._column is not None
        below = sum(v < value for _k, v in self._marks)
        return f"{self._column.words} {shown(self._column, value if self._column.kind == 'number' else [value])}: {below} of {len(self._marks)} have less"

    def _x(self, value: float) -> float:
        values = [v for _k, v in self._marks]
        low, high = math.log(min(values)), math.log(max(values))
        return 10 + (self.width() - 20) * ((math.log(value) - low) / (high - low) if high > low else 0.5)

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._column is None or not self._marks:
            return
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        line = self.height() - theme.px(20)
        p.setPen(QPen(theme.color("slate"), 1))
        p.drawLine(QPointF(10, line), QPointF(self.width() - 10, line))
        for key, value in self._marks:
            p.setPen(QPen(theme.color("lamp" if is_own(key) else "slate"), 1.2))
            p.drawLine(QPointF(self._x(value), line), QPointF(self._x(value), line - 8))
        p.setFont(theme.font(11))
        p.setPen(theme.text("soft"))
        ends = (min(v for _k, v in self._marks), max(v for _k, v in self._marks))
        kind = self._column
        low, high = (shown(kind, v if kind.kind == "number" else [v]) for v in ends)
        below = QRectF(10, line + 3, self.width() - 20, theme.px(16))
        p.drawText(below, Qt.AlignmentFlag.AlignLeft, low)
        p.drawText(below, Qt.AlignmentFlag.AlignRight, high)
        mine = dict(self._marks).get(self.at)
        if mine is not None:
            p.setPen(QPen(theme.color("curtain"), 2.4))
            p.drawLine(QPointF(self._x(mine), line + 3), QPointF(self._x(mine), line - 13))
            p.setPen(theme.text("curtain"))
            p.drawText(QRectF(0, 2, self.width(), theme.px(16)), Qt.AlignmentFlag.AlignHCenter, self._told(mine))
        signs.focus_ring(p, theme, self)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._marks:
            self.chosen.emit(min(self._marks, key=lambda m: abs(self._x(m[1]) - event.position().x()))[0])


class TablesWindow(QWidget):
    """A list of tables, the rows of one, and the ticket of the chosen row."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self.setWindowTitle("What the tables say")
        self._session = session
        self.section, self.at = SECTIONS[0], ""
        whole = QVBoxLayout(self)
        whole.setContentsMargins(16, 12, 16, 12)
        whole.setSpacing(8)
        self._question = Prose("title")
        whole.addWidget(self._question)
        head = QHBoxLayout()
        head.setSpacing(12)
        self.which = Choice("table", [(s.name, s.title) for s in SECTIONS], self.turn_to, 220)
        self.search = QLineEdit()
        self.search.setPlaceholderText("words that stand in a row")
        self.search.setAccessibleName("Search the rows")
        self.search.textChanged.connect(lambda _t: self.refresh())
        head.addWidget(self.which)
        head.addWidget(self.search, 1)
        whole.addLayout(head)
        left = QVBoxLayout()
        self._frame_of_rows = QVBoxLayout()
        left.addLayout(self._frame_of_rows, 1)
        self.among = Among(session)
        self.among.chosen.connect(self.choose)
        left.addWidget(self.among)
        self._note = Prose("note")
        left.addWidget(self._note)
        right = QVBoxLayout()
        right.setContentsMargins(0, 0, 4, 0)
        self.ticket = Ticket(1)
        self.ticket.removed.connect(self._remove)
        self._values = Prose()
        self._values.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._says = Prose("soft")
        self.mine = action("Make it mine", self._make_mine, "A row of your own like this one, which you can change")
        self.use = action("Use it here", self._use_here, "Brings this row of yours into the project")
        self.forget = QPushButton("Forget it")
        self.forget.clicked.connect(self._forget)
        for widget in (self.ticket, self._values, self._says):
            right.addWidget(widget)
        right.addLayout(line_of(self.mine, self.use, self.forget))
        right.addStretch(1)
        scroll, inner = QScrollArea(), QWidget()
        inner.setLayout(right)
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        hold(scroll, inner)
        beside = QHBoxLayout()
        beside.setSpacing(20)
        beside.addLayout(left, 11)
        beside.addWidget(scroll, 9)
        whole.addLayout(beside, 1)
        self.rows: Table | None = None
        self._frame: QScrollArea | None = None
        self.resize(session.theme.px(1000), session.theme.px(640))
        session.project_changed.connect(self._follow)
        session.theme_changed.connect(self.refresh)
        self.turn_to(self.section.name)

    def turn_to(self, name: str) -> None:
        """Show another table."""
        self.section, self.at = BY_NAME[name], ""
        heads = [
            c
            for c in self.section.columns
            if (c.shown and c.kind != "words") or (c.shown and c.key in ("like", "head", "by", "text", "title"))
        ]
        wide = [1.0 if c.kind == "number" else 1.7 for c in heads]
        columns = [
            table.Column("", 0.30),
            *(table.Column(c.words, 0.70 * w / sum(wide), c.kind == "number") for c, w in zip(heads, wide, strict=True)),
        ]
        self._heads = heads
        if self._frame is not None:
            self._frame_of_rows.removeWidget(self._frame)
            self._frame.hide()
            self._frame.deleteLater()
        self.rows = Table(self._session, self.section.title, columns)
        self.rows.chosen.connect(self.choose)
        self._frame = self.rows.framed()
        self._frame_of_rows.addWidget(self._frame)
        self.refresh()

    def choose(self, key: str) -> None:
        """Show the ticket of a row."""
        self.at = key
        self.refresh()

    def _follow(self) -> None:
        if self.isVisible():
            self.refresh()

    def _found(self) -> dict[str, Row]:
        said = self.search.text().strip().lower()
        rows = rows_of(self.section)
        if not said:
            return rows
        return {k: r for k, r in rows.items() if said in f"{row_name(k, r)} {' '.join(str(v) for v in r.values())}".lower()}

    def refresh(self) -> None:
        """Follow the project and what is searched for."""
        assert self.rows is not None
        rows = self._found()
        if self.at not in rows:  # an own row that has changed has another key
            same = self.at.rpartition("_")[0] if is_own(self.at) else ""
            self.at = next((k for k in rows if same and k.rpartition("_")[0] == same), next(iter(rows), ""))
        self.which.set_value(self.section.name)
        self._question.setText(self.section.question)
        entries = [
            Entry(k, (self._called(k, r), *(shown(c, r.get(c.key)) for c in self._heads)), is_own(k))
            for k, r in list(rows.items())[:MOST_ROWS]
        ]
        self.rows.show_entries(entries, self.at)
        self.among.show_rows(self.section, rows, self.at)
        row = rows.get(self.at)
        self._note.setText(f"Source: {source_of(self.section, row).rstrip('.')}." if row is not None else "No row has these words.")
        self._show_row(row)

    def _called(self, key: str, row: Row) -> str:
        return f"{row_name(key, row)} (yours)" if is_own(key) else row_name(key, row)

    @property
    def own(self) -> OwnRow | None:
        """The chosen row, where it is the maker's own and in the project."""
        return next((row for row in self._session.project.own if row.key == self.at), None)

    @property
    def _kept(self) -> OwnRow | None:
        """The chosen row, where it is kept for all projects."""
        return next((row for row in self._session.shelf.rows if row.key == self.at), None)

    def _show_row(self, row: Row | None) -> None:
        own, kept = self.own, self._kept
        self.mine.setVisible(row is not None and self.section.own)
        self.use.setVisible(own is None and kept is not None)
        self.forget.setVisible(own is None and kept is not None)
        self.ticket.setVisible(own is not None)
        self._values.setVisible(row is not None and own is None)
        self._says.setText("")
        if own is not None:
            self.ticket.show_thing(f"{self.section.name} {own.id}", own.name, True, partial(self._rows_of, own.id))
            self.ticket.read(self._session.project)
            named = [n for n in names_of(self._session.project, own) if n]
            used = (
                f"Used by {', '.join(named[:4])}{f' and {len(named) - 4} more' if len(named) > 4 else ''}."
                if named
                else "Nothing uses it yet."
            )
            self._says.setText(f"{used} It travels with the project, and is kept for all your projects once this one is saved.")
        elif row is not None:
            told = [
                f"{c.words}: {said}" for c in self.section.columns if c.key in row and c.key != "name" and (said := shown(c, row[c.key]))
            ]
            self._values.setText("\n".join((row_name(self.at, row), *told)))
            if kept is not None:
                self._says.setText("Yours, kept for all projects. It comes into this one when something names it.")

    def _rows_of(self, ident: str) -> list[TicketRow]:
        """A field for each value of an own row."""
        columns = [c for c in self.section.columns if c.key not in ("name", "source")]
        name = Column("name", "name", "words")
        source = Column("source", "source", "words", needed=False)
        every = (name, *columns, source)
        theme = self._session.theme
        wide = max(QFontMetricsF(theme.font(13)).horizontalAdvance(c.words) for c in every) / theme.scale
        return [(self._editor(c, ident).caption_width(math.ceil(wide) + 4), partial(_value_of, ident, c.key)) for c in every]

    def _editor(self, column: Column, ident: str) -> Field | Choice:
        def commit(value: Any) -> object:
            own = self._session.project.find(OWN, ident)
            if own is None:
                return None
            done = self._session.do(changed_own(own, column.key, value))
            after = self._session.project.find(OWN, ident)
            if done and after is not None:
                self.choose(after.key)
            return done

        if column.kind in ("yes", "one"):
            known = [(True, "yes"), (False, "no")] if column.kind == "yes" else [(c, c) for c in allowed(column)]
            return Choice(column.words, [*known, *([] if column.needed else [(None, "not said")])], commit)
        field = Field(column.words, partial(_parsed, column), lambda v: shown(column, v), commit)
        if column.kind == "several" and (may := allowed(column)):
            field.setToolTip(f"Any of: {clipped(', '.join(may), 300)}")
        return field

    def _make_mine(self) -> None:
        made = self._session.make(make_own, self.section, self.at)
        if made is not None and self._session.do(made[0]):
            row = self._session.project.find(OWN, made[1])
            self.search.clear()
            self.choose(row.key if row is not None else "")

    def _use_here(self) -> None:
        kept = self._kept
        if kept is not None:
            self._session.do(Add(f"Use {kept.name} here", OWN, kept))
            self.choose(kept.key)

    def _remove(self) -> None:
        own = self.own
        if own is not None:
            self._session.do(DropOwn(f"Remove {own.name}", own.id))
            self.refresh()

    def _forget(self) -> None:
        kept = self._kept
        if kept is not None:
            self._session.shelf.forget(kept.id)
            self._session.hold_rows()
            self._session.project_changed.emit()
            self.refresh()


def _value_of(ident: str, key: str, project: Project) -> Any:
    own = project.find(OWN, ident)
    if own is None:
        return None
    return getattr(own, key) if key in ("name", "source") else own.values.get(key)


def _parsed(column: Column, text: str) -> Any:
    """What is typed as a value of a column. Raises LengthError in words."""
    clean = text.strip()
    if not clean and not column.needed:
        return None
    if column.kind == "words":
        value: Any = words(1 if column.needed else 0, 400)(text)
    elif column.kind == "several":
        value = tuple(w.strip() for w in clean.split(",") if w.strip())
    elif column.kind == "pairs":
        value = tuple(_numbers(column, part) for part in _PAIRS.split(clean))
    elif column.kind == "numbers":
        value = _numbers(column, clean)
    else:
        value = _number(column, clean)
    wrong = wrong_with(column, value)
    if wrong:
        raise LengthError(f"{wrong[0].upper()}{wrong[1:]}")
    return value


def _numbers(column: Column, text: str) -> tuple[float, ...]:
    """Numbers apart by spaces, semicolons, or a comma and a space: a comma in a number is a decimal one."""
    return tuple(_number(column, part) for part in _BETWEEN.split(text.strip().removesuffix(column.unit).strip()) if part)


def _number(column: Column, text: str) -> float:
    try:
        return float(parse_number(text.removesuffix(column.unit).strip()))
    except ValueError:
        raise LengthError(f"“{text.strip()}” is not a number.") from None
