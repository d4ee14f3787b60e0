"""What is left to do, as tasks and links; and what steps that are done still hold up."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime, time, timedelta
from math import ceil

from fondale.core.coats.conflicts import links, made_first
from fondale.core.coats.drying import wait_h
from fondale.core.model import Project, Step
from fondale.core.order.engine import Link, Task
from fondale.core.order.evenings import Calendar, evening_on
from fondale.knowledge import table

PART_MIN = 45
SETUPS = ("airbrush", "spray can")


@dataclass(frozen=True)
class Work:
    """``parts`` tells which part of how many a task is; ``dry`` is the minute by which all that is done may be handled.

    ``success`` is the chance that a print that a task starts comes out well, and ``lost`` the share of the run that a failed try costs.
    """

    tasks: tuple[Task, ...]
    links: tuple[Link, ...]
    step_of: dict[str, Step]
    parts: dict[str, tuple[int, int]]
    dry: int = 0
    success: Mapping[str, float] = field(default_factory=dict)
    lost: float = 0.0


def moment_done(project: Project, step: Step) -> datetime | None:
    """When a step was done: its own moment, or the end of the evening of the page that tells of it; None where nobody knows."""
    if step.finished is not None:
        return step.finished
    day = max((p.day for p in project.pages if step.id in p.done), default=None)
    return datetime.combine(day, time()) + timedelta(minutes=evening_on(project.brief, day)[1]) if day is not None else None


def work_left(project: Project, rate: float, calendar: Calendar) -> Work:
    """Tasks and links of the steps that are left; long splittable steps become parts.

    What is done is no task any more, but dries, cures and prints on from its moment: whoever waits for it is released then.
    """
    brief = project.brief
    tasks: dict[str, Task] = {}
    chain, step_of, parts = [], {}, {}
    first, last = {}, {}
    dry = 0
    for step in project.steps:
        tail = ceil(wait_h(step, "handle", brief) * 60)
        if step.done:
            moment = moment_done(project, step)
            dry = max(dry, calendar.minute_at(moment) + tail) if moment is not None else dry
            continue
        minutes = max(1, round(step.minutes[1] * rate))
        count = max(1, ceil(minutes / PART_MIN)) if step.splittable else 1
        sizes = [minutes // count + (1 if i < minutes % count else 0) for i in range(count)]
        names = [step.id if count == 1 else f"{step.id}~{i + 1}" for i in range(count)]
        for i, (name, size) in enumerate(zip(names, sizes, strict=True)):
            setup = step.tool if step.tool in SETUPS else ""
            tasks[name] = Task(name, size, {"hands": 1}, True, tail if i == count - 1 else 0, setup)
            step_of[name], parts[name] = step, (i + 1, count)
            if i:
                chain.append(Link(names[i - 1], name))
        first[step.id], last[step.id] = names[0], names[-1]
    by_id = {s.id: s for s in project.steps}
    _machines(project, calendar, tasks, chain, first, last)
    made = made_first(project)
    for later, before in links(project.steps, keep_shut=True, made=made).items():
        if later not in first:
            continue
        for earlier in sorted(before):
            a, b = by_id[earlier], by_id[later]
            waits = set(a.surfaces) & (set(b.surfaces) | set(b.closes)) or earlier in b.after or earlier in made[later]
            lag = ceil(wait_h(a, b.dryness, brief) * 60) if waits else 0
            if earlier in last:
                chain.append(Link(last[earlier], first[later], lag))
                continue
            moment = moment_done(project, a)
            if moment is not None:
                task = tasks[first[later]]
                tasks[task.id] = replace(task, release=max(task.release, calendar.minute_at(moment) + lag))
    tries = table("machines")["tries"]
    files = {f.id: f for f in project.prints}
    success = {last[i]: float(tries[files[s.file].difficulty]) for i in last if (s := by_id[i]).machine and s.file in files}
    return Work(tuple(tasks.values()), tuple(chain), step_of, parts, dry, success, float(tries["lost"]))


def _machines(
    project: Project, calendar: Calendar, tasks: dict[str, Task], chain: list[Link], first: dict[str, str], last: dict[str, str]
) -> None:
    """Steps that start a machine take it until the next step of their file has cleared it; so does what was started and still runs."""
    for step in project.steps:
        if not step.machine:
            continue
        clear = next((s.id for s in project.steps if not s.done and step.file and s.file == step.file and step.id in s.after), None)
        held = ceil(step.wait_h * 60)
        if clear is not None and not step.done:
            tasks[first[clear]] = replace(tasks[first[clear]], clears=last[step.id])
        if not step.done:
            tasks[last[step.id]] = replace(tasks[last[step.id]], holds=step.machine, held=held)
            continue
        moment = moment_done(project, step)
        for other in project.steps:
            if other.done or other.machine != step.machine:
                continue
            if clear is not None:
                chain.append(Link(last[clear], first[other.id]))
            elif moment is not None and not any(s.done and step.id in s.after for s in project.steps):
                name = first[other.id]
                tasks[name] = replace(tasks[name], release=max(tasks[name].release, calendar.minute_at(moment) + held))
