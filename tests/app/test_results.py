# SPDX-License-Identifier: MIT
import threading
from dataclasses import replace
from functools import partial

import pytest

from fondale.app import judge as judge_module
from fondale.app.document import Document
from fondale.app.errands import COUNT
from fondale.app.results import Results
from fondale.app.settings import SETTINGS, Settings
from fondale.app.workers import DirectWorkers, ProcessWorkers, Report, Request, fulfil
from fondale.core.derived import (
    AMPS,
    BY_NAME,
    FINE_LIGHT,
    FINE_PICTURE,
    LIGHT,
    OUTLINES,
    PICTURE,
    PLAN,
    QUICK,
    READINGS,
    RESULTS,
    STAGE,
    VIEWS,
)
from fondale.core.edits import put, remove
from fondale.core.fits.capacity import a_base, rectangle
from fondale.core.model import LAMPS, PIECES, PROJECT, STEPS
from fondale.core.progress import Quiet
from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.reckoning import Look, Reckoner
from tests.conftest import TODAY, boxed, figure
from tests.kept_workers import KeptWorkers


class Counting(KeptWorkers):
    """Answers at once, and remembers what it was asked for."""

    def __init__(self, tell) -> None:
        super().__init__(tell)
        self.asked: list[str] = []

    def reckon(self, names, project, look, given):
        self.asked.extend(names)
        return super().reckon(names, project, look, given)


@pytest.fixture
def results(hut):
    made = Results(Document(hut), TODAY)
    made.look_from(width=80)
    made.workers = Counting(made.take)
    made.connect(made.workers)
    yield made
    assert made.trouble == ""


def test_everything_is_derived_from_the_snapshot(results):
    results.refresh()
    assert results.busy == {}
    for result in RESULTS:
        assert results.fresh(result), result.name
    assert results.settled
    assert results[LIGHT].meters[0].lux > 0
    assert results[PICTURE].image.shape[1] == 80
    assert results[STAGE].owners.shape == results[STAGE].image.shape[:2]
    assert [f.code for f in results.prompts] == ["WIRE-SUPPLY", "COAT-LAYERS"]
    assert results.derived.project == results.document.project
    assert set(results.derived.values) == {r.name for r in RESULTS}


@pytest.mark.parametrize(
    ("spot", "value", "computed"),
    [
        (PROJECT.then(lambda p: p.brief.occasion), "Fair", set()),
        (PROJECT.then(lambda p: p.name), "Another", set()),
        (PIECES.at("hut").then(lambda p: p.name), "Box", set()),
        (PIECES.at("hut").then(lambda p: p.note), "Tin roof", set()),
        (LAMPS.at("stove").then(lambda m: m.name), "Ember", set()),
        (LAMPS.at("stove").then(lambda m: m.level), 0.5, {"light", "picture", "fine light", "fine picture"}),
        (PROJECT.then(lambda p: p.brief.cap), 99.0, {"ledger"}),
        (PROJECT.then(lambda p: p.brief.bench_c), 25.0, {"draft", "plan"}),
        (PROJECT.then(lambda p: p.brief.house_n), 76.0, {"readings", "ribbon"}),
        (STEPS.at("hut").then(lambda s: s.done), True, {"access", "chemistry", "astray", "effects", "missing", "draft", "plan"}),
    ],
)
def test_only_what_depends_on_an_edit_is_computed_again(results, spot, value, computed):
    results.refresh()
    results.workers.asked.clear()
    results.refresh()
    assert results.workers.asked == []
    results.document.do(put(spot, value, "Edit"))
    results.refresh()
    assert set(results.workers.asked) == computed
    assert results.settled


class Paused(Counting):
    """Holds refined light back until it is let go, and remembers what was stopped."""

    def __init__(self, tell) -> None:
        super().__init__(tell)
        self.stopped: list[str] = []

    def reckon(self, names, project, look, given):
        if names[0].startswith("fine"):
            self.asked.extend(names)
            self.held = (names, project, look, given)
            return 1_000
        return super().reckon(names, project, look, given)

    def stop(self, name: str) -> None:
        self.stopped.append(name)


