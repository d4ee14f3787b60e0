# SPDX-License-Identifier: MIT
"""The running order played through once for every run at the same time."""

from collections.abc import Sequence

import numpy as np

from fondale.core.arrays import Bools, Floats, Ints
from fondale.core.order.tasks import Link, Task
from fondale.core.order.work import Work

OVER_MIN = 15.0  # a maker works on a little to finish something: common practice, no source


class Replay:
    """Runs side by side, evening by evening. ``ends`` (runs, tasks in the planned order): when each task was done."""

    def __init__(self, work: Work, order: Sequence[int], minutes: Floats, waits: Floats, windows: Sequence[tuple[int, int]]) -> None:
        tasks = self._tasks = [work.tasks[i] for i in order]
        place = {t.id: k for k, t in enumerate(tasks)}
        count, runs = len(tasks), minutes.shape[1]
        self._windows, self._waits = windows, waits
        self._bundle, links = _bundles(work, place)
        # The links by the place of what comes before: those of one task stand together.
        chain = sorted(links, key=lambda k: place[k.before])
        self._after, self._lags = np.array([place[k.after] for k in chain], int), np.array([k.lag for k in chain], float)
        self._sources = np.array([order[place[k.before]] for k in chain], int)
        self._counts = np.bincount([place[k.before] for k in chain], minlength=count)
        self._firsts = np.cumsum(self._counts) - self._counts
        self._missing = np.tile(np.bincount([place[k.after] for k in links], minlength=count), (runs, 1))
        self._free = np.tile(np.array([t.release for t in tasks], float), (runs, 1))  # when all before it are done with
        self._may: Floats = np.where(self._missing == 0, self._free, np.inf)  # when it may be worked on
        self._left = minutes[list(order)].T.copy()
        self.ends = np.full((runs, count), np.inf)
        self._begun = np.full(runs, -1)
        self._longest = max((b - a for a, b in windows), default=0)
        whole = self._left @ self._bundle.T if self._bundle is not None else self._left  # with all that goes along
        self._large: Bools = whole > self._longest
        self._soon = [(place[k.before], place[k.after], k.lag, k.most) for k in work.links if k.most is not None]
        self._urgent = np.zeros((runs, count), bool) if self._soon or self._bundle is not None else None
        self._machines = _Machines(work, tasks, place, runs)
        # Tools: what bringing out and cleaning takes.
        tools = sorted({t.setup for t in tasks if sum(work.bench.setups.get(t.setup, (0, 0)))})
        self._tool = np.array([tools.index(t.setup) if t.setup in tools else len(tools) for t in tasks], int)
        self._tooled = np.flatnonzero(self._tool < len(tools))
        self._charge = np.array([*(sum(work.bench.setups[t]) for t in tools), 0.0])
        self._barred = any(t.barred for t in tasks)

    def play(self, evening: int, missed: Bools) -> None:
        """One evening of every run that does not miss it."""
        opens, closes = self._windows[evening]
        lo = int(np.isfinite(self.ends).all(axis=0).argmin())  # what stands before it is done in every run
        shut = np.array([not t.may_in((opens, opens + t.minutes)) for t in self._tasks[lo:]]) if self._barred else None
        clock = np.full(len(self.ends), float(opens))
        out = np.zeros((len(self.ends), len(self._charge)), bool)
        at = np.flatnonzero(~missed & ((self._begun >= 0) | (self._may < closes).any(axis=1)))  # the runs that are at the bench
        while at.size:
            setting = np.where(out[at], 0.0, self._charge)
            open_to, best, fits = self._best(at, lo, clock[at], evening, setting, shut)
            works = (self._begun[at] >= 0) | fits
            chosen = np.where(self._begun[at] >= 0, self._begun[at], best + lo)
            if not works.all():
                later = open_to[~works]
                clock[at[~works]] = np.where(later > clock[at[~works], None], later, np.inf).min(axis=1)
            r, c = at[works], chosen[works]
            set_up = setting[works, self._tool[c]]
            out[r, self._tool[c]] = True
            self._do(r, c, clock, set_up, closes)
            at = at[clock[at] < closes]

    def _best(self, at: Ints, lo: int, now: Floats, evening: int, setting: Floats, shut: Bools | None) -> tuple[Floats, Ints, Bools]:
        """For these runs, from task ``lo`` on: when each task is open, the one to do now, and whether there is one."""
        closes = self._windows[evening][1]
        open_to = self._may[at, lo:]
        self._machines.hold_back(open_to, at, lo)
        if shut is not None:
            open_to[:, shut] = np.inf
        need = self._left[at, lo:] if self._bundle is None else self._left[at, lo:] @ self._bundle[lo:, lo:].T
        with_tool = self._tooled[self._tooled >= lo]
        if with_tool.size:
            need[:, with_tool - lo] += setting[:, self._tool[with_tool]]
        fits: Bools = open_to <= now[:, None]
        fits &= self._large[at, lo:] | (need <= (closes - now)[:, None] + OVER_MIN)
        following = self._windows[evening + 1][0] if evening + 1 < len(self._windows) else np.inf
        for a, b, lag, most in self._soon:
            if a >= lo:
                same = now + need[:, a - lo] + lag + self._left[at, b] <= closes + OVER_MIN
                too_long = self._left[at, a] + self._left[at, b] > self._longest
                fits[:, a - lo] &= same | (following <= now + need[:, a - lo] + most) | too_long
        if self._urgent is not None:
            hot = self._urgent[at, lo:] & (open_to <= now[:, None])
            fits[hot.any(axis=1)] = hot[hot.any(axis=1)]
        best: Ints = fits.argmax(axis=1)
        return open_to, best, fits[np.arange(at.size), best]

    def _do(self, r: Ints, c: Ints, clock: Floats, set_up: Floats, closes: int) -> None:
        """Runs ``r`` work on tasks ``c``: to their end, or to that of the evening."""
        left, rest = self._left[r, c], closes - clock[r]
        whole = (left + set_up <= rest + OVER_MIN) | (left <= 0)
        spent = np.where(whole, left, np.clip(rest - set_up, 0, left))
        self._left[r, c] -= spent
        clock[r] += spent + set_up
        self._begun[r] = np.where(whole, -1, c)
        clock[r] = np.where(whole, clock[r], np.maximum(clock[r], closes))
        r, c = r[whole], c[whole]
        self._may[r, c], self.ends[r, c] = np.inf, clock[r]
        self._machines.take(r, c, clock[r])
        if self._urgent is not None:
            if self._bundle is not None:
                self._urgent[r] |= self._bundle[c] > 0
            for a, b, _lag, _most in self._soon:
                self._urgent[r[c == a], b] = True
        i, link = np.repeat(r, self._counts[c]), _runs_of(self._firsts[c], self._counts[c])
        j = self._after[link]
        self._free[i, j] = np.maximum(self._free[i, j], clock[i] + self._lags[link] * self._waits[self._sources[link], i])
        self._missing[i, j] -= 1
        self._may[i, j] = np.where(self._missing[i, j] == 0, self._free[i, j], np.inf)


