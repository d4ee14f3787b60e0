"""Resource-constrained scheduling by CP-SAT: durations, precedences with lags, resources, windows of time."""

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from fondale.core.progress import Progress, Quiet
from fondale.core.troubles import Trouble

if TYPE_CHECKING:
    from ortools.sat.python import cp_model

SEED = 1  # with one worker and a deterministic limit, the same input gives the same plan


class NoPlan(Trouble):
    """No order keeps all the rules; the text says which."""


@dataclass(frozen=True)
class Task:
    """``minutes`` of work; ``uses`` amounts of resources; ``windowed`` tasks lie wholly inside one window.

    ``tail`` minutes pass after the work until the task counts as finished. ``setup`` names a tool that has to
    be brought out in a window. It starts at minute ``release`` at the earliest.
    A task that ``holds`` a machine takes it from its start on: until the task that ``clears`` it is done, or else for ``held`` minutes
    after it.
    """

    id: str
    minutes: int
    uses: Mapping[str, int] = field(default_factory=dict)
    windowed: bool = False
    tail: int = 0
    setup: str = ""
    release: int = 0
    holds: str = ""
    held: int = 0
    clears: str = ""


@dataclass(frozen=True)
class Link:
    """``after`` starts at least ``lag`` minutes after ``before`` ends."""

    before: str
    after: str
    lag: int = 0


@dataclass(frozen=True)
class Schedule:
    """Start minute of each task, the finish, the lower bound of the finish, and whether the finish is proven best."""

    starts: dict[str, int]
    finish: int
    bound: int
    proven: bool


