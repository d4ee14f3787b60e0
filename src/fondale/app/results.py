"""Derived results of the open document: asked for in the background, kept until fresher ones arrive; and what the rules say of them."""

import traceback
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from datetime import date
from typing import Any, TypeVar, cast

from fondale.app.document import Document
from fondale.app.errands import Errand
from fondale.app.workers import Report, Workers
from fondale.core.derived import AMPS, FOR_SHOW, LIGHT, PICTURE, PLAN, RESULTS
from fondale.core.derived import BY_NAME as RESULT
from fondale.core.house_scale import counted
from fondale.core.model import Project
from fondale.core.prompts import RULES, Finding, Rule, sorted_out
from fondale.core.reckoning import Derived, Key, Look, Result
from fondale.core.unknown import Unknown, reckonable

VIEW_WIDTH, DRAG_WIDTH = 640, 320
T = TypeVar("T")
Listener = Callable[[], None]


@dataclass(frozen=True)
class _Known:
    """A value, and what it depended on."""

    key: Key
    value: Any


@dataclass(frozen=True)
class _Asked:
    """A request under way: its ticket, and what the result asked for depends on."""

    ticket: int
    key: Key


class Results:
    """``results[READINGS]`` is the last good value, None until first known; ``fresh`` says whether it is of the present snapshot."""

    def __init__(self, document: Document, today: date) -> None:
        self.document = document
        self.look = Look(today, width=VIEW_WIDTH)
        self.prompts: tuple[Finding, ...] = ()
        self.left: tuple[tuple[Finding, str], ...] = ()
        self.dragging = False
        self.busy: dict[str, tuple[float, str]] = {}
        self.trouble = ""
        self.answers = 0  # how many have come: whoever waits sees that something gets on
        self._workers: Workers | None = None
        self._errands: dict[str, tuple[int, Callable[[Report], None]]] = {}
        self._listeners: list[Listener] = []
        self._busy_listeners: list[Listener] = []
        self._forget()

    def _forget(self) -> None:
        self._snapshot: Project | None = None
        self._sure, self._sent = self.document.project, self.document.project
        self._unknown: tuple[Unknown, ...] = ()
        self._keys: dict[str, Key] = {}
        self._known: dict[str, _Known] = {}
        self._failed: dict[str, Key] = {}
        self._asked: dict[str, _Asked] = {}
        self._judged: dict[Rule, tuple[tuple[Any, ...], tuple[Finding, ...]]] = {}

    def connect(self, workers: Workers) -> None:
        """Where to send requests."""
        self._workers = workers

    def listen(self, listener: Listener) -> None:
        """Call ``listener`` whenever a result or the prompts change."""
        self._listeners.append(listener)

    def listen_busy(self, listener: Listener) -> None:
        """Call ``listener`` when work under way gets on; nothing else has changed then."""
        self._busy_listeners.append(listener)

    def open(self, document: Document) -> None:
        """Begin anew with another document."""
        self.document = document
        self.look = replace(self.look, seat="")
        self.prompts, self.left = (), ()
        self._errands.clear()
        self.busy.clear()
        self._forget()

    @property
    def today(self) -> date:
        """The day that it is."""
        return self.look.today

    @property
    def project(self) -> Project:
        """The present snapshot as it is reckoned with: what this version's tables do not hold is left out."""
        if self._snapshot is not self.document.project:
            self._snapshot = self.document.project
            self._sure, self._unknown = reckonable(self._snapshot)
            # A box of thousands of bits is not packed and sent with every request.
            self._sent = counted(self._sure)
            self._keys.clear()
        return self._sure

    def seat_of(self, project: Project) -> str:
        """The chosen seat, or the first one."""
        return self.look.seat_of(project)

    def look_from(self, seat: str = "", width: int = 0) -> None:
        """Look from another seat, or at pictures of another width."""
        self.look = replace(self.look, seat=seat or self.look.seat, width=width or self.look.width)
        self._keys.clear()

    def __getitem__(self, result: Result[T]) -> T | None:
        known = self._known.get(result.name)
        return cast(T, known.value) if known is not None else None

    def one(self, result: Result[dict[str, T]], ident: str) -> T | None:
        """One value of a result that has one for each of many things, or None."""
        return (self[result] or {}).get(ident)

    def fresh(self, result: Result[Any]) -> bool:
        """Whether a result is of the present snapshot."""
        known = self._known.get(result.name)
        return known is not None and known.key == self._key(result)

    @property
    def slow_work(self) -> tuple[tuple[float, str], ...]:
        """Share and words of what is under way and takes longer than a blink."""
        blinks = {r.name for r in RESULTS if r.lane in ("quick", "view")}
        return tuple(state for name, state in self.busy.items() if name not in blinks)

    @property
    def settled(self) -> bool:
        """Whether all that is judged and printed is of the present snapshot, or could not be computed, and nothing is dragged."""
        judged = (r for r in RESULTS if r not in FOR_SHOW)
        return not self.dragging and all(self.fresh(r) or self._failed.get(r.name) == self._key(r) for r in judged)

    @property
    def derived(self) -> Derived:
        """The present snapshot with all results that are of it."""
        return Derived(self.project, {r.name: self._known[r.name].value for r in RESULTS if self.fresh(r)}, self._unknown)

    def _key(self, result: Result[Any]) -> Key:
        project = self.project
        if result.name not in self._keys:
            self._keys[result.name] = result.key(project, self.look)
        return self._keys[result.name]

    def refresh(self, slow: bool = True) -> None:
        """Ask for whatever the present snapshot makes stale. ``slow`` False leaves out the plan and the light."""
        self._ask(r for r in RESULTS if not (r.slow and self.dragging) and (slow or r not in (PLAN, LIGHT, PICTURE)))
        self._judge()

    def refresh_light(self) -> None:
        """Ask for the meters and the lit view, even while something is dragged."""
        self._ask((LIGHT, PICTURE))

    def _ask(self, results: Iterable[Result[Any]]) -> None:
        """Request results unless they are known, known to fail, or under way. What needs another lane's result waits for it."""
        if self._workers is None:
            return
        batches: dict[str, list[Result[Any]]] = {}
        for r in results:
            key = self._key(r)
            under_way = self._asked.get(r.name)
            done = self.fresh(r) or self._failed.get(r.name) == key or (under_way is not None and under_way.key == key)
            if not done and all(self.fresh(n) for n in r.needs if n.lane != r.lane):
                # The quick ones travel together; each of the others is told as soon as it is there.
                batches.setdefault(r.lane if r.lane == "quick" else r.name, []).append(r)
        for batch in batches.values():
            self._send(batch)

    def _send(self, batch: list[Result[Any]]) -> None:
        assert self._workers is not None
        given = {n.name: self._known[n.name].value for r in batch for n in r.needs if n.lane != r.lane}
        asked = {r.name: _Asked(-1, self._key(r)) for r in batch}
        self._asked |= asked
        self.busy |= {r.name: (0.0, r.words) for r in batch}
        ticket = self._workers.reckon(tuple(asked), self._sent, self.look, tuple(given.items()))
        for name, one in asked.items():
            if self._asked.get(name) is one:  # workers that answer at once have answered
                self._asked[name] = replace(one, ticket=ticket)

    def errand(self, errand: Errand, args: tuple[Any, ...], then: Callable[[Report], None]) -> bool:
        """Have something done once; ``then`` gets the report. False while the same is still under way."""
        if self._workers is None or errand.name in self._errands:
            return False
        self._errands[errand.name] = (-1, then)
        self.busy[errand.name] = (0.0, errand.words)
        for listener in self._busy_listeners:
            listener()
        ticket = self._workers.ask(errand.name, *args)
        if errand.name in self._errands and self._errands[errand.name][1] is then:
            self._errands[errand.name] = (ticket, then)
        return True

    def doing(self, errand: Errand) -> bool:
        """Whether an errand of this kind is under way."""
        return errand.name in self._errands

    def stop(self, name: str) -> None:
        """The maker stops a running task; it is asked for again after the next edit."""
        if self._workers is not None:
            self._workers.stop(name)
        self.busy.pop(name, None)
        self._asked.pop(name, None)
        self._errands.pop(name, None)
        self._tell()

    def take(self, report: Report) -> None:
        """Take what a worker reports (on the thread that owns this object)."""
        self.answers += 1
        if report.kind == "progress":
            if report.task in self.busy and self._awaits(report.task, report.ticket):
                self.busy[report.task] = (report.share, report.words)
                for listener in self._busy_listeners:
                    listener()
        elif report.task:
            self._take_errand(report)
        else:
            self._take_results(report)

    def _awaits(self, name: str, ticket: int) -> bool:
        under_way = self._asked[name].ticket if name in self._asked else self._errands[name][0] if name in self._errands else None
        return under_way is not None and under_way in (-1, ticket)

    def _take_errand(self, report: Report) -> None:
        if not self._awaits(report.task, report.ticket):
            return  # it was stopped, or another document is open
        self.busy.pop(report.task, None)
        _ticket, then = self._errands.pop(report.task)
        if report.failures:
            self.trouble = report.failures[report.task]
        then(report)
        # Whatever it changed in the project tells itself; only trouble and the end of the work are news.
        for listener in self._listeners if report.failures else self._busy_listeners:
            listener()

    def _take_results(self, report: Report) -> None:
        mine = [name for name, one in self._asked.items() if one.ticket in (-1, report.ticket)]
        told = [n for n in mine if n in report.results or n in report.failures or self._asked[n].ticket == report.ticket]
        for name in told:
            one = self._asked.pop(name)
            self.busy.pop(name, None)
            if name in report.results:
                if self.fresh(RESULT[name]) and one.key != self._key(RESULT[name]):
                    continue  # it was undone meanwhile, and what is known is of the present snapshot
                self._known[name] = _Known(one.key, report.results[name])
                self._failed.pop(name, None)
            elif name in report.failures:
                self._failed[name] = one.key
                self.trouble = report.failures[name]
        if not told:
            return
        if AMPS.name in told and not self.dragging:
            self.refresh_light()
        self._judge()
        self._tell()

    def _judge(self) -> None:
        """Let every rule speak whose results are fresh, on what it has not judged yet; the others' findings stay until theirs are."""
        project = self.project
        fresh = {r.name: self._known[r.name].value for r in RESULTS if self.fresh(r)}
        for rule in RULES:
            if not all(n.name in fresh for n in rule.needs):
                if any(self._failed.get(n.name) == self._key(n) for n in rule.needs):
                    self._judged.pop(rule, None)  # what cannot be known is not judged
                continue
            basis = (project, *(fresh[n.name] for n in rule.needs))
            before = self._judged.get(rule)
            if before is None or any(a is not b for a, b in zip(before[0], basis, strict=True)):
                self._judged[rule] = (basis, self._findings(rule, Derived(project, fresh, self._unknown)))
        there = {(listing, m.id) for listing in _listings(self._judged.values()) for m in listing.members(self.document.project)}
        every = (f for rule in RULES for f in self._judged.get(rule, ((), ()))[1] if all(s in there for s in f.subjects))
        self.prompts, self.left = sorted_out(self.document.project, every)

    def _findings(self, rule: Rule, derived: Derived) -> tuple[Finding, ...]:
        try:
            return rule.findings(derived)
        except Exception:  # a fault of ours: it is told, and the other rules speak
            self.trouble = traceback.format_exc()
            return ()

    def _tell(self) -> None:
        for listener in self._listeners:
            listener()


def _listings(judged: Iterable[tuple[tuple[Any, ...], tuple[Finding, ...]]]) -> set[Any]:
    return {listing for _basis, findings in judged for f in findings for listing, _ident in f.subjects}
