# SPDX-License-Identifier: MIT
"""A quote that is taken: its money, its wait, its late days, and the steps that follow from it."""

from datetime import date, timedelta

import numpy as np
import pytest

from fondale.core.derived import JOBS, LEDGER, WEARS
from fondale.core.edits import Add, apply, put
from fondale.core.edits.printing import HandOver, take_quote
from fondale.core.model import PIECES, PRINTS, PROJECT, STEPS, Cut, Step
from fondale.core.model.prints import Ordered
from fondale.core.order.evenings import calendar_of
from fondale.core.order.odds import draw
from fondale.core.order.plan import make_plan
from fondale.core.order.work import work_left
from fondale.core.prints.jobs import all_plates, job_of, moneys
from fondale.core.prints.ordering import wait_days, wait_h
from fondale.core.prompts import all_prompts
from fondale.instruments import SERVICES, Request
from tests.conftest import TODAY, derive
from tests.core.test_prints import file_of, printed, shop

QUOTE = Ordered(service="Kiln & Comb", price=31.2, days=11, late_days=7, late_share=0.3, for_ml=8.0)


def ordered(project, quote=QUOTE, ident="f"):
    return apply(project, *take_quote(project, ident, quote))


@pytest.mark.parametrize("days", range(0, 31))
def test_so_many_working_days_last_at_most_so_long(days):
    """Counted day by day from every day of a week: what is told is the longest."""
    longest = 0
    for k in range(7):
        day, left = date(2026, 11, 23) + timedelta(k), days
        while left:
            day += timedelta(1)
            left -= day.weekday() < 5
        longest = max(longest, (day - date(2026, 11, 23) - timedelta(k)).days)
    assert wait_days(days) == longest


def test_its_money_is_what_was_quoted(empty):
    project = ordered(shop(empty, file_of(count=3)))
    assert moneys(project, {}) == {"f": 31.2}
    job = job_of(project, project.prints[0])
    assert job.cost * 3 == pytest.approx(31.2)
    assert job.hours == 0.0
    assert derive(project, TODAY)[LEDGER].prints == pytest.approx(31.2)


def test_it_takes_no_machine(empty):
    large = file_of(percent=900.0)
    project = shop(empty, large)
    assert job_of(project, large).too_large
    out = ordered(project)
    assert not job_of(out, out.prints[0]).too_large
    assert all_plates(out) == ()
    assert derive(out, TODAY)[WEARS]["m0"].adds == 0.0


def test_it_is_ordered_waited_for_and_joined(empty):
    cuts = (Cut(id="c", axis="z", at=0.5),)
    project = apply(printed(empty), put(PRINTS.at("f").then(lambda f: f.cuts), cuts, "Cut"))
    project = apply(project, HandOver("Steps", "f"))
    assert project.steps[0].duty == "print"
    out = ordered(project)
    first, join = out.steps
    assert (first.name, first.machine, first.wait_h) == ("Order Crane from Kiln & Comb", "", wait_h(QUOTE))
    assert join.after == (first.id,)
    back = ordered(out, None)
    assert [s.name for s in back.steps] == [s.name for s in project.steps]


def test_nothing_of_it_is_painted_before_it_is_here(empty):
    project = apply(printed(empty), HandOver("Steps", "f"))
    coat = Step(id="coat", name="Prime it", coat="primer", work="paint", pieces=("p",), minutes=(10, 15, 20))
    project = ordered(apply(project, Add("Add", STEPS, coat)))
    items = [i for e in make_plan(project, TODAY).evenings for i in e.items]
    ends, begins = {i.step: i.start + timedelta(minutes=i.minutes) for i in items}, {i.step: i.start for i in items}
    assert begins["coat"] - ends[project.steps[0].id] >= timedelta(hours=wait_h(QUOTE))


