"""Worker processes: numeric libraries hold the interpreter's lock, so the interface stays in a process of its own.

A newer request for the same result, or the same errand, replaces an older one: the older stops at its next step.
"""

import contextlib
import multiprocessing as mp
import os
import queue
import threading
import traceback
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import partial
from multiprocessing.connection import Connection
from typing import Any, Protocol

from fondale.app.errands import BY_NAME as ERRANDS
from fondale.core.derived import BY_NAME as RESULTS
from fondale.core.model import Project
from fondale.core.progress import Cancelled, Progress, Quiet
from fondale.core.reckoning import Lane, Look, Reckoner

# Which process does what: the quick things never wait for the slow ones.
PROCESS: dict[Lane | str, int] = {"quick": 0, "view": 0, "plan": 1, "light": 2, "errand": 3}
_SLOTS = {name: k for k, name in enumerate((*RESULTS, *ERRANDS))}
NICENESS = 10
Given = tuple[tuple[str, Any], ...]


@dataclass(frozen=True)
class Request:
    """Results of one snapshot, with values that were computed elsewhere; or an errand with its arguments."""

    ticket: int
    names: tuple[str, ...] = ()
    project: Project | None = None
    look: Look | None = None
    given: Given = ()
    errand: str = ""
    args: tuple[Any, ...] = ()


@dataclass(frozen=True)
class Report:
    """What a worker says of request ``ticket``. ``kind`` is progress (of ``task``) or done.

    Done brings ``results`` by name and ``failures`` by name with what broke; what was stopped is in neither. ``task`` is the errand.
    """

    kind: str
    ticket: int
    task: str = ""
    share: float = 0.0
    words: str = ""
    results: dict[str, Any] = field(default_factory=dict)
    failures: dict[str, str] = field(default_factory=dict)

    @property
    def good(self) -> bool:
        """Whether an errand came off."""
        return self.kind == "done" and not self.failures and self.task in self.results

    @property
    def found(self) -> Any:
        """What an errand found."""
        return self.results[self.task]


class Workers(Protocol):
    """Takes requests; reports arrive through the callback given at the start."""

    def reckon(self, names: tuple[str, ...], project: Project, look: Look, given: Given) -> int:
        """Request results of one lane. Returns the ticket."""
        ...

    def ask(self, errand: str, *args: Any) -> int:
        """Request an errand. Returns the ticket."""
        ...

    def stop(self, name: str) -> None:
        """Let the running request for a result or an errand end at its next step."""
        ...

    def close(self) -> None:
        """End everything."""
        ...


def fulfil(request: Request, reckoner: Reckoner, watch: Callable[[str], Progress]) -> Report:
    """Do what a request asks. One thing that breaks, or is stopped, leaves the others be."""
    results: dict[str, Any] = {}
    failures: dict[str, str] = {}

    def attempt(name: str, work: Callable[[Progress], Any]) -> None:
        try:
            results[name] = work(watch(name))
        except Cancelled:
            return
        except Exception:  # the maker goes on working; the report says what broke
            failures[name] = traceback.format_exc()

    project, look = request.project, request.look
    if project is not None and look is not None:
        for name, value in request.given:
            reckoner.give(RESULTS[name], RESULTS[name].key(project, look), value)
        for name in request.names:
            attempt(name, partial(reckoner.compute, RESULTS[name], project, look))
    if request.errand:
        attempt(request.errand, lambda progress: ERRANDS[request.errand].work(progress, *request.args))
    return Report("done", request.ticket, request.errand, results=results, failures=failures)


def finished(report: Report) -> Report:
    """The report with what is still to be done to an errand's find on this side, off the window's thread."""
    finish = ERRANDS[report.task].finish if report.task in ERRANDS else None
    if finish is None or not report.good:
        return report
    return replace(report, results={report.task: finish(report.found)})


class _Watched:
    """What one piece of work reports to, inside the worker."""

    def __init__(self, pipe: Connection, name: str, ticket: int, newest: Any) -> None:
        self._pipe, self._name, self._ticket, self._newest = pipe, name, ticket, newest
        self.step(0.0, "")

    def step(self, share: float, words: str) -> None:
        if self._newest[_SLOTS[self._name]] > self._ticket:
            raise Cancelled
        if words:
            self._pipe.send(Report("progress", self._ticket, self._name, share, words))


