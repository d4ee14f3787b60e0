# SPDX-License-Identifier: MIT
"""The search for a running order: a first one, a bound beside it, better ones by moving what is late, and CP-SAT where that is small enough."""

import heapq
from collections.abc import Callable, Mapping, Sequence

import numpy as np

from fondale.core.order.bound import Bounds
from fondale.core.order.exact import SEED, Exact, schedule
from fondale.core.order.packing import repacked
from fondale.core.order.place import Placed, Placer, setups_in
from fondale.core.order.tasks import Bench, Link, NoPlan, Schedule, Task, ends_of
from fondale.core.progress import Progress

WHOLE = 40  # tasks up to which CP-SAT sees the whole at once; above, it takes long
LARGEST = 80  # up to which it sees the whole all the same where no step is in parts, after all else and for so many times as long
LONGER = 3.0
MEMORY = 25  # tries that a worse order is compared with
TRIES = 240  # orders tried for each unit of effort
FEW, ON = 4, 3  # evenings that are packed anew at once, and how far on the next ones are
PACKING = 0.05  # CP-SAT's effort for them
Keys = Mapping[str, float]


def in_order(tasks: Sequence[Task], links: Sequence[Link], key: Callable[[Task], float] | None = None) -> list[Task] | None:
    """The tasks in an order that keeps all links, the smallest key first among those that may come; None for a circle [kahn1962].

    Without a key as near to their own order as links allow.
    """
    missing = {t.id: 0 for t in tasks}
    after: dict[str, list[str]] = {t.id: [] for t in tasks}
    for link in links:
        missing[link.after] += 1
        after[link.before].append(link.after)
    by_id, at = {t.id: t for t in tasks}, {t.id: i for i, t in enumerate(tasks)}
    if key is None:
        key = lambda t: at[t.id]  # noqa: E731
    ready = [(key(t), at[t.id], t.id) for t in tasks if not missing[t.id]]
    heapq.heapify(ready)
    out: list[Task] = []
    while ready:
        _key, _at, ident = heapq.heappop(ready)
        out.append(by_id[ident])
        for later in after[ident]:
            missing[later] -= 1
            if not missing[later]:
                heapq.heappush(ready, (key(by_id[later]), at[later], later))
    return out if len(out) == len(tasks) else None


