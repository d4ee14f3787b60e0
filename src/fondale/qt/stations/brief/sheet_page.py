# SPDX-License-Identifier: MIT
"""The brief sheet: what it is for, by when, on which evenings, within what."""

from collections.abc import Callable
from datetime import date
from functools import partial
from typing import TypeVar

from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout

from fondale.core.coats.drying import drying_factor
from fondale.core.derived import LEDGER, PLAN
from fondale.core.edits import put
from fondale.core.model import PROJECT, SEATS, Brief
from fondale.core.order.plan import spread_words
from fondale.core.times import parse_clock, parse_day, parse_days, parse_first_day, parse_setup, show_setup
from fondale.core.words import count_words, day_words, digits
from fondale.qt.furniture.columns import Columns
from fondale.qt.furniture.fields import Field, length_field, money_field, number, words
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Line, Prose
from fondale.qt.furniture.rows import heading
from fondale.qt.session import Session
from fondale.qt.stations.brief.weeks import Weeks

EVENING = 41  # wide enough for 720
DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
CAPTION = 92
T = TypeVar("T")


class SheetPage(Page):
    """The sheet on the left, the evenings on the right."""

    title = "The brief"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.lay_out(Columns(16, (self._sheet(), 5), (self._time(), 4)))

    def _setter(self, get: Callable[[Brief], T], label: str) -> Callable[[T], bool]:
        return self.session.setter(PROJECT.then(lambda p: p.brief).then(get), label)

    def _sheet(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(6)
        house = lambda: self.session.project.brief.house_n  # noqa: E731
        self.piece = Field(
            "piece", words(1, 120), str, lambda v: self.session.do(put(PROJECT.then(lambda p: p.name), v, "Rename the piece"))
        ).caption_width(CAPTION)
        self.occasion = Field("occasion", words(), str, self._setter(lambda b: b.occasion, "Occasion")).caption_width(CAPTION)
        self.place = Field("where it stands", words(), str, self._setter(lambda b: b.place, "Where it stands")).caption_width(CAPTION)
        self.shelf = length_field("shelf height", self._setter(lambda b: b.shelf_height_mm, "Shelf height"), house).caption_width(CAPTION)
        self.bears = Field(
            "shelf bears",
            number(0, 10_000, "kg"),
            lambda v: f"{digits(v, 1)} kg" if v else "",
            self._setter(lambda b: b.shelf_bears_kg, "What the shelf bears"),
            90,
        )
        self.bears.edit.setPlaceholderText("not told")
        self.cap = money_field("cap", 1e7, lambda: self.session.project.brief.currency, self._setter(lambda b: b.cap, "Cap")).caption_width(
            CAPTION
        )
        self.currency = Field("money", words(0, 4), str, self._setter(lambda b: b.currency, "Kind of money"), 56)
        self.warmth = Field(
            "bench", number(-10, 45, "°C"), lambda v: f"{digits(v, 1)} °C", self._setter(lambda b: b.bench_c, "Bench temperature"), 90
        ).caption_width(CAPTION)
        self.damp = Field(
            "humidity", number(5, 100, "%"), lambda v: f"{digits(v, 0)} %", self._setter(lambda b: b.bench_rh, "Bench humidity"), 56
        )
        self.show_day = Field(
            "show day", number(0, 100, "h"), lambda v: f"{digits(v, 1)} h", self._setter(lambda b: b.show_hours, "Hours of a show day"), 90
        )
        for field in (self.piece, self.occasion, self.place):
            column.addWidget(field)
        grid = QGridLayout()
        grid.setVerticalSpacing(6)
        grid.setHorizontalSpacing(12)
        grid.addWidget(self.shelf, 0, 0)
        grid.addWidget(self.show_day, 0, 1)
        grid.addWidget(self.cap, 1, 0)
        grid.addWidget(self.currency, 1, 1)
        grid.addWidget(self.warmth, 2, 0)
        grid.addWidget(self.damp, 2, 1)
        self.viewer = length_field("viewer", self._set_viewer, house, 90).caption_width(CAPTION)
        self.viewer.setToolTip("How tall the people are who look at it; the seats on Stage say more")
        grid.addWidget(self.viewer, 3, 0)
        self.begins = Field(
            "evenings from",
            parse_clock,
            lambda v: f"{v // 60}:{v % 60:02d}",
            self._setter(lambda b: b.evening_from, "Hour of the evenings"),
            56,
        )
        grid.addWidget(self.begins, 3, 1)
        self.starts = Field(
            "begins",
            lambda t: parse_first_day(t, self.session.results.look.today),
            lambda v: v.isoformat() if v else "",
            self._setter(lambda b: b.start, "First evening"),
            92,
        )
        self.starts.caption_width(CAPTION).setToolTip("The day from which there are evenings for it")
        grid.addWidget(self.starts, 4, 0)
        grid.addWidget(self.bears, 4, 1)
        column.addLayout(grid)
        column.addSpacing(10)
        row, _note = heading("What follows")
        column.addLayout(row)
        self._follows = Prose()
        column.addWidget(self._follows)
        column.addStretch(1)
        return column

    def _set_viewer(self, mm: float) -> None:
        seats = self.session.project.seats
        if seats:
            self.session.do(put(SEATS.at(seats[0].id).then(lambda s: s.stature_mm), mm, f"Height of {seats[0].name}"))

    def _what_follows(self) -> str:
        """The promises in sentences: date, work, drying, money."""
        project, results = self.session.project, self.session.results
        brief, plan, book = project.brief, results[PLAN], results[LEDGER]
        said = []
        if plan is not None and plan.ready is not None:
            line = f"Ready on {day_words(plan.ready)}"
            if brief.deadline:
                spare = (brief.deadline - plan.ready.date()).days
                line += f", {count_words(spare, 'day')} before it opens" if spare > 0 else ", too late for the date"
            said.append(line + f": {count_words(len(plan.evenings), 'evening')} at the bench.")
            if plan.half is not None:
                said.append(spread_words(plan))
            names = {s.id: s.name for s in project.steps}
            deciding = [f"“{names[i]}”" for i in plan.deciding if i in names]
            if deciding:
                said.append(f"What decides the odds most: {', '.join(deciding)}.")
        elif plan is not None and plan.silence:
            said.append(plan.silence)
        if brief.bench_c < 18:
            said.append(
                f"At {digits(brief.bench_c, 0)} °C coats dry {digits(drying_factor('acrylic', brief.bench_c, brief.bench_rh), 1)} times as slowly."
            )
        if book is not None and brief.cap:
            left = brief.cap - book.total
            said.append(f"{digits(abs(left), 2)} {brief.currency} are {'left' if left >= 0 else 'over the cap'}.")
        return "\n".join(said) or "Set a date and evenings here, and steps on Coats: the running order and its odds follow."

    def _time(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(6)
        row, self._time_note = heading("Evenings until the date")
        column.addLayout(row)
        line = QHBoxLayout()
        self.deadline = Field(
            "opens",
            lambda t: parse_day(t, self.session.results.look.today),
            lambda v: v.isoformat() if v else "",
            self._setter(lambda b: b.deadline, "Deadline"),
            92,
        )
        self.deadline.edit.setPlaceholderText("2026-12-19")
        self.day_off = Field(
            "no bench on", lambda t: parse_days(t, self.session.results.look.today), lambda v: "", self._toggle_days_off, 92
        )
        self.day_off.edit.setPlaceholderText("days")
        self.day_off.edit.setToolTip("24 December, or 10 to 20 December; typed again, it is a day at the bench again")
        line.addWidget(self.deadline)
        line.addWidget(self.day_off)
        column.addLayout(line)
        tools = QHBoxLayout()
        self.airbrush = Field("airbrush", parse_setup, show_setup, self._setter(lambda b: b.airbrush, "Airbrush"), 92)
        self.spray_can = Field("spray can", parse_setup, show_setup, self._setter(lambda b: b.spray_can, "Spray can"), 92)
        for field in (self.airbrush, self.spray_can):
            field.setToolTip(
                "Minutes to bring it out, to clean it at the end of the evening, and to change its colour after a step: 8 10 3"
            )
            tools.addWidget(field)
        column.addLayout(tools)
        days = QHBoxLayout()
        days.setSpacing(2)
        self.evenings: list[Field] = []
        for i, day in enumerate(DAYS):
            cell = QVBoxLayout()
            cell.setSpacing(0)
            label = Line("note", day)
            field = Field("", number(0, 720), lambda v: digits(v, 0), partial(self._set_evening, i), EVENING)
            field.edit.setAccessibleName(f"Minutes on {day}")
            self.evenings.append(field)
            cell.addWidget(label)
            cell.addWidget(field)
            days.addLayout(cell)
        minutes = Line("note", "min")
        days.addWidget(minutes)
        column.addLayout(days)
        self.weeks = Weeks(self.session)
        column.addWidget(self.weeks, 1)
        return column

    def _set_evening(self, day: int, minutes: float) -> None:
        values = list(self.session.project.brief.evenings)
        values[day] = round(minutes)
        seven = (values[0], values[1], values[2], values[3], values[4], values[5], values[6])
        self._setter(lambda b: b.evenings, f"Minutes on {DAYS[day]}")(seven)

    def _toggle_days_off(self, days: tuple[date, ...]) -> None:
        if not days:
            return
        off, named = set(self.session.project.brief.days_off), day_words(days[0])
        if len(days) > 1:
            named += f" to {day_words(days[-1])}"
        back = off.issuperset(days)
        label = f"Bench again on {named}" if back else f"No bench on {named}"
        self._setter(lambda b: b.days_off, label)(tuple(sorted(off - set(days) if back else off | set(days))))

    def refresh(self) -> None:
        """Follow the project."""
        project = self.session.project
        brief = project.brief
        for field, value in (
            (self.piece, project.name), (self.occasion, brief.occasion), (self.place, brief.place), (self.shelf, brief.shelf_height_mm), (self.bears, brief.shelf_bears_kg),
            (self.cap, brief.cap), (self.currency, brief.currency), (self.warmth, brief.bench_c), (self.damp, brief.bench_rh),
            (self.show_day, brief.show_hours), (self.deadline, brief.deadline), (self.starts, brief.start), (self.airbrush, brief.airbrush), (self.spray_can, brief.spray_can), (self.day_off, ()), (self.begins, brief.evening_from),
        ):  # fmt: skip
            field.set_value(value)
        self.viewer.setVisible(bool(project.seats))
        self.viewer.set_value(project.seats[0].stature_mm if project.seats else None)
        for field, minutes in zip(self.evenings, brief.evenings, strict=True):
            field.set_value(minutes)
        off = ", ".join(day_words(d) for d in brief.days_off)
        self._time_note.setText(f"no bench: {off}" if off else "")
        self._follows.setText(self._what_follows())
        self.weeks.update()
