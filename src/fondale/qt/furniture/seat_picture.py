# SPDX-License-Identifier: MIT
"""A picture from a seat, fitted into a widget, with points of the case projected onto it."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPen, QPixmap, QResizeEvent
from PySide6.QtWidgets import QWidget

from fondale.core.arrays import Floats
from fondale.core.light.frames import front_window
from fondale.core.model import SEATS, Seat
from fondale.core.views.sight import eye_of
from fondale.qt.session import Session
from fondale.qt.theme import signs
from fondale.qt.theme.palette import Theme

if TYPE_CHECKING:
    from fondale.core.light.views import LitView, StageView


def to_image(rgb: np.ndarray) -> QImage:
    """An 8-bit RGB array (height, width, 3) as an image of its own memory."""
    data = np.ascontiguousarray(rgb)
    height, width, _ = data.shape
    return QImage(data.data, width, height, 3 * width, QImage.Format.Format_RGB888).copy()


MOST = 10_000  # far more than any screen


class SeatPicture(QWidget):
    """Shows an image dimmed while it is stale; subclasses draw signs over it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._image: QImage | None = None
        self._window = front_window(session.project.case)
        self._scaled: QPixmap | None = None
        self._source: object = None
        self._fresh = True
        self.setMinimumSize(QSize(260, 160))

    def show_view(self, view: "StageView | LitView | None", fresh: bool) -> None:
        """Show a view, or nothing; ``fresh`` False dims it."""
        if view is not self._source:
            self._source = view
            self._image = None if view is None else to_image(view.image)
            self._window = front_window(self._session.project.case) if view is None else view.window
            self._scaled = None
            self._fit()
        self._fresh = fresh
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._fit()

    def _fit(self) -> None:
        """No taller than the picture needs, so that what is below moves up."""
        x0, x1, z0, z1 = self._window
        self.setMaximumHeight(min(max(160, round(self.width() * (z1 - z0) / (x1 - x0)) + 2), MOST))

    def box(self) -> QRectF:
        """Where the picture lies in the widget."""
        if self._image is None:
            return QRectF(self.rect())
        scale = min(self.width() / self._image.width(), self.height() / self._image.height())
        box = QRectF(0, 0, self._image.width() * scale, self._image.height() * scale)
        box.moveCenter(QRectF(self.rect()).center())
        return box

    def eye(self, seat: Seat) -> Floats:
        """The eye (3,) that the picture is seen from."""
        return eye_of(self._session.project, seat)

    def on_plane(self, at: QPointF, axis: int, value: float) -> Floats | None:
        """The point (3,) in the case of what is seen at a point of the widget, if it lies so far along an axis; None where no such point is before the eye."""
        project = self._session.project
        seat = project.find(SEATS, self._session.results.look.seat_of(project))
        if seat is None or self._image is None:
            return None
        eye, box, (x0, x1, z0, z1) = self.eye(seat), self.box(), self._window
        front = [x0 + (at.x() - box.left()) / box.width() * (x1 - x0), 0.0, z0 + (box.bottom() - at.y()) / box.height() * (z1 - z0)]
        way: Floats = np.array(front) - eye
        if abs(way[axis]) < 1e-6 or (value - eye[axis]) / way[axis] <= 0:
            return None
        out: Floats = eye + way * (value - eye[axis]) / way[axis]
        return out

    def project_point(self, x: float, y: float, z: float) -> QPointF | None:
        """Where a point of the case is seen, or None when there is no seat."""
        project = self._session.project
        seat = project.find(SEATS, self._session.results.look.seat_of(project))
        if seat is None:
            return None
        eye = self.eye(seat)
        share = (0.0 - eye[1]) / max(y - eye[1], 1e-6)
        px, pz = eye[0] + (x - eye[0]) * share, eye[2] + (z - eye[2]) * share
        x0, x1, z0, z1 = self._window
        box = self.box()
        return QPointF(box.left() + (px - x0) / (x1 - x0) * box.width(), box.bottom() - (pz - z0) / (z1 - z0) * box.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), Qt.GlobalColor.black)
        if self._image is None:
            p.setPen(Qt.GlobalColor.gray)
            words = "Drawing the view…" if self._session.project.seats else "Add a seat, and its view appears here."
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        if not self._fresh:
            p.setOpacity(0.82)
        box = self.box()
        if self._scaled is None or self._scaled.size() != box.size().toSize():
            self._scaled = QPixmap(box.size().toSize())
            once = QPainter(self._scaled)
            once.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            once.drawImage(self._scaled.rect(), self._image)
            once.end()
        p.drawPixmap(box.topLeft(), self._scaled)
        p.setOpacity(1.0)
        self.draw_over(p)

    def ticket(self, p: QPainter, at: QPointF, gap: float, lines: list[str], clear: Sequence[QRectF] = ()) -> None:
        """A luggage label beside a thing at ``at``, tied to it by a cord, where it covers least of what is to be kept ``clear``; always in the dark lighting of
        the picture.
        """
        theme = Theme("down", self._session.theme.scale)
        p.setFont(theme.font(12, 600))
        line = theme.px(16)
        width = max(p.fontMetrics().horizontalAdvance(text) for text in lines) + theme.px(28)
        box = self._beside(at, QSizeF(width, line * len(lines) + 8), clear)
        p.setPen(QPen(theme.color("lamp"), 1))
        cord = signs.hole_of(box)
        way = cord - at
        length = max(1.0, (way.x() ** 2 + way.y() ** 2) ** 0.5)
        p.drawLine(at + way * (gap / length), cord)
        signs.label_tag(p, theme, box, theme.color("lamp"), False)
        for k, text in enumerate(lines):
            p.setFont(theme.font(12, 600 if k == 0 else 400))
            p.setPen(theme.color("ink" if k == 0 else "soft"))
            p.drawText(QRectF(box.left() + theme.px(18), box.top() + 4 + k * line, width, line), Qt.AlignmentFlag.AlignVCenter, text)

    def _beside(self, at: QPointF, size: QSizeF, clear: Sequence[QRectF]) -> QRectF:
        """Where a label of this size covers least beside ``at``: right of it and above, if nothing lies there."""
        room = QRectF(self.rect()).adjusted(4, 4, -4, -4)
        places = list[tuple[float, int, int, QRectF]]()
        for down, right in ((False, True), (False, False), (True, True), (True, False)):
            for far in (1, 2, 3):
                way = QPointF(34 * far if right else -34 * far - size.width(), 22 * far if down else -22 * far - size.height())
                box = QRectF(at + way, size)
                box.moveLeft(max(room.left(), min(box.left(), room.right() - box.width())))
                box.moveTop(max(room.top(), min(box.top(), room.bottom() - box.height())))
                under = [box & other for other in (QRectF(at.x() - 12, at.y() - 12, 24, 24), *clear)]
                places.append((sum(one.width() * one.height() for one in under), far, len(places), box))
        return min(places, key=lambda place: place[:3])[3]

    def draw_over(self, p: QPainter) -> None:
        """Signs over the picture."""