def test_parcels_are_late_as_often_as_is_said(empty):
    project = ordered(apply(printed(empty), HandOver("Steps", "f")))
    calendar = calendar_of(project.brief, TODAY)
    work = work_left(project, 1.0, calendar)
    waits = draw(work, 10, runs=20_000).waits[0]
    hours = (waits - 1) * wait_h(QUOTE)
    assert (hours > 0).mean() == pytest.approx(0.3, abs=0.01)
    assert hours.max() <= 7 * 24
    assert hours[hours > 0].mean() == pytest.approx(3.5 * 24, rel=0.03)
    never = ordered(project, QUOTE.but(late_share=0.0))
    assert np.ptp(draw(work_left(never, 1.0, calendar), 10, runs=200).waits) == 0


@pytest.mark.parametrize(("difficulty", "fails"), [("easy", 0.05), ("fair", 0.15), ("hard", 0.3)])
def test_prints_fail_as_often_and_cost_as_much_as_is_said(empty, difficulty, fails):
    """Common practice, no source: of ten fair prints one or two fail, each with a third of its run gone before anybody sees it."""
    project = apply(apply(printed(empty), put(PRINTS.at("f").then(lambda f: f.difficulty), difficulty, "How hard")), HandOver("Steps", "f"))
    work = work_left(project, 1.0, calendar_of(project.brief, TODAY))
    (run,) = (k for k, task in enumerate(work.tasks) if task.id in work.success)
    lost = draw(work, 10, runs=40_000).waits[run] - 1
    assert (lost > 0).mean() == pytest.approx(fails, abs=0.01)
    assert lost.mean() == pytest.approx(0.35 * fails / (1 - fails), rel=0.05)  # geometric: so many failures before one comes out
    assert lost[lost > 0].min() >= 0.17


def test_it_lies_on_nobodys_plates(empty):
    files = (file_of(), file_of().but(id="g", beside="f"), file_of().but(id="h"))
    out = ordered(shop(empty, *files))
    assert [f.beside for f in out.prints] == ["", "", ""]
    assert {p.lead for p in all_plates(out)} == {"g", "h"}
    out = ordered(shop(empty, *files), ident="g")
    assert [f.beside for f in out.prints] == ["", "", ""]


def test_a_quote_for_something_else_is_said(empty):
    project = ordered(shop(empty, file_of()))
    codes = lambda p: [f.numbers for f in all_prompts(derive(p, TODAY)) if f.code == "BENCH-QUOTE"]  # noqa: E731
    assert codes(project) == []
    larger = apply(project, put(PRINTS.at("f").then(lambda f: f.percent), 110.0, "Larger"))
    assert codes(larger) == [f"it was for 8 ml, and the file has {8 * 1.331:.1f}"]
    more = apply(project, put(PRINTS.at("f").then(lambda f: f.count), 2, "Two"))
    assert codes(more) == ["it was for 1 copy of 1 part, now it is 2 copies of 1 part"]
    typed = ordered(shop(empty, file_of()), QUOTE.but(for_ml=0.0))
    assert codes(apply(typed, put(PRINTS.at("f").then(lambda f: f.percent), 110.0, "Larger"))) == []


def test_every_service_says_how_late_it_is():
    for service in SERVICES:
        quote = service.quote(Request(8.0, (20, 10, 40), 0.0, "resin", 1))
        assert quote.late_days > 0
        assert 0 < quote.late_share < 1
        assert f"here in {quote.days} working days" in quote.words


def test_what_is_known_of_it_stays(empty):
    """Weight and sizes follow from the file, wherever it is printed."""
    project = printed(empty)
    project = apply(
        project, put(PIECES.at("p").then(lambda p: p.weight_g), 0.0, "Not weighed"), put(PROJECT.then(lambda p: p.brief.cap), 100.0, "Cap")
    )
    here, out = derive(project, TODAY)[JOBS]["f"], derive(ordered(project), TODAY)[JOBS]["f"]
    assert here.weight_g == pytest.approx(out.weight_g)
    assert here.lay == out.lay
