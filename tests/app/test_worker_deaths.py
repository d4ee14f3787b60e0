# SPDX-License-Identifier: MIT
"""Workers that die: killed, out of memory, crashed. What they had is asked again, once; what kills them twice is named and left."""

import os
import signal
import subprocess
import sys
import threading
import time
from multiprocessing import active_children
from multiprocessing.context import ForkServerProcess

import pytest

from fondale.app import workers as module
from fondale.app.workers import ERRANDS, ProcessWorkers, Report
from fondale.core.reckoning import Look
from fondale.storage.patience import OUT_OF_TIME
from tests.conftest import TODAY

LIGHT_LANE = 2


class Heard:
    """Collects reports; ``on`` may do something to the workers while they work."""

    def __init__(self) -> None:
        self.done: list[Report] = []
        self.on = lambda report: None
        self._more = threading.Semaphore(0)
        self.workers = ProcessWorkers(self.tell)

    def tell(self, report: Report) -> None:
        self.on(report)
        if report.kind == "done":
            self.done.append(report)
            self._more.release()

    def wait(self) -> Report:
        assert self._more.acquire(timeout=60)
        return self.done[-1]

    def kill(self, lane: int = LIGHT_LANE, number: int = signal.SIGKILL) -> None:
        os.kill(self.workers._lanes[lane].process.pid, number)


@pytest.fixture
def heard():
    made = Heard()
    yield made
    made.workers.close()


def light(heard, hut):
    return heard.workers.reckon(("light",), hut, Look(TODAY, width=80), (("amps", {}),))


@pytest.mark.slow
def test_a_worker_that_is_killed_is_started_anew_and_asked_again(heard, hut):
    light(heard, hut)
    assert heard.wait().results["light"].meters
    heard.kill()  # while it has nothing to do
    time.sleep(0.2)
    light(heard, hut)
    assert heard.wait().results["light"].meters
    struck = []

    def strike(report):  # while it works, once
        if report.kind == "progress" and not struck:
            struck.append(report)
            heard.kill()

    heard.on = strike
    ticket = light(heard, hut.but(name="Other", lamps=tuple(m.but(x=m.x + 1) for m in hut.lamps)))
    assert heard.wait().results["light"].meters
    assert (heard.done[-1].ticket, len(struck)) == (ticket, 1)


@pytest.mark.slow
def test_a_worker_that_is_stuck_is_ended_and_asked_again(heard, hut, monkeypatch):
    monkeypatch.setattr(module, "STUCK_S", 1.0)
    stuck = []

    def hold(report):  # it stops, as one that waits for a lock that never opens does
        if report.kind == "progress" and not stuck:
            stuck.append(heard.workers._lanes[LIGHT_LANE].process.pid)
            os.kill(stuck[0], signal.SIGSTOP)

    heard.on = hold
    light(heard, hut)
    assert heard.wait().results["light"].meters
    assert heard.workers.pids != tuple(stuck)


@pytest.mark.slow
def test_what_kills_its_worker_twice_is_named_and_the_rest_goes_on(heard, hut):
    heard.on = lambda report: heard.kill() if report.kind == "progress" else None
    light(heard, hut)
    report = heard.wait()
    assert not report.results
    assert "was broken off: the system ended it" in report.failures["light"]
    heard.on = lambda report: None
    light(heard, hut)
    assert heard.wait().results["light"].meters


@pytest.mark.slow
def test_what_took_too_much_of_the_processor_is_not_tried_again(heard, hut):
    struck = []

    def strike(report):
        if report.kind == "progress" and not struck:
            struck.append(report)
            heard.kill(number=OUT_OF_TIME)

    heard.on = strike
    light(heard, hut)
    report = heard.wait()
    assert not report.results
    assert "s of the processor to read" in report.failures["light"]
    assert "twice" not in report.failures["light"]


@pytest.mark.slow
def test_of_many_that_were_asked_together_only_the_deadly_one_is_left(heard, hut, monkeypatch):
    real, deadly = module._Lane._read, []

    def read(lane, pipe):  # the worker dies whenever it begins to read photographs
        receive = pipe.recv

        class Ear:
            @staticmethod
            def recv():
                report = receive()
                if report.kind == "begun" and report.task == "photo_readings":
                    deadly.append(report)
                    os.kill(lane.process.pid, signal.SIGSTOP)
                    os.kill(lane.process.pid, signal.SIGKILL)
                return report

        real(lane, Ear())

    monkeypatch.setattr(module._Lane, "_read", read)
    slow = module.RESULTS["photo_readings"]
    names = ("readings", slow.name, "jobs")
    heard.workers.reckon(names, hut, Look(TODAY), ())
    report = heard.wait()
    if slow.name in report.failures:  # it was killed in time, both times
        assert set(report.results) == {"readings", "jobs"}
    assert len(deadly) in (1, 2)
    assert set(report.results) | set(report.failures) == set(names)


