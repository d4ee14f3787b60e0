# SPDX-License-Identifier: MIT
"""The ways out of what is said are tried in the background, once for each set of them."""

from collections.abc import Callable

from fondale.app.asking import Errands
from fondale.app.errands import WAYS
from fondale.app.judge import Judge
from fondale.app.workers import Report
from fondale.core.model import Project
from fondale.core.prompts.ways import Way
from fondale.core.reckoning import Look


class Ways:
    """Has the ways out tried that have not been; ``then`` is called when it is known which of them mislead."""

    def __init__(self, judge: Judge, errands: Errands, then: Callable[[], None]) -> None:
        self._judge, self._errands, self._then = judge, errands, then
        self._tried: tuple[tuple[object, ...], tuple[Way, ...]] = (), ()

    def try_them(self, project: Project, look: Look, known: tuple[object, ...]) -> None:
        """Ask for it, unless it is under way, or told for these results that are ``known`` and these prompts."""
        offered = tuple(f for f in self._judge.offered if f.fixes)
        ways = tuple((f.key, fix.label) for f in offered for fix in f.fixes)
        was, told = self._tried
        same = ways == told and len(was) == len(known) and all(a is b for a, b in zip(known, was, strict=True))
        if same or self._errands.doing(WAYS):
            return
        before, self._tried = self._tried, (known, ways)  # workers that answer at once have answered when this returns
        if not self._errands.ask(WAYS, (project, look, offered), self._take):
            self._tried = before

    def _take(self, report: Report) -> None:
        if report.good:
            self._judge.misleading = report.found
            self._then()
