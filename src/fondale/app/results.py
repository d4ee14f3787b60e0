# SPDX-License-Identifier: MIT
"""Derived results of the open document: asked for in the background, kept until fresher ones arrive; and what the rules say of them."""

from collections.abc import Iterable
from dataclasses import replace
from datetime import date
from typing import TYPE_CHECKING, Any, TypeVar

from fondale.app.asking import Errands, Requests, awaits
from fondale.app.document import Document
from fondale.app.judge import Judge
from fondale.app.known import Known
from fondale.app.signal import Once, Signal
from fondale.app.ways import Ways
from fondale.app.workers import Report, Workers
from fondale.core.derived import BY_NAME as RESULT
from fondale.core.derived import DRAFT, FOR_SHOW, LIGHT, PICTURE, PLAN, QUICK, RESULTS
from fondale.core.house_scale import counted
from fondale.core.model import Project
from fondale.core.prompts import Finding
from fondale.core.reckoning import Derived, Key, Look, Result
from fondale.core.unknown import Unknown, reckonable

if TYPE_CHECKING:
    from fondale.core.order.plan import Plan

VIEW_WIDTH, DRAG_WIDTH = 640, 320
ROUGH = tuple(r for r in RESULTS if r.finer is not None)  # what is known at first, and finer later
FINE = tuple(r.finer for r in ROUGH if r.finer is not None)
T = TypeVar("T")


