"""Coats: what goes on, in which order, over what, and when."""

from collections.abc import Callable
from datetime import datetime
from typing import Any, TypeVar, get_args

from PySide6.QtWidgets import QHBoxLayout, QInputDialog, QMenu, QPushButton, QScrollArea, QVBoxLayout, QWidget

from fondale.app.actions import keyed
from fondale.core.coats.drying import bench_told, dries_told
from fondale.core.coats.links import floats
from fondale.core.derived import PLAN
from fondale.core.edits import Remove, put
from fondale.core.edits.new_things import add_step, add_surface, set_coat
from fondale.core.edits.steps import MarkDone, ReorderSteps
from fondale.core.lengths import LengthError
from fondale.core.model import LAMPS, STEPS, SURFACES, Listing, Step
from fondale.core.model.coats import MOST_WAIT_H, Dryness, Tool, Work
from fondale.core.order.plan import ready_told
from fondale.core.words import clipped, digits
from fondale.knowledge import table
from fondale.qt.furniture.columns import Columns, FieldGrid
from fondale.qt.furniture.fields import Choice, Field, number, words
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import action, heading, line_of
from fondale.qt.furniture.workplace import Station
from fondale.qt.session import Session
from fondale.qt.stations.coats.order import RunningOrder
from fondale.qt.stations.coats.rehearsal import Rehearsal
from fondale.qt.stations.coats.samples import CoreSamples
from fondale.qt.stations.coats.surface_ticket import SurfaceTicket

DRYNESS: dict[Dryness, str] = {"touch": "touch dry", "next": "ready for a coat", "handle": "hard"}


def parse_minutes(text: str) -> tuple[float, float, float]:
    """``15`` or ``10 15 25`` (low, likely, high). Raises LengthError."""
    try:
        values = [float(v.replace(",", ".")) for v in text.replace("to", " ").replace("min", " ").split()]
    except ValueError:
        values = []
    if len(values) == 1 and 0 < values[0] <= 5000:
        return values[0] * 0.7, values[0], values[0] * 1.7
    if len(values) == 3 and 0 < values[0] <= values[1] <= values[2] <= 10_000:
        return values[0], values[1], values[2]
    raise LengthError("Write the likely minutes, or least, likely and most: 10 15 25.")


def parse_moment(text: str) -> datetime | None:
    """A moment as 2026-12-19 21:30, or a day, by its end; nothing typed means that nobody knows. Raises LengthError."""
    if not text.strip():
        return None
    try:
        moment = datetime.fromisoformat(text.strip().replace(" ", "T", 1))
    except ValueError:
        raise LengthError("Write the moment as year-month-day hour:minute, for example 2026-12-19 21:30.") from None
    return moment.replace(tzinfo=None) if ":" in text else moment.replace(hour=23, minute=59)


def show_moment(moment: datetime | None) -> str:
    """As it is typed."""
    return f"{moment:%Y-%m-%d %H:%M}" if moment is not None else ""


SCROLL_LEAST = 120
T = TypeVar("T")


