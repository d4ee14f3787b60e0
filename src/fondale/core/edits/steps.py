"""Edits of the running order and the diary."""

from dataclasses import dataclass

from fondale.core.edits.edit import Edit
from fondale.core.model import Page, Project, Step


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
class AddSteps(Edit):
    """Put steps before all others: what is printed and built comes before what is painted."""

    steps: tuple[Step, ...]

    def done(self, project: Project) -> Project:
        return project.but(steps=(*self.steps, *project.steps))


@dataclass(frozen=True)
class LogEvening(Edit):
    """Write a page and mark its steps as done."""

    page: Page

    def done(self, project: Project) -> Project:
        steps = tuple(s.but(done=True) if s.id in self.page.done else s for s in project.steps)
        return project.but(pages=(*project.pages, self.page), steps=steps)
