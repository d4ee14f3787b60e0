# SPDX-License-Identifier: MIT
"""How early an order can end at best: heads, tails, and preemptive schedules on the evenings.

Heads and tails of tasks and the bound by Jackson's preemptive schedule after [carlier1982]; the evenings as its calendar.
"""

import heapq
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from math import inf

from fondale.core.order.tasks import Bench, Link, Task, Window

Job = tuple[float, float, float]  # release, minutes, tail


def lateness(jobs: Sequence[Job], windows: Sequence[Window]) -> float:
    """The largest end + tail of jobs that one pair of hands does in the windows, the longest tail first, each as often broken off as wished.

    Nothing that keeps the releases ends earlier. inf where the windows do not suffice. No windows: round the clock.
    """
    waiting = sorted(jobs)
    at, k, most = 0.0, 0, -inf
    ready: list[tuple[float, float]] = []  # (-tail, minutes left)
    spans: Sequence[tuple[float, float]] = windows or ((-inf, inf),)
    for a, b in spans:
        at = max(at, a) if windows else (waiting[0][0] if waiting else 0.0)
        while at < b:
            while k < len(waiting) and waiting[k][0] <= at:
                heapq.heappush(ready, (-waiting[k][2], waiting[k][1]))
                k += 1
            following = waiting[k][0] if k < len(waiting) else inf
            if not ready:
                if following >= b:
                    break
                at = following
                continue
            urgency, left = heapq.heappop(ready)
            stop = min(at + left, following, b)
            if stop < at + left:
                heapq.heappush(ready, (urgency, left - (stop - at)))
            else:
                most = max(most, stop - urgency)
            at = stop
        if k == len(waiting) and not ready:
            return most
    return inf


def fit(ready: float, minutes: int, task: Task, windows: Sequence[Window], ends: Sequence[int]) -> float:
    """The first minute from ``ready`` on at which so many minutes lie whole in an evening that may hold them."""
    if not windows:
        return ready
    for k in range(bisect_right(ends, ready), len(windows)):
        a, b = windows[k]
        start = max(a, ready)
        if start + minutes <= b and task.may_in((a, b)):
            return start
    return inf


@dataclass(frozen=True)
class _Line:
    """One direction of time: tasks in an order that keeps the links, and what each waits for."""

    order: tuple[Task, ...]
    before: dict[str, list[tuple[Task, int]]]
    windows: Sequence[Window]
    ends: Sequence[int]

    def heads(self, floor: dict[str, float]) -> dict[str, float]:
        """The earliest start of every task, from ``floor`` on: after all it waits for, and after all of that by one pair of hands."""
        out: dict[str, float] = {}
        above: dict[str, dict[str, float]] = {}  # of each ancestor the longest way from its end to the start of the task
        by_id = {t.id: t for t in self.order}
        for task in self.order:
            ways: dict[str, float] = {}
            at = floor[task.id]
            for b, lag in self.before[task.id]:
                at = max(at, out[b.id] + b.minutes + lag)
                ways[b.id] = max(ways.get(b.id, -inf), float(lag))
                for i, way in above[b.id].items():
                    ways[i] = max(ways.get(i, -inf), way + b.minutes + lag)
            above[task.id] = ways
            at = fit(at, task.minutes, task, self.windows, self.ends)
            if len(ways) > 1 and self.windows:
                at = max(at, lateness([(out[i], by_id[i].minutes, max(0.0, w)) for i, w in ways.items()], self.windows))
                at = fit(at, task.minutes, task, self.windows, self.ends)
            out[task.id] = at
        return out


