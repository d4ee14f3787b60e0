# SPDX-License-Identifier: MIT
"""Running orders before an independent judge, and the odds against a plain replay written apart."""

from dataclasses import replace
from datetime import date, datetime, time, timedelta
from itertools import pairwise

import numpy as np
import pytest
from ortools.sat.python import cp_model

from fondale.core.derived import PLAN
from fondale.core.edits import Add, apply, new_project, put
from fondale.core.edits.printing import HandOver
from fondale.core.edits.steps import LogEvening, MarkDone
from fondale.core.model import (
    LAMPS,
    PRINTS,
    PROJECT,
    STEPS,
    SURFACES,
    Join,
    Lamp,
    Machine,
    Page,
    Piece,
    Place,
    PrintFile,
    Project,
    Step,
    String,
    Supply,
    Surface,
    Tie,
)
from fondale.core.model.shapes import Box, Mesh
from fondale.core.order import engine
from fondale.core.order import odds as odds_of
from fondale.core.order.engine import Search, in_order
from fondale.core.order.evenings import calendar_of
from fondale.core.order.exact import schedule
from fondale.core.order.packing import repacked
from fondale.core.order.place import Placed, Placer
from fondale.core.order.plan import make_plan
from fondale.core.order.replay import OVER_MIN
from fondale.core.order.tasks import Bench, Link, NoPlan, Task, ends_of
from fondale.core.order.work import work_left
from fondale.core.reckoning import Look
from fondale.demo import SAMPLES
from tests.conftest import TODAY
from tests.core.plan_judge import faults

COATS = ("", "acrylic", "enamel", "primer_spray", "enamel_wash", "oil_filter", "pva")
RANDOM = range(120)


def random_project(seed: int) -> Project:
    """Up to 14 steps on four surfaces, with closings, links, evenings of all lengths, and steps that were done lately."""
    rng = np.random.default_rng(seed)
    pick = lambda options: options[int(rng.integers(len(options)))]  # noqa: E731
    names = [f"s{k}" for k in range(4)]
    lamps, strings, joins, body = ("l0", "l1"), ("w0",), ("j0",), ("p0", "p1", "p4", "p5")
    some = lambda ids, share: tuple(i for i in ids if rng.random() < share)  # noqa: E731
    steps: list[Step] = []
    for k in range(int(rng.integers(2, 15))):
        coat = pick(COATS)
        work = tuple(n for n in names if rng.random() < 0.35)
        closes = tuple(n for n in names if n not in work and rng.random() < 0.06)
        after = tuple(s.id for s in steps if rng.random() < 0.12)
        low = float(rng.integers(2, 30))
        done = rng.random() < 0.2 and all(s.done for s in steps if s.id in after)
        moment = datetime.combine(TODAY, time(18)) - timedelta(hours=float(rng.integers(0, 60)))
        steps.append(
            Step(
                id=f"t{k}", name=f"T{k}", coat=coat, surfaces=work, closes=closes, after=after, minutes=(low, low * 1.4, low * 2),
                tool=pick(("hand", "brush", "airbrush", "spray can")), dryness=pick(("wet", "touch", "next", "handle")), splittable=bool(rng.random() < 0.3),
                wait_h=float(pick((0, 0, 0, 3, 30))), ties=_random_ties(rng, steps) if k else (), not_on=some(_DAYS, 0.05),
                pieces=some(body, 0.06), wires=some(lamps, 0.08), tests=some(lamps, 0.06), strings=some(strings, 0.05), joints=some(joins, 0.05),
                work=pick(("paint", "build", "wire", "test")), done=done, finished=moment if done and rng.random() < 0.7 else None,
            )
        )  # fmt: skip
    project = new_project("Random", TODAY)
    week = tuple(int(m) for m in rng.choice((0, 60, 75, 90, 180), 7))
    brief = project.brief.but(
        evenings=week if max(week) >= 60 else (90,) * 7, bench_c=float(rng.integers(8, 28)), bench_rh=float(rng.integers(30, 90)),
        days_off=tuple(TODAY + timedelta(days=int(d)) for d in rng.integers(0, 14, 2)), deadline=TODAY + timedelta(days=30),
    )  # fmt: skip
    open_steps = [s.id for s in steps if not s.done]
    begun = {open_steps[0]: 7.0} if open_steps and rng.random() < 0.5 else {}
    pages = (Page(id="p", day=TODAY, minutes=20, done=tuple(s.id for s in steps if s.done)[:2], begun=begun),) if rng.random() < 0.3 else ()
    surfaces = tuple(Surface(id=n, name=n) for n in names)
    project = project.but(
        brief=brief, surfaces=surfaces, steps=tuple(steps), pages=pages,
        pieces=tuple(Piece(id=i, name=i, shape=Box(width=5, depth=5, height=5), part_of="p4" if i == "p5" else "") for i in ("p4", "p5")),
        lamps=tuple(Lamp(id=i, name=i, x=0, y=0, z=0, piece="p0" if i == "l0" else "") for i in lamps),
        supplies=(Supply(id="plug", name="Plug"),), strings=(String(id="w0", name="W", supply="plug", lamps=("l1",)),),
        joins=(Join(id="j0", name="J", pieces=("p1", "p4")),),
    )  # fmt: skip
    return _printed(project, rng, int(rng.integers(0, 4)))


