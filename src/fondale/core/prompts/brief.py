# SPDX-License-Identifier: MIT
"""Brief: money and dates."""

from collections.abc import Iterator

from fondale.core.derived import LEDGER
from fondale.core.model import Project
from fondale.core.prompts.finding import Finding, Rule
from fondale.core.reckoning import Derived
from fondale.core.words import count_words, digits


def money(project: Project, derived: Derived) -> Iterator[Finding]:
    """BRIEF-MONEY: over the cap, or close to it."""
    book, sign = derived[LEDGER], project.brief.currency
    if book.cap <= 0 or book.total <= 0.9 * book.cap:
        return
    over = book.total - book.cap
    words = f"It is {digits(over, 2)} {sign} over the cap." if over > 0 else f"Only {digits(-over, 2)} {sign} are left."
    yield Finding(
        "BRIEF-MONEY", "mind" if over > 0 else "hint", "brief", "Money", words,
        f"{digits(book.pieces, 2)} {sign} for pieces, {digits(book.prints, 2)} {sign} for prints, {digits(book.spent, 2)} {sign} in the diary, cap {digits(book.cap, 2)} {sign}",
    )  # fmt: skip


def dates(project: Project, derived: Derived) -> Iterator[Finding]:
    """BRIEF-DATE: no date, with work to do; BRIEF-EVENINGS: no evening in the week."""
    if project.steps and project.brief.deadline is None:
        yield Finding("BRIEF-DATE", "hint", "brief", "No date", "Say when it must be ready, and the odds follow.", count_words(len(project.steps), "step"))  # fmt: skip


def pace_words(project: Project, derived: Derived) -> Iterator[Finding]:
    """DIARY-PACE: slower than planned, with the plan already stretched."""
    book = derived[LEDGER]
    if book.pace > 1.1:
        yield Finding(
            "DIARY-PACE", "hint", "diary", "Pace", f"Work takes {book.pace:.2f} times as long as planned. The running order reckons with it.",
            f"{digits(book.worked_min, 0)} min worked for {digits(book.planned_min, 0)} planned",
        )  # fmt: skip


RULES = (Rule(money, LEDGER), Rule(dates), Rule(pace_words, LEDGER))
