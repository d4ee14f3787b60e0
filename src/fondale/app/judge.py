# SPDX-License-Identifier: MIT
"""What the rules say of the present snapshot, judged again only where something new is known."""

import time
import traceback
from collections.abc import Set
from dataclasses import replace
from typing import Any

from fondale.core.model import Listing, Project
from fondale.core.prompts import RULES, Finding, Rule, sorted_out
from fondale.core.prompts.ways import Way
from fondale.core.reckoning import Derived

AT_ONCE_S = 0.008  # of the processor: what is left to be judged then waits for another turn of the window


class Judge:
    """Open ``prompts``, worst first, and those that were ``left``, with the reason.

    ``through``: all that is known was judged; ``of`` which snapshot. ``offered`` are the prompts with all their ways out; those that are ``misleading`` are left out of ``prompts``.
    """

    def __init__(self) -> None:
        self.prompts: tuple[Finding, ...] = ()
        self.left: tuple[tuple[Finding, str], ...] = ()
        self.offered: tuple[Finding, ...] = ()
        self.misleading: Set[Way] = frozenset()
        self.through = True
        self.of: Project | None = None
        self._judged: dict[Rule, tuple[tuple[Any, ...], tuple[Finding, ...]]] = {}

    def judge(self, project: Project, derived: Derived, failed: Set[str]) -> str:
        """Let every rule speak whose results are fresh, on what it has not judged yet; the others' findings stay until theirs are.

        ``project`` is as the maker has it, ``derived`` as it is reckoned with; ``failed`` are the names of results that could not be
        computed: what cannot be known is not judged. After ``AT_ONCE_S`` the rest is left to the next call, and the prompts stay as they
        were: it is not ``through``. Returns what went wrong with a rule, or an empty text.
        """
        trouble, until = "", time.thread_time() + AT_ONCE_S
        self.of, self.through, spoke = derived.project, False, False
        for rule in RULES:
            if not all(n.name in derived.values for n in rule.needs):
                if any(n.name in failed for n in rule.needs):
                    self._judged.pop(rule, None)
                continue
            basis = (derived.project, *(derived[n] for n in rule.needs))
            before = self._judged.get(rule)
            if before is None or any(a is not b for a, b in zip(before[0], basis, strict=True)):
                if spoke and time.thread_time() > until:
                    return trouble
                spoke = True
                findings: tuple[Finding, ...] = ()
                try:
                    findings = rule.findings(derived)
                except Exception:  # a fault of ours: it is told, and the other rules speak
                    trouble = traceback.format_exc()
                self._judged[rule] = (basis, findings)
        self.through = True
        every = [f for rule in RULES for f in self._judged.get(rule, ((), ()))[1]]
        listings: set[Listing[Any]] = {listing for f in every for listing, _ident in f.subjects}
        there = {(listing, m.id) for listing in listings for m in listing.members(project)}
        self.offered, self.left = sorted_out(project, (f for f in every if all(s in there for s in f.subjects)))
        self.prompts = tuple(self._honest(f) for f in self.offered)
        return trouble

    def let_go(self, project: Project) -> None:
        """Say nothing more of what is not in the project any more."""
        gone = {(listing, ident) for f in self.prompts for listing, ident in f.subjects if project.find(listing, ident) is None}
        if gone:
            self.prompts = tuple(f for f in self.prompts if not gone & set(f.subjects))

    def _honest(self, finding: Finding) -> Finding:
        fixes = tuple(f for f in finding.fixes if (finding.key, f.label) not in self.misleading)
        return finding if len(fixes) == len(finding.fixes) else replace(finding, fixes=fixes)
