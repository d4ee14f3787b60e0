"""Errands that were sent to the workers and are not back yet: one of a kind at a time."""

from collections.abc import Callable
from typing import Any

from fondale.app.errands import Errand
from fondale.app.workers import Report, Workers

UNSENT = -1  # the ticket of what is being sent: workers that answer at once answer before it is known


def awaits(held: int | None, ticket: int) -> bool:
    """Whether a report with this ticket answers a request that holds ``held``; None: nothing was asked."""
    return held in (UNSENT, ticket)


class Errands:
    """Errands under way. ``busy`` is what is shown as work under way, ``tell`` is called when it changes."""

    def __init__(self, busy: dict[str, tuple[float, str]], tell: Callable[[], None]) -> None:
        self.workers: Workers | None = None
        self._busy, self._tell = busy, tell
        self._sent: dict[str, tuple[int, Callable[[Report], None]]] = {}

    def ask(self, errand: Errand, args: tuple[Any, ...], then: Callable[[Report], None]) -> bool:
        """Have something done once; ``then`` gets the report. False while the same is still under way."""
        if self.workers is None or errand.name in self._sent:
            return False
        self._sent[errand.name] = (UNSENT, then)
        if errand.words:
            self._busy[errand.name] = (0.0, errand.words)
            self._tell()
        ticket = self.workers.ask(errand.name, *args)
        if errand.name in self._sent and self._sent[errand.name][1] is then:
            self._sent[errand.name] = (ticket, then)
        return True

    def doing(self, errand: Errand) -> bool:
        """Whether an errand of this kind is under way."""
        return errand.name in self._sent

    def ticket(self, name: str) -> int | None:
        """The ticket of an errand under way, or None."""
        return self._sent[name][0] if name in self._sent else None

    def take(self, report: Report) -> str:
        """Hand a report to whoever asked, unless it was stopped or another document is open. Returns what went wrong, if anything."""
        if not awaits(self.ticket(report.task), report.ticket):
            return ""
        self._busy.pop(report.task, None)
        _ticket, then = self._sent.pop(report.task)
        then(report)
        return report.failures.get(report.task, "")

    def drop(self, name: str) -> None:
        """Nobody waits for it any more."""
        self._sent.pop(name, None)

    def clear(self) -> None:
        """Nobody waits for any."""
        self._sent.clear()
