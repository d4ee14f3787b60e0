"""One thread from an empty project: two files on one printer, a face of one of them, its primer, and what is done and still wet."""

from datetime import datetime, time, timedelta

import pytest
import trimesh
from PySide6.QtWidgets import QApplication, QInputDialog

from fondale.core.derived import PLAN
from fondale.core.model import PRINTS, STEPS
from tests.conftest import TODAY
from tests.core.plan_judge import faults
from tests.qt.conftest import desk  # noqa: F401  a fixture


def starts(d):
    return {i.step: i.start for e in d.session.results[PLAN].evenings for i in e.items}


@pytest.fixture
def answers(monkeypatch):
    """What is typed into the next dialog."""
    waiting: list[str] = []
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: (waiting.pop(0), True))
    return waiting


def test_printed_cleaned_painted_and_dry_in_that_order(desk, empty, tmp_path, answers):  # noqa: F811
    d = desk(empty)
    d.refresh()
    for name, high in (("crane", 40), ("crate", 60)):
        trimesh.creation.box((20, 20, high)).export(tmp_path / f"{name}.stl")
    bench = d.station("bench")
    d.click(d.button(bench, "Print shop"))
    d.settle()
    bench.page.files.ask_unit = lambda first, count: "mm"
    bench.page.files.bring(tuple(str(tmp_path / f"{n}.stl") for n in ("crane", "crate")))
    d.settle()
    for file in d.project.prints:
        d.session.select(PRINTS, file.id)
        d.settle("quick")
        for _ in range(2):  # a second press doubles nothing
            d.click(d.button(bench.page, "Hand its steps to Coats"))
            d.settle("quick")
    assert len(d.project.steps) == 8
    (machine,) = d.project.brief.machines
    assert {s.machine for s in d.project.steps} == {machine.id, ""}

    coats = d.station("coats")
    answers += ["Crane, all round", "Prime the crane"]
    d.click(d.button(coats, "Add a surface"))
    QApplication.processEvents()
    coats.surface_ticket.piece.box.activated.emit(1)
    d.click(d.button(coats, "Add a step"))
    QApplication.processEvents()
    coats.ticket.coat.box.activated.emit(1)
    prime = next(s for s in d.project.steps if s.coat)
    assert prime.surfaces == ("crane-all-round",)
    d.refresh()
    plan, at = d.session.results[PLAN], starts(d)
    assert faults(d.project, plan, TODAY) == []
    runs = sorted(at[s.id] for s in d.project.steps if s.machine)
    assert runs[1] > runs[0] + timedelta(hours=1)
    assert at[prime.id] > max(at[s.id] for s in d.project.steps if s.file == "crane")

    # The crane is done this afternoon: the primer may go on at once, the second coat has to wait until that is dry.
    for step in [s for s in d.project.steps if s.file == "crane"]:
        d.session.select(STEPS, step.id)
        QApplication.processEvents()
        d.click(coats.ticket.done)
        d.type(coats.ticket.finished.edit, f"{TODAY} 10:00")
    d.refresh()
    assert starts(d)[prime.id].date() == TODAY
    d.session.select(STEPS, prime.id)
    QApplication.processEvents()
    d.click(coats.ticket.done)
    d.type(coats.ticket.finished.edit, f"{TODAY} 18:59")
    answers.append("Paint the crane")
    d.click(d.button(coats, "Add a step"))
    QApplication.processEvents()
    d.refresh()
    paint = d.project.steps[-1]
    assert starts(d)[paint.id] > datetime.combine(TODAY, time(19))
    assert faults(d.project, d.session.results[PLAN], TODAY) == []
