# SPDX-License-Identifier: MIT
"""The native scale as an interval over the named scales."""

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from fondale.core.scale.reading import Reading, named_scales
from fondale.core.words import show_scale
from fondale.qt.session import Session


class ScaleRuler(QWidget):
    """A logarithmic rule: the interval as a band, the best value as a line, the house scale marked."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._reading: Reading | None = None
        self.setMinimumHeight(72)

    def sizeHint(self) -> QSize:
        return QSize(280, self._session.theme.px(72))

    def show_reading(self, reading: Reading | None) -> None:
        """Show a reading, or nothing."""
        self._reading = reading
        self.setAccessibleName(
            "Native scale" if reading is None else f"Native scale {show_scale(reading.low)} to {show_scale(reading.high)}"
        )
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        reading, theme = self._reading, self._session.theme
        if reading is None:
            return
        house = self._session.project.brief.house_n
        low, high = min(reading.low, house) * 0.86, max(reading.high, house) * 1.16

        def x(n: float) -> float:
            return 8 + (self.width() - 16) * math.log(n / low) / math.log(high / low)

        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        y = theme.px(31)
        p.setPen(QPen(theme.color("line"), 1))
        p.drawLine(QPointF(8, y), QPointF(self.width() - 8, y))
        p.fillRect(QRectF(x(reading.low), y - 7, x(reading.high) - x(reading.low), 14), theme.color("slate", 0.3))
        p.setPen(QPen(theme.color("slate"), 2.4))
        p.drawLine(QPointF(x(reading.n), y - 11), QPointF(x(reading.n), y + 11))
        p.setPen(QPen(theme.color("curtain"), 1.4))
        p.drawLine(QPointF(x(house), y - 14), QPointF(x(house), y + 5))
        p.setFont(theme.font(11, 600))
        p.setPen(theme.text("curtain"))
        at = min(max(0.0, x(house) - 40), self.width() - 80.0)
        p.drawText(QRectF(at, y - 14 - theme.px(13), 80, theme.px(13)), Qt.AlignmentFlag.AlignHCenter, "house")
        p.setFont(theme.font(11))
        end = -100.0
        for scale in named_scales():
            if not low <= scale.n <= high:
                continue
            inside = reading.low <= scale.n <= reading.high
            p.setPen(theme.text("ink" if inside else "soft"))
            p.drawLine(QPointF(x(scale.n), y - 4), QPointF(x(scale.n), y + 4))
            width = p.fontMetrics().horizontalAdvance(show_scale(scale.n))
            if x(scale.n) - width / 2 > end + 5 and x(scale.n) + width / 2 < self.width():
                p.drawText(QRectF(x(scale.n) - 30, y + 8, 60, theme.px(16)), Qt.AlignmentFlag.AlignHCenter, show_scale(scale.n))
                end = x(scale.n) + width / 2
