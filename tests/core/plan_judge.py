"""A judge of running orders that knows only the rules of the bench, and nothing of the planner."""

from datetime import date, datetime, timedelta
from itertools import pairwise

from fondale.core.model import Project, Step
from fondale.core.order.plan import Plan
from fondale.knowledge import table

MINUTE = timedelta(minutes=1)


def hours_until(step: Step, dryness: str, project: Project) -> float:
    """Hours from the end of a step until its coat is so dry: table at 20 degrees and 50 %, doubled for every 10 degrees less."""
    rows, damp = table("coats")["coat"], table("coats")["humidity"]
    if step.coat not in rows:
        return step.wait_h
    hours = rows[step.coat]["dry_h"][("touch", "next", "handle").index(dryness)] * 2 ** ((20 - project.brief.bench_c) / 10)
    if rows[step.coat]["humidity"]:
        known = list(zip(damp["rh"], damp["factor"], strict=True))
        air = min(max(project.brief.bench_rh, known[0][0]), known[-1][0])
        (x0, y0), (x1, y1) = next((a, b) for a, b in pairwise(known) if air <= b[0])
        hours *= y0 + (y1 - y0) * (air - x0) / (x1 - x0)
    return max(hours, step.wait_h)


def evening(project: Project, day: date, today: date) -> tuple[datetime, datetime]:
    """From when to when a maker is at the bench on a day."""
    brief = project.brief
    minutes = 0 if day in brief.days_off or day < max(today, brief.start) else brief.evenings[day.weekday()]
    opens = datetime.combine(day, datetime.min.time()) + min(brief.evening_from, 24 * 60 - minutes) * MINUTE
    spent = sum(p.minutes for p in project.pages if p.day == day == today)
    return min(opens + spent * MINUTE, opens + minutes * MINUTE), opens + minutes * MINUTE


def finished(project: Project, step: Step) -> datetime | None:
    """When a step that is done was done, where anybody knows."""
    if step.finished is not None:
        return step.finished
    days = [p.day for p in project.pages if step.id in p.done]
    if not days:
        return None
    day = max(days)
    minutes = project.brief.evenings[day.weekday()]
    return datetime.combine(day, datetime.min.time()) + min(project.brief.evening_from + minutes, 24 * 60) * MINUTE


def faults(project: Project, plan: Plan, today: date) -> list[str]:
    """Every rule that a plan breaks, in words; nothing for a good one."""
    out: list[str] = []
    items = sorted(((i.start, i.start + i.minutes * MINUTE, i) for e in plan.evenings for i in e.items), key=lambda t: t[0])
    begins: dict[str, datetime] = {}
    ends: dict[str, datetime] = {}
    minutes: dict[str, int] = {}
    for start, end, item in items:
        begins.setdefault(item.step, start)
        ends[item.step] = max(end, ends.get(item.step, end))
        minutes[item.step] = minutes.get(item.step, 0) + item.minutes
        opens, closes = evening(project, start.date(), today)
        if not opens <= start <= end <= closes:
            out.append(f"{item.step} lies outside the evening")
    out += [f"two things at once: {a[2].step} and {b[2].step}" for a, b in pairwise(items) if b[0] < a[1]]
    for step in project.steps:
        if step.done:
            if step.id in begins:
                out.append(f"{step.id} is done and planned again")
        elif step.id not in begins:
            out.append(f"{step.id} is not planned")
        elif minutes[step.id] != max(1, round(step.minutes[1] * plan.pace)):
            out.append(f"{step.id} has {minutes[step.id]} minutes")
        elif not step.splittable and sum(i.step == step.id for _s, _e, i in items) > 1:
            out.append(f"{step.id} is split")
    for k, later in enumerate(project.steps):
        if later.done:
            continue
        for earlier in project.steps:
            before = project.steps.index(earlier) < k
            named = earlier.id in later.after and earlier.id != later.id
            touched = before and bool(set(earlier.surfaces) & {*later.surfaces, *later.closes})
            shut = before and bool(set(earlier.closes) & set(later.surfaces))
            if not (named or touched or shut):
                continue
            end = finished(project, earlier) if earlier.done else ends.get(earlier.id)
            if end is None or later.id not in begins:
                continue
            wait = hours_until(earlier, later.dryness, project) if named or touched else 0.0
            if begins[later.id] < end + timedelta(hours=wait) - MINUTE:
                out.append(f"{later.id} comes before {earlier.id} is {'dry' if wait else 'done'}")
    out += unmade(project, begins, ends) + crowded(project, begins, ends)
    for step in project.steps:
        end = finished(project, step) if step.done else ends.get(step.id)
        if end is None or plan.finish is None:
            continue
        if plan.finish < end + timedelta(hours=hours_until(step, "handle", project)) - MINUTE:
            out.append(f"ready before {step.id} may be handled")
    return out


def unmade(project: Project, begins: dict[str, datetime], ends: dict[str, datetime]) -> list[str]:
    """Work on a face of a part that is not printed, cleaned and cured yet, or, where the house joins first, not joined."""
    out = []
    for step in project.steps:
        pieces = {s.piece for s in project.surfaces if s.id in step.surfaces}
        files = {getattr(p.shape, "file", "") for p in project.pieces if p.id in pieces} - {"", step.file}
        for maker in project.steps:
            first = maker.work == "print" or project.brief.rules.order == "whole"
            if maker.file not in files or not first or step.id not in begins:
                continue
            end = finished(project, maker) if maker.done else ends.get(maker.id)
            if end is not None and begins[step.id] < end + timedelta(hours=maker.wait_h) - MINUTE:
                out.append(f"{step.id} is worked on before {maker.id} has made it")
    return out


def crowded(project: Project, begins: dict[str, datetime], ends: dict[str, datetime]) -> list[str]:
    """A machine that is started while it runs, or before it was cleared."""
    out = []
    runs = [s for s in project.steps if s.machine]
    for one in runs:
        start = finished(project, one) if one.done else begins.get(one.id)
        end = finished(project, one) if one.done else ends.get(one.id)
        if start is None or end is None:
            continue
        clear = next((s for s in project.steps if s.file == one.file != "" and one.id in s.after), None)
        free = end + timedelta(hours=one.wait_h)
        if clear is not None and clear.done:
            free = finished(project, clear) or end
        elif clear is not None and clear.id in ends:
            free = ends[clear.id]
        out += [
            f"{other.id} is started before {one.id} is off the machine"
            for other in runs
            if other is not one and other.machine == one.machine and other.id in begins and start <= begins[other.id] < free - MINUTE
        ]
    return out
