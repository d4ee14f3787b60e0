# SPDX-License-Identifier: MIT
"""What was hard to reach is under the hand: openings, aims, ties, half-done work, the same thing again, lists found by typing."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QObject, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from fondale.core.derived import DRAFT, LIGHT, PLAN
from fondale.core.edits import apply, put, remove
from fondale.core.edits.new_things import add_piece
from fondale.core.light.desk import LightDesk
from fondale.core.model import LAMPS, METERS, PIECES, PRINTS, SEATS, STEPS, Draft, Lamp, Meter, Piece, Seat, Step, Surface
from fondale.core.model.shapes import Box, Wall
from fondale.core.shapes import KINDS
from tests.conftest import TODAY, boxed, figure


def on_stage(desk, empty):
    """A window on Stage with one wall, chosen."""
    edit, ident = add_piece(empty, next(k for k in KINDS if k.model is Wall))
    d = desk(apply(empty, edit))
    d.refresh()
    stage = d.station("stage").page
    d.session.select(PIECES, ident)
    QApplication.processEvents()
    return d, stage, ident


def test_openings_are_added_dragged_sized_and_copied(desk, empty):
    d, stage, ident = on_stage(desk, empty)
    shape = lambda: d.project.get(PIECES, ident).shape  # noqa: E731
    count = len(shape().openings)
    stage._change_openings("add")
    QApplication.processEvents()
    assert len(shape().openings) == count + 1
    face = stage.face
    assert face.isVisible()
    before = shape().openings[-1]
    box = face.box_of(before)
    scale = box.width() / before.width
    d.drag(face, box.center(), box.center() + QPointF(-10 * scale, -5 * scale))
    moved = shape().openings[-1]
    assert moved.x == pytest.approx(before.x - 10, abs=0.6)
    assert moved.z == pytest.approx(before.z + 5, abs=0.6)
    corner = face.box_of(moved).topRight()
    d.drag(face, corner, corner + QPointF(6 * scale, 0))
    assert shape().openings[-1].width == pytest.approx(before.width + 6, abs=0.6)
    d.key(Qt.Key.Key_Right, on=face)
    assert shape().openings[-1].x == pytest.approx(moved.x + 1)
    stage._change_openings("copy")
    assert len(shape().openings) == count + 2
    stage._change_openings("close")
    assert len(shape().openings) == count + 1
    d.session.document.undo()
    assert len(shape().openings) == count + 2


def test_a_lamp_is_moved_and_aimed_in_plan_and_section(desk, empty):
    lamp = Lamp(id="l", name="L", x=100, y=80, z=150)
    d = desk(empty.but(lamps=(lamp,)), width=1500, height=1000)  # a pixel is half a millimetre
    d.refresh()
    stage = d.station("stage").page
    stage.plan.setFocus()
    at = stage.plan.to_screen(100, 80)
    d.drag(stage.plan, at, stage.plan.to_screen(120, 90))
    now = d.project.get(LAMPS, "l")
    assert (now.x, now.y) == (pytest.approx(120, abs=1), pytest.approx(90, abs=1))
    assert d.session.chosen(LAMPS) == "l"
    # It looks down: in the section its handle is below it. Pulled to the front it looks to the front.
    section = stage.section
    handle = section.to_screen(now.y, now.z - 45)
    d.drag(section, handle, section.to_screen(now.y - 45, now.z))
    aimed = d.project.get(LAMPS, "l")
    assert np.allclose((aimed.ax, aimed.ay, aimed.az), (0, -1, 0), atol=0.05)
    lamps = d.station("lamps")
    aim = next(f for f, _r in lamps.ticket.rows if getattr(f, "caption", "") == "aims")
    assert aim.edit.text() == "front"
    d.type(aim.edit, "30° down to the left")
    assert d.project.get(LAMPS, "l").az == pytest.approx(-0.5)
    d.type(aim.edit, "somewhere")
    assert "30° down to the left" in aim.error


SEAT = Seat(id="s", name="S", y=-500)


def lit_room(desk, empty, **more):
    lamps = (Lamp(id="l", name="L", x=150, y=80, z=150), Lamp(id="k", name="K", x=60, y=150, z=190))
    meters = (Meter(id="m", name="M", x=180, y=100, z=0.5), Meter(id="w", name="W", x=40, y=199, z=90, nx=0, ny=-1, nz=0))
    d = desk(boxed(empty, figure("a", 220, 100)).but(lamps=lamps, meters=meters, seats=(SEAT,), **more))
    d.refresh()
    station = d.station("lamps")
    d.settle()
    return d, station, station.view


def test_lamps_are_moved_in_the_lit_view_and_their_light_follows(desk, empty):
    d, station, view = lit_room(desk, empty)
    at = view.project_point(150, 80, 150)
    before = d.session.results[LIGHT]
    d.drag(view, at, view.project_point(190, 80, 120), steps=8)
    lamp = d.project.get(LAMPS, "l")
    assert (lamp.x, lamp.z) == (pytest.approx(190, abs=2), pytest.approx(120, abs=2))
    assert lamp.y == 80
    assert station._chosen() == (LAMPS, "l")
    d.settle()
    assert d.session.results[LIGHT].meters[0].lux > 1.2 * before.meters[0].lux
    assert not d.session.results.dragging
    d.session.document.undo()  # one step
    assert d.project.get(LAMPS, "l").z == 150
    # To and fro on its level.
    view.setFocus()
    start, end = view.project_point(150, 80, 150), view.project_point(150, 120, 150)
    QTest.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, start.toPoint())
    held(view, end, Qt.KeyboardModifier.ShiftModifier)
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, end.toPoint())
    lamp = d.project.get(LAMPS, "l")
    assert (lamp.x, lamp.y, lamp.z) == (pytest.approx(150, abs=3), pytest.approx(120, abs=12), 150)
    # Never out of the case.
    d.drag(view, view.project_point(lamp.x, lamp.y, 150), QPointF(2, 2))
    lamp = d.project.get(LAMPS, "l")
    assert 0 <= lamp.x <= 300
    assert lamp.z <= 200
    # And by keys.
    d.key(Qt.Key.Key_Right, on=view)
    d.key(Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier, on=view)
    d.key(Qt.Key.Key_PageUp, on=view)
    moved = d.project.get(LAMPS, "l")
    assert (moved.x, moved.y, moved.z) == (pytest.approx(lamp.x + 1), pytest.approx(lamp.y + 1), pytest.approx(lamp.z - 10))


def held(view, to, modifiers):
    """A move with a button held, which QTest cannot send together with a key."""
    left = Qt.MouseButton.LeftButton
    event = QMouseEvent(QEvent.Type.MouseMove, to, view.mapToGlobal(to), Qt.MouseButton.NoButton, left, modifiers)
    QApplication.sendEvent(view, event)


def test_meters_are_moved_over_the_surface_that_they_lie_on(desk, empty):
    d, station, view = lit_room(desk, empty)
    station._choose(METERS, "m")
    d.settle()
    d.drag(view, view.project_point(180, 100, 0.5), view.project_point(100, 60, 0.5))
    floor = d.project.get(METERS, "m")
    assert (floor.x, floor.y, floor.z) == (pytest.approx(100, abs=3), pytest.approx(60, abs=8), 0.5)  # a pixel is some mm deep
    assert floor.x == round(floor.x)
    # Where it is let go, it is: its ticket is smaller than a lamp's, and the picture has grown.
    d.settle()
    station._choose(LAMPS, "l")
    d.settle()
    box, to = view.box(), QPointF(20, -10)
    begin = view.project_point(floor.x, floor.y, floor.z)
    QTest.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, begin.toPoint())
    d.settle()
    held(view, begin + to, Qt.KeyboardModifier.NoModifier)
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, (begin + to).toPoint())
    assert view.box() != box
    floor = d.project.get(METERS, "m")
    assert (view.project_point(floor.x, floor.y, floor.z) - begin - to).manhattanLength() < 4
    assert station._chosen() == (METERS, "m")
    d.key(Qt.Key.Key_Up, on=view)
    assert d.project.get(METERS, "m").y == pytest.approx(floor.y + 1)
    d.drag(view, view.project_point(40, 199, 90), view.project_point(80, 199, 60))
    wall = d.project.get(METERS, "w")
    assert (wall.x, wall.y, wall.z) == (pytest.approx(80, abs=3), 199, pytest.approx(60, abs=3))
    d.click(view, QPointF(3, 3))  # beside all of them
    assert station._chosen() == (METERS, "w")
    view.grab()
    # What is held by no seat cannot be taken hold of.
    d.session.do(remove(SEATS, SEAT))
    d.settle()
    d.drag(view, QPointF(100, 100), QPointF(140, 100))
    assert d.project.get(METERS, "w") == wall


def test_a_piece_is_lifted_by_keys_and_stands_again(desk, empty):
    d, stage, ident = on_stage(desk, empty)
    d.key(Qt.Key.Key_Up, on=stage.section)
    assert d.project.get(PIECES, ident).place.z == 1
    up = next(f for f, _r in stage.ticket.rows if getattr(f, "caption", "") == "up")
    d.type(up.edit, "stands")
    assert d.project.get(PIECES, ident).place.z is None


def test_ties_are_made_and_let_go_by_hand(desk, empty, answers):
    steps = (Step(id="a", name="Green coat"), Step(id="b", name="Lift the chips"))
    d = desk(empty.but(steps=steps))
    d.refresh()
    coats = d.station("coats")
    d.session.select(STEPS, "b")
    QApplication.processEvents()
    answers.append("2 h")
    coats.ticket.tie("within")
    QTest.keyClicks(coats.ticket.finder.line, "green")
    d.key(Qt.Key.Key_Return, on=coats.ticket.finder.line)
    (tie,) = d.project.get(STEPS, "b").ties
    assert (tie.step, tie.kind, tie.hours) == ("a", "within", 2)
    assert coats.ticket.tied.text().startswith("within 2 h 00 after")
    assert coats.ticket.tied.toolTip() == "within 2 h 00 after “Green coat”"
    assert not coats.ticket._floats.isVisible()
    answers.append("30 min")
    offered = dict(coats.ticket._ties())
    offered["within 2 h 00 after “Green coat”: other hours…"]()
    assert [t.hours for t in d.project.get(STEPS, "b").ties] == [0.5]
    dict(coats.ticket._ties())["× within 30 min after “Green coat”"]()
    assert d.project.get(STEPS, "b").ties == ()


def test_a_tie_that_cannot_be_kept_is_a_prompt_with_a_cure(desk, empty, answers):
    steps = (Step(id="a", name="A", coat="enamel", surfaces=("s",)), Step(id="b", name="B", coat="acrylic", surfaces=("s",)))
    d = desk(empty.but(surfaces=(Surface(id="s", name="S"),), steps=steps))
    coats = d.station("coats")
    d.session.select(STEPS, "b")
    answers.append("2 h")
    coats.ticket._tie_to("within", "a")
    d.refresh()
    card = d.card("PLAN-TIE")
    assert "may go on only 24 h" in card.finding.text
    d.click(d.button(card, "Let it go into wet paint"))
    d.refresh()
    assert d.project.get(STEPS, "b").dryness == "wet"
    assert "PLAN-TIE" not in {f.code for f in d.session.results.prompts}


def test_half_done_work_is_written_down_and_counts(desk, empty):
    d = desk(empty.but(steps=(Step(id="a", name="A", minutes=(30, 40, 60)), Step(id="b", name="B"))))
    d.refresh()
    diary = d.station("diary")
    d.type(diary.begun_min.edit, "5")  # of what? it says so, and nothing is lost
    assert d.project.tonight == Draft()
    diary.begun.box.activated.emit(1)
    d.type(diary.begun_min.edit, "25")
    d.type(diary.minutes.edit, "30")
    d.click(diary.write)
    (page,) = d.project.pages
    assert (page.begun, page.done, page.day) == ({"a": 25.0}, (), TODAY)
    d.refresh()
    assert {i.step: i.minutes for e in d.session.results[PLAN].evenings for i in e.items}["a"] == 15


def test_lamps_in_rows_by_one_word(desk, empty, answers):
    d = desk(empty.but(lamps=(Lamp(id="l", name="Lamp", x=10, y=10, z=100),)))
    d.refresh()
    lamps = d.station("lamps")
    answers += ["7 every 20 right, 12 rows every 10 back", "many"]
    lamps.again.several()
    assert len(d.project.lamps) == 84
    d.session.document.undo()
    assert len(d.project.lamps) == 1  # one step of undo
    said: list[str] = []
    d.session.said.connect(said.append)
    lamps.again.several()
    assert "every 40 right" in said[-1]


def test_coats_are_found_by_any_of_their_words(desk, empty):
    d = desk(empty.but(steps=(Step(id="a", name="A"),)))
    d.refresh()
    box = d.station("coats").ticket.coat.box
    box.showPopup()
    finder = box.finder
    QTest.keyClicks(finder.line, "spray prim")
    assert ["primer" in finder.list.item(i).text().lower() for i in range(finder.list.count())] == [True] * finder.list.count()
    QTest.keyClicks(finder.line, " nonsense")
    assert finder.list.item(0).text() == "nothing of that name"
    d.key(Qt.Key.Key_Return, on=finder.line)
    assert d.project.steps[0].coat == ""
    finder.close()


def test_the_first_order_is_shown_while_the_best_is_looked_for(desk, empty):
    d = desk(empty.but(steps=(Step(id="a", name="A"), Step(id="b", name="B"))))
    d.session.results.refresh()
    d.workers.run("quick", "draft")
    results = d.session.results
    assert results.order is results[DRAFT]
    assert results[PLAN] is None
    assert "still looking" in d.station("coats").ready.text()
    d.refresh()
    assert results.order is results[PLAN]
    assert "still looking" not in d.station("coats").ready.text()


def test_the_print_shop_shows_the_runs_of_the_running_order(desk, heron):
    d = desk(heron)
    d.refresh()
    bench = d.station("bench")
    bench.turn_to("Print shop")
    d.session.select(PRINTS, d.project.prints[0].id)
    d.settle("quick")
    d.click(d.button(bench.page, "Hand its steps to Coats"))
    d.refresh()
    bench.refresh()
    plan = d.session.results[PLAN]
    run = next(i for e in plan.evenings for i in e.items if i.machine)
    (bar,) = bench.page.takes.bank.bars
    step = d.project.get(STEPS, run.step)
    assert (bar.job, bar.start, bar.end) == (d.project.prints[0].id, 0, pytest.approx(step.wait_h))
    assert "2 of 3 files are not among the steps yet" in bench.page.takes._bank_words.text()


def test_a_surface_takes_its_area_from_the_shape_and_a_step_says_where_it_goes(desk, empty, answers):
    box = Piece(id="b", name="Box", shape=Box(width=10, depth=20, height=30))
    d = desk(empty.but(pieces=(box,), surfaces=(Surface(id="s", name="Front"),)))
    d.refresh()
    coats = d.station("coats")
    coats._choose_surface("s")
    QApplication.processEvents()
    said: list[str] = []
    d.session.said.connect(said.append)
    d.click(coats.surface_ticket.work_out)
    assert "of which piece" in said[-1]
    coats.surface_ticket.piece.box.activated.emit(1)
    d.click(coats.surface_ticket.work_out)
    assert d.project.surfaces[0].area_cm2 == pytest.approx(22.0)  # 2 x (10 x 20 + 10 x 30 + 20 x 30) mm², by hand
    answers.append("Prime")
    d.click(d.button(coats, "Add a step"))
    assert d.project.steps[0].surfaces == ("s",)
    assert "on “Front”" in said[-1]
    assert "spray primer" in said[-1]


def test_light_follows_a_figure_that_is_dragged(desk, empty):
    """By the mouse, in a project of one's own: its meters and pictures say what those of a fresh desk say, and it is not solved anew."""
    lamps = (Lamp(id="l", name="L", x=150, y=60, z=190),)
    d = desk(
        boxed(empty, figure("a", 100, 100)).but(
            lamps=lamps, meters=(Meter(id="m", name="M", x=180, y=100, z=0.5),), seats=(Seat(id="s", name="S"),)
        )
    )
    d.refresh()
    lit = d.session.results[LIGHT].meters[0].lux
    plan = d.station("stage").page.plan
    d.session.select(PIECES, "a")
    d.drag(plan, plan.to_screen(100, 100), plan.to_screen(168, 92), steps=6)
    d.settle()
    place = d.project.find(PIECES, "a").place
    assert place.x > 150
    first = d.workers._reckoner.fine_desk.first
    assert first.lit(d.project).since is not None
    kept, fresh = d.session.results[LIGHT].meters[0], LightDesk().meters(d.project).meters[0]
    assert abs(kept.lux - lit) > 20 * fresh.error  # it stands in the light
    assert abs(kept.lux - fresh.lux) < 5 * (kept.error + fresh.error)
    one, other = (light.luminance(d.project, "s", 200) for light in (first, LightDesk()))
    assert np.abs(one - other).mean() < 0.02 * other.mean()


