"""Pace: actual against planned minutes, shrunk to 1 while there is little to go by."""

from dataclasses import dataclass

from fondale.core.model import STEPS, Project
from fondale.core.prints.jobs import job_of

PRIOR_MIN = 240.0  # this many planned minutes at pace 1 are taken as known before the first page


@dataclass(frozen=True)
class Ledger:
    """Sums of the diary and the shelf: minutes, and money in the brief's currency."""

    worked_min: float
    planned_min: float
    pages: int
    spent: float
    pieces: float
    prints: float
    cap: float

    @property
    def total(self) -> float:
        """What the piece has cost so far, and the prints that are planned."""
        return self.spent + self.pieces + self.prints


def pace(project: Project) -> float:
    """Actual over planned minutes: (actual + prior) / (planned + prior), between a third and three."""
    book = ledger(project)
    if book.planned_min <= 0:
        return 1.0
    return min(3.0, max(1 / 3, (book.worked_min + PRIOR_MIN) / (book.planned_min + PRIOR_MIN)))


def ledger(project: Project) -> Ledger:
    """The sums. Only pages that finished steps count for the pace."""
    planned = worked = 0.0
    for page in project.pages:
        steps = [project.find(STEPS, i) for i in page.done]
        minutes = sum(s.minutes[1] for s in steps if s is not None)
        if minutes > 0:
            planned += minutes
            worked += page.minutes
    prints = sum(job_of(project, f).cost * f.count for f in project.prints)
    return Ledger(
        worked, planned, len(project.pages), sum(p.spent for p in project.pages), sum(p.cost for p in project.pieces), prints,
        project.brief.cap,
    )  # fmt: skip
