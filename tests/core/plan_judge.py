# SPDX-License-Identifier: MIT
"""A judge of running orders that knows only the rules of the bench, and nothing of the planner."""

from datetime import date, datetime, timedelta
from itertools import pairwise, permutations

from fondale.core.handwork import minutes_of
from fondale.core.model import Project, Step
from fondale.core.model.shapes import Box
from fondale.core.order.plan import Plan
from fondale.knowledge import table

MINUTE = timedelta(minutes=1)


def hours_until(step: Step, dryness: str, project: Project) -> float:
    """Hours from the end of a step until its coat is so dry: table at 20 degrees and 50 %, doubled for every 10 degrees less."""
    rows, damp = table("coats")["coat"], table("coats")["humidity"]
    if step.coat not in rows or dryness == "wet":
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


def works_on(project: Project, step: Step) -> set[str]:
    """What a step works on, faces of its pieces and of what is put on them among it."""
    bodies = pieces_of(project, step)
    strings = [s for s in project.strings if s.id in step.strings]
    out = {f"face {i}" for i in step.surfaces} | {f"piece {b}" for b in bodies} | {f"string {s.id}" for s in strings}
    out |= {f"face {s.id}" for s in project.surfaces if s.piece in bodies}
    out |= {f"lamp {i}" for i in (*step.wires, *step.tests, *(x for s in strings for x in s.lamps))}
    return out | {f"joint {i}" for i in step.joints} | {f"fit {i}" for i in step.fits}


def pieces_of(project: Project, step: Step) -> set[str]:
    """The pieces that a step names, itself or by a joint, with all that is put on them."""
    bodies = set(step.pieces) | {p for j in project.joins if j.id in step.joints for p in j.pieces}
    while more := {p.id for p in project.pieces if p.part_of and p.part_of in bodies} - bodies:
        bodies |= more
    return bodies


def sticks(step: Step) -> bool:
    """Whether a step joins parts: then what it touches must bear a hand."""
    row = table("coats")["coat"].get(step.coat)
    return bool(step.joints) or (step.work == "build" and row is not None and row["role"] == "glue")


def wiring(project: Project, step: Step) -> set[str]:
    """The lamps that a step wires."""
    lamps = {*step.wires, *(x for s in project.strings if s.id in step.strings for x in s.lamps)}
    return lamps - set(step.tests) if step.work != "test" else set()


def lamps_shut(project: Project, step: Step) -> set[str]:
    """The lamps that a closing step shuts in: built into the piece whose face it closes, or standing within the bounds of it."""
    pieces = {f.piece for f in project.surfaces if f.id in step.closes and f.piece}
    out = {m.id for m in project.lamps if m.piece in pieces}
    for piece in (p for p in project.pieces if p.id in pieces and p.place is not None and isinstance(p.shape, Box)):
        at, half = piece.place, max(piece.shape.width, piece.shape.depth) / 2
        assert at is not None
        if at.z is not None and not at.turn_deg and not at.tilt_deg and piece.shape.width == piece.shape.depth:
            top = at.z + piece.shape.height
            out |= {m.id for m in project.lamps if abs(m.x - at.x) <= half and abs(m.y - at.y) <= half and at.z <= m.z <= top}
    return out


def rinse_of(project: Project, step: Step) -> int:
    return {"airbrush": project.brief.airbrush.rinse, "spray can": project.brief.spray_can.rinse}.get(step.tool, 0)


