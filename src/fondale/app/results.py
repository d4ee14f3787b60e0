"""Derived results of the open document: asked for in the background, kept until fresher ones arrive; and what the rules say of them."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from datetime import date
from typing import TYPE_CHECKING, Any, TypeVar, cast

from fondale.app.asking import Errands, awaits
from fondale.app.document import Document
from fondale.app.judge import Judge
from fondale.app.signal import Signal
from fondale.app.ways import Ways
from fondale.app.workers import Report, Workers
from fondale.core.derived import AMPS, DRAFT, FINE_LIGHT, FINE_PICTURE, FOR_SHOW, LIGHT, PICTURE, PLAN, QUICK, RESULTS
from fondale.core.derived import BY_NAME as RESULT
from fondale.core.house_scale import counted
from fondale.core.model import Project
from fondale.core.prompts import Finding
from fondale.core.reckoning import Derived, Key, Look, Result
from fondale.core.unknown import Unknown, reckonable

if TYPE_CHECKING:
    from fondale.core.order.plan import Plan

VIEW_WIDTH, DRAG_WIDTH = 640, 320
FINE = (FINE_LIGHT, FINE_PICTURE)
T = TypeVar("T")


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
        self.dragging = False
        self.busy: dict[str, tuple[float, str]] = {}
        self.trouble = ""
        self.answers = 0  # how many have come: whoever waits sees that something gets on
        self._workers: Workers | None = None
        self.changed = Signal()  # a result or the prompts
        self.got_on = Signal()  # work under way; nothing else has changed then
        self.errands = Errands(self.busy, self.got_on.tell)
        self.say_soon: Callable[[], object] = self.say  # of a window: in its next turn, once for all answers of this one
        self._forget()

    def _forget(self) -> None:
        self._snapshot: Project | None = None
        self._unsaid = False
        self._sure, self._sent = self.document.project, self.document.project
        self._unknown: tuple[Unknown, ...] = ()
        self._keys: dict[str, Key] = {}
        self._known: dict[str, _Known] = {}
        self._failed: dict[str, Key] = {}
        self._asked: dict[str, _Asked] = {}
        self._judge = Judge()
        self._ways = Ways(self._judge, self.errands, self._news)

    def connect(self, workers: Workers) -> None:
        """Where to send requests."""
        self._workers = self.errands.workers = workers

    def open(self, document: Document) -> None:
        """Begin anew with another document."""
        self.document = document
        self.look = replace(self.look, seat="")
        self.errands.clear()
        self.busy.clear()
        self._forget()

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

    def look_from(self, seat: str = "", width: int = 0, head: tuple[float, float] | None = None) -> None:
        """Look from another seat, its head in the middle, or with the head elsewhere, or at pictures of another width."""
        moved = head if head is not None else (0.0, 0.0) if seat else self.look.head
        self.look = replace(self.look, seat=seat or self.look.seat, width=width or self.look.width, head=moved)
        self._keys.clear()

    def __getitem__(self, result: Result[T]) -> T | None:
        if result.finer is not None and self.fresh(result.finer):
            result = result.finer
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
    def order(self) -> "Plan | None":
        """The running order to show: the best one, or the first one while that of the present snapshot is being looked for."""
        return self[DRAFT] if not self.fresh(PLAN) and self.fresh(DRAFT) else self[PLAN]

    @property
    def slow_work(self) -> tuple[tuple[float, str], ...]:
        """Share and words of what is under way and takes longer than a blink."""
        blinks = {r.name for r in RESULTS if r.lane in ("quick", "view")}
        return tuple(state for name, state in self.busy.items() if name not in blinks)

    @property
    def settled(self) -> bool:
        """Whether all that is judged and printed is of the present snapshot, or could not be computed, and nothing is dragged."""
        judged = [r for r in RESULTS if r not in FOR_SHOW and not (r is FINE_LIGHT and self._failed_now(LIGHT))]
        return not self.dragging and not self._unsaid and all(self.fresh(r) or self._failed_now(r) for r in judged)

    def _failed_now(self, result: Result[Any]) -> bool:
        return self._failed.get(result.name) == self._key(result)

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
        """Ask for whatever the present snapshot makes stale. ``slow`` False leaves out the plan and the light.

        The rules speak when the quick results are there; until then nothing is said of what is gone.
        """
        self._ask(r for r in RESULTS if not (r.slow and self.dragging) and (slow or r not in (PLAN, LIGHT, PICTURE)) and r not in FINE)
        if slow:
            self._refine()
        if any(r.name in self._asked for r in QUICK):
            self._judge.let_go(self.document.project)
        else:
            self._speak()

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
            done = self.fresh(r) or self._failed_now(r) or (under_way is not None and under_way.key == key)
            if not done and all(self.fresh(n) for n in r.needs if n.lane != r.lane):
                # The quick ones travel together; each of the others is told as soon as it is there.
                batches.setdefault(r.lane if r.lane == "quick" else r.name, []).append(r)
        if any(r in (LIGHT, PICTURE) for batch in batches.values() for r in batch):
            for fine in FINE:  # what is refined is of before, and in the way
                if self._asked.pop(fine.name, None) is not None:
                    self._workers.stop(fine.name)
                    self.busy.pop(fine.name, None)
        for batch in batches.values():
            self._send(batch)

    def _refine(self) -> None:
        """Ask for the light again, finely, when the first answers are there and nothing moves."""
        first = (LIGHT, PICTURE)
        if not self.dragging and all(self.fresh(r) or self._failed_now(r) for r in first):
            self._ask(r.finer for r in first if r.finer is not None and self.fresh(r))

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

    def stop(self, name: str) -> None:
        """The maker stops a running task; it is asked for again after the next edit."""
        if self._workers is not None:
            self._workers.stop(name)
        self.busy.pop(name, None)
        self._asked.pop(name, None)
        self.errands.drop(name)
        self.changed.tell()

    def take(self, report: Report) -> None:
        """Take what a worker reports (on the thread that owns this object)."""
        self.answers += 1
        if report.kind == "progress":
            if report.task in self.busy and self._awaits(report.task, report.ticket):
                self.busy[report.task] = (report.share, report.words)
                self.got_on.tell()
        elif report.task:
            self.trouble = self.errands.take(report) or self.trouble
            # Whatever it changed in the project tells itself; only trouble and the end of the work are news.
            (self.changed if report.failures else self.got_on).tell()
        else:
            self._take_results(report)

    def _awaits(self, name: str, ticket: int) -> bool:
        return awaits(self._asked[name].ticket if name in self._asked else self.errands.ticket(name), ticket)

    def _take_results(self, report: Report) -> None:
        mine = [name for name, one in self._asked.items() if awaits(one.ticket, report.ticket)]
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
        if LIGHT.name in told or PICTURE.name in told:
            self._refine()
        self._news()

    def _news(self) -> None:
        self._unsaid = True
        self.say_soon()

    def say(self) -> None:
        """Let the rules speak of what has come, and tell that it has."""
        if self._unsaid:
            self._unsaid = False
            self._speak()
            self.changed.tell()

    @property
    def prompts(self) -> tuple[Finding, ...]:
        """What the rules say, worst first."""
        return self._judge.prompts

    @property
    def left(self) -> tuple[tuple[Finding, str], ...]:
        """What they say that was left, with the reason."""
        return self._judge.left

    def _speak(self) -> None:
        failed = {n for n in self._failed if self._failed_now(RESULT[n])}
        self.trouble = self._judge.judge(self.document.project, self.derived, failed) or self.trouble
        if not self.dragging and all(self.fresh(r) for r in QUICK):
            self._ways.try_them(self._sent, self.look, tuple(self._known[r.name] for r in QUICK))
