# SPDX-License-Identifier: MIT
"""Tasks, links, evenings and machines as constraints for CP-SAT."""

from collections.abc import Collection, Mapping, Sequence
from typing import TYPE_CHECKING

from fondale.core.order.place import Placed
from fondale.core.order.tasks import Bench, Link, NoPlan, Schedule, Task, Window
from fondale.core.progress import Progress, Quiet

if TYPE_CHECKING:
    from ortools.sat.python import cp_model

SEED = 1  # with one worker and limits that count work, not time, the same input gives the same plan


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
    model = Exact(tasks, links, capacity, windows, horizon, bench or Bench())
    return model.earliest(hint, effort, least, progress or Quiet())


class Exact:
    """Tasks as CP-SAT sees them."""

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
        self.inside: dict[tuple[str, Window], cp_model.IntVar] = {}
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
        latest = task.latest if task.latest is not None else self.limit
        if not task.windowed:
            return self.model.new_int_var(task.release, latest, task.id)
        starts_in = (
            (max(w[0], task.release), min(w[1] - task.minutes, latest)) for w in self.windows if w[0] <= self.limit and task.may_in(w)
        )
        spans = [[first, last] for first, last in starts_in if first <= last]
        if not spans:
            raise NoPlan(f"“{task.id}” takes {task.minutes} min and no evening is that long.")
        return self.model.new_int_var_from_domain(self.cp.Domain.from_intervals(spans), task.id)

    def _in(self, task: Task, window: Window) -> "cp_model.IntVar":
        """Whether a task lies in a window."""
        if (task.id, window) in self.inside:
            return self.inside[task.id, window]
        here = self.inside[task.id, window] = self.model.new_bool_var(f"{task.id}.{window[0]}")
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
                mine = [(t, self._in(t, (a, b))) for t in users]
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
        for mates in groups.values():
            for w in self.windows:
                if w[0] > self.limit:
                    break
                first, *rest = [self._in(t, w) for t in mates]
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

    def packed(self, hint: Mapping[str, int], late: Collection[str], effort: float) -> tuple[Placed, float] | None:
        """As much work as early as it goes, that of ``late`` first; with the search spent on it. None where nothing better is found."""
        weights, hurry = [], max(b - a for a, b in self.windows)
        for t in self.tasks:
            self.model.add_hint(self.starts[t.id], hint[t.id])
        for k, (a, b) in enumerate(self.windows):
            here = [(t, self._in(t, (a, b))) for t in self.tasks if t.windowed and t.may_in((a, b))]
            self.model.add(sum(t.minutes * lit for t, lit in here) <= b - a)  # follows from the rest, but the search sees it sooner
            weights += [k * (t.minutes + hurry * (t.id in late)) * lit for t, lit in here]
        self.model.minimize(sum(weights))
        solver = self._solver(effort)
        solver.parameters.cp_model_probing_level = 0  # both cost more here than they find
        solver.parameters.symmetry_level = 0
        status = solver.solve(self.model)
        spent = solver.response_proto.deterministic_time
        return (self._placed(solver), spent) if status in (self.cp.OPTIMAL, self.cp.FEASIBLE) else None

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
