"""All rules, and the order in which their findings are shown."""

from fondale.core.derive import Derived
from fondale.core.model import Project
from fondale.core.prompts import brief, coats, house, lamps, light, running, scale, sight, wiring, workshop
from fondale.core.prompts.finding import RANK, Finding

RULES = (
    *scale.RULES,
    *workshop.RULES,
    *sight.RULES,
    *wiring.RULES,
    *lamps.RULES,
    *light.RULES,
    *coats.RULES,
    *house.RULES,
    *running.RULES,
    *brief.RULES,
)


def _found(project: Project, derived: Derived, trips: list[Exception] | None) -> list[Finding]:
    findings: list[Finding] = []
    for rule in RULES:
        try:
            findings += list(rule(project, derived))
        except (AttributeError, LookupError, ValueError) as error:
            if trips is None:
                raise
            trips.append(error)
    return sorted(findings, key=lambda f: (RANK[f.severity], f.code, f.key))


def judge(
    project: Project, derived: Derived, trips: list[Exception] | None = None
) -> tuple[tuple[Finding, ...], tuple[tuple[Finding, str], ...]]:
    """Open prompts, worst first, and those that still hold but were left, with the reason.

    Results of an older snapshot may speak of what is gone: with ``trips``, a rule that trips over it is left out and told there.
    """
    reasons = {a.key: a.reason for a in project.accepted}
    found = _found(project, derived, trips)
    return tuple(f for f in found if f.key not in reasons), tuple((f, reasons[f.key]) for f in found if f.key in reasons)


def all_prompts(project: Project, derived: Derived) -> tuple[Finding, ...]:
    """Every open prompt, worst first; those that the maker left are not among them."""
    return judge(project, derived)[0]