def schedule(
    tasks: Sequence[Task],
    links: Sequence[Link],
    capacity: Mapping[str, int],
    windows: Sequence[tuple[int, int]] = (),
    horizon: int | None = None,
    hint: Mapping[str, int] | None = None,
    effort: float = 2.0,
    tidy: bool = False,
    progress: Progress | None = None,
) -> Schedule:
    """The earliest finish; with ``tidy`` then the fewest tool set-ups, then the maker's own order, all as early as it goes.

    ``effort`` limits the search, in CP-SAT's deterministic seconds. Raises NoPlan when nothing fits.
    """
    from ortools.sat.python import cp_model  # slow to load: only where an order is searched

    progress = progress or Quiet()
    latest = max((t.release for t in tasks), default=0)
    limit = horizon if horizon is not None else latest + sum(t.minutes + t.tail for t in tasks) + sum(k.lag for k in links)
    model = cp_model.CpModel()
    starts: dict[str, cp_model.IntVar] = {}
    intervals, tails = {}, []
    for task in tasks:
        if task.windowed:
            starts_in = ((max(a, task.release), b - task.minutes) for a, b in windows if a <= limit)
            spans = [[first, last] for first, last in starts_in if first <= last]
            if not spans:
                raise NoPlan(f"“{task.id}” takes {task.minutes} min and no evening is that long.")
            var = model.new_int_var_from_domain(cp_model.Domain.from_intervals(spans), task.id)
        else:
            var = model.new_int_var(task.release, limit, task.id)
        starts[task.id] = var
        intervals[task.id] = model.new_fixed_size_interval_var(var, task.minutes, f"{task.id}.i")
        tails.append(var + task.minutes + task.tail)
    for link in links:
        before = next(t for t in tasks if t.id == link.before)
        model.add(starts[link.after] >= starts[link.before] + before.minutes + link.lag)
    for name, size in capacity.items():
        users = [t for t in tasks if t.uses.get(name)]
        if size == 1:
            model.add_no_overlap([intervals[t.id] for t in users])
        elif users:
            model.add_cumulative([intervals[t.id] for t in users], [t.uses[name] for t in users], size)
    clearing = {t.clears: t for t in tasks if t.clears}
    for machine in sorted({t.holds for t in tasks if t.holds}):
        taken = []
        for t in tasks:
            if t.holds != machine:
                continue
            last = clearing.get(t.id)
            if last is None:
                taken.append(model.new_fixed_size_interval_var(starts[t.id], t.minutes + t.held, f"{t.id}.held"))
            else:
                size = model.new_int_var(0, limit, f"{t.id}.for")
                taken.append(model.new_interval_var(starts[t.id], size, starts[last.id] + last.minutes, f"{t.id}.held"))
        model.add_no_overlap(taken)
    finish = model.new_int_var(0, limit + max((t.tail for t in tasks), default=0), "finish")
    for tail in tails:
        model.add(finish >= tail)
    for name, value in (hint or {}).items():
        model.add_hint(starts[name], value)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = SEED
    solver.parameters.max_deterministic_time = effort
    progress.step(0.2, "finding the earliest date")
    model.minimize(finish)
    status = solver.solve(model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        raise NoPlan("No order of these steps keeps all the rules.")
    best, bound, proven = solver.value(finish), round(solver.best_objective_bound), status == cp_model.OPTIMAL
    values = {t.id: solver.value(starts[t.id]) for t in tasks}
    if tidy and tasks:
        model.add(finish <= best)
        progress.step(0.6, "tidying the evenings")
        solver.parameters.max_deterministic_time = effort / 8
        values = _tidy(model, solver, tasks, starts, windows, values, best)
        values = settle_order(tasks, links, windows, values, best)
    return Schedule(values, best, bound, proven)


def _tidy(
    model: "cp_model.CpModel",
    solver: "cp_model.CpSolver",
    tasks: Sequence[Task],
    starts: Mapping[str, "cp_model.IntVar"],
    windows: Sequence[tuple[int, int]],
    values: dict[str, int],
    best: int,
) -> dict[str, int]:
    """Fewest set-ups of tools without losing the finish; the given plan where none is found."""
    from ortools.sat.python import cp_model

    used = []
    for tool in sorted({t.setup for t in tasks if t.setup}):
        users = [t for t in tasks if t.setup == tool]
        if len(users) < 2:
            continue
        for k, (a, b) in enumerate(windows):
            if a > best:
                break
            out = model.new_bool_var(f"{tool}.{k}")
            used.append(out)
            for t in users:
                here = model.new_bool_var(f"{tool}.{k}.{t.id}")
                model.add_linear_expression_in_domain(starts[t.id], cp_model.Domain(a, b)).only_enforce_if(here)
                outside = cp_model.Domain(a, b).complement()
                model.add_linear_expression_in_domain(starts[t.id], outside).only_enforce_if(~here)
                model.add_implication(here, out)
    if not used:
        return values
    model.clear_hints()
    for name, value in values.items():
        model.add_hint(starts[name], value)
    model.minimize(sum(used))
    if solver.solve(model) not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return values
    return {t.id: solver.value(starts[t.id]) for t in tasks}


def settle_order(
    tasks: Sequence[Task], links: Sequence[Link], windows: Sequence[tuple[int, int]], starts: Mapping[str, int], finish: int
) -> dict[str, int]:
    """The plan nearer to the maker's own order, that of ``tasks``, as early as it goes, without losing finish or set-ups.

    Each task in turn moves up before the first one that the maker wants later, where the finish and the set-ups bear it.
    """
    index = {t.id: i for i, t in enumerate(tasks)}
    waits: dict[str, set[str]] = {}
    for link in links:
        waits.setdefault(link.after, set()).add(link.before)
    best = pull_forward(tasks, links, windows, starts)
    order = sorted(tasks, key=lambda t: (best[t.id], t.id))
    most = _setups(tasks, windows, best)
    for task in tasks:
        now = order.index(task)
        first = max((k + 1 for k, other in enumerate(order) if other.id in waits.get(task.id, ())), default=0)
        to = next((k for k in range(first, now) if index[order[k].id] > index[task.id]), now)
        if to == now:
            continue
        trial = [*order[:to], task, *order[to:now], *order[now + 1 :]]
        placed = _place(trial, links, windows, best, rescue=False)
        if placed is None or any(placed[t.id] + t.minutes + t.tail > finish for t in tasks):
            continue
        if _setups(tasks, windows, placed) <= most:
            order, best = trial, placed
    return best


def _setups(tasks: Sequence[Task], windows: Sequence[tuple[int, int]], starts: Mapping[str, int]) -> int:
    """How often a tool is brought out."""
    opens = [a for a, _b in windows]
    return len({(t.setup, bisect_right(opens, starts[t.id])) for t in tasks if t.setup})


def in_turn(order: Sequence[Task], links: Sequence[Link], windows: Sequence[tuple[int, int]]) -> dict[str, int] | None:
    """Starts when each task of ``order`` (each after all it waits for) takes the first gap that it finds; None where the windows end."""
    return _place(order, links, windows, dict.fromkeys((t.id for t in order), -1), rescue=False)


def pull_forward(
    tasks: Sequence[Task], links: Sequence[Link], windows: Sequence[tuple[int, int]], starts: Mapping[str, int]
) -> dict[str, int]:
    """Every task as early as it goes, in the given order of starts, with one pair of hands; nothing gets later."""
    order = sorted(tasks, key=lambda t: (starts[t.id], t.id))
    return _place(order, links, windows, starts, rescue=True) or dict(starts)


def _place(
    order: Sequence[Task], links: Sequence[Link], windows: Sequence[tuple[int, int]], starts: Mapping[str, int], rescue: bool
) -> dict[str, int] | None:
    """Each task in turn at the first gap that is free, in one window and late enough.

    Work with a tool that has to be brought out looks first in the evenings in which ``starts`` has the tool out.
    Where nothing fits, ``rescue`` takes the task's own start; else the answer is None.
    """
    by_id = {t.id: t for t in order}
    before: dict[str, list[Link]] = {}
    for link in links:
        before.setdefault(link.after, []).append(link)
    out_in = {
        tool: [w for w in windows if any(t.setup == tool and w[0] <= starts[t.id] < w[1] for t in order)]
        for tool in {t.setup for t in order if t.setup}
    }
    clearing = {t.clears: t for t in order if t.clears}
    done: dict[str, int] = {}
    busy: list[tuple[int, int]] = []
    free: dict[str, int] = {}  # when a machine is free again
    open_on: dict[str, Task] = {}  # what has to be cleared off a machine first
    underway: set[str] = set()

    def put(task: Task) -> bool:
        nonlocal busy
        if task.id in done:
            return True
        waiting = open_on.get(task.holds) if task.holds else None
        if task.id in underway:  # a machine that is cleared only after what it is to do next: not in this order
            return False
        underway.add(task.id)
        if waiting is not None and not _first(waiting):
            return False
        ready = max((done[k.before] + by_id[k.before].minutes + k.lag for k in before.get(task.id, ())), default=0)
        ready = max(ready, task.release, free.get(task.holds, 0))
        for a, b in [*out_in.get(task.setup, ()), *windows]:
            at = max(a, ready)
            for x, y in busy:
                if x < at + task.minutes and at < y:
                    at = y
            if at + task.minutes <= b:
                break
        else:
            if not rescue:
                return False
            at = starts[task.id]
        done[task.id] = at
        busy = sorted([*busy, (at, at + task.minutes)])
        if task.holds and task.id in clearing:
            open_on[task.holds] = clearing[task.id]
        elif task.holds:
            free[task.holds] = at + task.minutes + task.held
        if task.clears in by_id:
            machine = by_id[task.clears].holds
            free[machine] = at + task.minutes
            open_on.pop(machine, None)
        return True

    def _first(task: Task) -> bool:
        """Put a task after all that it waits for."""
        return all(_first(by_id[k.before]) for k in before.get(task.id, ()) if k.before not in done) and put(task)

    return done if all(put(task) for task in order) else None