class CoatsStation(Station):
    """Core samples on the left, the running order on the right, the step's ticket and the rehearsal below."""

    name = "coats"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 12, 16, 8)
        column.setSpacing(8)
        left = QVBoxLayout()
        head, _note = heading("Core samples", "bottom to top")
        head.addWidget(action("Add a surface", self._add_surface))
        left.addLayout(head)
        self.samples = CoreSamples(session)
        self.samples.step_chosen.connect(lambda i: session.select(STEPS, i))
        self.samples.surface_chosen.connect(self._choose_surface)
        self._sample_scroll = self._scrolled(self.samples)
        left.addWidget(self._sample_scroll, 1)
        self.surface_ticket = SurfaceTicket(session)
        left.addWidget(self.surface_ticket)
        right = QVBoxLayout()
        head, _note = heading("Running order")
        self.ready = HowButton()
        head.addWidget(self.ready)
        right.addLayout(head)
        self.order = RunningOrder(session)
        self.order.step_chosen.connect(lambda i: session.select(STEPS, i))
        self._order_scroll = self._scrolled(self.order)
        right.addWidget(self._order_scroll, 1)
        column.addWidget(Columns(20, (left, 11), (right, 9)), 1)
        head, self._rehearsal_note = heading("Rehearsal")
        head.addWidget(action("Add a step", self._add_step))
        self._earlier = action("Earlier", lambda: self.shift(-1), keyed("Move the chosen step one place earlier", "earlier"))
        self._later_button = action("Later", lambda: self.shift(1), keyed("Move the chosen step one place later", "later"))
        head.addWidget(self._earlier)
        head.addWidget(self._later_button)
        column.addLayout(head)
        self.rehearsal = Rehearsal(session)
        self.rehearsal.step_chosen.connect(lambda i: session.select(STEPS, i))
        column.addWidget(self.rehearsal)
        column.addWidget(self._ticket())
        column.addLayout(self._last_line())
        self._cold = HowButton()
        column.addLayout(line_of(self._cold))

    @staticmethod
    def _scrolled(widget: Any) -> QScrollArea:
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(widget)
        return area

    def _ticket(self) -> FieldGrid:
        grid = FieldGrid(4)
        coats = [("", "no coat"), *((k, v["name"]) for k, v in table("coats")["coat"].items())]
        self.step_name = Field("step", words(1, 120), str, self._setter(lambda s: s.name, "Rename step")).caption_width(44)
        self.coat = Choice("coat", coats, self._set_coat).caption_width(44)
        self.minutes = Field(
            "minutes", parse_minutes, lambda v: " ".join(digits(x, 0) for x in v) if v else "", self._setter(lambda s: s.minutes, "Minutes")
        ).caption_width(56)
        self.work = Choice("work", [(w, w) for w in get_args(Work)], self._setter(lambda s: s.work, "Kind of work")).caption_width(44)
        self.tool = Choice("tool", [(t, t) for t in get_args(Tool)], self._setter(lambda s: s.tool, "Tool")).caption_width(44)
        self.dryness = Choice("needs below", list(DRYNESS.items()), self._setter(lambda s: s.dryness, "Dryness"))
        self.split = Choice(
            "evenings", [(False, "in one go"), (True, "may be split")], self._setter(lambda s: s.splittable, "Splitting")
        ).caption_width(56)
        self.goes_on = self._menu("goes on", SURFACES, lambda s: s.surfaces)
        self.closes = self._menu("closes", SURFACES, lambda s: s.closes)
        self.tests = self._menu("tests", LAMPS, lambda s: s.tests)
        self.after = self._menu("after", STEPS, lambda s: s.after)
        self.waits = Field(
            "waits", number(0, MOST_WAIT_H, "h"), lambda v: f"{digits(v, 1)} h", self._setter(lambda s: s.wait_h, "Waiting"), 76
        )
        self.waits.caption_width(56).setToolTip("Hours that go on by themselves afterwards: a cure, a printer")
        self._ticket_fields: list[QWidget] = [
            self.step_name, self.coat, self.tool, self.minutes, self.goes_on, self.work, self.dryness, self.split,
            self.after, self.closes, self.tests, self.waits,
        ]  # fmt: skip
        grid.fill(self._ticket_fields)
        return grid

    def _last_line(self) -> QHBoxLayout:
        self._dries = HowButton()
        self._floats = Prose("note", "floats: the order may put it anywhere")
        self.machine = Choice("runs on", [("", "no machine")], self._setter(lambda s: s.machine, "Machine"))
        self.finished = Field("done at", parse_moment, show_moment, self._setter(lambda s: s.finished, "When it was done"), 130)
        self.done = action("Done", self._toggle_done)
        self.remove = QPushButton("Remove")
        self.remove.clicked.connect(self._remove)
        row = QHBoxLayout()
        row.setSpacing(16)
        row.addWidget(self._dries)
        row.addWidget(self._floats, 1)
        row.addStretch(0)
        row.addWidget(self.machine)
        row.addWidget(self.finished)
        row.addWidget(self.done)
        row.addWidget(self.remove)
        self._fields = (*self._ticket_fields, self.done, self.remove, self._dries, self.machine, self.finished, self._floats)
        return row

    def _menu(self, caption: str, listing: Listing[Any], get: Callable[[Step], tuple[str, ...]]) -> QPushButton:
        button = QPushButton(caption)
        button.setProperty("role", "action")
        menu = QMenu(button)

        def fill() -> None:
            menu.clear()
            step = self.step
            if step is None:
                return
            for member in listing.members(self.session.project):
                if member is not step:
                    entry = menu.addAction(clipped(member.name, 60))
                    entry.setCheckable(True)
                    entry.setChecked(member.id in get(step))
                    entry.triggered.connect(lambda _c=False, i=member.id: self._toggle(caption, get, i))
            if menu.isEmpty():
                menu.addAction(f"no {listing.name} yet").setEnabled(False)

        menu.aboutToShow.connect(fill)
        button.clicked.connect(lambda: menu.popup(button.mapToGlobal(button.rect().bottomLeft())))
        return button

    @property
    def step(self) -> Step | None:
        """The chosen step."""
        return self.session.project.find(STEPS, self.session.chosen(STEPS))

    def _put(self, get: Callable[[Step], T], value: T, label: str) -> None:
        if self.step is not None:
            self.session.do(put(STEPS.at(self.step.id).then(get), value, f"{label}: {self.step.name}"))

    def _setter(self, get: Callable[[Step], T], label: str) -> Callable[[T], None]:
        return lambda value: self._put(get, value, label)

    def _set_coat(self, coat: str) -> None:
        if self.step is not None:
            self.session.do(*set_coat(self.session.project, self.step, coat), label=f"Coat: {self.step.name}")

    def _toggle(self, caption: str, get: Callable[[Step], tuple[str, ...]], ident: str) -> None:
        if self.step is not None:
            now = get(self.step)
            self._put(get, tuple(x for x in now if x != ident) if ident in now else (*now, ident), caption.capitalize())

    def _toggle_done(self) -> None:
        if self.step is not None:
            label = "Not done after all" if self.step.done else "Done"
            self.session.do(MarkDone(f"{label}: {self.step.name}", (self.step.id,), not self.step.done, self.session.now()))

    def _remove(self) -> None:
        if self.step is not None:
            self.session.do(Remove(f"Remove “{self.step.name}”", STEPS, self.step.id))

    def _choose_surface(self, ident: str) -> None:
        self.session.selected[SURFACES] = ident
        self.session.selection_changed.emit()

    def _add_surface(self) -> None:
        name, ok = QInputDialog.getText(self, "Add a surface", "What is it? For example: kiosk front")
        if ok and name.strip():
            edit, ident = add_surface(self.session.project, name.strip())
            if self.session.do(edit):
                self._choose_surface(ident)

    def _add_step(self) -> None:
        name, ok = QInputDialog.getText(self, "Add a step", "What is done? For example: prime the kiosk")
        if ok and name.strip():
            surface = self.session.selected.get(SURFACES, "")
            known = self.session.project.find(SURFACES, surface) is not None
            edit, ident = add_step(self.session.project, name.strip(), (surface,) if known else ())
            if self.session.do(edit):
                self.session.select(STEPS, ident)

    def shift(self, way: int) -> None:
        """Move the chosen step earlier or later in the maker's order."""
        step = self.step
        if step is None:
            return
        ids = [s.id for s in self.session.project.steps]
        at = ids.index(step.id)
        to = at + way
        if 0 <= to < len(ids):
            ids.insert(to, ids.pop(at))
            where = "earlier" if way < 0 else "later"
            self.session.do(ReorderSteps(f"“{step.name}” {where}", tuple(ids), gesture=f"shift {step.id}"))

    def refresh(self) -> None:
        """Follow the project and the plan."""
        project, plan = self.session.project, self.session.results[PLAN]
        for area in (self._sample_scroll, self._order_scroll):
            area.setMinimumHeight(self.session.theme.px(SCROLL_LEAST))
        self.samples.updateGeometry()
        self.samples.update()
        self.order.refresh()
        self.rehearsal.update()
        self._rehearsal_note.setText(
            f"{len(project.steps)} steps in your order; rings are closing steps" if project.steps else "no steps yet"
        )
        ready = ready_told(plan, {s.id: s.name for s in project.steps}) if plan is not None else None
        if ready is not None:
            self.ready.show_told(ready)
        self.ready.setVisible(ready is not None)
        self._fill_ticket()
        self._cold.show_told(bench_told(project.brief))

    def _fill_ticket(self) -> None:
        self.surface_ticket.refresh()
        step = self.step
        for widget in self._fields:
            widget.setVisible(step is not None)
        self._earlier.setVisible(step is not None)
        self._later_button.setVisible(step is not None)
        if step is None:
            return
        machines = self.session.project.brief.machines
        self.machine.set_options([("", "no machine"), *((m.id, m.name) for m in machines)])
        for field, value in (
            (self.step_name, step.name), (self.coat, step.coat), (self.tool, step.tool), (self.minutes, step.minutes),
            (self.work, step.work), (self.dryness, step.dryness), (self.split, step.splittable), (self.waits, step.wait_h),
            (self.finished, step.finished), (self.machine, step.machine),
        ):  # fmt: skip
            field.set_value(value)
        self.finished.setVisible(step.done)
        self.machine.setVisible(step.work == "print" or bool(step.machine))
        self._floats.setVisible(floats(self.session.project, step))
        project = self.session.project
        for button, caption, listing, ids in (
            (self.goes_on, "goes on", SURFACES, step.surfaces), (self.closes, "closes", SURFACES, step.closes),
            (self.tests, "tests", LAMPS, step.tests), (self.after, "after", STEPS, step.after),
        ):  # fmt: skip
            names = {m.id: m.name for m in listing.members(project)}
            named = [names[i] for i in ids if i in names]
            button.setText(self._list_words(caption, named))
            button.setToolTip(", ".join(named))
        self.done.setText("Not done after all" if step.done else "Mark as done")
        self._dries.show_told(dries_told(step, project.brief))

    @staticmethod
    def _list_words(caption: str, names: list[str]) -> str:
        if not names:
            return f"{caption} nothing"
        first = clipped(names[0].lower(), 26)
        return f"{caption} {first}" + (f" and {len(names) - 1} more" if len(names) > 1 else "")

    def show_subject(self, listing: Listing[Any], ident: str) -> None:
        if listing == SURFACES:
            self._choose_surface(ident)
        else:
            super().show_subject(listing, ident)
            self.rehearsal.setFocus()
