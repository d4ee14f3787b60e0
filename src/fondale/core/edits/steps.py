# SPDX-License-Identifier: MIT
"""Edits of the running order and the diary."""

from dataclasses import dataclass
from datetime import datetime

from fondale.core.edits.edit import Edit
from fondale.core.model import Draft, Page, Project


@dataclass(frozen=True)
class ReorderSteps(Edit):
    """Put the steps into this order of ids (the same ids, each once)."""

    order: tuple[str, ...]

    def done(self, project: Project) -> Project:
        by_id = {s.id: s for s in project.steps}
        if sorted(self.order) != sorted(by_id):
            raise LookupError("the steps have changed since")
        return project.but(steps=tuple(by_id[i] for i in self.order))


@dataclass(frozen=True)
class LogEvening(Edit):
    """Write a page and mark its steps as done, at ``when``; the draft of it goes."""

    page: Page
    when: datetime | None = None

    def done(self, project: Project) -> Project:
        marked = MarkDone(self.label, self.page.done, True, self.when).done(project)
        return marked.but(pages=(*project.pages, self.page), tonight=Draft())


@dataclass(frozen=True)
class StopTimer(Edit):
    """Stop the timer of tonight's page, after so many minutes; they are on the page from now on."""

    minutes: float

    def done(self, project: Project) -> Project:
        minutes = min(1440.0, round(project.tonight.minutes + max(0.0, self.minutes), 1))
        return project.but(tonight=project.tonight.but(minutes=minutes, since=None))


@dataclass(frozen=True)
class MarkDone(Edit):
    """Mark steps as ``finished`` at ``when``, or as not done after all. What is done already keeps its moment."""

    steps: tuple[str, ...]
    finished: bool
    when: datetime | None = None

    def done(self, project: Project) -> Project:
        changed = {"done": self.finished, "finished": self.when if self.finished else None}
        return project.but(steps=tuple(s.but(**changed) if s.id in self.steps and s.done != self.finished else s for s in project.steps))
