"""The search for a running order: a first one, a bound beside it, better ones by moving what is late, and CP-SAT where that is small enough."""

import heapq
from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np

from fondale.core.order.bound import Bounds
from fondale.core.order.place import Placed, Placer, setups_in
from fondale.core.order.tasks import Bench, Link, NoPlan, Schedule, Task, Window, ends_of
from fondale.core.progress import Progress, Quiet

if TYPE_CHECKING:
    from ortools.sat.python import cp_model

SEED = 1  # with one worker and limits that count work, not time, the same input gives the same plan
WHOLE = 40  # tasks up to which CP-SAT sees the whole; above, it takes long and finds little that moving does not
MEMORY = 25  # tries that a worse order is compared with
TRIES = 240  # orders tried for each unit of effort
Keys = Mapping[str, float]


def schedule(
    tasks: Sequence[Task],
    links: Sequence[Link],
    capacity: Mapping[str, int],
    windows: Sequence[Window] = (),
    horizon: int | None = None,
    hint: Mapping[str, int] | None = None,
    effort: float = 2.0,
    least: int = 0,
    progress: Progress | None = None,
    bench: Bench | None = None,
) -> Schedule:
    """The earliest finish by CP-SAT: durations, links, resources, windows, machines, tools.

    ``effort`` limits the search, in CP-SAT's deterministic seconds; ``least`` is a bound that is known. Raises NoPlan when nothing fits.
    """
    model = _Model(tasks, links, capacity, windows, horizon, bench or Bench())
    return model.earliest(hint, effort, least, progress or Quiet())


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
        left = most = round(TRIES * effort * (2 if len(self.order) > WHOLE else 1))  # CP-SAT has the other half
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

    def prove(self, effort: float, progress: Progress) -> None:
        """Let CP-SAT look at the whole, where it is small enough."""
        if self.proven or len(self.order) > WHOLE:
            return
        bench = self.placer.bench
        try:
            found = schedule(
                self.order, self.links, {"hands": 1}, self.windows, self.finish, self.best.starts, effort, self.bound, progress, bench
            )
        except NoPlan:
            return
        self._take(found)
        self.bound = max(self.bound, found.bound)

    def _take(self, found: Schedule) -> None:
        if found.finish < self.finish:
            self.best = Placed(found.starts, found.machines)

    def tidy(self, effort: float, progress: Progress) -> None:
        """The fewest set-ups of tools without losing the finish, then as near to the maker's own order as finish and set-ups allow."""
        finish = self.finish
        if len(self.order) <= WHOLE:
            model = _Model(self.order, self.links, {"hands": 1}, self.windows, finish, self.placer.bench)
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


