# SPDX-License-Identifier: MIT
"""Pace: actual against planned minutes, shrunk to 1 while there is little to go by."""

from dataclasses import dataclass

from fondale.core.handwork import minutes_of
from fondale.core.how import How, Told
from fondale.core.model import STEPS, Project
from fondale.core.prints.jobs import PrintJob, moneys
from fondale.core.words import digits, hours_words

PRIOR_MIN = 240.0  # this many planned minutes at pace 1 are taken as known before the first page


@dataclass(frozen=True)
class Ledger:
    """Sums of the diary and the shelf: minutes, and money in the brief's currency."""

    worked_min: float
    planned_min: float
    bench_min: float
    pages: int
    spent: float
    pieces: float
    prints: float
    cap: float

    @property
    def pace(self) -> float:
        """Actual over planned minutes."""
        return rate(self.worked_min, self.planned_min)

    @property
    def total(self) -> float:
        """What the piece has cost so far, and the prints that are planned: the sum of the three as they are shown."""
        return sum(round(part, 2) for part in (self.spent, self.pieces, self.prints))


def worked_and_planned(project: Project) -> tuple[float, float]:
    """Minutes worked, and minutes that were planned for what was finished. Only pages that finished steps count.

    Minutes that went into a step before the page that finished it count with that page.
    """
    planned = worked = 0.0
    for page in project.pages:
        steps = [project.find(STEPS, i) for i in page.done]
        minutes = sum(minutes_of(project, s)[1] for s in steps if s is not None)
        if minutes > 0:
            planned += minutes
            before = sum(p.begun.get(i, 0.0) for p in project.pages for i in page.done)
            worked += max(0.0, page.minutes - sum(page.begun.values())) + before
    return worked, planned


def pace(project: Project) -> float:
    """Actual over planned minutes: (actual + prior) / (planned + prior), between a third and three."""
    worked, planned = worked_and_planned(project)
    return rate(worked, planned)


def rate(worked_min: float, planned_min: float) -> float:
    """The pace that these minutes give."""
    if planned_min <= 0:
        return 1.0
    return min(3.0, max(1 / 3, (worked_min + PRIOR_MIN) / (planned_min + PRIOR_MIN)))


def ledger(project: Project, jobs: dict[str, PrintJob]) -> Ledger:
    """The sums; ``jobs`` are the prints by file."""
    worked, planned = worked_and_planned(project)
    prints = sum(moneys(project, jobs).values())
    minutes, spent = sum(p.minutes for p in project.pages), sum(p.spent for p in project.pages)
    return Ledger(worked, planned, minutes, len(project.pages), spent, sum(p.cost for p in project.pieces), prints, project.brief.cap)


def pace_told(book: Ledger) -> Told:
    """The pace."""
    formula = (
        f"(worked {digits(book.worked_min, 0)} min + {digits(PRIOR_MIN, 0)}) ÷ (planned {digits(book.planned_min, 0)} min + {digits(PRIOR_MIN, 0)}):"
        " with few pages it stays near 1"
    )
    said = f"{book.pace:.2f}"
    return Told(f"pace {said} of plan", How("Pace", formula, said, "the pages of the Diary"))


def hours_told(book: Ledger) -> Told:
    """The time at the bench so far."""
    said = hours_words(book.bench_min / 60)
    return Told(
        f"{said} at the bench so far", How("Hours", f"the minutes of all {book.pages} pages added up", said, "the pages of the Diary")
    )


def money_told(book: Ledger, currency: str) -> Told:
    """What the piece has cost and will cost."""
    terms = (
        (book.pieces, "for pieces on the Bench"),
        (book.prints, "for the prints that are planned"),
        (book.spent, "written in the Diary"),
    )
    formula = "\n+ ".join(f"{digits(value, 2)} {currency} {words}" for value, words in terms)
    return Told(money_words(book, currency), How("Money", formula, f"{digits(book.total, 2)} {currency}", "Bench, print shop and Diary"))


def money_words(book: Ledger, currency: str) -> str:
    """What was spent, of the cap where there is one: ``12.5 of 80 €``, ``12.5 €``."""
    return f"{digits(book.total, 2)}{f' of {digits(book.cap, 2)}' if book.cap else ''} {currency}"