_DAYS = tuple(TODAY + timedelta(days=d) for d in range(12))


def _random_ties(rng: np.random.Generator, steps: list[Step]) -> tuple[Tie, ...]:
    """Mostly none, else one of any kind to an earlier step."""
    if rng.random() > 0.15:
        return ()
    kind = ("at once", "within", "not before", "together")[int(rng.integers(4))]
    return (Tie(step=steps[int(rng.integers(len(steps)))].id, kind=kind, hours=float(rng.choice((0.5, 2, 26, 60)))),)


def _printed(project: Project, rng: np.random.Generator, count: int) -> Project:
    """The project with printed parts on one or two machines, some of them begun; some faces are theirs."""
    machines = tuple(Machine(id=f"m{k}", name=f"M{k}", row="resin_small", pace=float(rng.uniform(0.5, 2))) for k in range(2))
    machines = (*machines, Machine(id="box", name="Box", row="curing_box"))
    files = tuple(
        PrintFile(
            id=f"f{k}", name=f"F{k}", asset="assets/f.stl", size=(10, 10, float(rng.integers(10, 90))), volume=900, area=600, centre=(5, 5, 5),
            triangles=12, machine=f"m{int(rng.integers(2))}", count=int(rng.integers(1, 3)), difficulty="hard",
        )
        for k in range(count)
    )  # fmt: skip
    skin = {"points": ((0, 0, 0), (0.5, 0, 0), (0, 0.5, 1)), "faces": ((0, 1, 2),)}
    pieces = tuple(
        Piece(id=f"p{k}", name=f"P{k}", shape=Mesh(file=f.id, width=10, depth=10, height=f.size[2], **skin)) for k, f in enumerate(files)
    )
    surfaces = tuple(s.but(piece=f"p{k}") if k < count else s for k, s in enumerate(project.surfaces))
    rules = project.brief.rules.but(order="whole" if rng.random() < 0.5 else "pieces")
    pieces = (*pieces, *(p for p in project.pieces if p.id not in {x.id for x in pieces}))
    project = project.but(brief=project.brief.but(machines=machines, rules=rules), prints=files, pieces=pieces, surfaces=surfaces)
    for file in files:
        project = apply(project, HandOver("Hand over", file.id))
        mine = [s.id for s in project.steps if s.file == file.id]
        if rng.random() < 0.3:
            begun = mine[: int(rng.integers(1, len(mine)))]
            project = apply(project, MarkDone("Done", tuple(begun), True, datetime.combine(TODAY, time(14))))
    some = rng.random() < 0.3
    return project.but(steps=tuple(s.but(any_machine=True) if s.machine and some else s for s in project.steps))


