# SPDX-License-Identifier: MIT
"""From steps to a running order by evenings, with what dries, the finishing date and the odds."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from math import isfinite

from fondale.core.coat_kinds import says_nothing
from fondale.core.coats.impossible import impossible_steps
from fondale.core.coats.links import lands_nowhere
from fondale.core.diary.pace import pace
from fondale.core.how import How, Told, cite
from fondale.core.model import Brief, Project
from fondale.core.order.engine import Search, in_order
from fondale.core.order.evenings import Calendar, calendar_of
from fondale.core.order.odds import MISSED, RUNS, odds
from fondale.core.order.place import Placer
from fondale.core.order.replay import OVER_MIN
from fondale.core.order.tasks import Link, NoPlan
from fondale.core.order.ties import Tied, Unkept, tie_words
from fondale.core.order.work import Work, work_left
from fondale.core.progress import Progress, Quiet
from fondale.core.words import count_words, day_words, digits, hours_words, odds_words

Chances = tuple[float | None, datetime | None, datetime | None, tuple[str, ...]]
TOO_MUCH = "In this order the work does not fit into two years of such evenings, or a machine waits to be cleared by what waits for it."


@dataclass(frozen=True)
class Item:
    """One piece of work in an evening. ``part`` of ``parts`` where a step is split; ``machine`` is what it starts."""

    step: str
    start: datetime
    minutes: int
    part: int
    parts: int
    machine: str = ""


@dataclass(frozen=True)
class Evening:
    """One evening at the bench; ``tools`` are the minutes that bringing out and cleaning takes, by tool."""

    day: date
    minutes: int
    items: tuple[Item, ...]
    tools: tuple[tuple[str, int], ...] = ()

    @property
    def used(self) -> int:
        """Minutes of work, with its setting up and cleaning."""
        return sum(i.minutes for i in self.items) + sum(m for _tool, m in self.tools)


@dataclass(frozen=True)
class Cord:
    """Something that dries: from the end of ``step`` until ``until``, when ``next_step`` may go on ("": ready)."""

    step: str
    start: datetime
    until: datetime
    next_step: str


@dataclass(frozen=True)
class Plan:
    """The running order. ``finish`` is when the last coat may be handled; ``chain`` are the steps that decide it.

    ``odds`` of the date, and when ``half`` and ``ninety`` percent of the runs are ready: None where the order itself cannot be kept.
    ``sooner`` is how many evenings sooner an order could be ready at best; ``unkept`` are ties between steps that it does not keep.
    ``unsaid`` steps say neither what goes on nor what is done, and ``nowhere`` coats go onto nothing: the date leans on them. ``stopped`` says why steps in it cannot be done: then ``finish`` is where they would lead, and nothing that anybody may promise.
    """

    evenings: tuple[Evening, ...]
    cords: tuple[Cord, ...]
    finish: datetime | None
    proven: bool
    earliest_bound: datetime | None
    odds: float | None
    half: datetime | None
    ninety: datetime | None
    deciding: tuple[str, ...]
    chain: tuple[str, ...]
    minutes_left: int
    pace: float
    sooner: int = 0
    unkept: tuple[Unkept, ...] = ()
    trouble: str = ""
    stopped: tuple[str, ...] = ()
    unsaid: int = 0
    nowhere: int = 0

    @property
    def ready(self) -> datetime | None:
        """When the last coat may be handled; None where there is no order, or one that cannot be kept."""
        return None if self.stopped or self.unkept else self.finish

    @property
    def leans(self) -> str:
        """What the date leans on, in words; an empty text where every step says what it is."""
        said = [f"{count_words(self.unsaid, 'step')} not said yet"] if self.unsaid else []
        said += [f"{count_words(self.nowhere, 'coat')} on nothing yet"] if self.nowhere else []
        return ", ".join(said)

    @property
    def silence(self) -> str:
        """Why there is no date; an empty text where there is one, or nothing to do."""
        if self.trouble:
            return self.trouble
        whys = [*self.stopped, *(u.why.rstrip(".") for u in self.unkept)]
        more = f", and {len(whys) - 1} more" if len(whys) > 1 else ""
        return f"No date: {whys[0]}{more}. Coats says what mends it." if whys else ""

    @property
    def hands_minutes(self) -> int:
        """Minutes of hands that are left, with all setting up and cleaning."""
        return sum(e.used for e in self.evenings) if self.evenings else self.minutes_left

    @property
    def proof(self) -> str:
        """How sure it is that no order is ready sooner."""
        if self.proven:
            return "proven earliest"
        if self.sooner == 0:
            return "proven to the evening"
        return f"at best {self.sooner} evening{'s' if self.sooner > 1 else ''} sooner"


def make_plan(project: Project, today: date, effort: float = 2.0, progress: Progress | None = None, draft: bool = False) -> Plan:
    """The running order from ``today`` on; a ``draft`` is the first good one, without odds. Trouble is told in the result, never raised."""
    progress = progress or Quiet()
    rate = pace(project)
    calendar = calendar_of(project.brief, today, spent=sum(p.minutes for p in project.pages if p.day == today))
    work = work_left(project, rate, calendar)
    left = sum(t.minutes for t in work.tasks)
    empty = Plan((), (), None, True, None, None, None, None, (), (), left, rate)
    if not work.tasks:
        return empty
    if not calendar.windows:
        return _troubled(empty, "No evening has minutes in it: give the week some on Brief.")
    try:
        _sizes_fit(work, calendar, rate)
        work, search = _first_orders(project, rate, calendar, work)
    except NoPlan as error:
        return _troubled(empty, str(error))
    if not draft:
        search.improve(effort, progress)
        search.repack(effort / 2, progress)
        search.prove(effort / 2, progress)
        search.tidy(effort / 16, progress)
    starts, finish = search.best.starts, search.finish
    chances: Chances = (None, None, None, ())
    stopped = tuple(dict.fromkeys(i.why for i in impossible_steps(project)))
    if not draft and not work.unkept and not stopped:
        by_start = sorted(range(len(work.tasks)), key=lambda i: (starts[work.tasks[i].id], i))
        progress.step(0.9, "playing it through")
        chances = _chances(project, work, by_start, calendar)
    bound = max(search.bound, work.dry)
    return Plan(
        _evenings(work, search, calendar),
        _cords(work, starts, calendar),
        calendar.when(max(finish, work.dry)),
        search.proven,
        calendar.when(bound),
        *chances,
        _chain(work, starts),
        left,
        rate,
        sum(bound < a <= max(finish, work.dry) for a, _b in calendar.windows) if not search.proven else 0,
        work.unkept,
        stopped=stopped,
        unsaid=sum(says_nothing(s) for s in project.steps if not s.done),
        nowhere=sum(lands_nowhere(s) for s in project.steps),
    )


def _sizes_fit(work: Work, calendar: Calendar, rate: float) -> None:
    """Raises NoPlan for a task that no evening holds."""
    longest = max(b - a for a, b in calendar.windows)
    for task in work.tasks:
        around = sum(work.bench.setups.get(task.setup, (0, 0)))
        if task.minutes + around > longest:
            step = work.step_of[task.id]
            paced = f" at your pace of {digits(rate, 2)}" if rate > 1.005 and work.estimates[step.id][1] + around <= longest else ""
            tool = f", {around} of them to set up and clean the {task.setup}," if around else ""
            raise NoPlan(
                f"“{step.name}” takes {task.minutes + around} min{tool}{paced} and the longest evening has {longest}."
                " Let it be split, or lengthen an evening."
            )


def _first_orders(project: Project, rate: float, calendar: Calendar, work: Work) -> tuple[Work, Search]:
    """A search with its first orders, and the work as far as its ties can be kept. Raises NoPlan."""
    leave: frozenset[Tied] = frozenset()
    unkept: list[Unkept] = []
    while True:
        order = in_order(work.tasks, work.links)
        try:
            if order is None:
                raise NoPlan(_circle(work))
            return replace(work, unkept=(*work.unkept, *unkept)), Search(order, work.links, work.bench)
        except NoPlan as error:
            ties = [(s, t) for s in project.steps if not s.done for t in s.ties if (s.id, t.step, t.kind) not in leave]
            ties = [(s, t) for s, t in ties if (s.id, t.step, t.kind) not in {u.tied for u in work.unkept}]
            if not ties:
                raise error if order is None else NoPlan(TOO_MUCH) from None
            alone = (x for x in ties if _placeable(work_left(project, rate, calendar, leave | {(x[0].id, x[1].step, x[1].kind)})))
            step, tie = next(alone, ties[-1])
            tied = (step.id, tie.step, tie.kind)
            name = next((s.name for s in project.steps if s.id == tie.step), "")
            unkept.append(
                Unkept(tied, f"“{step.name}” {tie_words(tie, name)} cannot be kept: no evening holds it beside all else that is tied.")
            )
            leave |= {tied}
            work = work_left(project, rate, calendar, leave)


def _placeable(work: Work) -> bool:
    order = in_order(work.tasks, work.links)
    return order is not None and Placer(order, work.links, work.bench).place(order) is not None


def _circle(work: Work) -> str:
    """Which steps wait for each other."""
    before: dict[str, set[str]] = {t.id: set() for t in work.tasks}
    for link in work.links:
        before[link.after].add(link.before)
    while free := [i for i, b in before.items() if not b & before.keys()]:
        for i in free:
            del before[i]
    names = ", ".join(dict.fromkeys(work.step_of[i].name for i in before))
    return f"These steps wait for each other in a circle: {names}."


def _chances(project: Project, work: Work, order: list[int], calendar: Calendar) -> Chances:
    """Odds, when half and nine in ten are ready, and what decides."""
    deadline = project.brief.deadline
    found = odds(work, order, calendar, calendar.minute_of(deadline) if deadline is not None else None)
    half, ninety = (calendar.when(m) if isfinite(m) else None for m in (found.half, found.ninety))
    return found.share, half, ninety, found.deciding


def _troubled(plan: Plan, words: str) -> Plan:
    return Plan(**{**plan.__dict__, "trouble": words, "proven": False})


def _evenings(work: Work, search: Search, calendar: Calendar) -> tuple[Evening, ...]:
    out, starts, machines = [], search.best.starts, search.best.machines
    for a, b in calendar.windows:
        mine = sorted((t for t in work.tasks if a <= starts[t.id] < b), key=lambda t: starts[t.id])
        if mine:
            items = tuple(
                Item(work.step_of[t.id].id, calendar.when(starts[t.id]), t.minutes, *work.parts[t.id], machines.get(t.id, "")) for t in mine
            )
            tools = tuple((tool, sum(work.bench.setups[tool])) for tool in sorted({t.setup for t in mine if t.setup}))
            out.append(Evening(calendar.when(a).date(), b - a, items, tuple(t for t in tools if t[1])))
    return tuple(out)


def _cords(work: Work, starts: dict[str, int], calendar: Calendar) -> tuple[Cord, ...]:
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


def _chain(work: Work, starts: dict[str, int]) -> tuple[str, ...]:
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


def runs_of(project: Project, plan: Plan) -> tuple[tuple[str, str, datetime, datetime], ...]:
    """The runs of the print shop's files as the running order has them: machine by name, file, begin and end of the run by itself."""
    names, steps = {m.id: m.name for m in project.brief.machines}, {s.id: s for s in project.steps}
    out = []
    for item in (i for e in plan.evenings for i in e.items):
        step = steps.get(item.step)
        if step is not None and step.file and item.machine in names and step.wait_h:
            begin = item.start + timedelta(minutes=item.minutes)
            out.append((names[item.machine], step.file, begin, begin + timedelta(hours=step.wait_h)))
    return tuple(sorted(out, key=lambda r: r[2]))


