# SPDX-License-Identifier: MIT
"""Diary: what was done, spent and learned."""

from datetime import date, datetime
from functools import partial

from PySide6.QtCore import QElapsedTimer, Qt, QTimer
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from fondale.app.actions import KEYS
from fondale.core.derived import LEDGER, PLAN
from fondale.core.diary.pace import hours_told, money_told, pace_told
from fondale.core.edits import new_id, put
from fondale.core.edits.leaving import Reopen
from fondale.core.edits.steps import LogEvening, StopTimer
from fondale.core.model import PROJECT, Draft, Page
from fondale.core.words import day_words, digits
from fondale.qt.furniture.columns import Columns
from fondale.qt.furniture.fields import Choice, Field, Writing, money_field, number
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.prose import Line, Prose, on_a_button
from fondale.qt.furniture.rows import action, clear, headed, heading, hold, line_of
from fondale.qt.furniture.workplace import Station
from fondale.qt.session import Session

TONIGHT = PROJECT.then(lambda p: p.tonight)
CLOCK_MIN = 2.0  # a clock that is set by less is set right by the network, and nobody minds


class DiaryStation(Station):
    """Pages on the left, tonight's page in the middle, sums and what was left on the right."""

    name = "diary"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._begun_at = ""
        self._timer = QElapsedTimer()
        self._started: datetime | None = None  # when it was started here: the timer goes on where a clock is set
        self._tick = QTimer(self)
        self._tick.setInterval(1000)
        self._tick.timeout.connect(self._show_timer)
        left = headed("Pages")
        self._pages = self._list(left)
        right = headed("Sums")
        self.pace, self.money, self.hours = HowButton(), HowButton(), HowButton()
        for button in (self.pace, self.hours, self.money):
            right.addLayout(line_of(button))
        head, _note = heading("Left as it is")
        right.addLayout(head)
        self._left = self._list(right)
        page = QVBoxLayout(self)
        page.setContentsMargins(24, 12, 16, 8)
        page.addWidget(Columns(24, (left, 4), (self._tonight(), 5), (right, 4)))

    @staticmethod
    def _list(column: QVBoxLayout) -> QVBoxLayout:
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setMinimumSize(190, 140)
        inner = QWidget()
        out = QVBoxLayout(inner)
        out.setContentsMargins(0, 0, 8, 0)
        out.setSpacing(4)
        hold(area, inner)
        column.addWidget(area, 1)
        return out

    def _tonight(self) -> QVBoxLayout:
        session, column = self.session, QVBoxLayout()
        column.setSpacing(6)
        head, self._tonight_note = heading("Tonight’s page")
        self.timer_button = action("Start the timer", self.toggle_timer, KEYS["timer"])
        head.addWidget(self.timer_button)
        column.addLayout(head)
        line = QHBoxLayout()
        self.minutes = Field(
            "minutes", number(0, 1440), lambda v: digits(v, 0), session.setter(TONIGHT.then(lambda t: t.minutes), "Minutes tonight"), 70
        )
        money = lambda: session.project.brief.currency  # noqa: E731
        self.spent = money_field("spent", 1e6, money, session.setter(TONIGHT.then(lambda t: t.spent), "Spent tonight"))
        line.addWidget(self.minutes)
        line.addWidget(self.spent)
        column.addLayout(line)
        label = Line("soft", "What was finished")
        column.addWidget(label)
        self._steps = self._list(column)
        self.begun = Choice("begun", [("", "nothing")], self._choose_begun)
        self.begun_min = Field("minutes", number(0, 1440), lambda v: digits(v, 0) if v else "", self._take_begun, 60)
        column.addWidget(Columns(10, (self.begun, 3), (self.begun_min, 2)))
        self._begun_words = Prose("soft")
        column.addWidget(self._begun_words)
        self.words = Writing(
            "What was done", "What was done, mixes, mistakes", session.setter(TONIGHT.then(lambda t: t.words), "Words of tonight")
        )
        column.addWidget(self.words)
        self.lesson = Writing(
            "Lesson", "What to do differently next time", session.setter(TONIGHT.then(lambda t: t.lesson), "Lesson of tonight")
        )
        column.addWidget(self.lesson)
        self.write = QPushButton("Write the page")
        self.write.setProperty("role", "solid")
        self.write.clicked.connect(self.write_page)
        column.addWidget(self.write, 0, Qt.AlignmentFlag.AlignLeft)
        return column

    @property
    def _draft(self) -> Draft:
        return self.session.project.tonight

    def _choose_begun(self, ident: str) -> None:
        """A step that was worked on and is not finished; its minutes are typed beside it."""
        self._begun_at = ident
        self.begun_min.set_value(self._draft.begun.get(ident, 0.0))
        self.begun_min.edit.setFocus()

    def _take_begun(self, value: float) -> bool:
        if not self._begun_at:
            self.session.said.emit("Choose the step that was begun first.")
            return True
        rest = {k: v for k, v in self._draft.begun.items() if k != self._begun_at}
        begun = rest | ({self._begun_at: value} if value else {})
        return self.session.do(put(TONIGHT.then(lambda t: t.begun), begun, "Minutes of what was begun"))

    def _show_begun(self) -> None:
        names = {s.id: s.name for s in self.session.project.steps if not s.done}
        said = [f"{names[i]} {digits(m, 0)} min" for i, m in self._draft.begun.items() if i in names]
        self._begun_words.setText(f"Begun and not finished: {', '.join(said)}." if said else "")
        self._begun_words.setVisible(bool(said))

    def toggle_timer(self) -> None:
        """Start the timer, or stop it and add its minutes."""
        since = self._draft.since
        if since is None:
            self._started = datetime.now().replace(microsecond=0)
            self._timer.start()
            self.session.do(put(TONIGHT.then(lambda t: t.since), self._started, "Start the timer"))
            return
        minutes, by_clock = self._elapsed_ms() / 60_000, (datetime.now() - since).total_seconds() / 60
        self.session.do(StopTimer("Stop the timer", minutes))
        if abs(by_clock - minutes) > CLOCK_MIN:
            way = "back" if by_clock < minutes else "on"
            self.session.said.emit(
                f"This machine’s clock was set {way} while the timer ran. The timer went on by itself: {digits(minutes, 0)} min."
            )

    def _elapsed_ms(self) -> float:
        """How long the timer has run: by its own count where it was started here."""
        since = self._draft.since
        if since is None:
            return 0.0
        return float(self._timer.elapsed()) if since == self._started else max(0.0, (datetime.now() - since).total_seconds() * 1000)

    def _show_timer(self) -> None:
        if self._draft.since is None:
            self._tick.stop()
            self.timer_button.setText("Start the timer")
        else:
            if not self._tick.isActive():
                self._tick.start()
            seconds = int(self._elapsed_ms() // 1000)
            self.timer_button.setText(f"Stop the timer, {seconds // 60}:{seconds % 60:02d}")

    def _tick_step(self, ident: str, done: bool) -> None:
        rest = tuple(i for i in self._draft.done if i != ident)
        self.session.do(put(TONIGHT.then(lambda t: t.done), (*rest, ident) if done else rest, "What was finished"))

    def write_page(self) -> None:
        """Log the evening: its steps count as done."""
        self.session.leaving.emit()
        if self._draft.since is not None:
            self.toggle_timer()
        draft = self._draft
        text, lesson = draft.words.strip(), draft.lesson.strip()
        if draft.minutes <= 0 and not draft.done and not text:
            self.session.said.emit("Write the minutes, tick what was finished, or say what was done.")
            return
        today: date = self.session.results.look.today
        ident = new_id(f"page {today.isoformat()}", (p.id for p in self.session.project.pages))
        open_steps = {s.id for s in self.session.project.steps if not s.done}
        done = tuple(i for i in draft.done if i in open_steps)
        begun = {i: m for i, m in draft.begun.items() if i in open_steps and i not in done}
        page = Page(id=ident, day=today, minutes=draft.minutes, done=done, begun=begun, spent=draft.spent, words=text, lesson=lesson)
        if self.session.do(LogEvening(f"Page of {day_words(today)}", page, self.session.now())):
            self.session.said.emit("The page is written.")

    def refresh(self) -> None:
        """Follow the project."""
        project = self.session.project
        self.words.setFixedHeight(self.session.theme.px(64))
        self.lesson.setFixedHeight(self.session.theme.px(44))
        self._tonight_note.setText(day_words(self.session.results.look.today))
        draft = self._draft
        self.minutes.set_value(draft.minutes)
        self.spent.set_value(draft.spent)
        self.words.set_value(draft.words)
        self.lesson.set_value(draft.lesson)
        self._show_timer()
        open_now = [(s.id, s.name) for s in project.steps if not s.done]
        self.begun.set_options([("", "nothing"), *open_now])
        self._begun_at = self._begun_at if self._begun_at in dict(open_now) else ""
        self.begun.set_value(self._begun_at)
        self.begun_min.set_value(draft.begun.get(self._begun_at, 0.0))
        self._show_begun()
        self._fill_steps()
        self._fill_pages()
        self._fill_left()
        book, sign = self.session.results[LEDGER], project.brief.currency
        if book is not None:
            self.pace.show_told(pace_told(book))
            self.hours.show_told(hours_told(book))
            self.money.show_told(money_told(book, sign))

    def _fill_steps(self) -> None:
        project, plan, today = self.session.project, self.session.results[PLAN], self.session.results.look.today
        tonight = [i.step for e in plan.evenings if e.day == today for i in e.items] if plan else []
        open_steps = sorted((s for s in project.steps if not s.done), key=lambda s: s.id not in tonight)
        state = [(s.id, s.name, s.id in tonight) for s in open_steps]
        if state == getattr(self, "_step_state", None):
            self._show_ticks()
            return
        self._step_state = state
        clear(self._steps)
        for ident, name, now in state:
            box = QCheckBox(on_a_button(name) + ("  (tonight)" if now else ""))
            box.setProperty("step", ident)
            box.setChecked(ident in project.tonight.done)
            box.toggled.connect(partial(self._tick_step, ident))
            self._steps.addWidget(box)
        if not state:
            self._steps.addWidget(_soft("All steps are done." if project.steps else "No steps yet: Coats is the place for them."))
        self._steps.addStretch(1)

    def _show_ticks(self) -> None:
        for box in (item.widget() for k in range(self._steps.count()) if (item := self._steps.itemAt(k)) is not None):
            if not isinstance(box, QCheckBox):
                continue
            box.blockSignals(True)
            box.setChecked(box.property("step") in self._draft.done)
            box.blockSignals(False)

    def _fill_pages(self) -> None:
        project = self.session.project
        if project.pages == getattr(self, "_page_state", None):
            return
        self._page_state = project.pages
        clear(self._pages)
        names = {s.id: s.name for s in project.steps}
        for page in sorted(project.pages, key=lambda p: p.day, reverse=True):
            spent = f", {digits(page.spent, 2)} {project.brief.currency}" if page.spent else ""
            self._pages.addWidget(Line("bold", f"{day_words(page.day)}, {digits(page.minutes, 0)} min{spent}"))
            for text, role in (
                (", ".join(names.get(i, i) for i in page.done), ""),
                (page.words, ""),
                (f"Next time: {page.lesson}" if page.lesson else "", "note"),
            ):
                if text:
                    label = Prose(role, text)
                    self._pages.addWidget(label)
            self._pages.addSpacing(8)
        if not project.pages:
            self._pages.addWidget(_soft("No pages yet. Write the first one tonight."))
        self._pages.addStretch(1)

    def _fill_left(self) -> None:
        left = self.session.results.left
        state = [(f.key, f.title, reason) for f, reason in left]
        if state == getattr(self, "_left_state", None):
            return
        self._left_state = state
        clear(self._left)
        for finding, reason in left:
            label = Prose("", f"{finding.title}: {finding.text}\n“{reason}”")
            self._left.addWidget(label)
            again = QPushButton("Let it speak again")
            edit = Reopen(f"Reopen “{finding.title}”", finding.key)
            again.clicked.connect(lambda _c=False, e=edit: self.session.do(e))
            self._left.addWidget(again, 0, Qt.AlignmentFlag.AlignLeft)
        if not left:
            self._left.addWidget(_soft("Nothing. Prompts that you leave stand here with your reason."))
        self._left.addStretch(1)


def _soft(text: str) -> QLabel:
    label = Prose("soft", text)
    return label
