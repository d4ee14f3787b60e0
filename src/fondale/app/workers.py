"""Worker processes: numeric libraries hold the interpreter's lock, so the interface stays in a process of its own.

A newer request of the same task replaces an older one: the older stops at its next step.
"""

import contextlib
import multiprocessing as mp
import os
import queue
import threading
import traceback
from collections import ChainMap
from collections.abc import Callable
from dataclasses import dataclass, replace
from multiprocessing.connection import Connection
from typing import Any, Protocol

from fondale.app.errands import ERRANDS, FINISH
from fondale.app.tasks import TASKS
from fondale.core.progress import Cancelled, Quiet

# Which process does what: the quick things never wait for the slow ones.
LANES = {
    "quick": 0,
    "stage": 0,
    "outlines": 0,
    "plan": 1,
    "light": 2,
    "picture": 2,
    "mesh": 3,
    "cut": 3,
    "seek": 3,
    "photo": 3,
    "count": 3,
    "table": 3,
}
_NAMES = tuple(LANES)
_WORK = ChainMap(TASKS, ERRANDS)
NICENESS = 10


@dataclass(frozen=True)
class Report:
    """What a worker says of request ``ticket``: ``kind`` is progress, done, failed or stopped."""

    kind: str
    task: str
    ticket: int
    share: float = 0.0
    words: str = ""
    result: Any = None


def _finished(report: Report) -> Report:
    finish = FINISH.get(report.task)
    return replace(report, result=finish(report.result)) if finish is not None and report.kind == "done" else report


class Workers(Protocol):
    """Takes requests; reports arrive through the callback given at the start."""

    def ask(self, task: str, *args: Any) -> int: ...

    def stop(self, task: str) -> None: ...

    def close(self) -> None: ...


class _Watched:
    """What one request reports to, inside the worker."""

    def __init__(self, pipe: Connection, task: str, ticket: int, newest: Any) -> None:
        self._pipe, self._task, self._ticket, self._newest = pipe, task, ticket, newest

    def step(self, share: float, words: str) -> None:
        if self._newest[_NAMES.index(self._task)] > self._ticket:
            raise Cancelled
        self._pipe.send(Report("progress", self._task, self._ticket, share, words))


def _work(pipe: Connection, newest: Any) -> None:
    """The loop of a worker process: until the pipe closes. It gives way to the window wherever cores are few."""
    with contextlib.suppress(OSError, AttributeError):
        os.nice(NICENESS)
    while True:
        try:
            request = pipe.recv()
        except (EOFError, OSError, KeyboardInterrupt):
            return
        if request is None:
            return
        task, ticket, args = request
        try:
            progress = _Watched(pipe, task, ticket, newest)
            progress.step(0.0, "")
            report = Report("done", task, ticket, 1.0, "", _WORK[task](progress, *args))
        except Cancelled:
            report = Report("stopped", task, ticket)
        except KeyboardInterrupt:
            return
        except Exception:  # the maker goes on working; the report says what broke
            report = Report("failed", task, ticket, words=traceback.format_exc())
        try:
            pipe.send(report)
        except (BrokenPipeError, OSError):
            return


class ProcessWorkers:
    """One process a lane, started when first needed. ``tell`` is called from reader threads."""

    def __init__(self, tell: Callable[[Report], None]) -> None:
        self._tell = tell
        self._spawn = mp.get_context("spawn")
        self._newest = self._spawn.Array("q", len(_NAMES), lock=False)
        self._pipes: dict[int, Connection] = {}
        self._processes: list[Any] = []
        self._readers: list[threading.Thread] = []
        self._ticket = 0
        # Packing a snapshot takes longer than a blink may: a thread of its own does it.
        self._letters: queue.SimpleQueue[tuple[int, Any] | None] = queue.SimpleQueue()
        self._postman = threading.Thread(target=self._post, daemon=True, name="fondale-postman")
        self._postman.start()

    def ask(self, task: str, *args: Any) -> int:
        """Request a task; an older request of the same task is dropped. Returns its ticket."""
        self._ticket += 1
        self._newest[_NAMES.index(task)] = self._ticket
        self._pipe(LANES[task])
        self._letters.put((LANES[task], (task, self._ticket, args)))
        return self._ticket

    def stop(self, task: str) -> None:
        """Let the running request of this task end at its next step."""
        self._ticket += 1
        self._newest[_NAMES.index(task)] = self._ticket

    def close(self) -> None:
        """End all processes."""
        for k in range(len(_NAMES)):
            self._newest[k] = 2**62
        for lane in self._pipes:
            self._letters.put((lane, None))
        self._letters.put(None)
        self._postman.join(5.0)
        for process in self._processes:
            process.join(1.0)
            if process.is_alive():
                process.terminate()
                process.join(2.0)
        for reader in self._readers:
            reader.join(2.0)
        for pipe in self._pipes.values():
            pipe.close()
        self._pipes.clear()

    def _pipe(self, lane: int) -> Connection:
        if lane not in self._pipes:
            ours, theirs = self._spawn.Pipe()
            process = self._spawn.Process(target=_work, args=(theirs, self._newest), daemon=True, name=f"fondale-{lane}")
            process.start()
            theirs.close()
            reader = threading.Thread(target=self._read, args=(ours,), daemon=True, name=f"fondale-reader-{lane}")
            reader.start()
            self._pipes[lane] = ours
            self._processes.append(process)
            self._readers.append(reader)
        return self._pipes[lane]

    def _post(self) -> None:
        while (letter := self._letters.get()) is not None:
            lane, request = letter
            with contextlib.suppress(BrokenPipeError, OSError):
                self._pipes[lane].send(request)

    def _read(self, pipe: Connection) -> None:
        while True:
            try:
                report = pipe.recv()
            except (EOFError, OSError):
                return
            self._tell(_finished(report))


class DirectWorkers:
    """Does everything at once in the caller's thread: for tests and the command line."""

    def __init__(self, tell: Callable[[Report], None]) -> None:
        self._tell, self._ticket = tell, 0

    def ask(self, task: str, *args: Any) -> int:
        self._ticket += 1
        try:
            report = _finished(Report("done", task, self._ticket, 1.0, "", _WORK[task](Quiet(), *args)))
        except Exception:
            report = Report("failed", task, self._ticket, words=traceback.format_exc())
        self._tell(report)
        return self._ticket

    def stop(self, task: str) -> None:
        return None

    def close(self) -> None:
        return None