def date_told(plan: Plan | None, brief: Brief, today: date) -> Told:
    """The promise of the date."""
    if brief.deadline is None:
        ask = "Set a date on Brief, and the odds of making it follow."
        if plan is None or plan.ready is None:
            return Told("no date yet", How("The date", f"{plan.silence}\n{ask}".strip() if plan is not None else ask, "", "Brief"))
        said = day_words(plan.ready)
        return Told(
            f"ready {said}{f', {plan.leans}' if plan.leans else ''}",
            How("Ready", f"Ready on {said}: {plan.proof}.\n{ask}", said, "running order by CP-SAT"),
        )
    days = (brief.deadline - today).days
    year = f" {brief.deadline.year}" if days < 0 or days > 300 else ""  # or it would be taken for the next one
    text = (
        f"opens {day_words(brief.deadline)}{year}, {count_words(days, 'day')}" if days >= 0 else f"opened {day_words(brief.deadline)}{year}"
    )
    formula = "The running order places every step in the evenings of Brief, one pair of hands, drying at the bench’s temperature."
    said = ""
    if plan is not None and plan.silence:
        formula += f"\n{plan.silence}"
        text += ", cannot be kept yet"
    elif plan is not None and plan.ready is not None:
        formula += f"\nReady on {day_words(plan.ready)}: {plan.proof}."
        if plan.odds is not None:
            said = odds_words(plan.odds)
            text += f", odds {said}{f', {plan.leans}' if plan.leans else ''}"
            formula += (
                f"\n{RUNS} runs, as a maker works: whatever is dry goes on; up to {digits(OVER_MIN, 0)} min over; one evening in"
                f" {digits(1 / MISSED, 0)} is missed; times between least and most, pace and drying vary.\n{spread_words(plan)}"
                f"\nReady before the day: {round(plan.odds * RUNS)} ÷ {RUNS}"
            )
    return Told(text, How("The date", formula, said, f"running order by CP-SAT; times by PERT, {cite('pert1959')}"))