def test_refined_light_takes_the_place_of_the_first_when_it_is_there(results):
    results.workers = Paused(results.take)
    results.connect(results.workers)
    results.refresh()
    first = results[LIGHT]
    assert results.fresh(LIGHT)
    assert not results.fresh(FINE_LIGHT)
    assert not results.settled  # papers wait for it
    assert "fine light" in results.workers.asked
    # An edit of the light lets go of what is being refined: it is of before, and in the way.
    results.document.do(put(LAMPS.at("stove").then(lambda m: m.level), 0.5, "Dim"))
    results.refresh()
    assert set(results.workers.stopped) == {"fine light", "fine picture"}
    assert results[LIGHT].meters[0].lux < first.meters[0].lux
    results.connect(KeptWorkers(results.take))
    results.requests.clear()
    results.refresh()
    assert results.settled
    coarse = results._known.get(LIGHT)
    assert results[LIGHT] is results._known.get(FINE_LIGHT) is results.derived[LIGHT]
    assert results[LIGHT] is not coarse
    assert results[LIGHT].meters[0].lux == pytest.approx(coarse.meters[0].lux, rel=0.02)
    assert results[PICTURE] is results._known.get(FINE_PICTURE)


def test_prompts_are_judged_on_the_snapshot_that_their_results_are_of(results):
    results.refresh()
    held: list = []
    results.connect(type("Held", (), {"reckon": lambda self, names, *rest: held.append(names) or 99, "stop": lambda self, name: None})())
    before = results.prompts
    # The coin cell is asked for more; until it is solved, what was said of it stays, and speaks of the snapshot that it is of.
    results.document.do(put(LAMPS.at("stove").then(lambda m: m.led), "red", "Red"))
    results.refresh(slow=False)
    assert any("supplies" in names for names in held)
    assert not results.fresh(AMPS)
    assert results.prompts == before
    # What is gone is not spoken of.
    results.document.do(remove(LAMPS, results.document.project.lamps[0]))
    coin = results.document.project.supplies[0]
    results.document.do(replace(remove(LAMPS, coin), listing=type(PIECES)("supplies", PROJECT.then(lambda p: p.supplies))))
    results.refresh(slow=False)
    assert [f.code for f in results.prompts] == ["COAT-LAYERS"]


def test_the_rules_speak_over_many_turns_and_are_told_once(results, monkeypatch):
    results.refresh()
    before = results.prompts
    turns, told = [], []
    results.news.soon = lambda: turns.append(results.prompts)
    results.changed.listen(lambda: told.append(results.prompts))
    monkeypatch.setattr(judge_module, "AT_ONCE_S", 0.0)
    results.document.do(remove(PIECES, results.document.project.find(PIECES, "hut")))
    results.refresh()
    while results.news.pending:
        assert not results.settled
        results.news.now()
    assert len(turns) > 8  # some rules have nothing new to judge
    assert all(set(seen) <= set(before) and not any((PIECES, "hut") in f.subjects for f in seen) for seen in turns[:8])
    at_once = Results(Document(results.document.project), TODAY)
    at_once.connect(KeptWorkers(at_once.take))
    at_once.refresh()
    assert told[-1] == at_once.prompts
    assert len(told) <= 2  # and once more when the ways out were tried


def test_who_edits_faster_than_the_rules_speak_has_the_numbers_all_the_same(results, monkeypatch):
    results.refresh()
    results.news.soon, told = lambda: None, []
    results.changed.listen(lambda: told.append(results.project))
    monkeypatch.setattr(judge_module, "AT_ONCE_S", 0.0)
    for k in range(6):
        results.document.do(put(PIECES.at("hut").then(lambda p: p.name), f"Hut {k}", "Name"))
        results.refresh()
        results.news.ask()
        results.news.now()  # one turn, and the next edit is there
    assert len(told) >= 5  # each edit tells what came of the one before, at least


def test_a_way_out_that_leads_to_the_next_prompt_is_not_offered(results, monkeypatch):
    steps = PROJECT.then(lambda p: p.steps)
    turned = Fix("Turn it all round", (put(steps, tuple(reversed(results.document.project.steps)), "Turn"),))
    gone = Fix("What is gone", (put(LAMPS.at("nobody").then(lambda m: m.level), 0.5, "Dim"),))
    kept = Fix("Dim it", (put(LAMPS.at("stove").then(lambda m: m.level), 0.5, "Dim"),))

    def offers(_project, _derived):
        yield Finding("TEST", "mind", "coats", "Something", "Do this.", "", fixes=(turned, gone, kept))

    monkeypatch.setattr(judge_module, "RULES", (Rule(offers), *judge_module.RULES))
    results.refresh()
    (one,) = [f for f in results.prompts if f.code == "TEST"]
    assert [f.label for f in one.fixes] == ["Dim it"]


