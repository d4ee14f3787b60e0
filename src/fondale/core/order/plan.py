"""From steps to a running order by evenings, with what dries, the finishing date and the odds."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from math import ceil

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.coats.conflicts import links
from fondale.core.coats.drying import wait_h
from fondale.core.diary.pace import pace
from fondale.core.how import How, Told, cite
from fondale.core.model import Brief, Project, Step
from fondale.core.order.engine import Link, NoPlan, Task, schedule
from fondale.core.order.evenings import Calendar, calendar_of
from fondale.core.progress import Progress, Quiet
from fondale.core.words import day_words, hours_words, percent

PART_MIN = 45
RUNS = 2000
SETUPS = ("airbrush", "spray can")


@dataclass(frozen=True)
class Item:
    """One piece of work in an evening. ``part`` of ``parts`` where a step is split."""

    step: str
    start: datetime
    minutes: int
    part: int
    parts: int


@dataclass(frozen=True)
class Evening:
    """One evening at the bench."""

    day: date
    minutes: int
    items: tuple[Item, ...]


@dataclass(frozen=True)
class Cord:
    """Something that dries: from the end of ``step`` until ``until``, when ``next_step`` may go on ("": ready)."""

    step: str
    start: datetime
    until: datetime
    next_step: str


@dataclass(frozen=True)
class Plan:
    """The running order. ``finish`` is when the last coat may be handled; ``chain`` are the steps that decide it."""

    evenings: tuple[Evening, ...]
    cords: tuple[Cord, ...]
    finish: datetime | None
    proven: bool
    earliest_bound: datetime | None
    odds: float | None
    deciding: tuple[str, ...]
    chain: tuple[str, ...]
    minutes_left: int
    pace: float
    trouble: str = ""


@dataclass(frozen=True)
class _Work:
    tasks: tuple[Task, ...]
    links: tuple[Link, ...]
    step_of: dict[str, Step]
    parts: dict[str, tuple[int, int]]


def _work(project: Project, rate: float) -> _Work:
    """Tasks and links of the steps that are left; long splittable steps become parts."""
    open_steps = [s for s in project.steps if not s.done]
    tasks, chain, step_of, parts = [], [], {}, {}
    first, last = {}, {}
    for step in open_steps:
        minutes = max(1, round(step.minutes[1] * rate))
        count = max(1, ceil(minutes / PART_MIN)) if step.splittable else 1
        sizes = [minutes // count + (1 if i < minutes % count else 0) for i in range(count)]
        names = [step.id if count == 1 else f"{step.id}~{i + 1}" for i in range(count)]
        tail = round(wait_h(step, "handle", project.brief) * 60)
        for i, (name, size) in enumerate(zip(names, sizes, strict=True)):
            end = i == count - 1
            setup = step.tool if step.tool in SETUPS else ""
            tasks.append(Task(name, size, {"hands": 1}, True, tail if end else 0, setup))
            step_of[name], parts[name] = step, (i + 1, count)
            if i:
                chain.append(Link(names[i - 1], name))
        first[step.id], last[step.id] = names[0], names[-1]
    by_id = {s.id: s for s in open_steps}
    for later, before in links(tuple(open_steps), keep_shut=True).items():
        for earlier in sorted(before):
            a, b = by_id[earlier], by_id[later]
            shared = set(a.surfaces) & (set(b.surfaces) | set(b.closes))
            lag = ceil(wait_h(a, b.dryness, project.brief) * 60) if shared or earlier in b.after else 0
            chain.append(Link(last[earlier], first[later], lag))
    return _Work(tuple(tasks), tuple(chain), step_of, parts)


def _in_order(work: _Work) -> list[int]:
    """Task indices in an order that keeps all links. Raises NoPlan for a circle."""
    index = {t.id: i for i, t in enumerate(work.tasks)}
    before: list[set[int]] = [set() for _ in work.tasks]
    for link in work.links:
        before[index[link.after]].add(index[link.before])
    done: set[int] = set()
    out: list[int] = []
    while len(out) < len(work.tasks):
        ready = next((i for i in range(len(work.tasks)) if i not in done and before[i] <= done), None)
        if ready is None:
            names = ", ".join(work.step_of[work.tasks[i].id].name for i in range(len(work.tasks)) if i not in done)
            raise NoPlan(f"These steps wait for each other in a circle: {names}.")
        done.add(ready)
        out.append(ready)
    return out


def replay(work: _Work, order: list[int], minutes: Floats, calendar: Calendar) -> tuple[Floats, Floats]:
    """Start and end (tasks, runs) when the tasks are done one after the other in ``order``.

    ``minutes`` (tasks, runs) are durations. Work that outgrows an evening goes on the next one; work that
    would fit a whole evening but not the rest of this one waits for the next.
    """
    opens, closes = calendar.arrays()
    # One evening beyond the last stands for "never": results there are past any date.
    opens, closes = np.append(opens, closes[-1] + 1e7), np.append(closes, closes[-1] + 2e7)
    index = {t.id: i for i, t in enumerate(work.tasks)}
    before: dict[int, list[tuple[int, int]]] = {i: [] for i in range(len(work.tasks))}
    for link in work.links:
        before[index[link.after]].append((index[link.before], link.lag))
    runs = minutes.shape[1]
    start, end = np.zeros_like(minutes), np.zeros_like(minutes)
    hands = np.zeros(runs)
    longest = float((closes - opens)[:-1].max())
    for i in order:
        ready = hands.copy()
        for j, lag in before[i]:
            np.maximum(ready, end[j] + lag, out=ready)
        left = minutes[i].copy()
        at = np.minimum(np.searchsorted(closes, ready, side="right"), len(opens) - 1)
        begin = np.maximum(ready, opens[at])
        whole = left <= longest
        for _ in range(len(opens)):
            poor = whole & (closes[at] - begin < left - 1e-9) & (at < len(opens) - 1)
            if not poor.any():
                break
            at = np.where(poor, at + 1, at)
            begin = np.where(poor, opens[at], begin)
        start[i] = begin
        finish = begin + left
        for _ in range(len(opens)):
            over = (finish > closes[at] + 1e-9) & (at < len(opens) - 1)
            if not over.any():
                break
            rest = finish - closes[at]
            at = np.where(over, at + 1, at)
            finish = np.where(over, opens[at] + rest, finish)
        end[i] = finish
        hands = np.maximum(hands, finish)
    return start, end


def _pert(project: Project, work: _Work, rate: float, runs: int) -> Floats:
    """Sampled minutes (tasks, runs) from the low, likely and high of each step (PERT beta, weight 4 [pert1959])."""
    rng = np.random.default_rng(5)
    out = np.empty((len(work.tasks), runs))
    for i, task in enumerate(work.tasks):
        step = work.step_of[task.id]
        low, likely, high = sorted(step.minutes)
        span = max(high - low, 1e-9)
        sample = low + span * rng.beta(1 + 4 * (likely - low) / span, 1 + 4 * (high - likely) / span, runs)
        out[i] = sample / max(likely, 1e-9) * task.minutes
    return out


def odds(project: Project, work: _Work, order: list[int], calendar: Calendar, rate: float) -> tuple[float | None, tuple[str, ...]]:
    """Share of sampled runs that make the deadline, and the steps that decide most: largest rank correlation."""
    deadline = project.brief.deadline
    if deadline is None or not work.tasks:
        return None, ()
    minutes = _pert(project, work, rate, RUNS)
    _start, end = replay(work, order, minutes, calendar)
    tails = np.array([t.tail for t in work.tasks])[:, None]
    finish = (end + tails).max(0)
    share = float((finish < calendar.minute_of(deadline)).mean())
    if float(finish.std()) < 1e-9:
        return share, ()
    moved = minutes - minutes.mean(1, keepdims=True)
    spread = moved.std(1)
    strength = np.abs(moved @ (finish - finish.mean())) / np.maximum(spread * finish.std() * RUNS, 1e-9)
    top = [i for i in np.argsort(-strength, kind="stable")[:6] if strength[i] > 0.05]
    return share, tuple(dict.fromkeys(work.step_of[work.tasks[i].id].id for i in top))[:3]


def make_plan(project: Project, today: date, effort: float = 2.0, progress: Progress | None = None) -> Plan:
    """The running order from ``today`` on. Trouble is told in the result, never raised."""
    progress = progress or Quiet()
    rate = pace(project)
    work = _work(project, rate)
    left = sum(t.minutes for t in work.tasks)
    calendar = calendar_of(project.brief, today)
    empty = Plan((), (), None, True, None, None, (), (), left, rate)
    if not work.tasks:
        return empty
    if not calendar.windows:
        return _troubled(empty, "No evening has minutes in it: give the week some on Brief.")
    try:
        order = _in_order(work)
        likely = np.array([[t.minutes] for t in work.tasks], float)
        greedy_start, greedy_end = replay(work, order, likely, calendar)
        tails = np.array([t.tail for t in work.tasks])
        longest = max(b - a for a, b in calendar.windows)
        big = next((t for t in work.tasks if t.minutes > longest), None)
        if big is not None:
            name = work.step_of[big.id].name
            return _troubled(
                empty, f"“{name}” takes {big.minutes} min and the longest evening has {longest}. Let it be split, or lengthen an evening."
            )
        if greedy_end.max() > calendar.windows[-1][1]:
            return _troubled(empty, "The work does not fit into two years of such evenings.")
        horizon = int((greedy_end[:, 0] + tails).max()) + 1
        hint = {t.id: int(greedy_start[i, 0]) for i, t in enumerate(work.tasks)}
        windows = [w for w in calendar.windows if w[0] <= horizon]
        found = schedule(work.tasks, work.links, {"hands": 1}, windows, horizon, hint, effort, True, progress)
    except NoPlan as error:
        return _troubled(empty, str(error))
    by_start = sorted(range(len(work.tasks)), key=lambda i: (found.starts[work.tasks[i].id], i))
    progress.step(0.9, "playing it through")
    share, deciding = odds(project, work, by_start, calendar, rate)
    return Plan(
        _evenings(work, found.starts, calendar),
        _cords(work, found.starts, calendar),
        calendar.when(found.finish),
        found.proven,
        calendar.when(found.bound),
        share,
        deciding,
        _chain(work, found.starts, found.finish),
        left,
        rate,
    )


def _troubled(plan: Plan, words: str) -> Plan:
    return Plan(**{**plan.__dict__, "trouble": words, "proven": False})


def _evenings(work: _Work, starts: dict[str, int], calendar: Calendar) -> tuple[Evening, ...]:
    out = []
    for a, b in calendar.windows:
        mine = sorted((t for t in work.tasks if a <= starts[t.id] < b), key=lambda t: starts[t.id])
        if mine:
            items = tuple(Item(work.step_of[t.id].id, calendar.when(starts[t.id]), t.minutes, *work.parts[t.id]) for t in mine)
            out.append(Evening(calendar.when(a).date(), b - a, items))
    return tuple(out)


def _cords(work: _Work, starts: dict[str, int], calendar: Calendar) -> tuple[Cord, ...]:
    """One cord a coat that somebody waits for: to the last step that waits for it."""
    minutes = {t.id: t.minutes for t in work.tasks}
    waits: dict[str, Link] = {}
    for link in work.links:
        if link.lag > 0 and (link.before not in waits or link.lag > waits[link.before].lag):
            waits[link.before] = link
    out = []
    for name, link in waits.items():
        end = starts[name] + minutes[name]
        out.append(Cord(work.step_of[name].id, calendar.when(end), calendar.when(end + link.lag), work.step_of[link.after].id))
    return tuple(sorted(out, key=lambda c: (c.start, c.step)))


def _chain(work: _Work, starts: dict[str, int], finish: int) -> tuple[str, ...]:
    """The steps that decide the date, last first: each waits for the next by drying, or for the hands."""
    tasks = {t.id: t for t in work.tasks}
    now = max(tasks.values(), key=lambda t: (starts[t.id] + t.minutes + t.tail, t.id))
    out = [work.step_of[now.id].id]
    while True:
        waits = [(starts[k.before] + tasks[k.before].minutes + k.lag, k.before) for k in work.links if k.after == now.id]
        hands = [(starts[t.id] + t.minutes, t.id) for t in tasks.values() if starts[t.id] + t.minutes <= starts[now.id] and t.id != now.id]
        both = waits + hands
        if not both or len(out) > len(tasks):
            break
        latest, name = max(both)
        # A gap of more than a day and a half with no cause is the calendar's doing.
        if starts[now.id] - latest > 36 * 60 and not waits:
            break
        now = tasks[name]
        if work.step_of[name].id != out[-1]:
            out.append(work.step_of[name].id)
    return tuple(out)


def date_told(plan: Plan | None, brief: Brief, today: date) -> Told:
    """The promise of the date."""
    if brief.deadline is None:
        return Told("no date yet", How("The date", "Set a date on Brief, and the odds of making it follow.", "", "Brief"))
    days = (brief.deadline - today).days
    text = f"opens {day_words(brief.deadline)}, {days} days" if days >= 0 else f"opened {day_words(brief.deadline)}"
    formula = "The running order places every step in the evenings of Brief, one pair of hands, drying at the bench’s temperature."
    said = ""
    if plan is not None and plan.finish is not None:
        proof = "proven to be the earliest" if plan.proven else "the earliest found, not proven"
        formula += f"\nReady on {day_words(plan.finish)}: {proof}."
        if plan.odds is not None:
            said = percent(plan.odds)
            text += f", odds {said}"
            formula += (
                f"\nOdds: the share of {RUNS} runs that are ready before the day, each step’s time drawn between its low and high:"
                f" {round(plan.odds * RUNS)} ÷ {RUNS}"
            )
    return Told(text, How("The date", formula, said, f"running order by CP-SAT; times by PERT, {cite('pert1959')}"))


def time_told(plan: Plan | None) -> Told:
    """The promise of the time left."""
    if plan is None:
        return Told("time: reckoning", How("Time left", "Still being worked out.", "", "Coats"))
    likely = hours_words(plan.minutes_left / plan.pace / 60)
    formula = f"likely minutes of all steps that are not done, {likely}, × your pace {plan.pace:.2f}"
    said = hours_words(plan.minutes_left / 60)
    return Told(f"{said} to go", How("Time left at the bench", formula, said, "Coats and Diary; each step is rounded to whole minutes"))


def ready_told(plan: Plan, names: Mapping[str, str]) -> Told | None:
    """When the last coat may be handled; ``names`` are the steps' by id. None where there is no order."""
    if plan.finish is None:
        return None
    proof = "proven earliest" if plan.proven else "earliest found"
    chain = ", ".join(names[c] for c in plan.chain[:4] if c in names)
    formula = (
        f"The last coat may be handled at {plan.finish:%H:%M} on the day; {proof}.\nWhat decides it, last first: {chain}.\nWork lies in your"
        " evenings, one pair of hands; drying runs day and night; then the fewest set-ups of airbrush and spray can."
    )
    said = day_words(plan.finish)
    return Told(f"ready {said} · {proof}", How("Ready", formula, said, "running order by CP-SAT"))