def _work(pipe: Connection, newest: Any) -> None:
    """The loop of a worker process: until the pipe closes. It gives way to the window wherever cores are few."""
    with contextlib.suppress(OSError, AttributeError):
        os.nice(NICENESS)
    reckoner = Reckoner()
    while True:
        try:
            request: Request | None = pipe.recv()
            if request is None:
                return
            ticket = request.ticket
            pipe.send(fulfil(request, reckoner, lambda name: _Watched(pipe, name, ticket, newest)))  # noqa: B023
        except (EOFError, OSError, KeyboardInterrupt):
            return


class ProcessWorkers:
    """One process a lane, started when first needed. ``tell`` is called from reader threads."""

    def __init__(self, tell: Callable[[Report], None]) -> None:
        self._tell = tell
        self._spawn = mp.get_context("spawn")
        self._newest = self._spawn.Array("q", len(_SLOTS), lock=False)
        self._pipes: dict[int, Connection] = {}
        self._processes: list[Any] = []
        self._readers: list[threading.Thread] = []
        self._ticket = 0
        # Packing a snapshot takes longer than a blink may: a thread of its own does it.
        self._letters: queue.SimpleQueue[tuple[int, Request | None] | None] = queue.SimpleQueue()
        self._postman = threading.Thread(target=self._post, daemon=True, name="fondale-postman")
        self._postman.start()

    def reckon(self, names: tuple[str, ...], project: Project, look: Look, given: Given) -> int:
        return self._send(RESULTS[names[0]].lane, names, Request(self._ticket + 1, names, project, look, given))

    def ask(self, errand: str, *args: Any) -> int:
        return self._send("errand", (errand,), Request(self._ticket + 1, errand=errand, args=args))

    def _send(self, lane: str, names: tuple[str, ...], request: Request) -> int:
        self._ticket += 1
        for name in names:
            self._newest[_SLOTS[name]] = self._ticket
        process = PROCESS[lane]
        self._pipe(process)
        self._letters.put((process, request))
        return self._ticket

    def stop(self, name: str) -> None:
        self._ticket += 1
        self._newest[_SLOTS[name]] = self._ticket

    def close(self) -> None:
        for k in range(len(_SLOTS)):
            self._newest[k] = 2**62
        for process in self._pipes:
            self._letters.put((process, None))
        self._letters.put(None)
        self._postman.join(5.0)
        for worker in self._processes:
            worker.join(1.0)
            if worker.is_alive():
                worker.terminate()
                worker.join(2.0)
        for reader in self._readers:
            reader.join(2.0)
        for pipe in self._pipes.values():
            pipe.close()
        self._pipes.clear()

    def _pipe(self, process: int) -> Connection:
        if process not in self._pipes:
            ours, theirs = self._spawn.Pipe()
            worker = self._spawn.Process(target=_work, args=(theirs, self._newest), daemon=True, name=f"fondale-{process}")
            worker.start()
            theirs.close()
            reader = threading.Thread(target=self._read, args=(ours,), daemon=True, name=f"fondale-reader-{process}")
            reader.start()
            self._pipes[process] = ours
            self._processes.append(worker)
            self._readers.append(reader)
        return self._pipes[process]

    def _post(self) -> None:
        while (letter := self._letters.get()) is not None:
            process, request = letter
            with contextlib.suppress(BrokenPipeError, OSError):
                self._pipes[process].send(request)

    def _read(self, pipe: Connection) -> None:
        while True:
            try:
                report = pipe.recv()
            except (EOFError, OSError):
                return
            self._tell(finished(report))


class DirectWorkers:
    """Does everything at once in the caller's thread: for tests."""

    def __init__(self, tell: Callable[[Report], None]) -> None:
        self._tell, self._ticket, self._reckoner = tell, 0, Reckoner()

    def reckon(self, names: tuple[str, ...], project: Project, look: Look, given: Given) -> int:
        return self.fulfil(Request(self._ticket + 1, names, project, look, given))

    def ask(self, errand: str, *args: Any) -> int:
        return self.fulfil(Request(self._ticket + 1, errand=errand, args=args))

    def fulfil(self, request: Request) -> int:
        """Do it and tell."""
        self._ticket = request.ticket
        self._tell(finished(fulfil(request, self._reckoner, lambda _name: Quiet())))
        return request.ticket

    def stop(self, name: str) -> None:
        return None

    def close(self) -> None:
        return None