class Bounds:
    """The bound of one set of tasks: ``finish`` is a lower bound, ``due`` tells when each task must end for a finish."""

    def __init__(self, order: Sequence[Task], links: Sequence[Link], bench: Bench) -> None:
        self.order, self.windows, self._setups = tuple(order), bench.windows, bench.setups
        windows = bench.windows
        by_id = {t.id: t for t in order}
        before: dict[str, list[tuple[Task, int]]] = {t.id: [] for t in order}
        after: dict[str, list[tuple[Task, int]]] = {t.id: [] for t in order}
        for k in links:
            before[k.after].append((by_id[k.before], k.lag))
            after[k.before].append((by_id[k.after], k.lag))
        self._after = after
        self._forth = _Line(self.order, before, windows, [b for _a, b in windows])
        self.heads = self._forth.heads({t.id: float(t.release) for t in order})
        clearing = {t.clears: t for t in order if t.clears}
        self._held: dict[str, list[tuple[Task, float, float]]] = {}  # by machine: task, minutes that it takes, minutes until it is off
        for t in order:
            if len(t.holds) == 1:
                off = clearing.get(t.id)
                lag = max((k.lag for k in links if off is not None and (k.before, k.after) == (t.id, off.id)), default=0)
                taken = t.minutes + (lag + off.minutes if off is not None else t.held)
                self._held.setdefault(t.holds[0], []).append((t, float(taken), float(taken - t.minutes)))

    def tails(self, finish: float) -> dict[str, float]:
        """Minutes that pass at least between the end of each task and ``finish``, seen from there."""
        mirror = [(int(finish) - b, int(finish) - a) for a, b in reversed(self.windows) if a < finish]
        backward = tuple(t for t in reversed(self.order))
        barred = tuple(
            Task(t.id, t.minutes, barred=tuple((int(finish) - b, int(finish) - a) for a, b in self.windows if not t.may_in((a, b))))
            for t in backward
        )
        by_id = {t.id: t for t in barred}
        before = {t.id: [(by_id[s.id], lag) for s, lag in self._after[t.id]] for t in backward}
        return _Line(barred, before, mirror, [b for _a, b in mirror]).heads({t.id: float(t.tail) for t in backward})

    def possible(self, finish: float) -> bool:
        """Whether nothing that is reckoned here speaks against a finish."""
        tails = self.tails(finish)
        heads = self.heads
        if any(heads[t.id] + t.minutes + tails[t.id] > finish + 0.5 for t in self.order):
            return False
        jobs = {t.id: (heads[t.id], float(t.minutes), tails[t.id]) for t in self.order}
        forced = self._forced(finish, tails) if self.windows else []
        for hands in (jobs, jobs | self._in_turn(tails)):
            if self.windows and lateness([*hands.values(), *forced], self.windows) > finish + 0.5:
                return False
        for held in self._held.values():
            runs = [(heads[t.id], taken, max(0.0, tails[t.id] - rest)) for t, taken, rest in held]
            if len(runs) > 1 and lateness(runs, ()) > finish + 0.5:
                return False
        return True

    def _in_turn(self, tails: dict[str, float]) -> dict[str, Job]:
        """The starts of runs on one machine: whichever comes first, each further one waits for as many of the shortest runs.

        Which is which stays open, so each has the fewest minutes and the shortest tail of all.
        """
        out: dict[str, Job] = {}
        for held in self._held.values():
            least, tail = min(float(t.minutes) for t, _taken, _rest in held), min(tails[t.id] for t, _taken, _rest in held)
            at = min(self.heads[t.id] for t, _taken, _rest in held)
            for t, taken, _rest in sorted(held, key=lambda h: h[1]):
                out[t.id] = at, least, tail
                at += taken
        return out

    def _forced(self, finish: float, tails: dict[str, float]) -> list[Job]:
        """Set-ups and cleanings that cannot be spared: a tool's work fills so many evenings at least.

        Each set-up comes before some use, each cleaning but the last one too.
        """
        out: list[Job] = []
        for tool, (bring, clean) in self._setups.items():
            users = [t for t in self.order if t.setup == tool]
            if not users or not bring + clean:
                continue
            first, last = min(self.heads[t.id] for t in users), finish - min(tails[t.id] for t in users)
            rooms = sorted((b - a - bring - clean for a, b in self.windows if b > first and a < last), reverse=True)
            work, evenings = sum(t.minutes for t in users), 0
            while work > 0 and evenings < len(rooms) and rooms[evenings] > 0:
                work -= rooms[evenings]
                evenings += 1
            tail = min(tails[t.id] + t.minutes for t in users)
            out += [(max(0.0, first - bring), float(bring), tail)] * evenings + [(first, float(clean), tail)] * (evenings - 1)
        return out

    def finish(self, most: int) -> int:
        """The lower bound of the finish, by halving between the longest chain and a finish that is known to be possible."""
        low = int(max((self.heads[t.id] + t.minutes + t.tail for t in self.order), default=0))
        high = most
        if low >= high or self.possible(low):
            return min(low, high)
        while high - low > 1:
            middle = (low + high) // 2
            if self.possible(middle):
                high = middle
            else:
                low = middle
        return high

    def due(self, finish: float) -> dict[str, float]:
        """When each task must have ended for everything to be finished then."""
        return {i: finish - tail for i, tail in self.tails(finish).items()}