class _Model:
    """The tasks as CP-SAT sees them."""

    def __init__(
        self, tasks: Sequence[Task], links: Sequence[Link], capacity: Mapping[str, int], windows: Sequence[Window], horizon: int | None, bench: Bench
    ) -> None:  # fmt: skip
        from ortools.sat.python import cp_model  # slow to load: only where an order is searched

        self.cp, self.tasks, self.windows, self.bench = cp_model, tasks, windows, bench
        latest = max((t.release for t in tasks), default=0)
        self.limit = horizon if horizon is not None else latest + sum(t.minutes + t.tail for t in tasks) + sum(k.lag for k in links)
        self.model = model = cp_model.CpModel()
        self.starts: dict[str, cp_model.IntVar] = {}
        self.taken: dict[str, dict[str, cp_model.IntVar]] = {}
        intervals = {}
        for t in tasks:
            self.starts[t.id] = self._start(t)
            intervals[t.id] = model.new_fixed_size_interval_var(self.starts[t.id], t.minutes, f"{t.id}.i")
        by_id = {t.id: t for t in tasks}
        for k in links:
            ends = self.starts[k.before] + by_id[k.before].minutes
            model.add(self.starts[k.after] >= ends + k.lag)
            if k.most is not None:
                model.add(self.starts[k.after] <= ends + k.most)
        self.out = self._tools()
        for name, size in capacity.items():
            users = [t for t in tasks if t.uses.get(name)]
            if size == 1:
                model.add_no_overlap([*(intervals[t.id] for t in users), *(i for _lit, both in self.out for i in both)])
            elif users:
                model.add_cumulative([intervals[t.id] for t in users], [t.uses[name] for t in users], size)
        self._machines(by_id)
        self._together()
        self.finish = model.new_int_var(0, self.limit + max((t.tail for t in tasks), default=0), "finish")
        for t in tasks:
            model.add(self.finish >= self.starts[t.id] + t.minutes + t.tail)

    def _start(self, task: Task) -> "cp_model.IntVar":
        if not task.windowed:
            return self.model.new_int_var(task.release, self.limit, task.id)
        latest = task.latest if task.latest is not None else self.limit
        starts_in = (
            (max(w[0], task.release), min(w[1] - task.minutes, latest)) for w in self.windows if w[0] <= self.limit and task.may_in(w)
        )
        spans = [[first, last] for first, last in starts_in if first <= last]
        if not spans:
            raise NoPlan(f"“{task.id}” takes {task.minutes} min and no evening is that long.")
        return self.model.new_int_var_from_domain(self.cp.Domain.from_intervals(spans), task.id)

    def _in(self, task: Task, window: Window, name: str) -> "cp_model.IntVar":
        """Whether a task lies in a window."""
        here = self.model.new_bool_var(f"{name}.{task.id}")
        inside = self.cp.Domain(window[0], window[1])
        self.model.add_linear_expression_in_domain(self.starts[task.id], inside).only_enforce_if(here)
        self.model.add_linear_expression_in_domain(self.starts[task.id], inside.complement()).only_enforce_if(~here)
        return here

    def _tools(self) -> "list[tuple[cp_model.IntVar, list[cp_model.IntervalVar]]]":
        """Whether a tool is out in a window, with its setting up before the first use and its cleaning after the last."""
        out = []
        for tool in sorted({t.setup for t in self.tasks if t.setup}):
            users = [t for t in self.tasks if t.setup == tool]
            bring, clean = self.bench.setups.get(tool, (0, 0))
            if len(users) < 2 and not bring + clean:
                continue
            for k, (a, b) in enumerate(w for w in self.windows if w[0] <= self.limit):
                lit = self.model.new_bool_var(f"{tool}.{k}")
                both = []
                mine = [(t, self._in(t, (a, b), f"{tool}.{k}")) for t in users]
                for _t, here in mine:
                    self.model.add_implication(here, lit)
                for size, before in ((bring, True), (clean, False)):
                    if not size or b - a < size:
                        continue
                    start = self.model.new_int_var(a, b - size, f"{tool}.{k}.{before}")
                    both.append(self.model.new_optional_fixed_size_interval_var(start, size, lit, f"{tool}.{k}.{before}.i"))
                    for t, here in mine:
                        if before:
                            self.model.add(start + size <= self.starts[t.id]).only_enforce_if(here)
                        else:
                            self.model.add(start >= self.starts[t.id] + t.minutes).only_enforce_if(here)
                out.append((lit, both))
        return out

    def _machines(self, by_id: Mapping[str, Task]) -> None:
        clearing = {t.clears: t for t in self.tasks if t.clears}
        taken: dict[str, list[cp_model.IntervalVar]] = {}
        for t in self.tasks:
            lits = {m: self.model.new_bool_var(f"{t.id}@{m}") for m in t.holds} if len(t.holds) > 1 else {}
            if lits:
                self.model.add_exactly_one(lits.values())
                self.taken[t.id] = lits
            last = clearing.get(t.id)
            for m in t.holds:
                size: int | cp_model.IntVar = t.minutes + t.held
                end: object = self.starts[t.id] + t.minutes + t.held
                if last is not None:
                    size, end = self.model.new_int_var(0, self.limit, f"{t.id}.for"), self.starts[last.id] + last.minutes
                one = (
                    self.model.new_optional_interval_var(self.starts[t.id], size, end, lits[m], f"{t.id}@{m}.i")
                    if lits
                    else self.model.new_interval_var(self.starts[t.id], size, end, f"{t.id}.held")
                )
                taken.setdefault(m, []).append(one)
        for m, intervals in taken.items():
            if m in self.bench.open_on:
                clear, size = by_id[self.bench.open_on[m]], self.model.new_int_var(0, self.limit, f"{m}.open")
                intervals.append(self.model.new_interval_var(0, size, self.starts[clear.id] + clear.minutes, f"{m}.open.i"))
            elif self.bench.free.get(m, 0) > 0:
                intervals.append(self.model.new_fixed_size_interval_var(0, self.bench.free[m], f"{m}.runs"))
            self.model.add_no_overlap(intervals)

    def _together(self) -> None:
        groups: dict[str, list[Task]] = {}
        for t in self.tasks:
            if t.together:
                groups.setdefault(t.together, []).append(t)
        for name, mates in groups.items():
            for k, w in enumerate(self.windows):
                if w[0] > self.limit:
                    break
                first, *rest = [self._in(t, w, f"{name}.{k}") for t in mates]
                for other in rest:
                    self.model.add(first == other)

    def _solver(self, effort: float) -> "cp_model.CpSolver":
        solver = self.cp.CpSolver()
        solver.parameters.num_workers = 1
        solver.parameters.random_seed = SEED
        solver.parameters.max_deterministic_time = effort
        return solver

    def _placed(self, solver: "cp_model.CpSolver") -> Placed:
        machines = {t.id: t.holds[0] for t in self.tasks if t.holds}
        machines |= {i: next(m for m, lit in lits.items() if solver.value(lit)) for i, lits in self.taken.items()}
        return Placed({t.id: solver.value(self.starts[t.id]) for t in self.tasks}, machines)

    def earliest(self, hint: Mapping[str, int] | None, effort: float, least: int, progress: Progress) -> Schedule:
        """The earliest finish. Raises NoPlan."""
        for name, value in (hint or {}).items():
            self.model.add_hint(self.starts[name], value)
        if least:
            self.model.add(self.finish >= least)
        solver = self._solver(effort)
        progress.step(0.6, "finding the earliest date")
        self.model.minimize(self.finish)
        status = solver.solve(self.model)
        if status not in (self.cp.OPTIMAL, self.cp.FEASIBLE):
            raise NoPlan("No order of these steps keeps all the rules.")
        placed = self._placed(solver)
        return Schedule(
            placed.starts, solver.value(self.finish), round(solver.best_objective_bound), status == self.cp.OPTIMAL, placed.machines
        )

    def fewest_setups(self, starts: Mapping[str, int], finish: int, effort: float) -> Placed | None:
        """The fewest set-ups of tools with that finish; None where none is found, or there is nothing to choose."""
        if not self.out:
            return None
        self.model.add(self.finish <= finish)
        for name, value in starts.items():
            self.model.add_hint(self.starts[name], value)
        self.model.minimize(sum(lit for lit, _both in self.out))
        solver = self._solver(effort)
        return self._placed(solver) if solver.solve(self.model) in (self.cp.OPTIMAL, self.cp.FEASIBLE) else None
