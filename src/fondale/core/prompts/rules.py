# SPDX-License-Identifier: MIT
"""All rules, and the order in which their findings are shown."""

from collections.abc import Iterable

from fondale.core.model import Project
from fondale.core.prompts import bearing, brief, casework, coats, file, house, lamps, light, running, scale, sight, unsaid, wiring, workshop
from fondale.core.prompts.finding import RANK, Finding, Rule
from fondale.core.prompts.joining import joined
from fondale.core.reckoning import Derived

RULES: tuple[Rule, ...] = (
    *file.RULES,
    *scale.RULES,
    *workshop.RULES,
    *sight.RULES,
    *casework.RULES,
    *bearing.RULES,
    *wiring.RULES,
    *lamps.RULES,
    *light.RULES,
    *coats.RULES,
    *unsaid.RULES,
    *house.RULES,
    *running.RULES,
    *brief.RULES,
)

Left = tuple[tuple[Finding, str], ...]


def sorted_out(project: Project, findings: Iterable[Finding]) -> tuple[tuple[Finding, ...], Left]:
    """Open prompts, worst first, and those that still hold but were left, with the reason."""
    reasons = {a.key: a.reason for a in project.accepted}
    found = sorted(findings, key=lambda f: (RANK[f.severity], f.code, f.key))
    open_ones = joined(f for f in found if f.key not in reasons)
    return tuple(open_ones), tuple((f, reasons[f.key]) for f in found if f.key in reasons)


def judge(derived: Derived) -> tuple[tuple[Finding, ...], Left]:
    """Every rule whose results are known, on one snapshot: open prompts, and those that were left."""
    able = (r for r in RULES if all(n.name in derived.values for n in r.needs))
    return sorted_out(derived.project, (f for rule in able for f in rule.findings(derived)))


def all_prompts(derived: Derived) -> tuple[Finding, ...]:
    """Every open prompt, worst first; those that the maker left are not among them."""
    return judge(derived)[0]
