# SPDX-License-Identifier: MIT
"""A face with its openings, to be dragged and sized."""

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from fondale.core.model import shapes as sh
from fondale.core.shapes.pierced import ring_of
from fondale.core.words import digits
from fondale.qt.furniture.keys import arrow, stride
from fondale.qt.session import Session
from fondale.qt.stations.stage.openings import LABEL, Openings
from fondale.qt.theme import signs

GRAB = 7.0  # pixels from a corner that take hold of it


@dataclass
class _Hold:
    """What is dragged: the opening as it was, where the pointer took hold (mm), and whether its upper right corner is held."""

    index: int
    start: sh.Opening
    at: QPointF
    corner: bool


class Face(QWidget):
    """Drag an opening to move it, its upper right corner to size it; arrow keys move it by 1 mm, with Shift by 10."""

    def __init__(self, session: Session, openings: Openings) -> None:
        super().__init__()
        self._session, self._openings = session, openings
        self._hold: _Hold | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Face with its openings")
        self.setMinimumSize(200, 130)

    def _frame(self, wide: float, high: float) -> tuple[float, float, float]:
        pad, foot = self._session.theme.px(24), self._session.theme.px(34)  # below stands how wide it is
        scale = min((self.width() - 2 * pad) / wide, (self.height() - pad - foot) / high)
        return scale, (self.width() - wide * scale) / 2, (self.height() + pad - foot + high * scale) / 2

    def box_of(self, o: sh.Opening) -> QRectF:
        """Where an opening lies in the widget."""
        scale, x, y = self._frame(*(self._openings.face() or (1.0, 1.0)))
        return QRectF(x + o.x * scale, y - (o.z + o.height) * scale, o.width * scale, o.height * scale)

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p, face = self._session.theme, QPainter(self), self._openings.face()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), theme.color("ground"))
        if face is None:
            return
        wide, high = face
        scale, x, y = self._frame(wide, high)
        whole, now = QRectF(x, y - high * scale, wide * scale, high * scale), self._openings.now()
        p.setPen(QPen(theme.color("ink"), 1.2))
        p.setBrush(theme.color("card"))
        p.drawRect(whole)
        p.setClipRect(whole)
        for i, o in enumerate(now):
            box, mine = self.box_of(o), i == self._openings.at
            outline = QPolygonF([QPointF(x + a * scale, y - b * scale) for a, b in ring_of(o).tolist()])
            p.setBrush(theme.color("line"))
            p.setPen(QPen(theme.color("curtain" if mine else "soft"), 2 if mine else 1))
            p.drawPolygon(outline)
            if mine:
                p.setBrush(theme.color("curtain"))
                p.drawEllipse(box.topRight(), 4, 4)
        p.setClipping(False)
        p.setFont(theme.font(11))
        signs.dimension(p, theme, whole.bottomLeft() + QPointF(0, 10), whole.bottomRight() + QPointF(0, 10), f"{digits(wide, 0)} mm", False)
        if self._openings.at < len(now):
            o = now[self._openings.at]
            words = (
                f"{digits(o.width, 1)} × {digits(o.height, 1)} mm, {digits(o.x, 1)} from the left, {self._openings.sill} {digits(o.z, 1)}"
            )
            p.setPen(theme.text("slate"))
            p.drawText(QRectF(0, 0, self.width(), theme.px(18)), Qt.AlignmentFlag.AlignCenter, words)
        signs.focus_ring(p, theme, self)

    def _mm(self, at: QPointF) -> QPointF:
        scale, x, y = self._frame(*(self._openings.face() or (1.0, 1.0)))
        return QPointF((at.x() - x) / scale, (y - at.y()) / scale)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        for i, o in reversed(list(enumerate(self._openings.now()))):
            box = self.box_of(o)
            corner = (at - box.topRight()).manhattanLength() < 2 * GRAB
            if corner or box.contains(at):
                self._openings.at = i
                self._hold = _Hold(i, o, self._mm(at), corner)
                self._session.begin_drag()
                self._session.selection_changed.emit()
                return

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        hold = self._hold
        if hold is None:
            return
        way, start = self._mm(event.position()) - hold.at, hold.start
        new = (
            start.but(width=max(1.0, round(start.width + way.x(), 1)), height=max(1.0, round(start.height + way.y(), 1)))
            if hold.corner
            else start.but(x=round(start.x + way.x(), 1), z=max(0.0, round(start.z + way.y(), 1)))
        )
        self._openings.replace(hold.index, new, LABEL, "opening")

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._hold is not None:
            self._hold = None
            self._session.end_drag()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way, step, now = arrow(event), stride(event), self._openings.now()
        if way is None or self._openings.at >= len(now):
            super().keyPressEvent(event)
            return
        o = now[self._openings.at]
        moved = o.but(x=o.x + way[0] * step, z=max(0.0, o.z + way[1] * step))
        self._openings.replace(self._openings.at, moved, LABEL, "opening")