def spread_words(plan: Plan) -> str:
    """When half and nine in ten of the runs are ready; an empty text where there are no odds."""
    if plan.half is None:
        return ""
    by = f"Half of the runs are ready by {day_words(plan.half)}"
    return f"{by}, nine in ten by {day_words(plan.ninety)}." if plan.ninety is not None else f"{by}; one in ten takes more than two years."


def time_told(plan: Plan | None) -> Told:
    """The promise of the time left."""
    if plan is None:
        return Told("time: reckoning", How("Time left", "Still being worked out.", "", "Coats"))
    likely = hours_words(plan.minutes_left / plan.pace / 60)
    formula = f"likely minutes of all steps that are not done, {likely}, × your pace {plan.pace:.2f}"
    if plan.hands_minutes > plan.minutes_left:
        formula += (
            f"\n+ {plan.hands_minutes - plan.minutes_left} min to set up and clean tools in {count_words(len(plan.evenings), 'evening')}"
        )
    said = hours_words(plan.hands_minutes / 60)
    return Told(f"{said} to go", How("Time left at the bench", formula, said, "Coats and Diary; each step is rounded to whole minutes"))


def ready_told(plan: Plan, names: Mapping[str, str]) -> Told | None:
    """When the last coat may be handled, or why that cannot be told; ``names`` are the steps' by id. None where there is nothing to do."""
    if plan.silence and plan.evenings:
        return Told("no date yet", How("Ready", plan.silence, "", "Coats"))
    if plan.ready is None:
        return None
    chain = ", ".join(names[c] for c in plan.chain[:4] if c in names)
    spread = spread_words(plan)
    formula = (
        f"The last coat may be handled at {plan.ready:%H:%M} on the day; {plan.proof}.\nWhat decides it, last first: {chain}.\nWork lies in your"
        " evenings, one pair of hands, with the minutes to set up, rinse and clean airbrush and spray can; drying runs day and night; then the"
        " fewest set-ups." + (f"\n{spread}" if spread else "")
    )
    said = day_words(plan.ready)
    if plan.leans:
        formula += (
            f"\n{plan.leans[0].upper()}{plan.leans[1:]}: nothing of them dries in this order. Give them their coats, and the date is true."
        )
    return Told(f"ready {said} · {plan.leans or plan.proof}", How("Ready", formula, said, "running order by CP-SAT"))