def test_a_rule_that_trips_is_told_and_leaves_the_others_be(results, monkeypatch):
    def broken(_project, _derived):
        raise LookupError("the plank is gone")
        yield

    monkeypatch.setattr(judge_module, "RULES", (Rule(broken), *judge_module.RULES))
    results.refresh()
    assert [f.code for f in results.prompts] == ["WIRE-SUPPLY", "COAT-LAYERS"]
    assert "the plank is gone" in results.trouble
    results.trouble = ""


def test_a_rule_is_given_what_it_needs_and_nothing_else(results):
    def curious(_project, derived):
        yield derived[READINGS]

    results.refresh()
    with pytest.raises(LookupError, match="readings is not known"):
        Rule(curious).findings(results.derived)
    assert Rule(curious, READINGS).findings(results.derived) == (results[READINGS],)


@pytest.mark.parametrize("name", [r.name for r in QUICK] + ["light", "plan"])
def test_one_result_that_fails_leaves_the_others_be(hut, monkeypatch, name):
    def broken(_at):
        raise RuntimeError("no such luck")

    made = Results(Document(hut), TODAY)
    made.look_from(width=80)
    made.connect(KeptWorkers(made.take))
    monkeypatch.setitem(BY_NAME[name].__dict__, "compute", broken)
    made.refresh()
    assert "no such luck" in made.trouble
    dead = {name} | {r.name for r in RESULTS if any(n.name == name for n in r.needs)}
    dead |= {r.name for r in RESULTS if any(n.name in dead for n in r.needs)}
    dead |= {r.finer.name for r in RESULTS if r.name in dead and r.finer is not None}
    assert {r.name for r in RESULTS if not made.fresh(r)} == dead
    assert made.busy == {}
    # It is not asked for again and again, and what can be known is settled and judged.
    assert made.settled
    assert made.prompts


def test_light_that_follows_the_hand_comes_to_an_end_each_time(hut):
    """A hand is faster than light is solved: what is under way is heard out, then the newest is asked for, and nothing twice."""
    made = Results(Document(hut), TODAY)
    made.look_from(width=80)
    sent = []

    class Slow:
        def reckon(self, names, project, look, given):
            sent.append((names, project, look, given))
            return len(sent)

        def ask(self, *_errand):
            return 0

        def stop(self, name):
            pass

    made.connect(Slow())
    made.dragging = True

    def step(z):
        made.document.do(put(LAMPS.at("stove").then(lambda m: m.z), z, "Move", "lamp"))
        made.follow_light()

    def answered(number):
        names, project, look, given = sent[number]
        report = fulfil(Request(number + 1, names, project, look, given), Reckoner(), lambda _name: Quiet())
        made.take(report)

    for z in (10.0, 11.0, 12.0):
        step(z)
    assert [names for names, *_rest in sent] == [("light",), ("picture",)]
    answered(0)
    assert len(sent) == 2  # the picture is still under way
    answered(1)
    assert [project.get(LAMPS, "stove").z for _names, project, *_rest in sent] == [10.0, 10.0, 12.0, 12.0]
    answered(2)
    answered(3)
    assert len(sent) == 4
    assert made.fresh(LIGHT)
    assert made.fresh(PICTURE)


def test_stale_reports_are_dropped(results):
    results.refresh()
    plan = results[PLAN]
    results.take(Report("done", 6, results={"plan": "old"}))
    assert results[PLAN] is plan


def test_an_answer_that_comes_after_undo_does_not_displace_what_is_right(results):
    results.refresh()
    right = results[READINGS]
    sent: list = []
    results.connect(type("Held", (), {"reckon": lambda self, names, *rest: sent.append(names) or 7, "stop": lambda self, name: None})())
    results.document.do(put(PROJECT.then(lambda p: p.brief.house_n), 76.0, "Scale"))
    results.refresh(slow=False)
    results.document.undo()
    results.refresh(slow=False)
    results.take(Report("done", 7, results=dict.fromkeys(sent[0], "of the other snapshot")))
    assert results[READINGS] is right
    assert results.fresh(READINGS)


def test_trouble_in_a_result_is_kept_apart_from_the_last_good_one(results, monkeypatch):
    results.refresh()
    good = results[PLAN]

    def broken(_at):
        raise RuntimeError("no such luck")

    monkeypatch.setitem(PLAN.__dict__, "compute", broken)
    results.document.do(put(PROJECT.then(lambda p: p.brief.bench_c), 25.0, "Warm"))
    results.refresh()
    assert results[PLAN] is good
    assert not results.fresh(PLAN)
    assert "no such luck" in results.trouble
    results.trouble = ""


