"""The playbill: the project's name, its scale, three promises, and a thin line of light for work under way."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from fondale.core.derived import LEDGER, PLAN
from fondale.core.words import day_words, digits, percent, show_scale
from fondale.qt.furniture.how import How, HowButton
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
        self._promise_date()
        self._promise_time()
        self._promise_money()
        self._show_work()

    def _show_work(self) -> None:
        """What is being worked out, how far it is, and the way to stop it."""
        session, theme = self._session, self._session.theme
        slow = session.results.slow_work
        self._work.setText(slow[0][1] if slow else "")
        self._stop.setVisible(bool(slow) and self.width() > theme.px(1000))
        self._work.setVisible(bool(slow) and self.width() > theme.px(1000))
        self.update()

    def _promise_date(self) -> None:
        brief, plan = self._session.project.brief, self._session.results[PLAN]
        if brief.deadline is None:
            self.date.show_value("no date yet", How("The date", "Set a date on Brief.", "Brief"))
            return
        days = (brief.deadline - self._session.results.today).days
        text = f"opens {day_words(brief.deadline)}, {days} days" if days >= 0 else f"opened {day_words(brief.deadline)}"
        formula = "The running order places every step in the evenings of Brief, one pair of hands, drying at the bench’s temperature."
        if plan is not None and plan.finish is not None:
            proof = "proven to be the earliest" if plan.proven else "the earliest found, not proven"
            formula += f"\nReady on {day_words(plan.finish)}: {proof}."
            if plan.odds is not None:
                text += f", odds {percent(plan.odds)}"
                formula += f"\nOdds: share of 2000 runs, with each step’s time drawn between its low and high, that are ready before the day. {percent(plan.odds)} made it."
        self.date.show_value(text, How("The date", formula, "CP-SAT running order; PERT times, 2000 runs"))

    def _promise_time(self) -> None:
        plan = self._session.results[PLAN]
        if plan is None:
            self.time.show_value("time: reckoning", How("Time left", "Still being worked out.", "Coats"))
            return
        text = f"{plan.minutes_left // 60} h {plan.minutes_left % 60:02d} to go"
        formula = f"Likely minutes of all steps that are not done × your pace {plan.pace:.2f} (from the Diary, pulled towards 1 while pages are few)."
        self.time.show_value(text, How("Time left at the bench", formula, "Coats and Diary"))

    def _promise_money(self) -> None:
        results, brief = self._session.results, self._session.project.brief
        book = results[LEDGER]
        if book is None:
            return
        cap = f" of {digits(book.cap, 2)} {brief.currency}" if book.cap else f" {brief.currency}"
        formula = f"{digits(book.pieces, 2)} {brief.currency} for pieces on the Bench + {digits(book.spent, 2)} {brief.currency} written in the Diary."
        self.money.show_value(f"{digits(book.total, 2)}{cap}", How("Money", formula, "Bench and Diary"))

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
