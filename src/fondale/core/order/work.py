# SPDX-License-Identifier: MIT
"""What is left to do, as tasks and links; and what steps that are done still hold up."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime, time, timedelta
from math import ceil, floor

from fondale.core.coats.drying import wait_h
from fondale.core.coats.links import chain_of, lag_h, links
from fondale.core.handwork import minutes_of
from fondale.core.model import MACHINES, STEPS, Brief, Machine, PrintFile, Project, Step
from fondale.core.model.coats import Estimate
from fondale.core.model.prints import Ordered
from fondale.core.order.evenings import DAY_MIN, Calendar, evening_on
from fondale.core.order.tasks import Bench, Link, Task
from fondale.core.order.ties import Tied, Unkept, unkept_of
from fondale.core.prints.jobs import success_of
from fondale.core.prints.printers import alike, machine_rows
from fondale.knowledge import table

PARTS_MIN = (25, 60)  # a part of a long step is no shorter and no longer than this: common practice, no source


@dataclass(frozen=True)
class Work:
    """``parts`` tells which part of how many a task is; ``dry`` is the minute by which all that is done may be handled.

    ``success`` is the chance that a print that a task starts comes out well, and ``lost`` the share of the run that a failed try costs.
    ``late`` are parcels on their way: what share of them comes late, and by how many minutes at most. ``estimates`` are the least, likely and most minutes of each step by its id. ``bench`` holds evenings, tools and machines; ``unkept`` the ties between steps that nothing can keep: they are left out.
    """

    tasks: tuple[Task, ...]
    links: tuple[Link, ...]
    step_of: dict[str, Step]
    parts: dict[str, tuple[int, int]]
    bench: Bench
    dry: int = 0
    success: Mapping[str, float] = field(default_factory=dict)
    lost: float = 0.0
    unkept: tuple[Unkept, ...] = ()
    estimates: Mapping[str, Estimate] = field(default_factory=dict)
    late: Mapping[str, tuple[float, float]] = field(default_factory=dict)


def moment_done(project: Project, step: Step) -> datetime | None:
    """When a step was done: its own moment, or the end of the evening of the page that tells of it; None where nobody knows."""
    if step.finished is not None:
        return step.finished
    day = max((p.day for p in project.pages if step.id in p.done), default=None)
    return datetime.combine(day, time()) + timedelta(minutes=evening_on(project.brief, day)[1]) if day is not None else None


def minutes_left(project: Project, step: Step, rate: float) -> int:
    """Minutes at the bench that a step still takes at the maker's pace: less what went into it already, and with the rinsing of its tool."""
    begun = sum(p.begun.get(step.id, 0.0) for p in project.pages)
    setup = project.brief.setups.get(step.tool)
    return max(1, round(minutes_of(project, step)[1] * rate - begun)) + (setup.rinse if setup is not None else 0)


