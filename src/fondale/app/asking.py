# SPDX-License-Identifier: MIT
"""What was sent to the workers and is not back yet: errands, one of a kind at a time, and results."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from fondale.app.errands import Errand
from fondale.app.workers import Given, Report, Workers
from fondale.core.model import Project
from fondale.core.reckoning import Key, Look

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


@dataclass(frozen=True)
class _Asked:
    """A result under way: its ticket, and what it depends on."""

    ticket: int
    key: Key


class Requests:
    """Results under way. ``busy`` is what is shown as work under way."""

    def __init__(self, busy: dict[str, tuple[float, str]]) -> None:
        self.workers: Workers | None = None
        self._busy = busy
        self._asked: dict[str, _Asked] = {}

    def __contains__(self, name: str) -> bool:
        return name in self._asked

    def ticket(self, name: str) -> int | None:
        """The ticket of a result under way, or None."""
        return self._asked[name].ticket if name in self._asked else None

    def doing(self, name: str, key: Key) -> bool:
        """Whether a result is under way that depends on the same."""
        return name in self._asked and self._asked[name].key == key

    def send(self, wanted: dict[str, tuple[Key, str]], project: Project, look: Look, given: Given) -> None:
        """Ask for results, each with what it depends on and the words that are shown, in one request."""
        assert self.workers is not None
        asked = {name: _Asked(UNSENT, key) for name, (key, _words) in wanted.items()}
        self._asked |= asked
        self._busy |= {name: (0.0, words) for name, (_key, words) in wanted.items()}
        ticket = self.workers.reckon(tuple(asked), project, look, given)
        for name, one in asked.items():
            if self._asked.get(name) is one:  # workers that answer at once have answered
                self._asked[name] = replace(one, ticket=ticket)

    def answered(self, report: Report) -> dict[str, Key]:
        """The results that a report answers or ends, each with what it depended on; they are under way no more."""
        mine = [name for name, one in self._asked.items() if awaits(one.ticket, report.ticket)]
        told = [n for n in mine if n in report.results or n in report.failures or self._asked[n].ticket == report.ticket]
        for name in told:
            self._busy.pop(name, None)
        return {name: self._asked.pop(name).key for name in told}

    def stop(self, name: str) -> None:
        """Let the workers leave it, a result or an errand; it is shown no more."""
        self._asked.pop(name, None)
        self._busy.pop(name, None)
        if self.workers is not None:
            self.workers.stop(name)

    def clear(self) -> None:
        """Nobody waits for any."""
        self._asked.clear()