@pytest.mark.parametrize("sample", SAMPLES)
def test_the_judge_finds_nothing_on_the_samples(sample):
    project = SAMPLES[sample](TODAY)
    assert faults(project, make_plan(project, TODAY), TODAY) == []


def test_the_judge_finds_nothing_on_random_projects():
    planned = 0
    for seed in RANDOM:
        project = random_project(seed)
        plan = make_plan(project, TODAY, effort=0.2)
        if plan.trouble:
            continue
        planned += 1
        assert faults(project, plan, TODAY) == [], seed
        assert plan.finish is None or plan.earliest_bound <= plan.finish, seed
    assert planned > 90


def random_house(seed: int) -> Project:
    """A house whose roof, hatch and glass close faces and lamps in: built in, standing within its bounds, or on its own beside it."""
    rng = np.random.default_rng(seed)
    pick = lambda options: options[int(rng.integers(len(options)))]  # noqa: E731
    lamps = ("built-in", "standing-inside", "outside", "in-the-shed")
    of = {"hall": "house", "glass": "house", "floor": "shed", "wall": ""}
    steps = []
    for k in range(int(rng.integers(5, 16))):
        work = pick(("paint", "paint", "wire", "test", "close", "build"))
        low, some = float(rng.integers(4, 25)), lambda ids, share=0.4: tuple(i for i in ids if rng.random() < share)
        closing = work == "close"
        steps.append(
            Step(
                id=f"t{k}", name=f"T{k}", work="build" if closing else work, coat=pick(COATS[1:]) if work == "paint" or (closing and rng.random() < 0.3) else "",
                surfaces=some(of) if work in ("paint", "build") else (), closes=some(("hall", "glass", "floor"), 0.5) if closing else (),
                wires=some(lamps) if work == "wire" and rng.random() < 0.7 else (), strings=some(("w0", "w1")) if work == "wire" else (),
                tests=some(lamps) if work == "test" else (), machine="box" if work == "build" and rng.random() < 0.3 else "",
                wait_h=float(pick((0, 0, 2, 30))), minutes=(low, low * 1.5, low * 2), tool=pick(("hand", "brush", "spray can")),
            )
        )  # fmt: skip
    project = new_project("House", TODAY)
    week = tuple(int(m) for m in rng.choice((0, 45, 90), 7))
    at = lambda x: Place(x=x, y=0, z=0)  # noqa: E731
    return project.but(
        brief=project.brief.but(evenings=week if max(week) >= 45 else (60,) * 7, machines=(Machine(id="box", name="Box", row="curing_box"),)),
        pieces=(
            Piece(id="house", name="House", shape=Box(width=60, depth=60, height=60), place=at(0)),
            Piece(id="shed", name="Shed", shape=Box(width=40, depth=40, height=40), place=at(200)),
        ),
        surfaces=tuple(Surface(id=k, name=k, piece=p, inside=True) for k, p in of.items()),
        lamps=(
            Lamp(id="built-in", name="A", x=500, y=0, z=0, piece="house"), Lamp(id="standing-inside", name="B", x=10, y=0, z=30),
            Lamp(id="outside", name="C", x=100, y=0, z=30), Lamp(id="in-the-shed", name="D", x=200, y=5, z=10),
        ),
        supplies=(Supply(id="plug", name="Plug"),),
        strings=(String(id="w0", name="W", supply="plug", lamps=("standing-inside", "outside")), String(id="w1", name="X", supply="plug", lamps=("built-in",))),
        steps=tuple(steps),
    )  # fmt: skip


def test_the_judge_finds_nothing_where_lamps_are_closed_in():
    planned = 0
    for seed in range(60):
        project = random_house(seed)
        plan = make_plan(project, TODAY, effort=0.2)
        planned += not plan.trouble
        assert plan.trouble or faults(project, plan, TODAY) == [], seed
    assert planned > 40


