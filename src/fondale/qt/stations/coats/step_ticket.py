# SPDX-License-Identifier: MIT
"""The ticket of the chosen step: what it is, what it works on, and how it hangs on the others."""

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any, TypeVar, get_args

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from fondale.core.cautions import cautions_of, cautions_told
from fondale.core.coat_kinds import coat_row, coats_by_name
from fondale.core.coats.drying import dries_told
from fondale.core.coats.links import floats
from fondale.core.edits import Remove, put
from fondale.core.edits.new_things import rename_step, set_coat
from fondale.core.edits.steps import MarkDone
from fondale.core.handwork import minutes_of, minutes_told
from fondale.core.lengths import LengthError
from fondale.core.model import FITS, JOINS, LAMPS, PIECES, STEPS, STRINGS, SURFACES, Listing, Step, Tie
from fondale.core.model.coats import Dryness, TieKind, Work
from fondale.core.order.ties import tie_words
from fondale.core.prints.printers import any_of, any_shown
from fondale.core.times import parse_days, parse_hours, parse_minutes, parse_moment, show_days, show_moment
from fondale.core.words import clipped, digits, hours_words
from fondale.knowledge import table
from fondale.qt.furniture.again import Again
from fondale.qt.furniture.columns import FieldGrid
from fondale.qt.furniture.dialogs import ask
from fondale.qt.furniture.fields import Choice, ColourField, Field, number, words
from fondale.qt.furniture.finder import Finder, Several
from fondale.qt.furniture.how import HowButton, ShortHow
from fondale.qt.furniture.prose import Prose, literal, on_a_button
from fondale.qt.furniture.rows import Entries, action, line_of, menu_button
from fondale.qt.session import Session

DRYNESS: dict[Dryness, str] = {"wet": "may be wet", "touch": "touch dry", "next": "ready for a coat", "handle": "hard"}
TIES: dict[TieKind, str] = {
    "at once": "at once after…", "within": "within hours of…", "not before": "not before hours after…", "together": "on one evening with…",
}  # fmt: skip
TIMED = ("within", "not before")
# What a step can work on: the list, the step's field, and how it is told.
WORKS_ON: tuple[tuple[Listing[Any], str, str], ...] = (
    (SURFACES, "surfaces", "{}"), (PIECES, "pieces", "all of {}"), (JOINS, "joints", "joint {}"), (FITS, "fits", "fit {}"),
    (LAMPS, "wires", "wires {}"), (STRINGS, "strings", "wires string {}"),
)  # fmt: skip
T = TypeVar("T")


def show_minutes(minutes: tuple[float, ...] | None) -> str:
    """As they are typed; nothing where they are proposed."""
    return " ".join(digits(x, 0) for x in minutes) if minutes else ""


