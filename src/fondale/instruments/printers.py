# SPDX-License-Identifier: MIT
"""Printers: the port, and simulated ones that print at their pace and fail as printers do, more often early."""

import math
import random
from dataclasses import dataclass
from typing import Protocol

EARLY = 0.35  # mean share of a job at which a failure shows, common practice


@dataclass(frozen=True)
class Report:
    """What a printer says: ``state`` is idle, printing, done or failed; ``done`` is the share of the job."""

    state: str
    job: str
    done: float


class Printer(Protocol):
    """What a printer on a wire offers. Time is given from outside, in hours."""

    @property
    def name(self) -> str:
        """What it is called."""
        ...

    def start(self, job: str, hours: float, success: float) -> None:
        """Begin a job that takes ``hours`` and succeeds with a chance of ``success``."""
        ...

    def advance(self, hours: float) -> Report:
        """Let time pass and say how it stands. Done and failed are said once; then the printer is idle."""
        ...


class SimulatedPrinter:
    """Draws at the start whether and when a job fails."""

    def __init__(self, name: str, seed: int = 0) -> None:
        self.name = name
        self._random = random.Random(f"{name} {seed}")
        self._job, self._hours, self._gone, self._fails_at = "", 0.0, 0.0, math.inf

    def start(self, job: str, hours: float, success: float) -> None:
        self._job, self._hours, self._gone = job, max(hours, 1e-6), 0.0
        failed = self._random.random() > success
        self._fails_at = min(0.98, self._random.betavariate(1.2, 1.2 * (1 - EARLY) / EARLY)) if failed else math.inf

    def advance(self, hours: float) -> Report:
        if not self._job:
            return Report("idle", "", 0.0)
        self._gone += hours
        share = self._gone / self._hours
        job = self._job
        if share >= self._fails_at:
            self._job = ""
            return Report("failed", job, self._fails_at)
        if share >= 1.0 - 1e-9:
            self._job = ""
            return Report("done", job, 1.0)
        return Report("printing", job, share)


@dataclass(frozen=True)
class Bar:
    """One try on one printer, hours from the start; ``good`` where it came off whole."""

    printer: str
    job: str
    start: float
    end: float
    good: bool


def run_bank(
    printers: list[Printer], jobs: list[tuple[str, float, float]], step_h: float = 0.25, longest_h: float = 5000.0, most: int = 2000
) -> tuple[Bar, ...]:
    """Let printers work through (job, hours, success), longest first; what fails is started again on the next free one.

    Ends when all is done, or after ``longest_h`` hours or ``most`` tries.
    """
    waiting = sorted(jobs, key=lambda j: (-j[1], j[0]))
    busy: dict[int, tuple[str, float, float, float]] = {}
    bars: list[Bar] = []
    clock = 0.0
    while (waiting or busy) and clock < longest_h and len(bars) < most:
        for i, printer in enumerate(printers):
            if i not in busy and waiting:
                job, hours, success = waiting.pop(0)
                printer.start(job, hours, success)
                busy[i] = (job, hours, success, clock)
        clock += step_h
        for i in list(busy):
            report = printers[i].advance(step_h)
            if report.state in ("done", "failed"):
                job, hours, success, began = busy.pop(i)
                bars.append(Bar(printers[i].name, job, began, min(clock, began + hours * report.done), report.state == "done"))
                if report.state == "failed":
                    waiting.insert(0, (job, hours, success))
    return tuple(sorted(bars, key=lambda b: (b.start, b.printer)))