class Search:
    """One order that is looked for, step by step: what is best so far, and how much earlier it could be at best."""

    def __init__(self, order: Sequence[Task], links: Sequence[Link], bench: Bench) -> None:
        """``order`` is the maker's own, and keeps all links. Raises NoPlan where the tasks do not go into the evenings at all."""
        self.order, self.links = tuple(order), tuple(links)
        self.placer = Placer(order, links, bench)
        self.rank = {t.id: i for i, t in enumerate(order)}
        found = self.placer.place(order)
        if found is None:
            raise NoPlan("Nothing fits.")
        self.best, self.keys = found, {t.id: float(i) for t, i in zip(order, range(len(order)), strict=True)}
        self.windows = [w for w in bench.windows if w[0] <= self.finish]
        self.bounds = Bounds(order, links, Bench(self.windows, bench.setups))
        tails = self.bounds.tails(self.finish)
        work: dict[str, float] = {}
        for t in reversed(order):
            work[t.id] = t.minutes + max((work[k.after] for k in self.placer.after[t.id]), default=0.0)
        for keys in (
            {i: -v for i, v in tails.items()},
            {t.id: -(tails[t.id] + t.minutes) for t in order},
            {i: -v for i, v in work.items()},
        ):
            self._try(keys)
        self._back_and_forth()
        self.bound = self.bounds.finish(self.finish)

    @property
    def finish(self) -> int:
        """The finish of the best order so far."""
        return ends_of(self.order, self.best.starts)

    @property
    def proven(self) -> bool:
        """Whether nothing can be earlier."""
        return self.finish <= self.bound

    @property
    def to_the_evening(self) -> bool:
        """Whether nothing can be an evening earlier."""
        return not any(self.bound < a <= self.finish for a, _b in self.windows)

    def _place(self, keys: Keys) -> Placed | None:
        order = in_order(self.order, self.links, lambda t: keys[t.id])
        return self.placer.place(order) if order is not None else None

    def _try(self, keys: Mapping[str, float]) -> None:
        found = self._place(keys)
        if found is not None and ends_of(self.order, found.starts) < self.finish:
            self.best, self.keys = found, dict(keys)

    def _back_and_forth(self) -> None:
        """As late as it goes from the finish back, then as early as it goes in that order, while that helps [li1992].

        Going back looks at hands, evenings, links and tools; going forth keeps every rule.
        """
        tasks = [Task(t.id, t.minutes, setup=t.setup, release=t.tail) for t in self.order]
        links = [Link(k.after, k.before, k.lag) for k in self.links]
        setups = {tool: (clean, out) for tool, (out, clean) in self.placer.bench.setups.items()}
        while True:
            finish, starts = self.finish, self.best.starts
            mirror = [(finish - b, finish - a) for a, b in reversed(self.placer.bench.windows) if a < finish]
            order = sorted(tasks, key=lambda t: -(starts[t.id] + t.minutes))
            back = Placer(tasks, links, Bench(mirror, setups)).place(order)
            if back is None:
                return
            self._try({t.id: float(finish - back.starts[t.id] - t.minutes) for t in tasks})
            if self.finish >= finish:
                return

    def improve(self, effort: float, progress: Progress) -> None:
        """Move what ends after its due minute forward, aiming at one minute less than the best, until the bound or the effort is reached.

        Worse orders are taken while they are better than one some tries ago (late acceptance [burke2017]).
        """
        rng = np.random.default_rng(SEED)
        left = most = round(TRIES * effort * (0.5 if len(self.order) > WHOLE else 1))  # CP-SAT has the rest
        while left > 0 and not self.proven:
            due = self.bounds.due(self.finish - 1)
            now, keys = self.best, {t.id: float(self.best.starts[t.id]) for t in self.order}
            cost = self._late(now, due)
            memory, k = [cost] * MEMORY, 0
            while left > 0 and cost > 0:
                left -= 1
                progress.step(0.2 + 0.4 * (1 - left / most), "finding the earliest date")
                trial = self._moved(keys, now, due, rng)
                found = self._place(trial)
                if found is None:
                    continue
                new = self._late(found, due)
                if new <= max(cost, memory[k % MEMORY]):
                    now, cost = found, new
                    keys = {t.id: float(found.starts[t.id]) for t in self.order}
                memory[k % MEMORY] = cost
                k += 1
            if ends_of(self.order, now.starts) < self.finish:
                self.best = now
            elif cost <= 0:
                return

    def _late(self, placed: Placed, due: Mapping[str, float]) -> float:
        """Minutes by which everything together is too late."""
        return sum(max(0.0, placed.starts[t.id] + t.minutes - due[t.id]) for t in self.order)

    def _moved(self, keys: Keys, now: Placed, due: Mapping[str, float], rng: np.random.Generator) -> dict[str, float]:
        """The keys with a task that is late, or one that it waits for, put before another that can wait longer."""
        starts = now.starts
        slack = {t.id: due[t.id] - starts[t.id] - t.minutes for t in self.order}
        late = [t for t in self.order if slack[t.id] < 0]
        task = late[int(rng.integers(len(late)))] if late else self.order[int(rng.integers(len(self.order)))]
        while self.placer.before[task.id] and rng.random() < 0.5:
            ends = ((starts[k.before] + self.placer.by_id[k.before].minutes + k.lag, k.before) for k in self.placer.before[task.id])
            task = self.placer.by_id[max(ends)[1]]
        others = [
            t
            for t in self.order
            if self.bounds.heads[task.id] - t.minutes < starts[t.id] < starts[task.id] and slack[t.id] > slack[task.id]
        ]
        if not others or rng.random() < 0.1:
            others = [t for t in self.order if t is not task]
        other = others[int(rng.integers(len(others)))] if others else task
        out = dict(keys)
        if rng.random() < 0.3:
            out[task.id], out[other.id] = keys[other.id], keys[task.id]
        else:
            out[task.id] = keys[other.id] - 0.5
        return out

    def repack(self, effort: float, progress: Progress) -> None:
        """Pack a few evenings after the other anew, and again from the first on, where there is too much for CP-SAT to see it whole.

        Evenings that are filled to the minute win the most; what is proven to the evening stays.
        """
        if len(self.order) <= WHOLE:
            return
        left, turn, idle = effort, 0, 0
        while left > 0 and idle < ON and not self.to_the_evening:
            due = self.bounds.due(max(a for a, _b in self.windows if a <= self.finish) - 1)
            was = self.best.starts
            for k in range(turn % ON, len(self.windows), ON):
                progress.step(0.4 + 0.3 * (1 - left / effort), "filling the evenings")
                self.best, spent = repacked(self.order, self.links, self.placer.bench, self.best, self.windows[k : k + FEW], due, PACKING)
                left -= spent
                if left <= 0:
                    break
            idle = idle + 1 if self.best.starts == was else 0
            turn += 1

    def prove(self, effort: float, progress: Progress) -> None:
        """Let CP-SAT look at the whole, where it is small enough."""
        small = len(self.order) <= WHOLE
        if self.proven or not (small or (len(self.order) <= LARGEST and not self._split)):
            return
        effort *= 1.0 if small else LONGER
        bench = self.placer.bench
        try:
            found = schedule(
                self.order, self.links, {"hands": 1}, self.windows, self.finish, self.best.starts, effort, self.bound, progress, bench
            )
        except NoPlan:
            return
        self._take(found)
        self.bound = max(self.bound, found.bound)

    @property
    def _split(self) -> bool:
        """Whether long steps are in parts: these fill the evenings without CP-SAT."""
        return any("~" in t.id for t in self.order)

    def _take(self, found: Schedule) -> None:
        if found.finish < self.finish:
            self.best = Placed(found.starts, found.machines)

    def tidy(self, effort: float, progress: Progress) -> None:
        """The fewest set-ups of tools without losing the finish, then as near to the maker's own order as finish and set-ups allow."""
        finish = self.finish
        if len(self.order) <= WHOLE:
            model = Exact(self.order, self.links, {"hands": 1}, self.windows, finish, self.placer.bench)
            progress.step(0.7, "tidying the evenings")
            found = model.fewest_setups(self.best.starts, finish, effort)
            if found is not None:
                self.best = found
        self._settle(finish, progress)

    def _settle(self, finish: int, progress: Progress) -> None:
        """Each task in turn moves up before the first one that the maker wants later, where the finish and the set-ups bear it."""
        order = sorted(self.order, key=lambda t: (self.best.starts[t.id], self.rank[t.id]))
        pulled = self._held(order, finish)
        if pulled is None:
            return
        best = pulled
        order.sort(key=lambda t: (best.starts[t.id], self.rank[t.id]))
        most = setups_in(self.order, self.windows, best.starts)
        for task in self.order:
            now = order.index(task)
            first = max((k + 1 for k in range(now) if any(x.before == order[k].id for x in self.placer.before[task.id])), default=0)
            to = next((k for k in range(first, now) if self.rank[order[k].id] > self.rank[task.id]), now)
            if to == now:
                continue
            progress.step(0.8, "tidying the evenings")
            trial = [*order[:to], task, *order[to:now], *order[now + 1 :]]
            placed = self._held(trial, finish, best.starts)
            if placed is not None and setups_in(self.order, self.windows, placed.starts) <= most:
                order, best = trial, placed
        self.best = best

    def _held(self, order: Sequence[Task], finish: int, tools_in: Mapping[str, int] | None = None) -> Placed | None:
        """The order placed anew, where it keeps the finish and brings no tool out more often."""
        was = self.best.starts
        placed = self.placer.place(order, tools_in or was)
        if placed is None or ends_of(self.order, placed.starts) > finish:
            return None
        fewer = setups_in(self.order, self.windows, placed.starts) <= setups_in(self.order, self.windows, was)
        return placed if fewer else None
