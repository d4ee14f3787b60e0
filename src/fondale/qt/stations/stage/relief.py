# SPDX-License-Identifier: MIT
"""A ground from above, shaded by its slopes, to draw contours and strokes on."""

from dataclasses import dataclass

import numpy as np
import shapely
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from fondale.core.arrays import Floats
from fondale.core.model import shapes as sh
from fondale.core.shapes.grounds import relief
from fondale.core.words import digits
from fondale.qt.furniture.keys import arrow, stride
from fondale.qt.session import Session
from fondale.qt.stations.stage.ground_lines import GroundLines
from fondale.qt.theme import signs

GRAB, CLOSE = 7.0, 14.0  # pixels: from a line that take hold of it, from a beginning that close it
STEEP = 2.0  # how much a slope darkens
APART = 5  # corners between the heights of two lines


@dataclass
class _Hold:
    """A line that is dragged: as it was, and where the pointer took hold (mm)."""

    index: int
    start: sh.GroundLine
    at: QPointF


def _rgb(colour: QColor) -> Floats:
    return np.array([colour.red(), colour.green(), colour.blue()], float)


class Relief(QWidget):
    """Draw with the mouse; drag a line to move it. Arrow keys move the chosen one by 1 mm, with Shift by 10; Delete takes it out."""

    def __init__(self, session: Session, lines: GroundLines) -> None:
        super().__init__()
        self._session, self._lines = session, lines
        self._hold: _Hold | None = None
        self._drawn: list[QPointF] = []
        self._shade: tuple[object, QImage] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Ground from above")
        self.setCursor(Qt.CursorShape.CrossCursor)

    def _frame(self) -> tuple[float, float, float]:
        """Pixels a millimetre, and where the middle of the ground lies."""
        shape, pad, foot = self._lines.shape, self._session.theme.px(24), self._session.theme.px(34)  # below stands how wide it is
        wide, deep = (shape.width, shape.depth) if shape is not None else (1.0, 1.0)
        scale = min((self.width() - 2 * pad) / wide, (self.height() - pad - foot) / deep)
        return max(scale, 1e-3), self.width() / 2, (self.height() + pad - foot) / 2

    def to_screen(self, x: float, y: float) -> QPointF:
        """Millimetres from the middle to the widget."""
        scale, a, b = self._frame()
        return QPointF(a + x * scale, b - y * scale)

    def _mm(self, at: QPointF) -> QPointF:
        scale, a, b = self._frame()
        return QPointF((at.x() - a) / scale, (b - at.y()) / scale)

    def _corners(self, line: sh.GroundLine) -> Floats:
        shape = self._lines.shape
        assert shape is not None
        return np.array(line.points) * (shape.width, shape.depth)

    def _shaded(self, shape: sh.Ground) -> QImage:
        """The slopes in light from the upper left, the higher the lighter."""
        theme = self._session.theme
        key = (shape, theme.lighting)
        if self._shade is None or self._shade[0] != key:
            x, y, z = relief(shape)
            down, across = np.gradient(z, y, x)
            lean = (across - down) / np.sqrt(1 + across**2 + down**2)
            share = np.clip(0.5 - 0.35 * STEEP * lean + 0.15 * (z - z.min()) / max(float(np.ptp(z)), 1e-9), 0.0, 1.0)
            low, high = (_rgb(theme.color(role)) for role in ("line", "card"))
            rgb = (low + (high - low) * share[::-1, :, None]).astype(np.uint8)
            image = QImage(rgb.tobytes(), rgb.shape[1], rgb.shape[0], 3 * rgb.shape[1], QImage.Format.Format_RGB888).copy()
            self._shade = (key, image)
        return self._shade[1]

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p, shape = self._session.theme, QPainter(self), self._lines.shape
        p.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        p.fillRect(self.rect(), theme.color("ground"))
        if shape is None:
            return
        whole = QRectF(self.to_screen(-shape.width / 2, shape.depth / 2), self.to_screen(shape.width / 2, -shape.depth / 2))
        p.drawImage(whole, self._shaded(shape))
        p.setPen(QPen(theme.color("soft"), 1.2))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(whole)
        p.setFont(theme.font(11))
        for i, line in enumerate(self._lines.now()):
            self._line(p, line, i)
        if self._drawn:
            p.setPen(QPen(theme.color("curtain"), 1.6))
            p.drawPolyline(QPolygonF(self._drawn))
        signs.dimension(
            p, theme, whole.bottomLeft() + QPointF(0, 10), whole.bottomRight() + QPointF(0, 10), f"{digits(shape.width, 0)} mm", False
        )
        z = relief(shape)[2]
        p.setPen(theme.text("slate"))
        words = f"{digits(float(z.min()), 1)} to {digits(float(z.max()), 1)} mm over its base, front below"
        p.drawText(QRectF(0, 0, self.width(), theme.px(18)), Qt.AlignmentFlag.AlignCenter, words)
        signs.focus_ring(p, theme, self)

    def _line(self, p: QPainter, line: sh.GroundLine, index: int) -> None:
        theme, scale, chosen = self._session.theme, self._frame()[0], index == self._lines.at
        corners = [self.to_screen(x, y) for x, y in self._corners(line).tolist()]
        path = QPolygonF([*corners, corners[0]] if line.closed else corners)
        if line.kind == "stroke":
            band = QPen(
                theme.color("lamp", 0.25), 2 * line.reach * scale, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin
            )
            p.setPen(band)
            self._trace(p, path)
        style = Qt.PenStyle.SolidLine if line.kind == "contour" else Qt.PenStyle.DashLine
        p.setPen(QPen(theme.color("curtain" if chosen else "ink"), 2.0 if chosen else 1.1, style))
        self._trace(p, path)
        words = digits(line.height, 1) if line.kind == "contour" else f"{'+' if line.height >= 0 else '−'}{digits(abs(line.height), 1)}"
        at = corners[index * APART % len(corners)] + QPointF(5, -4)  # nested contours bear their heights at different places
        box = QRectF(at.x() - 2, at.y() - theme.px(12), p.fontMetrics().horizontalAdvance(words) + 4, theme.px(14))
        p.fillRect(box, theme.color("card", 0.8))
        p.setPen(theme.text("curtain" if chosen else "ink"))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    @staticmethod
    def _trace(p: QPainter, path: QPolygonF) -> None:
        if path.size() == 1:
            p.drawPoint(path.at(0))
        else:
            p.drawPolyline(path)

    def line_at(self, at: QPointF) -> int | None:
        """The line under a point of the widget, the chosen one first."""
        mm, near = self._mm(at), GRAB / self._frame()[0]
        point, now = shapely.points(mm.x(), mm.y()), self._lines.now()
        order = sorted(range(len(now)), key=lambda i: i != self._lines.at)
        return next((i for i in order if shapely.distance(self._geometry(now[i]), point) <= near), None)

    def _geometry(self, line: sh.GroundLine) -> shapely.Geometry:
        corners = self._corners(line)
        if len(corners) == 1:
            return shapely.points(corners[0])
        return shapely.linestrings(np.concatenate([corners, corners[:1]]) if line.closed else corners)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton or self._lines.shape is None:
            return
        index = self.line_at(event.position())
        if index is None:
            self._drawn = [event.position()]
            return
        self._hold = _Hold(index, self._lines.now()[index], self._mm(event.position()))
        self._session.begin_drag()
        self._lines.choose(index)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drawn:
            self._drawn.append(event.position())
            self.update()
        elif self._hold is not None:
            way = self._mm(event.position()) - self._hold.at
            self._lines.move(self._hold.index, self._hold.start, (way.x(), way.y()), "ground line")
        else:
            over = self.line_at(event.position()) is not None
            self.setCursor(Qt.CursorShape.OpenHandCursor if over else Qt.CursorShape.CrossCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drawn:
            drawn, self._drawn = self._drawn, []
            closed = len(drawn) > 4 and (drawn[-1] - drawn[0]).manhattanLength() < CLOSE
            points = [self._mm(q) for q in (drawn[:-1] if closed else drawn)]
            self._lines.draw(np.array([[q.x(), q.y()] for q in points]), closed)
            self.update()
        elif self._hold is not None:
            self._hold = None
            self._session.end_drag()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        now, at = self._lines.now(), self._lines.at
        way, step = arrow(event), stride(event)
        if event.key() == Qt.Key.Key_Delete and now:
            self._lines.change("out")
        elif way is None or at >= len(now):
            super().keyPressEvent(event)
        else:
            self._lines.move(at, now[at], (way[0] * step, way[1] * step), "ground line")