def part_min(brief: Brief) -> int:
    """How long the parts of a long step are: so long that they fill the week's evenings best."""
    evenings = [m for m in brief.evenings if m > 0]
    low, high = PARTS_MIN
    waste = lambda size: sum(m % size for m in evenings) + 1.5 * sum(m // size for m in evenings)  # noqa: E731
    return min(range(low, high + 1), key=waste) if evenings and min(evenings) >= low else min([high, *evenings])


def machines_for(project: Project, step: Step) -> tuple[str, ...]:
    """The machines at hand that a step may run on: the chosen one, or every one of its row."""
    chosen = project.find(MACHINES, step.machine)
    if chosen is None:
        return ()
    others = alike(project, chosen) if step.any_machine else ()
    return (chosen.id, *(m.id for m in others))


def work_left(project: Project, rate: float, calendar: Calendar, leave: frozenset[Tied] = frozenset()) -> Work:
    """Tasks and links of the steps that are left; long splittable steps become parts. ``leave`` are ties that are not looked at.

    What is done is no task any more, but dries, cures and prints on from its moment: whoever waits for it is released then.
    """
    brief, chain = project.brief, chain_of(project)
    tasks: dict[str, Task] = {}
    out: list[Link] = []
    step_of, parts = {}, {}
    first, last = {}, {}
    dry = 0
    size = part_min(brief)
    for step in project.steps:
        tail = ceil(wait_h(step, "handle", brief) * 60)
        if step.done:
            moment = moment_done(project, step)
            dry = max(dry, calendar.minute_at(moment) + tail) if moment is not None else dry
            continue
        minutes = minutes_left(project, step, rate)
        count = max(1, ceil(minutes / size)) if step.splittable else 1
        sizes = [minutes // count + (1 if i < minutes % count else 0) for i in range(count)]
        names = [step.id if count == 1 else f"{step.id}~{i + 1}" for i in range(count)]
        barred = tuple((calendar.minute_of(d), calendar.minute_of(d) + DAY_MIN) for d in step.not_on)
        setup = step.tool if step.tool in brief.setups else ""
        for i, (name, part) in enumerate(zip(names, sizes, strict=True)):
            tasks[name] = Task(name, part, {"hands": 1}, True, tail if i == count - 1 else 0, setup, barred=barred)
            step_of[name], parts[name] = step, (i + 1, count)
            if i:
                out.append(Link(names[i - 1], name))
        first[step.id], last[step.id] = names[0], names[-1]
    by_id = {s.id: s for s in project.steps}
    bench = _machines(project, calendar, tasks, first, last)
    for later, before in links(project.steps, chain, keep_shut=True).items():
        if later not in first:
            continue
        for earlier in sorted(before):
            a, b = by_id[earlier], by_id[later]
            lag = ceil(lag_h(a, b, chain, brief) * 60)
            if earlier in last:
                out.append(Link(last[earlier], first[later], lag))
                continue
            moment = moment_done(project, a)
            if moment is not None:
                task = tasks[first[later]]
                tasks[task.id] = replace(task, release=max(task.release, calendar.minute_at(moment) + lag))
    unkept = unkept_of(project, chain, rate, calendar, moment_done)
    skip = leave | {u.tied for u in unkept}
    out = _tied(project, calendar, tasks, out, first, last, skip)
    estimates = {s.id: minutes_of(project, s) for s in step_of.values()}
    tries = table("machines")["tries"]
    rows, files = machine_rows(), {f.id: f for f in project.prints}
    prints = (by_id[i] for i in last if by_id[i].file in files)
    runs = (s for s in prints if (m := project.find(MACHINES, s.machine)) is not None and m.row in rows)
    success = {last[s.id]: success_of(project, files[s.file]) for s in runs}
    late = {
        last[i]: (o.late_share, o.late_days * float(DAY_MIN)) for i in last if by_id[i].duty == "order" and (o := _ordered(files, by_id[i]))
    }
    return Work(tuple(tasks.values()), tuple(out), step_of, parts, bench, dry, success, float(tries["lost"]), unkept, estimates, late)


def _ordered(files: Mapping[str, PrintFile], step: Step) -> Ordered | None:
    file = files.get(step.file)
    return file.ordered if file is not None and file.ordered is not None and file.ordered.late_days and step.wait_h else None


def _tied(
    project: Project, calendar: Calendar, tasks: dict[str, Task], out: list[Link], first: dict[str, str], last: dict[str, str], skip: frozenset[Tied]
) -> list[Link]:  # fmt: skip
    """The links with what the ties add to them; tasks tied together or to something that is done are told so."""
    most: dict[tuple[str, str], int] = {}
    groups: dict[str, set[str]] = {}
    for step in project.steps:
        for tie in step.ties:
            if (step.id, tie.step, tie.kind) in skip or step.id not in first or tie.kind == "not before":
                continue
            limit = 0 if tie.kind == "at once" else floor(tie.hours * 60)
            if tie.step in last and tie.kind == "together":
                group = {*groups.get(step.id, {step.id}), *groups.get(tie.step, {tie.step})}
                groups |= dict.fromkeys(group, group)
            elif tie.step in last:
                pair = last[tie.step], first[step.id]
                most[pair] = min(limit, most.get(pair, limit))
            else:
                before = project.find(STEPS, tie.step)
                moment = moment_done(project, before) if before is not None else None
                if moment is not None:
                    day = calendar.minute_of(moment.date()) + DAY_MIN - 1
                    latest = day if tie.kind == "together" else calendar.minute_at(moment) + limit
                    task = tasks[last[step.id] if tie.kind == "together" else first[step.id]]
                    tasks[task.id] = replace(task, latest=latest if task.latest is None else min(task.latest, latest))
    for ident, group in groups.items():
        for name in {first[ident], last[ident]}:
            tasks[name] = replace(tasks[name], together=min(group))
    kept: dict[tuple[str, str], Link] = {}
    for link in out:
        pair = link.before, link.after
        lag = max(link.lag, kept[pair].lag) if pair in kept else link.lag
        kept[pair] = Link(*pair, lag, most.get(pair))
    return list(kept.values())


def _machines(project: Project, calendar: Calendar, tasks: dict[str, Task], first: dict[str, str], last: dict[str, str]) -> Bench:
    """Steps that start a machine take it: a printer until the next step of their file has cleared it, others for their hours.

    What was started and still runs, or lies on its machine still, takes it too.
    """
    printers = machine_rows()
    free: dict[str, int] = {}
    open_on: dict[str, str] = {}
    for step in project.steps:
        machine: Machine | None = project.find(MACHINES, step.machine)
        if machine is None:
            continue
        after = [s for s in project.steps if step.file and s.file == step.file and step.id in s.after] if machine.row in printers else []
        clear = next((s.id for s in after if not s.done), None)
        held = ceil(step.wait_h * 60)
        if not step.done:
            if clear is not None:
                tasks[first[clear]] = replace(tasks[first[clear]], clears=last[step.id])
            tasks[last[step.id]] = replace(tasks[last[step.id]], holds=machines_for(project, step), held=held)
            continue
        moment = moment_done(project, step)
        if clear is not None:
            open_on[machine.id] = last[clear]
        elif moment is not None and not any(s.done for s in after):
            free[machine.id] = max(free.get(machine.id, 0), calendar.minute_at(moment) + held)
    setups = {tool: (s.out, s.clean) for tool, s in project.brief.setups.items()}
    return Bench(calendar.windows, setups, free, open_on)