def test_a_closing_step_waits_for_its_lamps(empty):
    # Closing takes two minutes and leaves the evening's rest to wiring and testing, which do not fit before it: it waits for them all the same.
    house = Piece(id="house", name="House", shape=Box(width=60, depth=60, height=60), place=Place(x=0, y=0, z=0))
    steps = (
        Step(id="paint", name="Paint", coat="enamel", surfaces=("hall",), minutes=(5, 5, 5)),
        Step(id="wire", name="Wire", work="wire", wires=("lamp",), minutes=(60, 60, 60), tool="iron"),
        Step(id="test", name="Test", work="test", tests=("lamp",), minutes=(50, 50, 50), tool="hand"),
        Step(id="shut", name="Close the roof", work="build", closes=("hall",), minutes=(2, 2, 2), tool="hand"),
    )
    for lamp in (Lamp(id="lamp", name="L", x=0, y=0, z=20), Lamp(id="lamp", name="L", x=300, y=0, z=20, piece="house")):
        project = empty.but(
            brief=empty.brief.but(evenings=(60,) * 7), surfaces=(Surface(id="hall", name="Hall", piece="house", inside=True),), pieces=(house,),
            lamps=(lamp,), steps=steps,
        )  # fmt: skip
        plan = make_plan(project, TODAY)
        starts = {i.step: i.start for e in plan.evenings for i in e.items}
        assert starts["shut"] >= starts["test"] + timedelta(minutes=50)
        moved = apply(project, put(LAMPS.at("lamp"), lamp.but(x=400.0, piece=""), "Move"))
        assert PLAN.key(moved, Look(TODAY)) != PLAN.key(project, Look(TODAY))


def test_evenings_packed_anew_keep_every_rule(monkeypatch):
    # As for large projects, whose whole is never looked at: judged by the same judge, and none later than the first order.
    monkeypatch.setattr(engine, "WHOLE", 0)
    changed = 0
    for seed in range(60):
        project = random_project(seed)
        first, plan = make_plan(project, TODAY, draft=True), make_plan(project, TODAY, effort=0.2)
        if plan.trouble:
            continue
        assert faults(project, plan, TODAY) == [], seed
        assert plan.finish is None or plan.finish <= first.finish, seed
        changed += plan.evenings != first.evenings
    assert changed > 10


def test_full_evenings_are_found_where_trying_orders_does_not_find_them():
    # Three evenings of 60 min and nine tasks that fill them to the minute in one way only.
    triples = ((29, 20, 11), (28, 19, 13), (27, 17, 16))
    minutes = sorted(m for t in triples for m in t)
    calendar = calendar_of(new_project("P", TODAY).brief.but(evenings=(60,) * 7), TODAY)
    tasks = [Task(str(k), m, uses={"hands": 1}, windowed=True) for k, m in enumerate(minutes)]
    few = calendar.windows[:4]
    bench = Bench(calendar.windows)
    first = Placer(tasks, (), bench).place(tasks)
    assert ends_of(tasks, first.starts) > few[2][1]
    due = {t.id: few[2][1] for t in tasks}
    placed, _spent = repacked(tasks, (), bench, first, few, due, 1.0)
    assert ends_of(tasks, placed.starts) == few[2][1]


def test_packing_leaves_be_what_waits_outside_its_evenings():
    # "long" fills the first evening better, but what waits for "short" stands on the third one, a day after it.
    windows = calendar_of(new_project("P", TODAY).brief.but(evenings=(60,) * 7), TODAY).windows
    tasks = [Task(i, m, uses={"hands": 1}, windowed=True) for i, m in (("short", 40), ("long", 60), ("after", 30))]
    links = [Link("short", "after", lag=24 * 60)]
    starts = {"short": windows[0][0], "long": windows[1][0], "after": windows[2][0]}
    due = dict.fromkeys(starts, windows[2][1])
    placed, _spent = repacked(tasks, links, Bench(windows), Placed(starts, {}), windows[:2], due, 1.0)
    assert placed.starts["short"] + 40 + 24 * 60 <= placed.starts["after"]
    free, _spent = repacked(tasks, [], Bench(windows), Placed(starts, {}), windows[:2], due, 1.0)
    assert free.starts["long"] == windows[0][0]


