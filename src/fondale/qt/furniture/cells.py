# SPDX-License-Identifier: MIT
"""A field of equal cells, each a small drawing: click or arrow keys choose one. Only what can be seen is painted."""

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from fondale.qt.furniture.rows import hold
from fondale.qt.session import Session
from fondale.qt.theme import signs

FRAME_LEAST = 140


class Cells(QWidget):
    """Subclasses draw one thing in ``draw`` and say it in ``words``. ``across`` 0 wraps to the width, 1 is one below another."""

    chosen = Signal(str)

    def __init__(self, session: Session, name: str, width: int, height: int, empty: str, across: int = 0) -> None:
        super().__init__()
        self._session = session
        self._size = (width, height)
        self._empty, self._across = empty, across
        self._frame: QScrollArea | None = None
        self.things: Sequence[Any] = ()
        self.at = ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)

    def framed(self) -> QScrollArea:
        """The cells in a frame that scrolls up and down."""
        frame = QScrollArea()
        frame.setWidgetResizable(True)
        frame.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        frame.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        hold(frame, self)
        self._frame = frame
        return frame

    def show_things(self, things: Sequence[Any], at: str) -> None:
        """Show these, the one with the id ``at`` chosen."""
        self.things, self.at = things, at
        thing = next((t for t in things if t.id == at), None)
        self.setAccessibleDescription(self.words(thing) if thing is not None else self._empty)
        self._set_height()
        self.update()

    def words(self, thing: Any) -> str:
        """A thing in words, for those who do not see the drawing."""
        return str(thing.name)

    def draw(self, p: QPainter, box: QRectF, thing: Any, chosen: bool) -> None:
        """Draw a thing into its cell: every kind of cells does it its own way."""

    @property
    def _columns(self) -> int:
        return self._across or max(1, self.width() // self._session.theme.px(self._size[0]))

    def _set_height(self) -> None:
        rows = -(-len(self.things) // self._columns)
        px = self._session.theme.px
        need = max(1, rows) * px(self._size[1]) + 4
        self.setMinimumHeight(need)
        if self._frame is not None:
            self._frame.setMinimumHeight(min(need, px(FRAME_LEAST)))

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._set_height()

    def sizeHint(self) -> QSize:
        theme = self._session.theme
        return QSize(theme.px(self._size[0]) * max(1, self._across or 3), theme.px(self._size[1]))

    def box(self, index: int) -> QRectF:
        """Where the cell of a thing lies."""
        columns, height = self._columns, self._session.theme.px(self._size[1])
        width = self.width() / columns
        return QRectF((index % columns) * width, (index // columns) * height, width, height).adjusted(2, 2, -4, -4)

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.things:
            p.setFont(theme.font(13))
            p.setPen(theme.color("soft"))
            p.drawText(QRectF(self.rect()).adjusted(8, 8, -8, -8), Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, self._empty)
        height = theme.px(self._size[1])
        first = max(0, event.rect().top() // height) * self._columns
        last = min(len(self.things), (event.rect().bottom() // height + 1) * self._columns)
        for i in range(first, last):
            box, chosen = self.box(i), self.things[i].id == self.at
            p.setPen(QPen(theme.color("curtain" if chosen else "line"), 2 if chosen else 1))
            p.setBrush(theme.color("card"))
            p.drawRoundedRect(box, 3, 3)
            p.save()
            p.setClipRect(box)
            self.draw(p, box, self.things[i], chosen)
            p.restore()
        signs.focus_ring(p, theme, self)

    def line(self, p: QPainter, box: QRectF, row: int, text: str, role: str = "ink", weight: int = 400, size: float = 12) -> None:
        """One line of text at the foot of a cell: row 0 is the lowest."""
        theme = self._session.theme
        high = theme.px(16)
        at = QRectF(box.left() + 8, box.bottom() - 5 - high * (row + 1), box.width() - 16, high)
        p.setFont(theme.font(size, weight))
        p.setPen(theme.text(role))
        p.drawText(at, Qt.AlignmentFlag.AlignVCenter, p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(at.width())))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for i, thing in enumerate(self.things):
            if self.box(i).contains(QPointF(event.position())):
                self.chosen.emit(thing.id)
                return

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {
            Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -self._columns, Qt.Key.Key_Down: self._columns,
        }.get(Qt.Key(event.key()))  # fmt: skip
        if step is None or not self.things:
            super().keyPressEvent(event)
            return
        now = next((i for i, t in enumerate(self.things) if t.id == self.at), None)
        to = 0 if now is None else max(0, min(len(self.things) - 1, now + step))
        self.chosen.emit(self.things[to].id)
        box = self.box(to)
        if self._frame is not None:
            self._frame.ensureVisible(int(box.center().x()), int(box.center().y()), 0, int(box.height()))