def tools_fit(project: Project, items: list, opens: datetime, closes: datetime) -> bool:
    """Whether the tools of an evening can be brought out before their first use and cleaned after their last one, hands being free."""
    jobs = []
    for tool, setup in (("airbrush", project.brief.airbrush), ("spray can", project.brief.spray_can)):
        uses = [(a, b) for a, b, i in items if next(s for s in project.steps if s.id == i.step).tool == tool]
        if uses:
            jobs += [(opens, min(a for a, _b in uses), setup.out), (max(b for _a, b in uses), closes, setup.clean)]
    jobs = [j for j in jobs if j[2]]
    for order in permutations(jobs):
        busy, good = [(a, b) for a, b, _i in items], True
        for earliest, latest, minutes in order:
            at = earliest
            while good and any(a < at + minutes * MINUTE and at < b for a, b in busy):
                at = min(b for a, b in busy if a < at + minutes * MINUTE and at < b)
            good = good and at + minutes * MINUTE <= latest
            busy.append((at, at + minutes * MINUTE))
        if good:
            return True
    return not jobs


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
    for day in {start.date() for start, _end, _item in items}:
        if not tools_fit(project, [x for x in items if x[0].date() == day], *evening(project, day, today)):
            out.append(f"no time to set up and clean on {day}")
    for step in project.steps:
        if step.done:
            if step.id in begins:
                out.append(f"{step.id} is done and planned again")
            continue
        begun = sum(p.begun.get(step.id, 0.0) for p in project.pages)
        if step.id not in begins:
            out.append(f"{step.id} is not planned")
        elif minutes[step.id] - rinse_of(project, step) != max(1, round(minutes_of(project, step)[1] * plan.pace - begun)):
            out.append(f"{step.id} has {minutes[step.id]} minutes")
        elif not step.splittable and sum(i.step == step.id for _s, _e, i in items) > 1:
            out.append(f"{step.id} is split")
        if any(i.step == step.id and s.date() in step.not_on for s, _e, i in items):
            out.append(f"{step.id} is done on an evening that it must not take")
    things = {s.id: works_on(project, s) for s in project.steps}
    wired = {s.id: wiring(project, s) for s in project.steps}
    shuts = {s.id: {f"face {c}" for c in s.closes} | {f"lamp {i}" for i in lamps_shut(project, s)} for s in project.steps}
    for k, later in enumerate(project.steps):
        if later.done:
            continue
        for n, earlier in enumerate(project.steps):
            if n == k:
                continue
            tied = any(t.step == earlier.id and t.kind != "together" for t in later.ties)
            told = earlier.id in later.after or bool(wired[earlier.id] & set(later.tests))
            back = later.id in earlier.after or any(t.step == later.id and t.kind != "together" for t in earlier.ties)
            back = (
                back
                or bool(wired[later.id] & set(earlier.tests))
                or joined_first(project, later, earlier)
                or made_before(project, later, earlier)
            )
            back = back or builds_on(project, later, earlier)
            touched = n < k and not back and bool(things[earlier.id] & (things[later.id] | shuts[later.id]))
            shut = n < k and not back and bool(shuts[earlier.id] & things[later.id])
            if not (told or tied or touched or shut or joined_first(project, earlier, later)):
                continue
            end = finished(project, earlier) if earlier.done else ends.get(earlier.id)
            if end is None or later.id not in begins:
                continue
            needed = "handle" if sticks(later) else later.dryness
            wait = hours_until(earlier, needed, project) if told or touched else 0.0
            if begins[later.id] < end + timedelta(hours=wait) - MINUTE:
                out.append(f"{later.id} comes before {earlier.id} is {'dry' if wait else 'done'}")
    for build in project.steps:
        for coat in (c for c in project.steps if builds_on(project, build, c) and build.id in begins and c.id in begins):
            first = begins[coat.id] >= ends[build.id] + timedelta(hours=build.wait_h) - MINUTE
            dry = begins[build.id] >= ends[coat.id] + timedelta(hours=hours_until(coat, build.dryness, project)) - MINUTE
            if not first and not (dry and waits_for(project, build, coat)):
                out.append(f"{build.id} builds on what {coat.id} has painted")
    out += untied(project, plan, begins, ends)
    out += unmade(project, begins, ends) + crowded(project, plan, begins, ends)
    for step in project.steps:
        end = finished(project, step) if step.done else ends.get(step.id)
        if end is None or plan.finish is None:
            continue
        if plan.finish < end + timedelta(hours=hours_until(step, "handle", project)) - MINUTE:
            out.append(f"ready before {step.id} may be handled")
    return out


BODY = ("glue", "filler", "sanding", "ground")  # roles of coats that are no paint


def builds_on(project: Project, build: Step, coat: Step) -> bool:
    """Whether a step carves or rivets a face that another one, listed before it, paints, and nobody says that it comes after."""
    rows = table("coats")["coat"]
    paints = [
        s
        for s in project.steps
        if not s.done and set(s.surfaces) & set(build.surfaces) and s.coat in rows and rows[s.coat]["role"] not in BODY
    ]
    plain = build.work == "build" and not any(
        (
            build.done,
            build.coat,
            build.joints,
            build.fits,
            build.closes,
            build.wires,
            build.strings,
            build.tests,
            build.file,
            build.duty,
            build.machine,
        )
    )
    told = {*build.after, *(t.step for t in build.ties)} & {p.id for p in paints}
    ids = [s.id for s in project.steps]
    return plain and coat in paints and not told and ids.index(coat.id) < ids.index(build.id)


def waits_for(project: Project, later: Step, earlier: Step) -> bool:
    """Whether anything but the faces that both work on can make one step wait for another: what lies between them in the list, or is told."""
    ids = [s.id for s in project.steps]
    between = project.steps[ids.index(earlier.id) + 1 : ids.index(later.id)]
    return bool(between or later.after or later.ties or later.pieces or earlier.pieces or earlier.after or earlier.ties)