def test_no_order_is_better_than_the_bound():
    # CP-SAT looks for the earliest order without being told the bound.
    proven = 0
    for seed in range(40):
        project = random_project(seed)
        calendar = calendar_of(project.brief, TODAY)
        work = work_left(project, 1.0, calendar)
        order = in_order(work.tasks, work.links)
        if order is None or not order:
            continue
        try:
            search = Search(order, work.links, work.bench)
            found = schedule(order, work.links, {"hands": 1}, search.windows, search.finish, search.best.starts, 1.0, bench=work.bench)
        except NoPlan:
            continue
        proven += found.proven
        assert search.bound <= found.finish, seed
    assert proven > 15


def _moved(plan, step, by):
    """The plan with the work of one step moved."""
    items = lambda e: tuple(replace(i, start=i.start + by) if i.step == step else i for i in e.items)  # noqa: E731
    return replace(plan, evenings=tuple(replace(e, items=items(e)) for e in plan.evenings))


def test_the_judge_refuses_what_breaks_a_rule():
    surfaces = (Surface(id="a", name="A"), Surface(id="b", name="B"))
    steps = (
        Step(id="prime", name="Prime", coat="enamel", surfaces=("a",), minutes=(10, 15, 20)),
        Step(id="paint", name="Paint", coat="acrylic", surfaces=("a",), minutes=(10, 15, 20)),
        Step(id="wire", name="Wire", work="wire", surfaces=("b",), minutes=(10, 15, 20)),
        Step(id="test", name="Test", work="test", after=("wire",), minutes=(5, 5, 5)),
        Step(id="shut", name="Shut", closes=("b",), minutes=(5, 5, 5)),
    )
    project = new_project("P", TODAY).but(surfaces=surfaces, steps=steps)
    plan = make_plan(project, TODAY)
    assert faults(project, plan, TODAY) == []
    starts = {i.step: i.start for e in plan.evenings for i in e.items}
    day = timedelta(days=1)
    for broken, told in (
        (_moved(plan, "wire", timedelta(hours=-5)), "wire lies outside the evening"),
        (_moved(plan, "wire", starts["prime"] - starts["wire"]), "two things at once"),
        (_moved(plan, "paint", starts["prime"] + timedelta(minutes=20) - starts["paint"]), "paint comes before prime is dry"),
        (_moved(plan, "wire", 3 * day), "test comes before wire"),
        (_moved(plan, "wire", 3 * day), "shut comes before wire"),
        (replace(plan, finish=starts["paint"]), "ready before paint may be handled"),
        (replace(plan, evenings=plan.evenings[1:]), "is not planned"),
    ):
        assert any(told in fault for fault in faults(project, broken, TODAY)), told
    both = _printed(new_project("P", TODAY).but(surfaces=surfaces), np.random.default_rng(2), 2)
    both = both.but(
        prints=tuple(f.but(machine="m0") for f in both.prints), steps=tuple(s.but(done=False, finished=None) for s in both.steps)
    )
    both = apply(both, *(HandOver("Again", f.id) for f in both.prints), Add("Add", STEPS, steps[0]))
    shop = make_plan(both, TODAY)
    assert faults(both, shop, TODAY) == []
    first, second = sorted(
        (s.id for s in both.steps if s.machine == "m0"), key=lambda i: next(x.start for e in shop.evenings for x in e.items if x.step == i)
    )
    starts = {i.step: i.start for e in shop.evenings for i in e.items}
    early = _moved(shop, second, starts[first] + timedelta(minutes=30) - starts[second])
    assert any("off the machine" in f for f in faults(both, early, TODAY))
    early = _moved(shop, "prime", starts[first] - starts["prime"])
    assert any("has made it" in f for f in faults(both, early, TODAY))
    wet = apply(project, MarkDone("Done", ("prime",), True, datetime.combine(TODAY, time(18))))
    assert any("before prime is dry" in f for f in faults(wet, _moved(make_plan(wet, TODAY), "paint", -day), TODAY))