@pytest.mark.slow
def test_memory_is_bounded_and_told(heard, hut, monkeypatch):
    code = (
        "import os\nfrom fondale.app import workers as w\nfrom fondale.core.progress import Quiet\n"
        "from fondale.core.reckoning import Reckoner\nimport fondale.app.errands as e\nimport dataclasses, numpy as np\n"
        "w._bind(2)\n"
        "w.ERRANDS['count'] = dataclasses.replace(e.COUNT, work=lambda progress: np.ones(400_000_000))\n"
        "r = w.fulfil(w.Request(1, errand='count'), Reckoner(), lambda n: Quiet())\nprint(r.failures['count'])\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert "takes more than 2.5 GB of memory: make the case smaller" in done.stdout


@pytest.mark.slow
def test_workers_end_with_the_window_that_is_killed(hut, tmp_path):
    code = (
        "import sys, threading\nfrom datetime import date\nfrom fondale.app.workers import ProcessWorkers\n"
        "from fondale.core.reckoning import Look\nfrom fondale.demo import SAMPLES\n"
        "if __name__ == '__main__':\n"
        "    begun = threading.Event()\n"
        "    w = ProcessWorkers(lambda r: begun.set())\n"
        "    p = list(SAMPLES.values())[0](date(2026, 11, 24))\n"
        "    w.reckon(('plan',), p, Look(date(2026, 11, 24)), ())\n"
        "    begun.wait(60); print(*w.pids, flush=True); sys.stdin.read()\n"
    )
    script = tmp_path / "window.py"
    script.write_text(code)
    with subprocess.Popen([sys.executable, str(script)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as window:
        pids = [int(x) for x in window.stdout.readline().split()]
        assert pids
        window.kill()
        window.wait()
    end = time.monotonic() + 2
    while time.monotonic() < end and any(_runs(pid) for pid in pids):
        time.sleep(0.02)
    assert not any(_runs(pid) for pid in pids)


def _runs(pid: int) -> bool:
    try:
        with open(f"/proc/{pid}/stat") as file:
            return file.read().rsplit(")", 1)[1].split()[0] not in ("Z", "X")
    except OSError:
        return False


@pytest.mark.slow
def test_closing_does_not_wait_for_what_is_being_worked_out(heard, hut):
    busy = threading.Event()

    def hold(report):  # it never gets done, however fast the machine is
        if report.kind == "progress" and not busy.is_set():
            os.kill(heard.workers._lanes[LIGHT_LANE].process.pid, signal.SIGSTOP)
            busy.set()

    heard.on = hold
    light(heard, hut)
    assert busy.wait(60)
    pids = heard.workers.pids
    heard.workers.close()
    assert pids
    assert not any(_runs(pid) for pid in pids)
    assert not heard.done


@pytest.mark.slow
def test_closing_ends_a_worker_that_is_being_started(heard, monkeypatch):
    begun, go, taken = threading.Event(), threading.Event(), []
    start = ForkServerProcess.start

    def slowly(process):
        begun.set()
        assert go.wait(30)
        start(process)

    monkeypatch.setattr(ForkServerProcess, "start", slowly)
    heard.on = taken.append
    heard.workers.ask(next(iter(ERRANDS)), bytes(3_000_000))  # more than a pipe holds: writing it waits for the reader
    assert begun.wait(30)
    lane = heard.workers._lanes[module.PROCESS["errand"]]
    closing = threading.Thread(target=heard.workers.close)
    closing.start()
    while not lane._closing:
        time.sleep(0.01)
    go.set()
    closing.join(30)
    lane._postman.join(30)
    assert [closing.is_alive(), lane._postman.is_alive(), active_children()] == [False, False, []]
    assert taken == []  # it was ended, not heard out


def test_what_is_asked_after_the_end_starts_nothing(heard, hut):
    heard.workers.close()
    before = threading.active_count()
    light(heard, hut)
    heard.workers.ask(next(iter(ERRANDS)))
    assert (threading.active_count(), active_children(), heard.workers.pids) == (before, [], ())


def test_the_first_start_on_a_machine_is_said_and_gets_on(monkeypatch, empty):
    heard = []
    request = module.Request(7, ("light", "picture"), empty, Look(TODAY), ())
    monkeypatch.setattr(module, "is_compiled", lambda: False)
    with module.preparing(request, heard.append, every_s=0.01):
        for _ in range(400):
            if len(heard) > 6:
                break
            time.sleep(0.01)
    assert {r.task for r in heard} == {"light", "picture"}
    assert {r.words for r in heard} == {module.FIRST_TIME}
    shares = [r.share for r in heard if r.task == "light"]
    assert shares == sorted(shares)
    assert shares[-1] > shares[0]  # who waits for something to get on sees that it does
    count = len(heard)
    monkeypatch.setattr(module, "is_compiled", lambda: True)
    with module.preparing(request, heard.append, every_s=0.001):
        time.sleep(0.02)
    assert len(heard) <= count + 2
