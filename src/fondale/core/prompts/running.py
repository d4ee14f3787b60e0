# SPDX-License-Identifier: MIT
"""Coats: a date that cannot be met, an order that cannot be made."""

from collections.abc import Iterator

from fondale.core.derived import PLAN
from fondale.core.edits import put
from fondale.core.handwork import minutes_of
from fondale.core.model import STEPS, Project
from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.reckoning import Derived
from fondale.core.words import day_words, odds_words


def late(project: Project, derived: Derived) -> Iterator[Finding]:
    """PLAN-LATE, PLAN-ODDS: the date cannot be met, or only with luck."""
    plan, deadline = derived[PLAN], project.brief.deadline
    if plan.ready is None or deadline is None:
        return
    steps = {s.id: s for s in project.steps}
    chain = [steps[i].name for i in plan.chain[:3] if i in steps]
    if plan.ready.date() >= deadline:
        days = (plan.ready.date() - deadline).days
        proof = (
            "No order is faster."
            if plan.proven
            else ("To the evening, no order is faster." if not plan.sooner else f"Another order could be ready {plan.proof}.")
        )
        yield Finding(
            "PLAN-LATE", "stop", "coats", "The date", f"It will be ready on {day_words(plan.ready)}, {max(days, 0) or 'not even a'} {'days' if days > 1 else 'day'} {'after' if days else 'before'} it opens. {proof} What holds it up: {', '.join(chain)}.",
            f"opens {day_words(deadline)}", (),
        )  # fmt: skip
    elif plan.odds is not None and plan.odds < 0.8:
        yield Finding(
            "PLAN-ODDS", "mind", "coats", "The date", f"It can be done, but not surely. What decides it most: {', '.join(steps[i].name for i in plan.deciding if i in steps) or ', '.join(chain)}.",
            f"odds {odds_words(plan.odds)}; ready {day_words(plan.ready)} at best", (),
        )  # fmt: skip


def no_order(project: Project, derived: Derived) -> Iterator[Finding]:
    """PLAN-NONE: there is no running order, and why."""
    plan = derived[PLAN]
    if not plan.trouble:
        return
    longest = max(project.brief.evenings)
    whole = [s for s in project.steps if not s.done and minutes_of(project, s)[1] * plan.pace > longest and not s.splittable]
    fixes: tuple[Fix, ...] = ()
    if whole:
        edits = tuple(put(STEPS.at(s.id).then(lambda s: s.splittable), True, "Let long steps be split") for s in whole)
        fixes = (Fix("Let it be split", edits),)
    yield Finding(
        "PLAN-NONE", "stop", "coats", "No running order", plan.trouble, f"longest evening {longest} min",
        tuple((STEPS, s.id) for s in whole), fixes,
    )  # fmt: skip


def untied(project: Project, derived: Derived) -> Iterator[Finding]:
    """PLAN-TIE: a tie between two steps that no order can keep, and what would cure it."""
    for left in derived[PLAN].unkept:
        step, before = project.find(STEPS, left.tied[0]), project.find(STEPS, left.tied[1])
        if step is None or before is None:
            continue
        spot = STEPS.at(step.id)
        rest = tuple(t for t in step.ties if (t.step, t.kind) != left.tied[1:])
        fixes = (
            [Fix("Let it go into wet paint", (put(spot.then(lambda s: s.dryness), "wet", f"{step.name} into wet paint"),))]
            if left.wet
            else []
        )
        fixes.append(Fix("Let the tie go", (put(spot.then(lambda s: s.ties), rest, f"Let a tie of {step.name} go"),)))
        yield Finding(
            "PLAN-TIE", "stop", "coats", step.name, left.why, "the order does without it", ((STEPS, step.id), (STEPS, before.id)), tuple(fixes),
            within=(left.tied[2],),
        )  # fmt: skip


RULES = (Rule(untied, PLAN), Rule(late, PLAN), Rule(no_order, PLAN))