def test_what_a_dragged_lamp_changes_nothing_in_is_not_drawn_anew(desk, heron):
    """Rig and footlights took a third of every step of a drag. They are drawn anew when what they show changes."""
    d = desk(heron)
    d.refresh()
    page = d.station("lamps")
    lamp = next(m for m in d.project.lamps if m.id == "sign")
    page.rig.chosen.emit(LAMPS, lamp.id)
    d.settle()
    painted = []

    class Watch(QObject):
        def eventFilter(self, widget, event):
            if event.type() == QEvent.Type.Paint:
                painted.append(widget)
            return False

    watch, shells = Watch(), list(d.window.footlights.shells.values())
    for widget in (page.rig, *shells):
        widget.installEventFilter(watch)
    at = page.view.project_point(lamp.x, lamp.y, lamp.z)
    d.drag(page.view, at, at + QPointF(-20, 0), steps=4)
    d.settle()
    assert d.project.find(LAMPS, lamp.id).x != lamp.x
    assert painted == []
    d.session.do(put(LAMPS.at(lamp.id).then(lambda m: m.name), "Sign, left", "Name it"))
    d.settle()
    assert page.rig in painted
    painted.clear()
    d.session.theme.scale *= 1.25
    page.rig.refresh()
    shells[0].refresh()
    d.settle()
    assert {page.rig, shells[0]} <= set(painted)