class Results:
    """``results[READINGS]`` is the last good value, None until first known; ``fresh`` says whether it is of the present snapshot."""

    def __init__(self, document: Document, today: date) -> None:
        self.document = document
        self.look = Look(today, width=VIEW_WIDTH)
        self.dragging = False
        self.busy: dict[str, tuple[float, str]] = {}
        self.trouble = ""
        self.answers = 0  # how many have come: whoever waits sees that something gets on
        self.changed = Signal()  # a result or the prompts
        self.got_on = Signal()  # work under way; nothing else has changed then
        self.errands = Errands(self.busy, self.got_on.tell)
        self.requests = Requests(self.busy)
        self.news = Once(self._tell_news)
        self._forget()

    def _forget(self) -> None:
        self._snapshot: Project | None = None
        self.news.pending = False
        self._sure, self._sent = self.document.project, self.document.project
        self._unknown: tuple[Unknown, ...] = ()
        self._keys: dict[str, Key] = {}
        self._known = Known(self._key)
        self._following = False  # light is asked for again when what is under way is there
        self.requests.clear()
        self._judge = Judge()
        self._overtaken = False  # by another edit, before all rules had spoken
        self._ways = Ways(self._judge, self.errands, self.news.ask)

    def connect(self, workers: Workers) -> None:
        """Where to send requests."""
        self.requests.workers = self.errands.workers = workers

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
        return self._known.get(result.finer if result.finer is not None and self.fresh(result.finer) else result)

    def one(self, result: Result[dict[str, T]], ident: str) -> T | None:
        """One value of a result that has one for each of many things, or None."""
        return (self[result] or {}).get(ident)

    def fresh(self, result: Result[Any]) -> bool:
        """Whether a result is of the present snapshot."""
        return self._known.fresh(result)

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
        vain = [r.finer for r in ROUGH if self._known.failed(r)]
        judged = (r for r in RESULTS if r not in FOR_SHOW and r not in vain)
        return not self.dragging and not self.news.pending and all(self._known.done(r) for r in judged)

    @property
    def derived(self) -> Derived:
        """The present snapshot with all results that are of it."""
        return Derived(self.project, self._known.values(r for r in RESULTS if self.fresh(r)), self._unknown)

    def _key(self, result: Result[Any]) -> Key:
        project = self.project  # first: it forgets the keys of another
        return result.key(project, self.look, self._keys)

    def refresh(self, slow: bool = True) -> None:
        """Ask for whatever the present snapshot makes stale. ``slow`` False leaves out the plan and the light.

        The rules speak when the quick results are there; until then nothing is said of what is gone.
        """
        self._ask(r for r in RESULTS if not (r.slow and self.dragging) and (slow or r not in (PLAN, LIGHT, PICTURE)) and r not in FINE)
        if slow:
            self._refine()
        if any(r.name in self.requests for r in QUICK):
            self._judge.let_go(self.document.project)
        else:
            self._speak()

    def follow_light(self) -> None:
        """Ask for the meters and the lit view, even while something is dragged: as soon as those under way are there, which would never come to an end otherwise."""
        self._following = any(r.name in self.requests for r in (LIGHT, PICTURE))
        if not self._following:
            self._ask((LIGHT, PICTURE))

    def _ask(self, results: Iterable[Result[Any]]) -> None:
        """Request results unless they are known, known to fail, or under way. What another lane knows already goes with them; the rest they find for themselves."""
        if self.requests.workers is None:
            return
        batches: dict[str, list[Result[Any]]] = {}
        for r in results:
            if self._known.done(r) or self.requests.doing(r.name, self._key(r)):
                continue
            # The quick ones travel together; each of the others is told as soon as it is there.
            batches.setdefault(r.lane if r.lane == "quick" else r.name, []).append(r)
        if any(r in ROUGH for batch in batches.values() for r in batch):
            for fine in FINE:
                if fine.name in self.requests:  # it is of before, and in the way
                    self.requests.stop(fine.name)
        for batch in batches.values():
            given = self._known.values(n for r in batch for n in r.needs if n.lane != r.lane and self.fresh(n))
            self.requests.send({r.name: (self._key(r), r.words) for r in batch}, self._sent, self.look, tuple(given.items()))

    def _refine(self) -> None:
        """Ask for the same again, finely, when the first answers are there and nothing moves."""
        if not self.dragging and all(self._known.done(r) for r in ROUGH):
            self._ask(r.finer for r in ROUGH if r.finer is not None and self.fresh(r))

    def stop(self, name: str) -> None:
        """The maker stops a running task; it is asked for again after the next edit."""
        self.requests.stop(name)
        self.errands.drop(name)
        self.changed.tell()

    def take(self, report: Report) -> None:
        """Take what a worker reports (on the thread that owns this object)."""
        self.answers += 1
        if report.kind == "progress":
            asked = self.requests.ticket(report.task) if report.task in self.requests else self.errands.ticket(report.task)
            if report.task in self.busy and awaits(asked, report.ticket):
                self.busy[report.task] = (report.share, report.words)
                self.got_on.tell()
        elif report.task:
            self.trouble = self.errands.take(report) or self.trouble
            # Whatever it changed in the project tells itself; only trouble and the end of the work are news.
            (self.changed if report.failures else self.got_on).tell()
        else:
            self._take_results(report)

    def _take_results(self, report: Report) -> None:
        told = self.requests.answered(report)
        for name, key in told.items():
            if name in report.results:
                self._known.take(RESULT[name], key, report.results[name])
            elif name in report.failures:
                self._known.fail(RESULT[name], key)
                self.trouble = report.failures[name]
        if not told:
            return
        if any(r.name in told for r in ROUGH):
            if self._following:
                self.follow_light()
            self._refine()
        self.news.ask()

    def _tell_news(self) -> None:
        self._speak()
        if self._judge.through or self._overtaken:
            self._overtaken = False
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
        failed = {r.name for r in RESULTS if self._known.failed(r)}
        # Who edits on and on has the numbers all the same: rules that never come to an end hold nothing back.
        self._overtaken |= not self._judge.through and self._judge.of is not self.project
        self.trouble = self._judge.judge(self.document.project, self.derived, failed) or self.trouble
        if not self._judge.through:
            self._judge.let_go(self.document.project)
            self.news.ask()
        elif not self.dragging and all(self.fresh(r) for r in QUICK):
            self._ways.try_them(self._sent, self.look, self._known.held(QUICK))
