# SPDX-License-Identifier: MIT
"""One thread from an empty project: two files on one printer, a face of one of them, its primer, and what is done and still wet."""

from datetime import datetime, time, timedelta

import trimesh
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from fondale.core.derived import PLAN
from fondale.core.model import PRINTS, STEPS
from tests.conftest import TODAY
from tests.core.plan_judge import faults
from tests.qt.conftest import answers, desk  # noqa: F401  fixtures


def starts(d):
    return {i.step: i.start for e in d.session.results[PLAN].evenings for i in e.items}


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


def named(d, name):
    """The id of the step of that name."""
    return next(s.id for s in d.project.steps if s.name == name)


def add_steps(d, coats, waiting, *names):
    for name in names:
        waiting.append(name)
        d.click(d.button(coats, "Add a step"))
        QApplication.processEvents()


def pick(d, button, *texts):
    """Press a word, and choose what is found by typing."""
    d.click(button)
    for text in texts:
        button.finder.line.setFocus()
        button.finder.line.clear()
        QTest.keyClicks(button.finder.line, text)
        d.key(Qt.Key.Key_Return, on=button.finder.line)
    button.finder.close()
    QApplication.processEvents()


def coat(d, coats, name):
    """Choose a coat by words of its name, in the list that opens."""
    box = coats.ticket.coat.box
    box.showPopup()
    QTest.keyClicks(box.finder.line, name)
    d.key(Qt.Key.Key_Return, on=box.finder.line)
    QApplication.processEvents()


def test_a_kiosk_from_nothing_to_its_odds(desk, empty, tmp_path, answers):  # noqa: F811
    """Two printed parts on one printer, an inside that is shut with a lamp in it, a lift-off pair, a batch, and a date."""
    d = desk(empty)
    d.refresh()
    bench = d.station("bench")
    for name, high in (("kiosk", 40), ("roof", 20)):
        trimesh.creation.box((20, 20, high)).export(tmp_path / f"{name}.stl")
    d.click(d.button(bench, "Print shop"))
    d.settle()
    bench.page.files.ask_unit = lambda first, count: "mm"
    bench.page.files.bring(tuple(str(tmp_path / f"{n}.stl") for n in ("kiosk", "roof")))
    d.settle()
    d.session.select(PRINTS, "roof")
    d.settle("quick")
    bench.page._beside.box.activated.emit(1)  # the roof is printed on the plate of the kiosk
    assert d.project.get(PRINTS, "roof").beside == "kiosk"
    d.click(d.button(bench.page, "Hand its steps to Coats"))
    d.settle("quick")
    assert [s.name for s in d.project.steps if s.machine] == ["Print Kiosk and 1 beside it"]

    lamps = d.station("lamps")
    lamps._add_lamp()
    QApplication.processEvents()
    within = next(f for f, _r in lamps.ticket.rows if getattr(f, "box", None) is not None and f.box.accessibleName() == "in")
    within.box.activated.emit(1)
    (lamp,) = d.project.lamps
    assert lamp.piece == d.project.pieces[0].id

    coats, ticket = d.station("coats"), None
    ticket = coats.ticket
    for surface in ("Kiosk inside", "Kiosk outside"):
        answers.append(surface)
        d.click(d.button(coats, "Add a surface"))
        QApplication.processEvents()
        coats.surface_ticket.piece.box.activated.emit(1)
    add_steps(d, coats, answers, "Prime the kiosk")
    assert {"kiosk-inside", "kiosk-outside"} == set(d.project.get(STEPS, d.session.chosen(STEPS)).surfaces)  # it names the kiosk
    coat(d, coats, "primer spray")
    add_steps(d, coats, answers, "Chips fluid")
    coat(d, coats, "chipping")
    pick(d, ticket.works_on, "Kiosk outside")
    add_steps(d, coats, answers, "Sea green")
    coat(d, coats, "water acrylic")
    pick(d, ticket.works_on, "Kiosk outside")
    d.type(ticket.minutes.edit, "32 x 1 + 8")
    assert d.project.get(STEPS, d.session.chosen(STEPS)).minutes[1] == 40
    add_steps(d, coats, answers, "Lift the chips")
    ticket._tie_to("within", named(d, "Sea green")) if not answers.append("24 h") else None
    ticket.dryness.box.activated.emit(1)
    add_steps(d, coats, answers, "Wire the lamp")
    ticket.work.box.activated.emit(4)
    pick(d, ticket.works_on, "wires Lamp")
    add_steps(d, coats, answers, "Fit the roof")
    pick(d, ticket.closes, "Kiosk inside")
    brief = d.station("brief")
    d.type(brief.page.deadline.edit, (TODAY + timedelta(days=40)).isoformat())
    d.refresh()

    project, plan = d.project, d.session.results[PLAN]
    by_name = {s.name: s for s in project.steps}
    assert by_name["Wire the lamp"].wires == (lamp.id,)
    assert by_name["Fit the roof"].closes == ("kiosk-inside",)
    assert by_name["Lift the chips"].ties[0].hours == 24
    assert faults(project, plan, TODAY) == []
    at = starts(d)
    order = [named(d, n) for n in ("Prime the kiosk", "Chips fluid", "Sea green", "Lift the chips")]
    assert [i for i in sorted(at, key=at.get) if i in order] == order
    assert all(at[i] > at[s.id] for i in order for s in project.steps if s.file)
    assert at[order[3]] - at[order[2]] < timedelta(hours=24, minutes=40)
    assert plan.odds is not None
    # The lamp is shut in before anybody has tested it: the prompt says so, and its way out puts a test before the roof.
    d.station("coats")
    card = d.card("COAT-TEST")
    d.click(d.button(card, "Test before closing"))
    d.refresh()
    test = next(s for s in d.project.steps if s.work == "test")
    at = starts(d)
    assert at[named(d, "Wire the lamp")] < at[test.id] < at[named(d, "Fit the roof")]
    assert faults(d.project, d.session.results[PLAN], TODAY) == []
    assert "COAT-TEST" not in {f.code for f in d.session.results.prompts}
