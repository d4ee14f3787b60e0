"""The ways out of what is said are tried in the background, once for each set of them."""

from collections.abc import Callable

from fondale.app.asking import Errands
from fondale.app.errands import WAYS
from fondale.app.judge import Judge
from fondale.app.workers import Report
from fondale.core.model import Project
from fondale.core.prompts import Fix
from fondale.core.reckoning import Look


class Ways:
    """Has the ways out tried that have not been; ``then`` is called when it is known which of them mislead."""

    def __init__(self, judge: Judge, errands: Errands, then: Callable[[], None]) -> None:
        self._judge, self._errands, self._then = judge, errands, then
        self._tried: tuple[tuple[str, tuple[Fix, ...]], ...] = ()

    def try_them(self, project: Project, look: Look) -> None:
        """Ask for it, unless it is known or under way."""
        offered = tuple(f for f in self._judge.offered if f.fixes)
        ways = tuple((f.key, f.fixes) for f in offered)
        if ways == self._tried or self._errands.doing(WAYS):
            return
        before, self._tried = self._tried, ways  # workers that answer at once have answered when this returns
        if not self._errands.ask(WAYS, (project, look, offered), self._take):
            self._tried = before

    def _take(self, report: Report) -> None:
        if report.good:
            self._judge.misleading = report.found
            self._then()
