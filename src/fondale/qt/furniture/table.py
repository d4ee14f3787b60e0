# SPDX-License-Identifier: MIT
"""A table of words and numbers that is painted: a row a thing, a click or the arrow keys choose one."""

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
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
        self._measured: tuple[float, list[float]] | None = None  # for which size of type, and what each column needs
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
        if entries != self.entries:
            self._measured = None
        self.entries, self.at = entries, at
        self.setAccessibleDescription("; ".join(", ".join(w for w in e.words if w) for e in entries))
        self.update()

    def _row(self) -> int:
        return self._session.theme.px(ROW)

    def sizeHint(self) -> QSize:
        return QSize(300, self._row() * (len(self.entries) + 1) + 4)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def _needs(self) -> list[float]:
        """How wide each column is with the space beside it; its head may end in an ellipsis."""
        theme = self._session.theme
        if self._measured is None or self._measured[0] != theme.scale:
            rows = QFontMetricsF(theme.font(11.5, 600))
            wide = [max((rows.horizontalAdvance(e.words[k]) for e in self.entries), default=0.0) for k in range(len(self._columns))]
            self._measured = theme.scale, [w + 12 for w in wide]
        return self._measured[1]

    def _widths(self) -> list[float]:
        """Columns by their shares. A number that has no room takes it from the words, and these from what others have to spare: words may end in
        an ellipsis, numbers may not.
        """
        out, needs = [c.share * self.width() for c in self._columns], self._needs()
        words = [k for k, c in enumerate(self._columns) if not c.number]
        lacking = sum(max(0.0, needs[k] - w) for k, w in enumerate(out) if k not in words)
        for k in range(len(out)):
            out[k] = max(out[k], needs[k]) if k not in words else out[k]
        spare = {k: max(0.0, out[k] - needs[k]) for k in words}
        short = {k: max(0.0, needs[k] - out[k]) for k in words}
        whole = sum(spare.values())
        given = min(whole, lacking + sum(short.values()))
        for k in words:
            out[k] -= spare[k] * given / (whole or 1.0)
            out[k] += short[k] * max(0.0, given - lacking) / (sum(short.values()) or 1.0)
        left, room = max(0.0, lacking - given), sum(out[k] for k in words)
        return [w * (1 - left / room) if k in words and left < room else w for k, w in enumerate(out)]

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p, row = self._session.theme, QPainter(self), self._row()
        widths = self._widths()
        heads = Entry("", tuple(c.head for c in self._columns))
        for i, entry in enumerate((heads, *self.entries)):
            if not event.rect().intersects(QRectF(0, i * row, self.width(), row).toRect()):
                continue
            mine = bool(entry.ident) and entry.ident == self.at
            p.setFont(theme.font(11.5 if i else 11, 600 if mine else 400))
            x = 0.0
            for column, wide, text in zip(self._columns, widths, entry.words, strict=True):
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