def test_what_is_done_is_not_dry():
    step = Step(id="prime", name="Prime", coat="enamel", surfaces=("a",), minutes=(10, 15, 20))
    paint = Step(id="paint", name="Paint", coat="acrylic", surfaces=("a",), minutes=(10, 15, 20))
    project = new_project("P", TODAY).but(surfaces=(Surface(id="a", name="A"),), steps=(step, paint))
    moment = datetime.combine(TODAY, time(19, 30))
    for done in (
        apply(project, MarkDone("Done", ("prime",), True, moment)),
        apply(project, LogEvening("Page", Page(id="p", day=TODAY, minutes=15, done=("prime",)), moment)),
    ):
        begins = make_plan(done, TODAY).evenings[0].items[0].start
        assert begins >= moment + timedelta(hours=24)  # enamel takes a day at 20 degrees: the table of coats
    # Nobody knows when it was done: it counts as dry; where a page tells the day, it dries from the end of that evening.
    unknown = project.but(steps=(step.but(done=True), paint))
    assert make_plan(unknown, TODAY).evenings[0].day == TODAY
    told = unknown.but(pages=(Page(id="p", day=TODAY, minutes=0, done=("prime",)),))
    assert make_plan(told, TODAY).evenings[0].day > TODAY
    back = apply(done, MarkDone("Not done", ("prime",), False))
    assert back.steps[0].finished is None
    assert not back.steps[0].done


def test_minutes_of_tonights_page_are_spent():
    step = Step(id="a", name="A", minutes=(60, 60, 60))
    project = new_project("P", TODAY).but(steps=(step,))
    assert make_plan(project, TODAY).evenings[0].day == TODAY
    spent = project.but(pages=(Page(id="p", day=TODAY, minutes=40),))
    assert make_plan(spent, TODAY).evenings[0].day > TODAY


def mates_of(work, task):
    """The tasks that go in one go or on one evening with a task, itself among them."""
    found, todo = set(), [task.id]
    while todo:
        one = todo.pop()
        if one in found:
            continue
        found.add(one)
        todo += [b for k in work.links if k.at_once for a, b in ((k.before, k.after), (k.after, k.before)) if a == one]
        mine = next(t for t in work.tasks if t.id == one).together
        todo += [t.id for t in work.tasks if mine and t.together == mine]
    return found


def hangs_on(work, later, earlier):
    """Whether a task waits for another one, near or far."""
    before = {k.before for k in work.links if k.after == later}
    return earlier in before or any(hangs_on(work, b, earlier) for b in before)