def joined_first(project: Project, joint: Step, paint: Step) -> bool:
    """Whether the house joins what a step paints before that."""
    if project.brief.rules.order != "whole" or not joint.joints or not paint.coat or sticks(paint):
        return False
    joined = {p for j in project.joins if j.id in joint.joints for p in j.pieces}
    return bool(joined & parts_under(project, paint))


def parts_under(project: Project, step: Step) -> set[str]:
    """The pieces whose making a step waits for: those it works on, those its faces and lamps belong to, and what is put on them."""
    lamps = wiring(project, step) | set(step.wires)
    out = pieces_of(project, step) | {s.piece for s in project.surfaces if s.id in step.surfaces and s.piece}
    out |= {m.piece for m in project.lamps if m.id in lamps and m.piece}
    while more := {p.id for p in project.pieces if p.part_of and p.part_of in out} - out:
        out |= more
    return out


def made_before(project: Project, maker: Step, step: Step) -> bool:
    """Whether a step prints, cleans, cures or joins a file that another one works on a part of."""
    lead = {f.id: f.beside or f.id for f in project.prints}
    files = {getattr(p.shape, "file", "") for p in project.pieces if p.id in parts_under(project, step)} - {""}
    files |= {lead.get(f, f) for f in files}
    files -= {step.file, lead.get(step.file, "")} if step.file else set()
    return maker.file in files and (maker.work == "print" or project.brief.rules.order == "whole")


def untied(project: Project, plan: Plan, begins: dict[str, datetime], ends: dict[str, datetime]) -> list[str]:
    """Ties that a plan does not keep, save those that it says it cannot."""
    out = []
    left = {u.tied for u in plan.unkept}
    steps = {s.id: s for s in project.steps}
    for step in project.steps:
        for tie in step.ties:
            if step.done or (step.id, tie.step, tie.kind) in left or tie.step not in steps or tie.step == step.id:
                continue
            before = steps[tie.step]
            end = finished(project, before) if before.done else ends.get(tie.step)
            if end is None or step.id not in begins:
                continue
            gap = begins[step.id] - end
            kept = {
                "at once": before.done or abs(gap) < MINUTE,
                "within": timedelta(0) <= gap < timedelta(hours=tie.hours) + MINUTE,
                "not before": gap > timedelta(hours=tie.hours) - MINUTE,
                "together": begins[step.id].date() == end.date() == begins.get(tie.step, end).date(),
            }
            if not kept[tie.kind]:
                out.append(f"{step.id} is not {tie.kind} {tie.step}")
    return out


def unmade(project: Project, begins: dict[str, datetime], ends: dict[str, datetime]) -> list[str]:
    """Work on a part that is not printed, cleaned and cured yet, or, where the house joins first, not joined."""
    out = []
    for step in project.steps:
        for maker in project.steps:
            if maker is step or not maker.file or step.id not in begins or not made_before(project, maker, step):
                continue
            end = finished(project, maker) if maker.done else ends.get(maker.id)
            if end is not None and begins[step.id] < end + timedelta(hours=maker.wait_h) - MINUTE:
                out.append(f"{step.id} is worked on before {maker.id} has made it")
    return out


def crowded(project: Project, plan: Plan, begins: dict[str, datetime], ends: dict[str, datetime]) -> list[str]:
    """A machine that is started while it runs, or before it was cleared."""
    out = []
    runs = [s for s in project.steps if s.machine]
    on = {s.id: s.machine for s in runs} | {i.step: i.machine for e in plan.evenings for i in e.items if i.machine}
    row = {m.id: m.row for m in project.brief.machines}
    printers = {k for k, r in table("machines")["machine"].items() if "build" in r}
    for one in runs:
        if row.get(on[one.id]) != row.get(one.machine) or (on[one.id] != one.machine and not one.any_machine):
            out.append(f"{one.id} runs on another machine")
    for one in runs:
        start = finished(project, one) if one.done else begins.get(one.id)
        end = finished(project, one) if one.done else ends.get(one.id)
        if start is None or end is None:
            continue
        clear = next((s for s in project.steps if s.file == one.file != "" and one.id in s.after and row.get(on[one.id]) in printers), None)
        free = end + timedelta(hours=one.wait_h)
        if clear is not None and clear.done:
            free = finished(project, clear) or end
        elif clear is not None and clear.id in ends:
            free = ends[clear.id]
        out += [
            f"{other.id} is started before {one.id} is off the machine"
            for other in runs
            if other is not one and on[other.id] == on[one.id] and other.id in begins and start <= begins[other.id] < free - MINUTE
        ]
    return out
