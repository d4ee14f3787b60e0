# SPDX-License-Identifier: MIT
"""Coats: what goes on, in which order, over what, and when."""

from dataclasses import replace
from typing import Any, TypeVar

from PySide6.QtWidgets import QScrollArea, QVBoxLayout

from fondale.app.actions import keyed
from fondale.core.coat_kinds import coat_row
from fondale.core.coats.drying import bench_told
from fondale.core.derived import PLAN
from fondale.core.edits.new_things import add_step, add_surface, surfaces_named
from fondale.core.edits.steps import ReorderSteps
from fondale.core.model import STEPS, SURFACES, Listing, Step
from fondale.core.order.plan import ready_told
from fondale.core.words import count_words
from fondale.qt.furniture.columns import Columns
from fondale.qt.furniture.dialogs import ask
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.rows import action, heading, hold, line_of
from fondale.qt.furniture.workplace import Station
from fondale.qt.session import Session
from fondale.qt.stations.coats.order import RunningOrder
from fondale.qt.stations.coats.rehearsal import Rehearsal
from fondale.qt.stations.coats.samples import CoreSamples
from fondale.qt.stations.coats.step_ticket import StepTicket
from fondale.qt.stations.coats.surface_ticket import SurfaceTicket

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
        self.ticket = StepTicket(session)
        column.addWidget(self.ticket)
        self._cold = HowButton()
        column.addLayout(line_of(self._cold))

    @staticmethod
    def _scrolled(widget: Any) -> QScrollArea:
        area = QScrollArea()
        area.setWidgetResizable(True)
        hold(area, widget)
        return area

    @property
    def step(self) -> Step | None:
        """The chosen step."""
        return self.ticket.step

    def _choose_surface(self, ident: str) -> None:
        self.session.selected[SURFACES] = ident
        self.session.selection_changed.emit()

    def _add_surface(self) -> None:
        name = ask(self, "Add a surface", "What is it? For example: kiosk front") or ""
        if name.strip():
            edit, ident = add_surface(self.session.project, name.strip())
            if self.session.do(edit):
                self._choose_surface(ident)

    def _add_step(self) -> None:
        name = ask(self, "Add a step", "What is done? For example: prime the kiosk") or ""
        if name.strip():
            project = self.session.project
            named = surfaces_named(project, name)
            edit, ident = add_step(project, name.strip(), named)
            if self.session.do(edit):
                self.session.select(STEPS, ident)
                self.session.said.emit(self._taken_for(ident))

    def _taken_for(self, ident: str) -> str:
        """What a new step was taken for, by its name."""
        project = self.session.project
        step = project.get(STEPS, ident)
        row = coat_row(step.coat)
        what = f"{row['name']}, {step.tool}" if row is not None else f"{step.work}, no coat"
        on = ", ".join(f"“{project.get(SURFACES, i).name}”" for i in step.surfaces[:3])
        return f"Taken for {what}{f', on {on}' if on else '; “works on” says on what'}. Change what is not so."

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
        project, plan = self.session.project, self.session.results.order
        for area in (self._sample_scroll, self._order_scroll):
            area.setMinimumHeight(self.session.theme.px(SCROLL_LEAST))
        self.samples.updateGeometry()
        self.samples.update()
        self.order.refresh()
        self.rehearsal.update()
        self._rehearsal_note.setText(
            f"{count_words(len(project.steps), 'step')} in your order; rings are closing steps" if project.steps else "no steps yet"
        )
        ready = ready_told(plan, {s.id: s.name for s in project.steps}) if plan is not None else None
        if ready is not None:
            looking = plan is not self.session.results[PLAN]
            self.ready.show_told(replace(ready, shown=f"{ready.shown}, still looking") if looking else ready)
        self.ready.setVisible(ready is not None)
        self.surface_ticket.refresh()
        self.ticket.refresh()
        for button in (self._earlier, self._later_button):
            button.setVisible(self.step is not None)
        self._cold.show_told(bench_told(project.brief))

    def show_subject(self, listing: Listing[Any], ident: str) -> None:
        if listing == SURFACES:
            self._choose_surface(ident)
        else:
            super().show_subject(listing, ident)
            self.rehearsal.setFocus()