class _Machines:
    """Which task may take which machine, which one clears it, and until when each is taken in every run."""

    def __init__(self, work: Work, tasks: Sequence[Task], place: dict[str, int], runs: int) -> None:
        machines = sorted({m for t in tasks for m in t.holds})
        self._holds = np.zeros((len(tasks), len(machines)), bool)
        for k, t in enumerate(tasks):
            self._holds[k, [machines.index(m) for m in t.holds]] = True
        holders = np.flatnonzero(self._holds.any(axis=1))
        choices = self._holds[holders].sum(axis=1)
        self._only, self._several, self._any = holders[choices == 1], holders[choices > 1], bool(holders.size)
        self._machine = self._holds.argmax(axis=1) if machines else np.zeros(len(tasks), int)
        self._clears = np.array([place.get(t.clears, -1) for t in tasks], int)
        cleared = {t.clears for t in tasks if t.clears}
        self._held = np.array([np.inf if t.id in cleared else t.held for t in tasks], float)
        begin = [np.inf if m in work.bench.open_on else work.bench.free.get(m, -np.inf) for m in machines]
        self._taken = np.tile(np.array(begin, float), (runs, 1))
        self._opened = {place[i]: machines.index(m) for m, i in work.bench.open_on.items() if m in machines}
        self._took = np.full((runs, len(tasks)), -1)

    def hold_back(self, open_to: Floats, at: Ints, lo: int) -> None:
        """Tasks of runs ``at``, from ``lo`` on, open no earlier than a machine is free for them."""
        one, more = self._only[self._only >= lo], self._several[self._several >= lo]
        if one.size:
            open_to[:, one - lo] = np.maximum(open_to[:, one - lo], self._taken[at][:, self._machine[one]])
        if more.size:
            soonest = np.where(self._holds[more][None], self._taken[at][:, None, :], np.inf).min(axis=2)
            open_to[:, more - lo] = np.maximum(open_to[:, more - lo], soonest)

    def take(self, r: Ints, c: Ints, now: Floats) -> None:
        """Machines that tasks ``c`` of runs ``r``, which end now, start and clear."""
        if not self._any and not self._opened:
            return
        starts = self._holds[c].any(axis=1)
        if starts.any():
            rows, which = r[starts], c[starts]
            first = np.where(self._holds[which], self._taken[rows], np.inf).argmin(axis=1)
            self._took[rows, which] = first
            self._taken[rows, first] = now[starts] + self._held[which]
        ends_it = self._clears[c] >= 0
        if ends_it.any():
            rows = r[ends_it]
            self._taken[rows, self._took[rows, self._clears[c[ends_it]]]] = now[ends_it]
        for k, m in self._opened.items():
            self._taken[r[c == k], m] = now[c == k]


def _bundles(work: Work, place: dict[str, int]) -> tuple[Floats | None, list[Link]]:
    """Which tasks go in one go or on one evening with which (None: none do), and the links: who goes along waits for all that they wait for."""
    group = {t.id: {t.id} for t in work.tasks}
    for a, b in [(k.before, k.after) for k in work.links if k.at_once] + [
        (t.id, u.id) for t in work.tasks for u in work.tasks if t.together and t.together == u.together
    ]:
        both = group[a] | group[b]
        for i in both:
            group[i] = both
    if all(len(g) == 1 for g in group.values()):
        return None, list(work.links)
    links = {(k.before, k.after): k for k in work.links}
    behind: dict[str, set[str]] = {t.id: set() for t in work.tasks}  # what waits for a task, near or far
    for i in sorted(place, key=lambda i: -place[i]):
        behind[i] = {x for k in work.links if k.before == i for x in (k.after, *behind[k.after])}
    for k in work.links:
        for mate in group[k.after] if k.before not in group[k.after] else ():
            if k.before not in behind[mate]:
                links.setdefault((k.before, mate), Link(k.before, mate, k.lag))
    bundle = np.zeros((len(place), len(place)))
    for i, mates in group.items():
        bundle[place[i], [place[m] for m in mates]] = 1
    return bundle, list(links.values())


def _runs_of(firsts: Ints, counts: Ints) -> Ints:
    """The numbers from each of ``firsts`` on, as many as ``counts`` says, one run after the other."""
    ends = np.cumsum(counts)
    return np.arange(ends[-1] if len(ends) else 0) - np.repeat(ends - counts - firsts, counts)
