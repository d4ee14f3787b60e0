# SPDX-License-Identifier: MIT
"""Worker processes: numeric libraries hold the interpreter's lock, so the interface stays in a process of its own.

A newer request for the same result, or the same errand, replaces an older one: the older stops at its next step.
"""

import contextlib
import multiprocessing as mp
import os
import queue
import threading
import traceback
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field, replace
from functools import cache, partial
from importlib.resources import files
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path
from typing import Any, Protocol

from fondale.app.errands import BY_NAME as ERRANDS
from fondale.app.settings import cache_folder
from fondale.core.bodies.kept import keep_on
from fondale.core.derived import BY_NAME as RESULTS
from fondale.core.model import Project
from fondale.core.progress import Cancelled, Progress, Quiet
from fondale.core.reckoning import Lane, Look, Reckoner
from fondale.core.tables import in_force
from fondale.storage.bodies import BodyShelf
from fondale.storage.patience import OUT_OF_TIME, TOO_MUCH, bound_memory, ended_words

# Which process does what: the quick things never wait for the slow ones.
PROCESS: dict[Lane | str, int] = {"quick": 0, "view": 0, "plan": 1, "light": 2, "errand": 3}
_SLOTS = {name: k for k, name in enumerate((*RESULTS, *ERRANDS))}
NICENESS = (10, 14, 10, 16)  # of each process, all behind the window: what nobody waits for comes last where cores are few
STUCK_S = 60.0  # a worker that has something to do and does nothing for so long is ended
Given = tuple[tuple[str, Any], ...]
FIRST_TIME = "preparing the light, once on this machine"


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
    """What a worker says of request ``ticket``. ``kind`` is begun or progress (of ``task``) or done.

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
        except MemoryError:
            failures[name] = f"{_words(name)} {TOO_MUCH}."
        except Exception:  # the maker goes on working; the report says what broke
            failures[name] = traceback.format_exc()

    project, look = request.project, request.look
    for known in (project, *request.args):
        if isinstance(known, Project):
            in_force(known)
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
    try:
        return replace(report, results={report.task: finish(report.found)})
    except Exception:  # on a thread that nobody would hear
        return replace(report, results={}, failures={report.task: traceback.format_exc()})


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


def share_bodies(folder: Path) -> None:
    """From now on this process and all others that do so build each body once, and keep them in a folder."""
    keep_on(BodyShelf(folder / "bodies"))


def _work(number: int, pipe: Connection, newest: Any, folder: Path) -> None:
    """The loop of a worker process: until the pipe closes. It gives way to the window wherever cores are few, and ends with it."""
    _bind(number)
    share_bodies(folder)
    reckoner = Reckoner()
    while True:
        try:
            request: Request | None = pipe.recv()
            if request is None:
                return
            ticket = request.ticket

            def watch(name: str, ticket: int = ticket) -> Progress:
                pipe.send(Report("begun", ticket, name))
                return _Watched(pipe, name, ticket, newest)

            report = fulfil(request, reckoner, watch)
            try:
                pipe.send(report)
            except (EOFError, OSError):
                return
            except Exception:  # what cannot be sent over is told, like all else that breaks
                broken = dict.fromkeys((*request.names, *filter(None, (request.errand,))), traceback.format_exc())
                pipe.send(Report("done", ticket, request.errand, failures=broken))
        except (EOFError, OSError, KeyboardInterrupt):
            return


def _bind(number: int) -> None:
    """Run behind the window, within bounds of memory, and never longer than it."""
    with contextlib.suppress(OSError, AttributeError):
        os.nice(NICENESS[number])
    bound_memory()
    if (window := mp.parent_process()) is not None:
        threading.Thread(target=_end_with, args=(window,), daemon=True, name="fondale-window").start()


def _end_with(window: BaseProcess) -> None:
    window.join()
    os._exit(1)


@cache
def processes() -> Any:
    """How processes are made: each is split off one that has all of them loaded already, which costs a quarter of loading it anew."""
    made = mp.get_context("forkserver")
    made.set_forkserver_preload(
        ["fondale.app.workers", "fondale.core.light.loops", "fondale.core.stage.loops", "scipy.optimize", "scipy.sparse", "scipy.spatial"]
    )
    return made


def is_compiled() -> bool:
    """Whether the loops of light were compiled before on this machine, or nobody can know: where they may not be written beside their source."""
    beside = Path(str(files("fondale.core.light"))) / "__pycache__"
    return any(beside.glob("loops.*.nbi")) or (beside.exists() and not os.access(beside, os.W_OK))


@contextlib.contextmanager
def preparing(request: Request, tell: Callable[[Report], None], every_s: float = 2.0) -> Iterator[None]:
    """While processes start for the very first time, and compile what light needs, that is said of all that is waited for, and gets on."""
    if is_compiled():
        yield
        return
    done, names = threading.Event(), (*request.names, *filter(None, (request.errand,)))

    def say() -> None:
        share = 0.0
        while not done.is_set():
            for name in names:
                tell(Report("progress", request.ticket, name, share, FIRST_TIME))
            share += (1 - share) / 30
            done.wait(every_s)

    threading.Thread(target=say, daemon=True, name="fondale-preparing").start()
    try:
        yield
    finally:
        done.set()


class _Lane:
    """One worker process, with a thread that writes to it and one that hears it. Where it dies, another one takes its place.

    What it had is asked again. Whatever it dies of twice is named and left, and the rest goes on. One that is stuck is ended.
    """

    def __init__(self, number: int, newest: Any, tell: Callable[[Report], None]) -> None:
        self._number, self._newest, self._tell = number, newest, tell
        self._lock = threading.Lock()
        self._open: dict[int, Request] = {}
        self._failed: dict[int, dict[str, str]] = {}
        self._deaths: Counter[tuple[int, str]] = Counter()
        self._doing: tuple[int, str] = _NOTHING
        self._closing = False
        self._spent = False  # whether it was ended for what it read
        self._pipe: Connection | None = None
        self._reader: threading.Thread | None = None
        self.process: Any = None
        self._letters: queue.SimpleQueue[Request | str | None] = queue.SimpleQueue()
        # Starting a process and packing a snapshot take longer than a blink may; and the system ends a worker with this thread.
        self._postman = threading.Thread(target=self._post, daemon=True, name=f"fondale-postman-{number}")
        self._postman.start()

    def send(self, request: Request) -> None:
        """Have something done."""
        self._letters.put(request)

    def close(self) -> None:
        """End it, at once; whatever it is doing is of no use any more."""
        self._closing = True
        self._letters.put(None)
        self._kill()  # what waits in writing to it is let go by this
        self._postman.join(2.0)

    def _kill(self) -> None:
        if (process := self.process) is not None:
            process.kill()

    def _post(self) -> None:
        spent = -1.0
        while not self._closing:
            try:
                letter = self._letters.get(timeout=STUCK_S)
            except queue.Empty:
                spent = self._look_after(spent)
                continue
            spent = -1.0
            if letter is None:
                break
            if isinstance(letter, str):
                self._mourn()
            else:
                with self._lock:
                    self._open[letter.ticket] = letter
                self._deliver(letter)
        if self.process is not None:
            self.process.kill()
            self._bury()

    def _look_after(self, before: float) -> float:
        """End a process that has something to do, and has used no time of a processor since it was looked at last; what it has used."""
        with self._lock:
            waiting = bool(self._open)
        if self.process is None or not waiting:
            return -1.0
        spent = _spent_s(self.process.pid)
        if 0 <= before == spent:
            self.process.kill()
        return spent

    def _deliver(self, request: Request) -> None:
        try:
            if self._pipe is None:
                with preparing(request, self._tell):
                    self._start()
            if self._pipe is not None:
                self._pipe.send(request)
        except BrokenPipeError:
            return  # the reader hears that it is dead, and all is asked again
        except Exception as error:
            self._give_up([request.ticket], f"it could not be sent to a process of its own ({error})")

    def _start(self) -> None:
        ours, theirs = processes().Pipe()
        try:
            process = processes().Process(
                target=_work, args=(self._number, theirs, self._newest, cache_folder()), daemon=True, name=f"fondale-{self._number}"
            )
            process.start()
        except BaseException:
            ours.close()
            raise
        finally:
            theirs.close()
        self.process, self._pipe = process, ours
        if self._closing:  # while it started: nobody else has known of it
            process.kill()
        self._reader = threading.Thread(target=self._read, args=(ours,), daemon=True, name=f"fondale-reader-{self._number}")
        self._reader.start()

    def _bury(self) -> str:
        """Let go of a process that is dead; how it ended, in words."""
        self.process.join(2.0)
        code = self.process.exitcode
        if self._pipe is not None:
            self._pipe.close()
        if self._reader is not None:
            self._reader.join(2.0)
        self._pipe = self._reader = self.process = None
        self._spent = code == -OUT_OF_TIME
        return ended_words(code)

    def _mourn(self) -> None:
        how = self._bury()
        with self._lock:
            (ticket, name), self._doing = self._doing, _NOTHING
            self._deaths[ticket, name] += 1
            twice = self._deaths[ticket, name] > 1 or self._spent
            known = ticket in self._open
        if twice:
            self._give_up([ticket] if known else list(self._open), how if self._spent else f"{how}, twice", name)
        with self._lock:
            again = list(self._open.values())
        for request in again:
            if not self._closing:
                self._deliver(request)

    def _give_up(self, tickets: Iterable[int], how: str, name: str = "") -> None:
        """Leave one thing of these requests, or all of them: the rest is still to be done."""
        for ticket in tickets:
            with self._lock:
                request = self._open[ticket]
                names = (name,) if name else (*request.names, *filter(None, (request.errand,)))
                failed = self._failed.setdefault(ticket, {})
                failed.update({n: f"{_words(n)} was broken off: {how}. It is tried again after the next change." for n in names})
                left = replace(request, names=tuple(n for n in request.names if n not in failed))
                self._open[ticket] = left
                over = not left.names and (not left.errand or left.errand in failed)
            if over:
                self._end(Report("done", ticket, request.errand))

    def _read(self, pipe: Connection) -> None:
        while True:
            try:
                report = pipe.recv()
            except Exception:
                break
            if report.kind == "begun":
                self._doing = report.ticket, report.task
            elif report.kind == "done":
                self._doing = _NOTHING
                self._end(report)
            else:
                self._tell(report)
        if not self._closing:
            self._letters.put("died")

    def _end(self, report: Report) -> None:
        with self._lock:
            self._open.pop(report.ticket, None)
            failed = self._failed.pop(report.ticket, {})
            for key in [k for k in self._deaths if k[0] in (report.ticket, _NOTHING[0])]:
                del self._deaths[key]
        self._tell(finished(replace(report, failures={**report.failures, **failed})))


def _spent_s(pid: int) -> float:
    """Seconds of a processor that a process has used; below 0 where the system does not say."""
    try:
        with open(f"/proc/{pid}/stat") as file:
            fields = file.read().rpartition(")")[2].split()
    except OSError:
        return -1.0
    return (int(fields[11]) + int(fields[12])) / float(os.sysconf("SC_CLK_TCK"))


_NOTHING = (0, "")


def _words(name: str) -> str:
    words = RESULTS[name].words if name in RESULTS else ERRANDS[name].words
    return words.capitalize() or "Something"


class ProcessWorkers:
    """One process a lane, started when first needed. ``tell`` is called from reader threads."""

    def __init__(self, tell: Callable[[Report], None]) -> None:
        self._tell = tell
        self._newest = processes().Array("q", len(_SLOTS), lock=False)
        self._lanes: dict[int, _Lane] = {}
        self._ticket = 0
        self._closed = False

    def reckon(self, names: tuple[str, ...], project: Project, look: Look, given: Given) -> int:
        return self._send(RESULTS[names[0]].lane, names, Request(self._ticket + 1, names, project, look, given))

    def ask(self, errand: str, *args: Any) -> int:
        return self._send("errand", (errand,), Request(self._ticket + 1, errand=errand, args=args))

    def _send(self, lane: str, names: tuple[str, ...], request: Request) -> int:
        self._ticket += 1
        if self._closed:  # a window that goes may still ask; nobody would hear the answer, nor end who works on it
            return self._ticket
        for name in names:
            self._newest[_SLOTS[name]] = self._ticket
        number = PROCESS[lane]
        if number not in self._lanes:
            self._lanes[number] = _Lane(number, self._newest, self._tell)
        self._lanes[number].send(request)
        return self._ticket

    def stop(self, name: str) -> None:
        self._ticket += 1
        self._newest[_SLOTS[name]] = self._ticket

    @property
    def pids(self) -> tuple[int, ...]:
        """The processes that run."""
        return tuple(lane.process.pid for lane in self._lanes.values() if lane.process is not None)

    def close(self) -> None:
        self._closed = True
        for k in range(len(_SLOTS)):
            self._newest[k] = 2**62
        for lane in self._lanes.values():
            lane.close()
        self._lanes.clear()


class DirectWorkers:
    """Does everything at once in the caller's thread: for tests."""

    def __init__(self, tell: Callable[[Report], None], reckoner: Reckoner | None = None) -> None:
        self._tell, self._ticket, self._reckoner = tell, 0, reckoner or Reckoner()

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
