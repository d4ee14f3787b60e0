# SPDX-License-Identifier: MIT
"""Ways out that lead to the next prompt, so that none of them is offered."""

from collections.abc import Iterable

from fondale.core.derived import QUICK
from fondale.core.edits import EditError, apply
from fondale.core.model import Project
from fondale.core.progress import Progress
from fondale.core.prompts.finding import Finding
from fondale.core.prompts.rules import RULES
from fondale.core.reckoning import Look, Reckoner

Way = tuple[str, str]  # the key of a finding, and the words of a way out
_NAMES = {r.name for r in QUICK}
_RULES = tuple(rule for rule in RULES if all(n.name in _NAMES for n in rule.needs))


def misleading(project: Project, look: Look, findings: Iterable[Finding], progress: Progress) -> frozenset[Way]:
    """The ways out of these findings after which another prompt speaks, or the same one again; those that cannot be gone too.

    Judged by all rules that need no slow result. Raises whatever goes wrong with one of them.
    """

    def speaking(of: Project, reckoner: Reckoner) -> set[str]:
        found = reckoner.derive(of, look, QUICK)
        return {f.key for rule in _RULES for f in rule.findings(found)}

    reckoner = Reckoner()
    before = speaking(project, reckoner)
    out: set[Way] = set()
    for finding in findings:
        for fix in finding.fixes:
            progress.step(0.0, "")
            try:
                after = speaking(apply(project, *fix.edits), reckoner.branch())
            except EditError:
                out.add((finding.key, fix.label))
                continue
            if after - before or after & set(finding.keys):
                out.add((finding.key, fix.label))
    return frozenset(out)
