# SPDX-License-Identifier: MIT
"""The evenings until the date, with what the running order puts into each."""

from datetime import date, timedelta

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from fondale.core.derived import PLAN
from fondale.qt.session import Session

MOST_WEEKS = 8


class Weeks(QWidget):
    """One column a week, one cell a day: its minutes as a frame, the planned work as a filling."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setMinimumHeight(120)
        self.setAccessibleName("Evenings until the date")

    def sizeHint(self) -> QSize:
        return QSize(420, 190)

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        brief, plan, today = self._session.project.brief, self._session.results[PLAN], self._session.results.look.today
        first = today - timedelta(days=today.weekday())
        end = brief.deadline or today + timedelta(days=27)
        if plan is not None and plan.ready is not None:
            end = max(end, plan.ready.date())
        weeks = max(1, min(MOST_WEEKS, ((end - first).days // 7) + 1))
        names, head = theme.px(34), theme.px(18)
        width, height = (self.width() - names) / weeks, (self.height() - head) / 7
        used = {e.day: e.used for e in plan.evenings} if plan else {}
        p.setFont(theme.font(11))
        for d in range(7):
            p.setPen(theme.text("soft"))
            p.drawText(QRectF(0, head + d * height, names, height), Qt.AlignmentFlag.AlignVCenter, f"{first + timedelta(days=d):%a}")
        for w in range(weeks):
            p.setPen(theme.text("soft"))
            start = first + timedelta(days=7 * w)
            p.drawText(QRectF(names + w * width, 0, width, head), Qt.AlignmentFlag.AlignLeft, f"{start:%d %b}".lstrip("0"))
            for d in range(7):
                self._day(p, start + timedelta(days=d), QRectF(names + w * width, head + d * height, width - 5, height - 3), used)

    def _day(self, p: QPainter, day: date, box: QRectF, used: dict[date, int]) -> None:
        theme, brief = self._session.theme, self._session.project.brief
        minutes = 0 if day in brief.days_off else brief.evenings[day.weekday()]
        past = day < self._session.results.look.today
        share = min(1.0, minutes / max(1, *brief.evenings))
        frame = QRectF(box.left(), box.top(), max(2.0, box.width() * share), box.height())
        if minutes and not past:
            filled = QRectF(frame)
            filled.setWidth(frame.width() * min(1.0, used.get(day, 0) / minutes))
            p.fillRect(filled, theme.color("lamp", 0.75))
            p.setPen(QPen(theme.color("soft"), 1))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(frame)
        elif not past:
            p.setPen(QPen(theme.color("line"), 1, Qt.PenStyle.DotLine))
            p.drawLine(box.bottomLeft(), box.bottomRight())
        plan = self._session.results[PLAN]
        finish = plan.ready if plan else None
        words = "opens" if day == brief.deadline else "ready" if finish and day == finish.date() else ""
        if words:
            role = "curtain" if words == "opens" else "verdigris"
            p.setPen(QPen(theme.color(role), 2))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(box)
            p.setFont(theme.font(11, 600))
            said = p.boundingRect(box.adjusted(4, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
            p.fillRect(said.adjusted(-2, 0, 2, 0), theme.color("ground"))  # what the evening holds is as bright as the words
            p.setPen(theme.text(role))
            p.drawText(said, words)
            p.setFont(theme.font(11))