class StepTicket(QWidget):
    """Everything that a step holds, each editable in place; nothing while there is no step."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self._grid())
        self.care = ShortHow()
        column.addLayout(line_of(self.care))
        column.addLayout(self._last_line())

    def _grid(self) -> FieldGrid:
        grid = FieldGrid(5)
        put_in, narrow = self._setter, 44
        self.step_name = Field("step", words(1, 120), str, self._rename).caption_width(narrow)
        self.coat = Choice("coat", lambda: [("", "no coat"), *coats_by_name().items()], self._set_coat).caption_width(narrow)
        self.colour = ColourField("colour", put_in(lambda s: s.colour, "Colour"))
        self.minutes = Field(
            "minutes", lambda t: parse_minutes(t) if t.strip() else None, show_minutes, put_in(lambda s: s.minutes, "Minutes")
        ).caption_width(56)
        self.minutes.setToolTip(
            "The likely minutes, or least, likely and most: 10 15 25; or a batch: 32 x 4 + 10; empty: as proposed in grey"
        )
        self.work = Choice("work", [(w, w) for w in get_args(Work)], put_in(lambda s: s.work, "Kind of work")).caption_width(narrow)
        self.tool = Choice(
            "tool", lambda: [(k, r.get("name", k)) for k, r in table("tools")["tool"].items()], put_in(lambda s: s.tool, "Tool")
        ).caption_width(narrow)
        self.dryness = Choice("below", list(DRYNESS.items()), put_in(lambda s: s.dryness, "Dryness")).caption_width(narrow)
        self.split = Choice("goes", [(False, "in one go"), (True, "in parts")], put_in(lambda s: s.splittable, "Splitting")).caption_width(
            narrow
        )
        show_wait = lambda v: f"{digits(v / 24, 0)} days" if v >= 48 and not v % 24 else f"{digits(v, 1)} h"  # noqa: E731
        self.waits = Field("waits", parse_hours, show_wait, put_in(lambda s: s.wait_h, "Waiting"))
        self.waits.caption_width(56).setToolTip("What goes on by itself afterwards, in hours or days: a cure, a printer, a parcel")
        self.not_on = Field(
            "not on", lambda t: parse_days(t, self.session.results.look.today), show_days, put_in(lambda s: s.not_on, "Not on an evening")
        ).caption_width(narrow)
        self.not_on.setToolTip("Evenings that it must not take: 24 December, or 10 to 20 December")
        film = number(0, 100_000, "µm")
        self.film = Field(
            "film",
            lambda t: film(t) if t.strip() else 0.0,
            lambda v: f"{digits(v, 1)} µm" if v else "",
            put_in(lambda s: s.film_um, "Film"),
        )
        self.film.caption_width(56).edit.setPlaceholderText("as usual")
        self.note = Field("note", words(0), str, put_in(lambda s: s.note, "Note")).caption_width(narrow)
        self.works_on = Several("works on", self._things, self._worked_on, self._toggle_thing)
        self.closes = self._several("closes", SURFACES, lambda s: s.closes)
        self.tests = self._several("tests", LAMPS, lambda s: s.tests)
        self.after = self._several("after", STEPS, lambda s: s.after)
        self.tied = menu_button("tied to nothing", self._ties)
        self.machine = Choice("on", [("", "no machine")], self._set_machine).caption_width(narrow)
        self.finished = Field("done at", parse_moment, show_moment, put_in(lambda s: s.finished, "When it was done")).caption_width(56)
        self._fields: list[QWidget] = [
            self.step_name, self.coat, self.colour, self.minutes, self.works_on,
            self.work, self.tool, self.dryness, self.split, self.closes,
            self.waits, self.not_on, self.note, self.film, self.tests, self.after, self.tied, self.machine, self.finished,
        ]  # fmt: skip
        grid.fill(self._fields)
        return grid

    def _last_line(self) -> QHBoxLayout:
        self._dries, self._takes = HowButton(), HowButton()
        self._floats = Prose("note", "floats: the order may put it anywhere")
        self.done = action("Done", self._toggle_done)
        self.remove = QPushButton("Remove")
        self.remove.clicked.connect(self._remove)
        row = QHBoxLayout()
        row.setSpacing(16)
        row.addWidget(self._takes)
        row.addWidget(self._dries)
        row.addWidget(self._floats, 1)
        row.addStretch(0)
        self.again = Again(self.session, lambda: (STEPS, self.step.id) if self.step else None)
        for widget in (self.done, self.again.button, self.remove):
            row.addWidget(widget)
        return row

    def _several(self, caption: str, listing: Listing[Any], get: Callable[[Step], tuple[str, ...]]) -> Several:
        def options() -> list[tuple[str, str]]:
            mine = self.step
            return [(m.id, m.name) for m in listing.members(self.session.project) if m is not mine]

        def marked() -> tuple[str, ...]:
            return get(self.step) if self.step is not None else ()

        return Several(caption, options, marked, lambda ident: self._toggle(caption.capitalize(), get, ident))

    @property
    def step(self) -> Step | None:
        """The chosen step."""
        return self.session.project.find(STEPS, self.session.chosen(STEPS))

    def _put(self, get: Callable[[Step], T], value: T, label: str) -> None:
        if self.step is not None:
            self.session.do(put(STEPS.at(self.step.id).then(get), value, f"{label}: {self.step.name}"))

    def _setter(self, get: Callable[[Step], T], label: str) -> Callable[[T], None]:
        return lambda value: self._put(get, value, label)

    def _toggle(self, label: str, get: Callable[[Step], tuple[str, ...]], ident: str) -> None:
        if self.step is not None:
            now = get(self.step)
            self._put(get, tuple(x for x in now if x != ident) if ident in now else (*now, ident), label)

    def _rename(self, name: str) -> None:
        if self.step is not None:
            self.session.do(*rename_step(self.session.project, self.step, name), label="Rename step")

    def _set_coat(self, coat: str) -> None:
        if self.step is not None:
            self.session.do(*set_coat(self.session.project, self.step, coat), label=f"Coat: {self.step.name}")

    # What it works on: things of many lists in one.

    def _things(self) -> Sequence[tuple[tuple[str, str], str]]:
        project = self.session.project
        return [((field, m.id), said.format(m.name)) for listing, field, said in WORKS_ON for m in listing.members(project)]

    def _worked_on(self) -> Sequence[tuple[str, str]]:
        step = self.step
        return [(field, i) for _listing, field, _said in WORKS_ON for i in getattr(step, field)] if step is not None else ()

    def _toggle_thing(self, thing: tuple[str, str]) -> None:
        step, (field, ident) = self.step, thing
        if step is not None:
            now = getattr(step, field)
            new = tuple(x for x in now if x != ident) if ident in now else (*now, ident)
            self.session.do(put(STEPS.at(step.id), step.but(**{field: new}), f"Works on: {step.name}"))

    # Ties.

    def _ties(self) -> Entries:
        step = self.step
        if step is None:
            return []
        names = {s.id: s.name for s in self.session.project.steps}
        told = [(t, tie_words(t, names.get(t.step, t.step))) for t in step.ties]
        timed = [(f"{words}: other hours…", partial(self._tie_to, t.kind, t.step)) for t, words in told if t.kind in TIMED]
        gone = [(f"× {words}", partial(self._drop_tie, t)) for t, words in told]
        return [*((said, partial(self.tie, kind)) for kind, said in TIES.items()), *timed, *gone]

    def _drop_tie(self, tie: Tie) -> None:
        step = self.step
        if step is not None:
            self._put(lambda s: s.ties, tuple(t for t in step.ties if t != tie), "Let a tie go")

    def tie(self, kind: TieKind) -> None:
        """Ask for the step that this one is tied to, and for the hours where it takes some."""
        step = self.step
        others = [(s.id, s.name) for s in self.session.project.steps if s is not step]
        self.finder = Finder(self.tied, others, lambda ident: self._tie_to(kind, ident))
        self.finder.open_below(self.tied)

    def _tie_to(self, kind: TieKind, ident: str) -> None:
        step, hours = self.step, 0.0
        if step is None:
            return
        was = next((t for t in step.ties if (t.step, t.kind) == (ident, kind)), None)
        if kind in TIMED:
            now = hours_words(was.hours) if was is not None else "2 h"
            text = ask(self, TIES[kind].rstrip("…").capitalize(), "Hours, for example 2 h, 30 min or 3 days", now)
            if text is None:
                return
            try:
                hours = parse_hours(text)
            except LengthError as error:
                self.session.said.emit(str(error))
                return
        tie = Tie(step=ident, kind=kind, hours=hours)
        ties = (*step.ties, tie) if was is None else tuple(tie if t is was else t for t in step.ties)
        self._put(lambda s: s.ties, ties, "Tie")

    # Its end.

    def _set_machine(self, value: tuple[str, bool]) -> None:
        step = self.step
        if step is not None:
            machine, any_machine = value
            self.session.do(put(STEPS.at(step.id), step.but(machine=machine, any_machine=any_machine), f"Machine: {step.name}"))

    def _toggle_done(self) -> None:
        if self.step is not None:
            label = "Not done after all" if self.step.done else "Done"
            self.session.do(MarkDone(f"{label}: {self.step.name}", (self.step.id,), not self.step.done, self.session.now()))

    def _remove(self) -> None:
        if self.step is not None:
            self.session.do(Remove(f"Remove “{self.step.name}”", STEPS, self.step.id))

    def refresh(self) -> None:
        """Follow the chosen step."""
        step, project = self.step, self.session.project
        self.setVisible(step is not None)
        if step is None:
            return
        machines, alike = project.brief.machines, [((m.id, True), said) for m, said in any_of(project)]
        self.machine.set_options([(("", False), "no machine"), *(((m.id, False), m.name) for m in machines), *alike])
        for field, value in (
            (self.step_name, step.name), (self.coat, step.coat), (self.colour, step.colour), (self.tool, step.tool), (self.minutes, step.minutes),
            (self.work, step.work), (self.dryness, step.dryness), (self.split, step.splittable), (self.waits, step.wait_h),
            (self.not_on, step.not_on), (self.note, step.note), (self.film, step.film_um), (self.finished, step.finished),
            (self.machine, (any_shown(project, step.machine) if step.any_machine else step.machine, step.any_machine)),
        ):  # fmt: skip
            field.set_value(value)
        for button in (self.works_on, self.closes, self.tests, self.after):
            button.follow()
        names = {s.id: s.name for s in project.steps}
        said = [tie_words(t, names.get(t.step, t.step)) for t in step.ties]
        self.tied.setText((on_a_button(clipped(said[0], 24)) if len(said) == 1 else f"{len(said)} ties") if said else "tied to nothing")
        self.tied.setToolTip(literal("\n".join(said)))
        self.coat.setToolTip(literal(str((coat_row(step.coat) or {}).get("means", ""))))
        self.care.show_told(cautions_told(cautions_of(project, step)))
        self.care.setVisible(bool(self.care.text()))
        self.finished.setVisible(step.done)
        self.machine.setVisible(bool(machines))
        self._floats.setVisible(floats(project, step))
        self.done.setText("Not done after all" if step.done else "Mark as done")
        self._takes.show_told(minutes_told(project, step))
        least, likely, most = minutes_of(project, step)
        self.minutes.edit.setPlaceholderText(show_minutes((round(least), likely, round(most))))
        self._dries.show_told(dries_told(step, project.brief))