def plain_replay(work, order, drawn, windows, run):
    """One run, the slow way: what a maker does evening by evening."""
    tasks = [work.tasks[i] for i in order]
    left = {t.id: float(drawn.minutes[i, run]) for i, t in zip(order, tasks, strict=True)}
    ends: dict[str, float] = {}
    on: dict[str, str] = {}  # which machine a task took
    begun = None
    longest = max(b - a for a, b in windows)
    index = {t.id: i for i, t in enumerate(work.tasks)}
    mates = {t.id: mates_of(work, t) for t in tasks}
    large = {t.id for t in tasks if sum(left[m] for m in mates[t.id]) > longest}
    waits = {t.id: [k for k in work.links if k.after == t.id] for t in tasks}
    for link in work.links:  # who goes along waits for all that the others wait for, unless that waits for it
        for mate in mates[link.after] - {link.after}:
            known = [k.before for k in waits[mate]]
            if link.before not in mates[link.after] and link.before not in known and not hangs_on(work, link.before, mate):
                waits[mate].append(replace(link, after=mate, most=None))
    urgent: set[str] = set()

    def machine_free(machine):
        when = float(work.bench.free.get(machine, 0))
        if machine in work.bench.open_on:
            when = max(when, ends.get(work.bench.open_on[machine], float("inf")))
        for other in tasks:
            if on.get(other.id) == machine:
                clearing = next((t for t in tasks if t.clears == other.id), None)
                when = max(when, ends[other.id] + other.held if clearing is None else ends.get(clearing.id, float("inf")))
        return when

    def free_at(task, opens):
        when = float(task.release)
        for link in waits[task.id]:
            if link.before not in ends:
                return float("inf")
            when = max(when, ends[link.before] + link.lag * drawn.waits[index[link.before], run])
        if task.holds:
            when = max(when, min(machine_free(m) for m in task.holds))
        return float("inf") if any(a <= opens < b for a, b in task.barred) else when

    for k, ((opens, closes), missed) in enumerate(zip(windows, drawn.missed[:, run], strict=True)):
        if missed:
            continue
        now, out = float(opens), set()

        def charge(task, out=out):
            return 0.0 if task.setup in out else float(sum(work.bench.setups.get(task.setup, (0, 0))))

        def fits(task, now, k=k, opens=opens, closes=closes, charge=charge):
            if free_at(task, opens) > now:
                return False
            need = charge(task) + sum(left[m] for m in mates[task.id] if m not in ends)
            if task.id not in large and need > closes - now + OVER_MIN:
                return False
            for link in work.links:
                if link.before == task.id and link.most is not None and left[task.id] + left[link.after] <= longest:
                    same = now + need + link.lag + left[link.after] <= closes + OVER_MIN
                    if not same and not (k + 1 < len(windows) and windows[k + 1][0] <= now + need + link.most):
                        return False
            return True

        while now < closes and len(ends) < len(tasks):
            mine = begun
            if mine is None:
                open_tasks = [t for t in tasks if t.id not in ends]
                mine = next((t for t in open_tasks if t.id in urgent and free_at(t, opens) <= now), None)
                mine = mine or next((t for t in open_tasks if fits(t, now)), None)
            if mine is None:
                later = [x for x in (free_at(t, opens) for t in open_tasks) if x > now]
                now = min(later, default=float("inf"))
                continue
            extra = charge(mine)
            out.add(mine.setup)
            if left[mine.id] + extra <= closes - now + OVER_MIN:
                if mine.holds:
                    on[mine.id] = min(mine.holds, key=lambda m: (machine_free(m), m))
                now += left[mine.id] + extra
                left[mine.id] = 0.0
                ends[mine.id], begun = now, None
                urgent |= mates[mine.id] | {x.after for x in work.links if x.before == mine.id and x.most is not None}
            else:
                left[mine.id] -= min(left[mine.id], max(0.0, closes - now - extra))
                now, begun = float(closes), mine
    return [ends.get(t.id, float("inf")) for t in work.tasks]


def test_the_order_depends_on_what_is_printed_and_how_surely():
    project = random_project(6)
    assert project.prints
    look = Look(TODAY)
    file = PRINTS.at(project.prints[0].id)
    for edit in (
        put(file.then(lambda f: f.difficulty), "easy", "Easy"),
        put(PROJECT.then(lambda p: p.brief.rules.order), "whole" if project.brief.rules.order == "pieces" else "pieces", "Order"),
        put(SURFACES.at("s3").then(lambda s: s.piece), project.pieces[0].id, "Piece"),
    ):
        assert PLAN.key(apply(project, edit), look) != PLAN.key(project, look), edit.label


