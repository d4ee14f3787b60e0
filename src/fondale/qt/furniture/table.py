"""A table of words and numbers that is painted: a row a thing, a click or the arrow keys choose one."""

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from fondale.qt.furniture.rows import hold
from fondale.qt.session import Session
from fondale.qt.theme import signs

ROW = 18
LEAST = 96  # the head and four rows


@dataclass(frozen=True)
class Column:
    """``share`` of the width; numbers stand on the right."""

    head: str
    share: float
    number: bool = False


@dataclass(frozen=True)
class Entry:
    """One row: the id of what it is about, its words, and whether something is wrong with it."""

    ident: str
    words: tuple[str, ...]
    poor: bool = False


class Table(QWidget):
    """Rows under heads."""

    chosen = Signal(str)

    def __init__(self, session: Session, name: str, columns: Sequence[Column]) -> None:
        super().__init__()
        self._session, self._columns = session, columns
        self.entries: Sequence[Entry] = ()
        self.at = ""
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def framed(self) -> QScrollArea:
        """The table in a frame that scrolls up and down."""
        frame = QScrollArea()
        frame.setWidgetResizable(True)
        frame.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        frame.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        frame.setMinimumHeight(LEAST)
        hold(frame, self)
        return frame

    def show_entries(self, entries: Sequence[Entry], at: str = "") -> None:
        """Show these rows, the one of ``at`` chosen."""
        if len(entries) != len(self.entries):
            self.updateGeometry()
        self.entries, self.at = entries, at
        self.setAccessibleDescription("; ".join(", ".join(w for w in e.words if w) for e in entries))
        self.update()

    def _row(self) -> int:
        return self._session.theme.px(ROW)

    def sizeHint(self) -> QSize:
        return QSize(300, self._row() * (len(self.entries) + 1) + 4)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p, row = self._session.theme, QPainter(self), self._row()
        heads = Entry("", tuple(c.head for c in self._columns))
        for i, entry in enumerate((heads, *self.entries)):
            if not event.rect().intersects(QRectF(0, i * row, self.width(), row).toRect()):
                continue
            mine = bool(entry.ident) and entry.ident == self.at
            p.setFont(theme.font(11.5 if i else 11, 600 if mine else 400))
            x = 0.0
            for column, text in zip(self._columns, entry.words, strict=True):
                wide = column.share * self.width()
                role = "soft" if not i else "curtain" if mine else "lamp" if entry.poor else "ink"
                p.setPen(theme.text(role))
                side = Qt.AlignmentFlag.AlignRight if column.number else Qt.AlignmentFlag.AlignLeft
                words = p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(wide - 10))
                p.drawText(QRectF(x, i * row, wide - 10, row), side | Qt.AlignmentFlag.AlignVCenter, words)
                x += wide
        signs.focus_ring(p, theme, self)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._choose(int(event.position().y() // self._row()) - 1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        now = next((i for i, e in enumerate(self.entries) if e.ident == self.at), -1)
        if step is None:
            super().keyPressEvent(event)
        else:
            self._choose(max(0, now + step))

    def _choose(self, index: int) -> None:
        if 0 <= index < len(self.entries) and self.entries[index].ident:
            self.chosen.emit(self.entries[index].ident)