def test_a_lamps_label_covers_no_lux_and_stays_in_the_picture(desk, heron):
    """In a small picture with large type it lay over the very kiosk whose lamp was chosen."""
    d = desk(heron, width=1280, height=800, scale=1.5)
    d.refresh()
    page = d.station("lamps")
    drawn = []
    real = page.view._beside

    def beside(at, size, clear):
        drawn.append((real(at, size, clear), clear))
        return drawn[-1][0]

    page.view._beside = beside
    for lamp in d.project.lamps:
        page.rig.chosen.emit(LAMPS, lamp.id)
        d.settle()
        page.view.grab()
        box, clear = drawn[-1]
        assert len(clear) == len(d.project.meters)
        assert not any(box.intersects(other) for other in clear)
        assert page.view.rect().contains(box.toRect())
    assert len(drawn) >= len(d.project.lamps)


def test_a_figure_dragged_in_the_plan_takes_its_light_with_it(desk, empty):
    """Its light is asked for at every step, not when it is put down."""
    d = desk(boxed(empty, figure("a", 100, 100)).but(lamps=(Lamp(id="l", name="L", x=150, y=60, z=190),), seats=(Seat(id="s", name="S"),)))
    d.refresh()
    plan = d.station("stage").page.plan
    d.session.select(PIECES, "a")
    asked, follow = [], d.session.results.follow_light
    d.session.results.follow_light = lambda: (asked.append(d.session.results.dragging), follow())
    d.drag(plan, plan.to_screen(100, 100), plan.to_screen(168, 92), steps=6)
    assert sum(asked) >= 4