@pytest.mark.parametrize("seed", [s for s in range(40) if not make_plan(random_project(s), TODAY, draft=True).trouble][:24])
def test_the_odds_are_those_of_a_plain_replay(seed):
    project = random_project(seed)
    calendar = calendar_of(project.brief, TODAY, 120)
    work = work_left(project, 1.0, calendar)
    plan = make_plan(project, TODAY, effort=0.1)
    starts = {i.step: i.start for e in reversed(plan.evenings) for i in reversed(e.items)}
    order = sorted(range(len(work.tasks)), key=lambda i: (starts[work.step_of[work.tasks[i].id].id], work.parts[work.tasks[i].id]))
    drawn = odds_of.draw(work, len(calendar.windows), 25)
    ends = odds_of.play(work, order, drawn, calendar.windows)
    for run in range(25):
        np.testing.assert_allclose(ends[:, run], plain_replay(work, order, drawn, calendar.windows, run), rtol=0, atol=1e-6)


def test_there_are_no_odds_beside_an_order_that_cannot_be_kept(empty):
    surfaces = (Surface(id="a", name="A", inside=True),)
    late = (Step(id="shut", name="Shut", closes=("a",)), Step(id="paint", name="Paint", coat="acrylic", surfaces=("a",)))
    project = empty.but(surfaces=surfaces, steps=late, brief=empty.brief.but(deadline=date(2026, 12, 24)))
    assert make_plan(project, TODAY).odds is None
    assert make_plan(project.but(steps=late[::-1]), TODAY).odds is not None


def of_one_core(work, windows, seconds):
    """The finish in minutes that a plain CP-SAT model of one core finds: tasks that do not overlap and lie between the evenings, and lags."""
    model = cp_model.CpModel()
    begins = {t.id: model.new_int_var(t.release, windows[-1][1], t.id) for t in work.tasks}
    minutes = {t.id: t.minutes for t in work.tasks}
    busy = [model.new_interval_var(begins[t.id], t.minutes, begins[t.id] + t.minutes, t.id) for t in work.tasks]
    gaps = [(0, windows[0][0]), *((a[1], b[0]) for a, b in pairwise(windows))]
    busy += [model.new_fixed_size_interval_var(a, b - a, f"gap {a}") for a, b in gaps if b > a]
    model.add_no_overlap(busy)
    for link in work.links:
        model.add(begins[link.after] >= begins[link.before] + minutes[link.before] + link.lag)
    end = model.new_int_var(0, 10**6, "end")
    for task in work.tasks:
        model.add(end >= begins[task.id] + task.minutes + task.tail)
    model.minimize(end)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers, solver.parameters.max_time_in_seconds, solver.parameters.random_seed = 1, seconds, 1
    return solver.value(end) if solver.solve(model) in (cp_model.OPTIMAL, cp_model.FEASIBLE) else None


@pytest.mark.slow
def test_larger_plans_are_no_later_than_those_of_one_core():
    # 52 steps of 15 to 57 minutes that are not split, few of them on one surface: evenings hold one to four, and which decides.
    rng = np.random.default_rng(3)
    names = [f"s{k}" for k in range(10)]
    steps = []
    for k in range(52):
        m, coat = float(rng.integers(15, 58)), str(rng.choice(COATS[1:]))
        after = tuple(s.id for s in steps if rng.random() < 0.04)
        surfaces = tuple(n for n in names if rng.random() < 0.05)
        steps.append(Step(id=f"t{k}", name=f"T{k}", coat=coat, surfaces=surfaces, after=after, minutes=(m, m, m)))
    project = new_project("Large", TODAY)
    project = project.but(
        brief=project.brief.but(evenings=(0, 75, 60, 90, 75, 60, 90), bench_c=18), surfaces=tuple(Surface(id=n, name=n) for n in names), steps=tuple(steps)
    )  # fmt: skip
    plan, calendar = make_plan(project, TODAY), calendar_of(project.brief, TODAY, 200)
    assert faults(project, plan, TODAY) == []
    other = of_one_core(work_left(project, 1.0, calendar), calendar.windows[:70], 6)
    assert other is None or plan.finish <= calendar.when(other) + timedelta(days=1)
