# SPDX-License-Identifier: MIT
"""Ties between steps that nothing can keep, and what would cure them."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from fondale.core.coats.links import Chain, lag_h
from fondale.core.handwork import minutes_of
from fondale.core.model import Project, Step, Tie
from fondale.core.order.evenings import Calendar
from fondale.core.words import day_words, hours_words

Tied = tuple[str, str, str]  # the step, the one it is tied to, and how
WORDS = {"at once": "at once after", "within": "within", "not before": "not before", "together": "on one evening with"}


@dataclass(frozen=True)
class Unkept:
    """A tie that cannot be kept: why, and whether letting the step go into wet paint would cure it."""

    tied: Tied
    why: str
    wet: bool = False


def tie_words(tie: Tie, name: str) -> str:
    """A tie as a maker says it, for example "within 2 h after “Prime”"."""
    if tie.kind in ("at once", "together"):
        return f"{WORDS[tie.kind]} “{name}”"
    return f"{'within' if tie.kind == 'within' else 'not before'} {hours_words(tie.hours)} after “{name}”"


def unkept_of(
    project: Project, chain: Chain, rate: float, calendar: Calendar, moment: Callable[[Project, Step], datetime | None]
) -> tuple[Unkept, ...]:
    """Ties that contradict drying, another tie, the evenings or what is done already."""
    steps = {s.id: s for s in project.steps}
    longest = max((b - a for a, b in calendar.windows), default=0)
    followed: dict[str, str] = {}
    setups = {tool: (s.out, s.clean) for tool, s in project.brief.setups.items()}
    out = []
    for step in project.steps:
        if step.done:
            continue
        for tie in step.ties:
            before = steps.get(tie.step)
            if before is None or before is step:
                continue
            found = _why(project, chain, step, before, tie, calendar, moment(project, before) if before.done else None)
            minutes = (minutes_of(project, step)[1] + minutes_of(project, before)[1]) * rate
            if found is None and tie.kind in ("at once", "together") and not before.done and minutes > longest > 0:
                whole = not (step.splittable or before.splittable) or tie.kind == "together"
                found = (f"both take {round(minutes)} min and the longest evening has {longest}", False) if whole else None
            if found is None and tie.kind == "at once":
                if before.id in followed:
                    found = f"“{steps[followed[before.id]].name}” comes at once after it already", False
                elif step.tool != before.tool and all(sum(setups.get(s.tool, (0, 0))) for s in (step, before)):
                    found = f"the {step.tool} has to be brought out in between", False
                else:
                    followed[before.id] = step.id
            if found is not None:
                out.append(
                    Unkept(
                        (step.id, tie.step, tie.kind), f"“{step.name}” {tie_words(tie, before.name)} cannot be kept: {found[0]}.", found[1]
                    )
                )
    return tuple(out)


def _why(
    project: Project, chain: Chain, step: Step, before: Step, tie: Tie, calendar: Calendar, done: datetime | None
) -> tuple[str, bool] | None:
    """Why one tie cannot be kept, and whether wet paint would cure it; None where nothing speaks against it."""
    if tie.kind == "not before":
        return None
    lag = lag_h(before, step, chain, project.brief)
    wet = lag_h(before, step.but(dryness="wet", joints=()), chain, project.brief)
    if tie.kind == "together":
        if done is not None:
            same = calendar.windows and calendar.when(calendar.windows[0][0]).date() == done.date()
            return None if same else (f"that was done on {day_words(done.date())}", False)
        other = lag_h(step, before, chain, project.brief) if step.id in chain.first[before.id] | chain.tied[before.id] else lag
        longest = max((b - a for a, b in calendar.windows), default=0) / 60
        return (f"the one is ready {hours_words(other)} after the other", wet <= longest) if other > longest else None
    limit = tie.hours if tie.kind == "within" else 0.0
    if lag > limit + 1e-9:
        return f"it may go on only {hours_words(lag)} after that", wet <= limit + 1e-9
    if done is not None and calendar.windows:
        start = calendar.windows[0][0]
        if calendar.minute_at(done) + limit * 60 < start:
            return f"that was done on {day_words(done.date())} at {done:%H:%M}", False
    return None
