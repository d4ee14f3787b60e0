# SPDX-License-Identifier: MIT
"""The rail: moments as lantern slides, and the motion of each lamp as a thin trace in time."""

from functools import lru_cache

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from fondale.core.derived import PICTURE
from fondale.core.light.desk import levels_of
from fondale.core.model import Lamp
from fondale.core.motion.generators import level
from fondale.qt.furniture.seat_picture import to_image
from fondale.qt.session import Session
from fondale.qt.theme import signs

SECONDS = 12.0


@lru_cache(maxsize=64)
def _trace(lamp: Lamp, share: float, width: float, height: float) -> QPolygonF:
    """The level over the first seconds as a line of ``width`` by ``height`` pixels, standing on y = 0."""
    t = np.linspace(0, SECONDS, 180)
    values = level(lamp, t) * share
    return QPolygonF([QPointF(a, b) for a, b in zip((t / SECONDS * width).tolist(), (-height * values).tolist(), strict=True)])


class Slides(QWidget):
    """Moments as lantern slides; click or left and right keys choose."""

    chosen = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._images: dict[int, QImage] = {}
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Moments")

    def sizeHint(self) -> QSize:
        count = max(1, len(self._session.project.moments))
        return QSize(count * self._session.theme.px(128), self._session.theme.px(104))

    def minimumSizeHint(self) -> QSize:
        return QSize(self._session.theme.px(128), self._session.theme.px(100))

    def _cells(self) -> list[tuple[str, str, QRectF]]:
        theme = self._session.theme
        moments = self._session.project.moments
        width = min(theme.px(126.0), self.width() / max(1, len(moments)) - 6)
        return [(m.id, m.name, QRectF(i * (width + 8), 1, width, self.height() - 2)) for i, m in enumerate(moments)]

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        picture = self._session.results[PICTURE]
        for ident, name, box in self._cells():
            mine = ident == self._session.project.moment
            p.setPen(QPen(theme.color("lamp" if mine else "line"), 2 if mine else 1))
            p.setBrush(theme.color("card"))
            p.drawRoundedRect(box, 3, 3)
            inner = box.adjusted(5, 5, -5, -theme.px(22))
            p.fillRect(inner, Qt.GlobalColor.black)
            rgb = picture.slides.get(ident) if picture else None
            if rgb is not None:
                if id(rgb) not in self._images:
                    self._images = {k: v for k, v in self._images.items() if picture and k in {id(s) for s in picture.slides.values()}}
                    self._images[id(rgb)] = to_image(rgb)
                image = self._images[id(rgb)]
                scale = min(inner.width() / image.width(), inner.height() / image.height())
                fit = QRectF(0, 0, image.width() * scale, image.height() * scale)
                fit.moveCenter(inner.center())
                p.drawImage(fit, image)
            p.setFont(theme.font(12, 600 if mine else 400))
            p.setPen(theme.color("ink"))
            words = QRectF(box.left() + 7, box.bottom() - theme.px(20), box.width() - 12, theme.px(18))
            p.drawText(
                words, Qt.AlignmentFlag.AlignVCenter, p.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(words.width()))
            )
        signs.focus_ring(p, theme, self)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for ident, _name, box in self._cells():
            if box.contains(event.position()):
                self.chosen.emit(ident)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        ids = [m.id for m in self._session.project.moments]
        if step is None or not ids:
            super().keyPressEvent(event)
            return
        now = self._session.project.moment
        at = ids.index(now) if now in ids else 0
        self.chosen.emit(ids[max(0, min(len(ids) - 1, at + step))])


class Traces(QWidget):
    """The first seconds of each lamp's motion in the present moment."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setAccessibleName("Motion of the lamps over twelve seconds")

    def sizeHint(self) -> QSize:
        return QSize(280, self._session.theme.px(104))

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, project, p = self._session.theme, self._session.project, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        levels = levels_of(project)
        lamps = sorted(project.lamps, key=lambda m: m.motion == "steady")[: max(1, int(self.height() // theme.px(19)))]
        row = min(theme.px(30), self.height() / max(1, len(lamps)))
        names = theme.px(92)
        p.setFont(theme.font(11.5))
        for i, lamp in enumerate(lamps):
            y = i * row
            p.setPen(theme.text("soft"))
            p.drawText(
                QRectF(0, y, names - 6, row),
                Qt.AlignmentFlag.AlignVCenter,
                p.fontMetrics().elidedText(lamp.name, Qt.TextElideMode.ElideRight, names - 8),
            )
            p.setPen(QPen(theme.color("line"), 1))
            p.drawLine(QPointF(names, y + row - 3), QPointF(self.width(), y + row - 3))
            line = _trace(lamp, levels[lamp.id], self.width() - names - 2, row - 8).translated(names, y + row - 4)
            p.setPen(QPen(theme.color("lamp"), 1.3))
            p.drawPolyline(line)
