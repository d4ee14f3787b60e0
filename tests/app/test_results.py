import threading
import time

import pytest

from fondale.app.document import Document
from fondale.app.errands import ERRANDS
from fondale.app.results import Results
from fondale.app.settings import SETTINGS, Settings
from fondale.app.tasks import TASKS
from fondale.app.workers import LANES, DirectWorkers, ProcessWorkers, Report
from fondale.core.edits import put
from fondale.core.model import LAMPS, PROJECT
from fondale.core.prompts import rules
from tests.conftest import TODAY, boxed, figure


@pytest.fixture
def results(hut):
    made = Results(Document(hut), TODAY)
    made.connect(DirectWorkers(made.take))
    return made


def test_everything_is_derived_from_the_snapshot(results):
    results.view_width = 80
    results.refresh()
    assert results.busy == {}
    assert results.trouble == ""
    for task in TASKS:
        assert results.fresh(task), task
    assert results.light.meters[0].lux > 0
    assert results.picture.image.shape[1] == 80
    assert results.stage.owners.shape == results.stage.image.shape[:2]
    assert [f.code for f in results.prompts] == ["WIRE-SUPPLY", "COAT-LAYERS"]


def test_a_rule_that_trips_leaves_the_others_be(results, monkeypatch):
    def broken(_project, _derived):
        raise LookupError("the plank is gone")
        yield

    monkeypatch.setattr(rules, "RULES", (broken, *rules.RULES))
    results.view_width = 80
    results.refresh()
    assert [f.code for f in results.prompts] == ["WIRE-SUPPLY", "COAT-LAYERS"]
    assert "the plank is gone" in results.trouble
    # With results of an older snapshot that is no news: fresher ones are on their way.
    results.trouble = ""
    results.document.do(put(PROJECT.then(lambda p: p.brief.bench_c), 15.0, "Warmer"))
    results._judge()
    assert results.trouble == ""


def test_only_what_is_stale_is_asked_for(results):
    results.view_width = 80
    results.refresh()
    asked = []
    results.connect(type("Ear", (), {"ask": lambda self, task, *args: asked.append(task) or 99, "stop": lambda self, task: None})())
    results.refresh()
    assert asked == []
    results.document.do(put(PROJECT.then(lambda p: p.brief.occasion), "Fair", "Occasion"))
    results.refresh()
    assert asked == ["quick"]
    results.document.do(put(LAMPS.at("stove").then(lambda m: m.level), 0.5, "Level"))
    results.refresh()
    assert sorted(set(asked)) == ["light", "picture", "quick"]


def test_stale_reports_are_dropped(results):
    results._tickets["plan"] = 7
    results.take(Report("done", "plan", 6, result="old"))
    assert results.plan is None


def test_trouble_in_a_task_is_kept_apart_from_the_last_good_result(results, monkeypatch):
    results.view_width = 80
    results.refresh()
    good = results.plan

    def broken(job, *args):
        raise RuntimeError("no such luck")

    monkeypatch.setitem(TASKS, "plan", broken)
    results.document.do(put(PROJECT.then(lambda p: p.brief.bench_c), 25.0, "Warm"))
    results.refresh()
    assert results.plan is good
    assert "no such luck" in results.trouble


def test_a_project_without_seats_or_meters(empty):
    project = boxed(empty, figure()).model_copy(update={"seats": ()})
    made = Results(Document(project), TODAY)
    made.connect(DirectWorkers(made.take))
    made.refresh()
    assert made.trouble == ""
    assert made.stage is None
    assert made.picture is None
    assert made.light is None
    assert made.seat_of(project) == ""


def test_opening_another_document_begins_anew(results, glass):
    results.view_width = 80
    results.refresh()
    results.open(Document(glass))
    assert results.plan is None
    results.refresh()
    assert results.picture.seat == "desk"


@pytest.mark.slow
def test_worker_processes_answer_report_progress_and_stop(hut):
    reports: list[Report] = []
    done = threading.Event()

    def tell(report: Report) -> None:
        reports.append(report)
        if sum(r.kind in ("done", "stopped", "failed") for r in reports) >= 3:
            done.set()

    workers = ProcessWorkers(tell)
    try:
        first = workers.ask("light", hut, {})
        second = workers.ask("light", hut, {})
        quick = workers.ask("quick", hut)
        assert done.wait(60)
    finally:
        workers.close()
    ends = {r.ticket: r.kind for r in reports if r.kind != "progress"}
    assert ends[second] == "done"
    assert ends[quick] == "done"
    assert ends[first] in ("stopped", "done")
    assert any(r.kind == "progress" for r in reports)


@pytest.mark.slow
def test_a_broken_request_fails_alone(hut):
    reports: list[Report] = []
    workers = ProcessWorkers(reports.append)
    try:
        workers.ask("quick", "not a project")
        workers.ask("plan", hut, TODAY)
        end = time.monotonic() + 60
        while time.monotonic() < end and {r.kind for r in reports if r.kind != "progress"} != {"failed", "done"}:
            time.sleep(0.05)
    finally:
        workers.close()
    assert {r.task: r.kind for r in reports if r.kind != "progress"} == {"quick": "failed", "plan": "done"}


def test_every_task_has_a_lane():
    assert set(LANES) == {*TASKS, *ERRANDS}


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
