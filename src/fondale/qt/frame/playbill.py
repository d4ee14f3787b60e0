# SPDX-License-Identifier: MIT
"""The playbill: the project's name, its scale, three promises, and a thin line of light for work under way."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from fondale.core.derived import LEDGER, PLAN
from fondale.core.diary.pace import money_told
from fondale.core.order.plan import date_told, time_told
from fondale.core.words import show_scale
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.prose import Line, Short
from fondale.qt.session import Session


class ScaleMark(QPushButton):
    """The house scale as a small label; it opens Brief."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setAccessibleName("House scale")
        self.setToolTip("House scale: set on Brief")

    def paintEvent(self, event: QPaintEvent) -> None:
        theme = self._session.theme
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(QPen(theme.color("curtain"), 2 if self.hasFocus() else 1))
        p.setBrush(theme.color("card"))
        box = self.rect().adjusted(1, 1, -2, -2)
        p.drawRoundedRect(box, 3, 3)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawEllipse(box.left() + 7, box.center().y() - 2, 5, 5)
        p.setFont(theme.font(13, 600))
        p.setPen(theme.text("curtain"))
        p.drawText(box.adjusted(16, 0, -4, 0), Qt.AlignmentFlag.AlignCenter, self.text())


class Playbill(QWidget):
    """Name, scale, date with odds, time left, money; below, what is being worked out and a way to stop it."""

    went = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 16, 6)
        row.setSpacing(16)
        self._name = Short("title")
        self._mark = Line("title", "·")
        self._scale = ScaleMark(session)
        self._scale.clicked.connect(lambda: self.went.emit("brief"))
        self.date, self.time, self.money = HowButton(), HowButton(), HowButton()
        self._work = Line("note")
        self._stop = QPushButton("stop")
        self._stop.clicked.connect(self._stop_work)
        name = QHBoxLayout()
        name.setSpacing(4)
        name.addWidget(self._name)
        name.addWidget(self._mark)
        row.addLayout(name)
        row.addWidget(self._scale)
        row.addStretch(1)
        row.addWidget(self._work)
        row.addWidget(self._stop)
        for button in (self.date, self.time, self.money):
            row.addWidget(button)
        session.project_changed.connect(self.refresh)
        session.results_changed.connect(self.refresh)
        session.busy_changed.connect(self._show_work)
        session.theme_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Follow the project and the results."""
        session = self._session
        project, theme = session.project, session.theme
        self.setFixedHeight(theme.px(52))
        self._name.setText(project.name)
        self._mark.setVisible(session.document.modified)
        self._mark.setToolTip("Not saved yet")
        self._scale.setText(show_scale(project.brief.house_n))
        self._scale.setFixedSize(theme.px(64), theme.px(26))
        plan, book = session.results[PLAN], session.results[LEDGER]
        self.date.show_told(date_told(plan, project.brief, session.results.look.today))
        self.time.show_told(time_told(plan))
        if book is not None:
            self.money.show_told(money_told(book, project.brief.currency))
        self._show_work()

    def _show_work(self) -> None:
        """What is being worked out, how far it is, and the way to stop it."""
        session, theme = self._session, self._session.theme
        slow = session.results.slow_work
        self._work.setText(slow[0][1] if slow else "")
        self._stop.setVisible(bool(slow) and self.width() > theme.px(1000))
        self._work.setVisible(bool(slow) and self.width() > theme.px(1000))
        self.update()

    def _stop_work(self) -> None:
        for task in list(self._session.results.busy):
            self._session.results.stop(task)

    def resizeEvent(self, event: object) -> None:
        self.refresh()

    def paintEvent(self, event: QPaintEvent) -> None:
        theme = self._session.theme
        p = QPainter(self)
        p.fillRect(self.rect(), theme.color("ground"))
        bottom = self.height() - 1
        p.setPen(theme.color("line"))
        p.drawLine(0, bottom, self.width(), bottom)
        busy = self._session.results.slow_work
        if busy:
            share = max(0.04, min(share for share, _words in busy))
            p.setPen(QPen(theme.color("lamp"), 2))
            p.drawLine(0, bottom, round(self.width() * share), bottom)