def test_while_something_is_dragged_the_slow_ones_rest(results):
    results.refresh()
    results.workers.asked.clear()
    results.dragging = True
    place = PIECES.at("figure-1").then(lambda p: p.place)
    results.document.do(put(place, results.document.project.pieces[2].place.but(x=40.0), "Move"))
    results.refresh(slow=False)
    assert VIEWS.name in results.workers.asked
    assert not {LIGHT.name, PICTURE.name, PLAN.name, OUTLINES.name} & set(results.workers.asked)
    assert not results.settled
    results.dragging = False
    results.refresh()
    assert results.settled


def test_a_project_without_seats_or_meters(empty):
    project = boxed(empty, figure()).model_copy(update={"seats": ()})
    made = Results(Document(project), TODAY)
    made.connect(DirectWorkers(made.take))
    made.refresh()
    assert made.trouble == ""
    assert made.settled
    assert (made[STAGE], made[PICTURE], made[LIGHT]) == (None, None, None)
    assert made.look.seat_of(project) == ""


def test_opening_another_document_begins_anew(results, glass):
    results.refresh()
    results.open(Document(glass))
    assert results[PLAN] is None
    results.refresh()
    assert results[PICTURE].seat == "desk"


@pytest.mark.slow
def test_worker_processes_answer_report_progress_and_stop(hut):
    reports: list[Report] = []
    heard = threading.Semaphore(0)

    def tell(report: Report) -> None:
        reports.append(report)
        if report.kind == "done":
            heard.release()

    workers = ProcessWorkers(tell)
    look = Look(TODAY, width=80)
    try:
        first = workers.reckon(("light",), hut, look, (("amps", {}),))
        second = workers.reckon(("light",), hut, look, (("amps", {}),))
        quick = workers.reckon(tuple(r.name for r in QUICK), hut, look, ())
        errand = workers.ask("count", rectangle(60, 40), None, partial(a_base, 20.0, True, 5.0), 1.0, "", 0.0, ())
        for _ in range(4):
            assert heard.acquire(timeout=60)
    finally:
        workers.close()
    ends = {r.ticket: r for r in reports if r.kind == "done"}
    assert ends[second].results["light"].meters
    assert set(ends[quick].results) == {r.name for r in QUICK}
    assert not ends[first].failures
    assert ends[errand].good
    assert ends[errand].found[0].count > 0
    assert any(r.kind == "progress" for r in reports)


@pytest.mark.slow
def test_a_broken_request_fails_alone(hut):
    reports: list[Report] = []
    heard = threading.Semaphore(0)
    workers = ProcessWorkers(lambda report: (reports.append(report), heard.release() if report.kind == "done" else None))
    try:
        workers.reckon(("readings",), "not a project", Look(TODAY), ())
        workers.reckon(("plan",), hut, Look(TODAY), ())
        workers.ask("count", "not a plan", 40.0, None, 1.0, "", 0.0)
        for _ in range(3):
            assert heard.acquire(timeout=60)
    finally:
        workers.close()
    done = sorted((r for r in reports if r.kind == "done"), key=lambda r: r.ticket)
    assert [sorted(r.failures) for r in done] == [["readings"], [], ["count"]]
    assert done[1].results["plan"].evenings


def test_an_errand_is_done_once_and_told(results):
    found: list[Report] = []
    assert results.errands.ask(COUNT, (rectangle(60, 40), None, partial(a_base, 20.0, True, 5.0), 1.0, "", 0.0, ()), found.append)
    assert found[0].good
    assert not results.errands.doing(COUNT)
    assert results.busy == {}


def test_settings_are_declared_lenient_and_remembered(tmp_path):
    settings = Settings(tmp_path)
    for setting in SETTINGS:
        assert settings.get(setting.name) == setting.default
        assert setting.words
    settings.set("lighting", "down")
    settings.opened(tmp_path / "a.fondale")
    settings.opened(tmp_path / "b.fondale")
    settings.opened(tmp_path / "a.fondale")
    again = Settings(tmp_path)
    assert again.get("lighting") == "down"
    assert [p.rsplit("/", 1)[-1] for p in again.get("recent")] == ["a.fondale", "b.fondale"]


@pytest.mark.parametrize("text", ["", "[]", "{", '{"lighting": "purple", "motion": 3, "recent": "x"}'])
def test_odd_settings_fall_back(tmp_path, text):
    (tmp_path / "settings.json").write_text(text)
    settings = Settings(tmp_path)
    assert settings.get("lighting") == "up"
    assert settings.get("recent") == []
