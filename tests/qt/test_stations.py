# SPDX-License-Identifier: MIT
import traceback
from datetime import datetime

import pytest
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QFontMetrics
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QCheckBox, QInputDialog, QPushButton

from fondale.app.results import Results
from fondale.core.bodies import animals, figure
from fondale.core.bodies.measures import measures
from fondale.core.derived import CUTS, LIGHT, PLAN, RIBBON, STAGE, VIEWS
from fondale.core.edits import apply, put
from fondale.core.edits.new_things import SEAT_KINDS, add_step
from fondale.core.light.desk import levels_of
from fondale.core.model import LAMPS, PIECES, SEATS, STEPS, STRINGS, Lamp, Piece, Place, Step, Surface
from fondale.core.model.shapes import Box, Figure
from fondale.core.prints import supports
from fondale.core.scale.pieces import read_piece
from fondale.core.shapes import KINDS
from fondale.core.shapes.blocks import BoxKind, StairsKind
from fondale.core.shapes.figures import FigureKind
from fondale.core.stage import clearance, scene, solids
from fondale.core.stage.paints import figure_paints
from fondale.core.times import parse_minutes
from fondale.core.troubles import Trouble
from fondale.core.views.sight import eye_of
from fondale.core.words import show_mm
from fondale.qt.frame import exchange
from fondale.qt.frame.footlights import STATIONS
from fondale.qt.furniture.fields import Choice
from fondale.qt.furniture.pages import PagedStation
from fondale.qt.stations.bench.shelf_page import ShelfPage
from fondale.qt.stations.brief.sheet_page import SheetPage, parse_clock, parse_day
from fondale.qt.stations.coats.samples import SAMPLE
from fondale.qt.stations.stage.drawing import SNAP_PX
from tests.conftest import TODAY


def test_dragging_a_figure_in_the_plan_is_one_step_and_the_view_follows(desk, heron):
    d = desk(heron)
    d.refresh()
    plan = d.station("stage").page.plan
    woman = d.project.find(PIECES, "woman").place
    seen = [v.seen for v in d.session.results[VIEWS] if v.piece == "woman"]
    first = d.session.results[STAGE].image
    d.drag(plan, plan.to_screen(woman.x, woman.y), plan.to_screen(woman.x + 260, woman.y + 78), steps=8)
    moved = d.project.find(PIECES, "woman").place
    reach = 2 + SNAP_PX / plan._frame()[0]  # it may have snapped to what is near
    assert moved.x == pytest.approx(woman.x + 260, abs=reach)
    assert moved.y == pytest.approx(woman.y + 78, abs=reach)
    d.settle("quick", "stage")
    assert [v.seen for v in d.session.results[VIEWS] if v.piece == "woman"] != seen
    assert d.session.results[STAGE].image.shape != first.shape or (d.session.results[STAGE].image != first).any()
    assert d.session.document.undo_label == "Move Woman, umbrella"
    d.window._actions["undo"].trigger()
    assert d.project.find(PIECES, "woman").place == woman


def test_a_click_without_a_move_changes_nothing(desk, heron):
    d = desk(heron)
    plan = d.station("stage").page.plan
    boy = d.project.find(PIECES, "boy").place
    d.click(plan, plan.to_screen(boy.x, boy.y))
    assert d.session.chosen(PIECES) == "boy"
    assert d.project is d.session.document.project
    assert not d.session.document.modified


def test_arrow_keys_move_the_chosen_piece(desk, heron):
    d = desk(heron)
    stage = d.station("stage").page
    d.session.select(PIECES, "boy")
    start = d.project.find(PIECES, "boy").place
    stage.plan.setFocus()
    QTest.keyClick(stage.plan, Qt.Key.Key_Right)
    QTest.keyClick(stage.plan, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    QTest.keyClick(stage.section, Qt.Key.Key_Right)
    place = d.project.find(PIECES, "boy").place
    assert (place.x - start.x, place.y - start.y) == (1, 11)


def test_dragging_in_the_section_moves_in_depth_only(desk, heron):
    d = desk(heron)
    section = d.station("stage").page.section
    winch = d.project.find(PIECES, "winch").place
    at = section.to_screen(winch.y, 44)
    d.session.select(PIECES, "winch")
    grabbed = section.piece_at(at)
    start = d.project.find(PIECES, grabbed.id).place
    d.drag(section, at, section.to_screen(winch.y - 12, 44))
    place = d.project.find(PIECES, grabbed.id).place
    assert place.x == start.x
    assert place.y == pytest.approx(start.y - 12, abs=2 + SNAP_PX / section._frame()[0])


def test_a_piece_snaps_to_the_wall_turns_by_keys_and_is_held(desk, empty):
    d = desk(empty)
    stage = d.station("stage").page
    stage._add(BoxKind())  # 60 x 40
    ident = d.project.pieces[0].id
    d.settle()
    place = d.project.get(PIECES, ident).place
    plan = stage.plan
    near = SNAP_PX / plan._frame()[0] * 0.6
    d.drag(plan, plan.to_screen(place.x, place.y), plan.to_screen(30 + near, place.y))
    assert d.project.get(PIECES, ident).place.x == pytest.approx(30.0, abs=0.01)  # its side against the wall
    plan.setFocus()
    d.key(Qt.Key.Key_BracketLeft, on=plan)
    assert d.project.get(PIECES, ident).place.turn_deg == 5
    held = next(w for w, _r in stage.ticket.rows if isinstance(w, Choice) and len(w.box.words) == 2 and "fixed" in w.box.words[1])
    held.box.activated.emit(1)
    before = d.project.get(PIECES, ident).place
    d.drag(plan, plan.to_screen(before.x, before.y), plan.to_screen(before.x + 40, before.y))
    d.key(Qt.Key.Key_Right, on=plan)
    assert d.project.get(PIECES, ident).place == before


def test_the_seat_is_chosen_and_the_view_clicked(desk, heron):
    d = desk(heron)
    d.refresh()
    stage = d.station("stage").page
    d.click(d.button(stage, "child’s seat"))
    assert d.session.results.look.seat == "child"
    d.settle("quick", "stage")
    view, result = stage.view, d.session.results[STAGE]
    index = next(i for i, p in enumerate(d.project.pieces) if p.id == "boat")
    ys, xs = (result.owners == index).nonzero()
    box = view.box()
    at = QPointF(
        box.left() + (xs[len(xs) // 2] + 0.5) * box.width() / result.owners.shape[1],
        box.top() + (ys[len(ys) // 2] + 0.5) * box.height() / result.owners.shape[0],
    )
    d.click(view, at)
    assert d.session.chosen(PIECES) == "boat"


def test_a_case_is_built_from_an_empty_project(desk, empty, tmp_path):
    """By mouse and keys: a closed box with a doorway, a hatch at its back, a storey above, and the cut list as a table."""
    d = desk(empty)
    d.station("stage").turn_to("The case")
    page = d.station("stage").page
    field = lambda ticket, name: next(w for w, _r in ticket.rows if getattr(w, "edit", None) and w.edit.accessibleName() == name)  # noqa: E731
    choice = lambda ticket, name: next(w for w, _r in ticket.rows if isinstance(w, Choice) and w.box.accessibleName() == name)  # noqa: E731
    kind = choice(page.ticket, "kind")
    kind.box.activated.emit([v for v, _t in kind._options].index("closed box"))
    for name, text in (("width", "380"), ("depth", "330"), ("height", "34 cm")):
        d.type(field(page.ticket, name).edit, text)
    d.settle()
    page._change("add")
    for name, text in (("from left", "40"), ("wide", "90"), ("high", "190")):
        d.type(field(page.opening, name).edit, text)
    (door,) = d.project.case.openings
    assert (door.side, door.x, door.z, door.width, door.height) == ("front", 40, 0, 90, 190)
    # Dragged on the drawing: it moves in the front.
    d.settle()
    QApplication.processEvents()
    box = page.face.box_of(door)
    d.drag(page.face, box.center(), box.center() + QPointF(30, 0))
    assert d.project.case.openings[0].x > 45
    d.session.document.undo()
    d.click(page.sides["back"])
    page._change("add")
    use = choice(page.opening, "for")
    use.box.activated.emit([v for v, _t in use._options].index("hatch"))
    assert [(o.side, o.use) for o in d.project.case.openings] == [("front", "look in"), ("back", "hatch")]
    d.type(field(page.boards, "boards").edit, "25")
    d.type(field(page.boards, "sheet").edit, "3.2")
    d.settle()
    assert "8 sheets of 3.2 mm make 25.6 mm" in page._glued.text().replace("\u00a0", " ")
    d.click(d.button(page, "Add a room"))
    d.settle()
    room = d.project.case.rooms[0]
    assert (room.z, room.width) == (pytest.approx(340 + 25.6), 380)
    assert page.ticket._title.text() == "Upper room"
    assert page.write(tmp_path / "cuts.csv", d.session.results[CUTS])
    table = (tmp_path / "cuts.csv").read_text()
    assert "hatch in the back" in table
    assert "look in, lintel: 90.0 x 190.0 at 40.0 from the left, sill 0.0" in table
    # The plan of the scene shows one floor at a time; what is added stands on the one on show.
    d.station("stage").turn_to("The scene")
    scene_ = d.station("stage").page
    d.click(d.button(scene_, "at 366 mm"))
    scene_._add(FigureKind())
    piece = d.project.pieces[0]
    assert piece.place.room == room.id
    assert scene_.plan._outlines()
    d.click(d.button(scene_, "ground"))
    assert scene_.plan._outlines() == []
    while d.session.document.undo_label:
        d.session.document.undo()
    assert d.project == empty


def test_from_where_a_bulb_is_seen_is_drawn_told_and_mended(desk, heron):
    d = desk(heron)
    d.refresh()
    stage = d.station("stage").page
    entries = dict(stage._targets())
    assert {"nothing", "Ferryman", "the face of Ferryman"} <= set(entries)
    lamp = heron.lamps[0]
    entries[f"the bulb of {lamp.name}"]()
    d.settle()
    assert lamp.name in stage.seen_from.words.text()
    assert stage.plan._sight.found is not None
    assert [s.seat for s in stage.plan._sight.found.sights] == [s.id for s in heron.seats]
    stage.plan.grab()
    stage.section.grab()
    entries["the face of Ferryman"]()
    d.settle()
    assert "The face of Ferryman" in stage.seen_from.words.text()
    before = stage.plan._sight.found
    d.session.do(put(PIECES.at("ferryman").then(lambda p: p.place), heron.get(PIECES, "ferryman").place.but(x=60.0), "Move"))
    d.settle()
    assert stage.plan._sight.found != before  # it follows
    entries["nothing"]()
    assert stage.plan._sight.found is None
    assert not stage.seen_from.isVisible()


def test_what_hangs_is_told_from_an_empty_project(desk, empty):
    """By mouse and keys: a block of 150 g on two davits, 75 g a hook."""
    d = desk(empty)
    d.station("stage").page._add(BoxKind())
    d.station("stage").turn_to("Weight")
    page = d.station("stage").page
    piece = d.project.pieces[0]
    d.session.select(PIECES, piece.id)
    d.settle()
    field = lambda ticket, name: next(w for w, _r in ticket.rows if getattr(w, "edit", None) and w.edit.accessibleName() == name)  # noqa: E731
    d.type(field(page.ticket, "weighed").edit, "150 g")
    for x in (-20, 20):
        d.click(d.button(page, "Add a line"))
        d.settle()
        d.type(field(page.lines, "hook x").edit, str(150 + x))
        d.type(field(page.lines, "tied x").edit, str(x))
        d.type(field(page.lines, "bears").edit, "70")
    d.settle()
    assert "75 g" in page._pulls.text().replace("\u00a0", " ")
    assert any(f.code == "WEIGHT-HOOK" and f.severity == "stop" for f in d.session.results.prompts)
    row = next(e for e in page.table.entries if e.ident == piece.id)
    assert row.words[3] == "hangs still"
    page.base.grab()


def test_what_hangs_on_a_crane_pulls_it_over(desk, empty):
    """By mouse and keys: a block on a line under an arm; the hook taken to the arm, and back to the case."""
    d = desk(empty)
    for _k in range(2):
        d.station("stage").page._add(BoxKind())
    d.station("stage").turn_to("Weight")
    page = d.station("stage").page
    crane, hanging = (p.id for p in d.project.pieces)
    field = lambda ticket, name: next(w for w, _r in ticket.rows if getattr(w, "edit", None) and w.edit.accessibleName() == name)  # noqa: E731
    for ident, grams in ((crane, "20 g"), (hanging, "200 g")):
        d.session.select(PIECES, ident)
        d.settle()
        d.type(field(page.ticket, "weighed").edit, grams)
    d.click(d.button(page, "Add a line"))
    d.settle()
    d.type(field(page.lines, "hook x").edit, str(d.project.pieces[0].place.x + 200))
    stands = lambda: next(e for e in page.table.entries if e.ident == crane).words[3]  # noqa: E731
    assert stands().startswith("tips at")
    owner = next(w for w, _r in page.lines.rows if getattr(w, "box", None) and w.box.accessibleName() == "hook on")
    assert [value for value, _words in owner._options] == ["", crane]
    owner.box.activated.emit(1)
    d.settle()
    assert d.project.pieces[1].slings[0].on == crane
    assert stands() == "falls"
    d.window.undo()
    d.settle()
    assert stands().startswith("tips at")


def test_the_head_walks_the_view_is_saved_and_pieces_are_dragged_in_it(desk, heron, tmp_path):
    d = desk(heron)
    d.refresh()
    stage = d.station("stage").page
    d.session.choose_seat("visitor")
    d.settle()
    first = d.session.results[STAGE].image
    stage.view.setFocus()
    for _k in range(3):
        d.key(Qt.Key.Key_Right, on=stage.view)
    d.settle()
    assert d.session.results.look.head == (0.3, 0.0)
    assert (d.session.results[STAGE].image != first).any()
    # What is drawn over the view follows the head.
    seat = heron.get(SEATS, "visitor")
    assert stage.view.eye(seat)[0] == pytest.approx(eye_of(heron, seat)[0] + 0.3 * seat.range)
    assert stage.save_view(tmp_path / "view.png")
    with Image.open(tmp_path / "view.png") as saved:
        assert saved.size == (first.shape[1], first.shape[0])
    woman = d.project.get(PIECES, "woman").place
    up = scene.rest_places(d.project)["woman"].z
    result = d.session.results[STAGE]
    index = next(i for i, p in enumerate(d.project.pieces) if p.id == "woman")
    ys, xs = (result.owners == index).nonzero()
    low = ys.max()
    box = stage.view.box()
    at = QPointF(
        box.left() + (xs[ys == low].mean() + 0.5) * box.width() / result.owners.shape[1],
        box.top() + (low + 0.5) * box.height() / result.owners.shape[0],
    )
    grabbed = stage.view.on_plane(at, 2, up)
    to = stage.view.project_point(grabbed[0] + 25, grabbed[1] - 10, up)
    d.drag(stage.view, at, to, steps=6)
    moved = d.project.get(PIECES, "woman").place
    scale = 25 / abs(to.x() - at.x())  # mm a pixel
    assert (moved.x, moved.y) == (pytest.approx(woman.x + 25, abs=2 + 2 * scale), pytest.approx(woman.y - 10, abs=4 + 8 * scale))
    d.session.choose_seat("child")
    assert d.session.results.look.head == (0.0, 0.0)


def test_the_scene_goes_out_and_a_floor_plan_comes_in(desk, empty, tmp_path, monkeypatch):
    d = desk(empty)
    d.station("stage").page._add(BoxKind())
    for name in ("a.glb", "a.svg", "a.dxf"):
        d.window.exchange.write(tmp_path / name)
        d.settle()
        assert (tmp_path / name).stat().st_size > 300
    (tmp_path / "room.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="100mm" viewBox="0 0 200 100"><rect x="5" y="5" width="180" height="90"/></svg>'
    )
    monkeypatch.setattr(exchange, "ask_which", lambda _parent, _title, _text, choices: choices[0])
    d.window.exchange.read(tmp_path / "room.svg")
    d.settle()
    assert [p.shape.kind for p in d.project.pieces] == ["box", *["wall"] * 4]
    d.session.document.undo()
    assert len(d.project.pieces) == 1
    (tmp_path / "bad.dxf").write_text("nonsense")
    told = []
    monkeypatch.setattr(exchange, "warn", lambda _parent, _title, text: told.append(text))
    d.window.exchange.read(tmp_path / "bad.dxf")
    d.settle()
    assert "bad.dxf" in told[0]


def test_the_pane_takes_the_scene_as_bright_as_the_meters_say(desk, heron):
    d = desk(heron)
    d.refresh()
    d.settle()
    d.station("stage").turn_to("Depth")
    mean = sum(m.lux for m in d.session.results[LIGHT].meters) / len(heron.meters)
    assert f"say {mean:.0f} lx in the mean" in d.station("stage").page.said["pane"].text().replace("\u00a0", " ")


def test_layouts_stand_side_by_side(desk, heron):
    d = desk(heron.but(layouts=()))
    d.refresh()
    d.station("stage").turn_to("Layouts")
    page = d.station("stage").page
    assert "Nothing is kept yet" in page.words.text()
    d.click(d.button(page, "Keep the present layout"))
    d.settle()
    assert "It stands so now" in page.words.text()
    place = heron.get(PIECES, "ferryman").place
    d.session.do(put(PIECES.at("ferryman").then(lambda p: p.place), place.but(x=60.0), "Move"))
    d.settle()
    assert page._found is not None
    assert (page._found.view.image != d.session.results[STAGE].image).any()
    assert page.table.entries[0].words[0]
    d.click(page.do_it)
    assert d.project.get(PIECES, "ferryman").place == place
    d.session.document.undo()
    assert d.project.get(PIECES, "ferryman").place.x == 60.0
    d.click(page.ticket.remove)
    assert d.project.layouts == ()


def test_how_a_view_is_composed_is_told_and_drawn(desk, heron):
    d = desk(heron)
    d.refresh()
    stage = d.station("stage").page
    stage.composed.switch()
    d.settle()
    assert stage.composed.words.text().startswith("1. ")
    assert len(stage.view.hints) == stage.composed.words.text().count("\n") + 1
    stage.view.grab()
    stage.composed.switch()
    assert stage.view.hints == ()


def test_another_scale_says_what_follows_and_is_one_step(desk, heron):
    d = desk(heron)
    d.refresh()
    d.station("stage").turn_to("Another scale")
    page = d.station("stage").page
    d.type(page.scale.edit, "1:32")
    d.settle()
    assert "grows to 109.4 %" in page.words.text().replace("\u00a0", " ")
    # The ribbon of the Brief says the same of that scale.
    there = next(c for c in d.session.results[RIBBON].candidates if c.n == 32)
    assert f"{there.serve} of {there.measured} measured pieces serve" in page.words.text().replace("\u00a0", " ")
    assert f"at worst by {show_mm(there.over_mm)}." in page.words.text().replace("\u00a0", " ")
    d.click(page.do_it)
    assert d.project.brief.house_n == 32
    d.session.document.undo()
    assert d.project == heron


def test_seats_of_every_kind_are_added(desk, empty):
    d = desk(empty)
    stage = d.station("stage").page
    for kind in SEAT_KINDS:
        stage._add_seat(kind)
    camera = d.project.seats[-1]
    assert (camera.lens_mm, camera.eyes_mm) == (50.0, 1400.0)
    # 36 mm at 50 mm and 600 mm away: 432 mm wide.
    d.session.choose_seat(camera.id)
    d.settle()
    x0, x1, z0, z1 = d.session.results[STAGE].window
    assert x1 - x0 == pytest.approx(600 * 36 / 50)
    assert z1 - z0 == pytest.approx(600 * 24 / 50)
    child = next(s for s in d.project.seats if "Child" in s.name)
    assert child.stature_mm == 1160


def test_depth_is_reckoned_as_it_is_typed(desk, empty):
    d = desk(empty)
    d.station("stage").turn_to("Depth")
    page = d.station("stage").page
    d.type(page.fields["meant"].edit, "20 m")
    d.type(page.fields["stands"].edit, "200")
    d.refresh()
    assert page.told["forced"].text() == "build it at 1:49.4"  # 35 x (700 + 20000 / 35) / 900
    d.type(page.fields["apart"].edit, "80")
    d.refresh()
    assert "640 mm deep" in page.told["mirrors"].text()
    d.type(page.fields["room_lx"].edit, "5000 lx")
    d.refresh()
    assert "set a meter on Lamps" in page.said["pane"].text()  # nobody knows how bright the scene is
    d.type(page.fields["scene_lx"].edit, "60 lx")
    d.refresh()
    assert "looks black" in page.said["pane"].text()
    d.station("stage").turn_to("The scene")
    d.station("stage").page._add(next(k for k in KINDS if k.words == "Backdrop"))
    d.station("stage").turn_to("Depth")
    d.settle()
    assert page.needed.text().startswith("print it")
    page.drawing.grab()


def test_a_scene_grows_from_an_empty_project(desk, empty):
    d = desk(empty)
    stage = d.station("stage").page
    for kind in (BoxKind(), StairsKind(), FigureKind()):
        stage._add(kind)
    assert [p.shape.kind for p in d.project.pieces] == ["box", "stairs", "figure"]
    stage._add_seat()
    assert len(d.project.seats) == 2
    d.station("stage").turn_to("The case")
    case = d.station("stage").page
    width = next(w for w, _r in case.ticket.rows if getattr(w, "edit", None) and w.edit.accessibleName() == "width")
    d.type(width.edit, "42cm")
    assert d.project.case.width == 420
    d.station("stage").turn_to("The scene")
    stage._choose("pieces")
    d.session.select(PIECES, "figure")
    d.settle("quick", "stage")
    d.click(stage.ticket.remove)
    assert d.project.find(PIECES, "figure") is None


def test_a_seat_gets_its_chair_and_the_rise_of_its_eyes_from_an_empty_project(desk, empty):
    d = desk(empty)
    stage = d.station("stage").page
    stage._add(FigureKind())
    stage._add_seat()
    rows = {w.edit.accessibleName(): w for w, _r in stage.ticket.rows if getattr(w, "edit", None)}
    d.type(rows["rise"].edit, "180")
    d.type(rows["chair"].edit, "-3")
    assert rows["chair"].error
    d.type(rows["chair"].edit, "48 cm")
    seat = d.project.seats[-1]
    assert (seat.rise, seat.chair) == (180, 480)
    rows["eyes"] = next(w for w, _r in stage.ticket.rows if isinstance(w, Choice))
    rows["eyes"].box.activated.emit(1)
    d.settle("quick", "stage")
    assert "480 mm" in stage.seen.how.formula
    d.session.select(PIECES, "figure")
    stage._choose("pieces")
    d.settle("quick", "stage")
    assert "15 eye positions" in stage.seen.how.formula


def test_measuring_a_figure_by_typing(desk, heron):
    d = desk(heron)
    d.refresh()
    bench = d.station("bench").page_of(ShelfPage)
    d.session.select(PIECES, "boy")
    d.settle("quick")
    d.type(bench.height_field.edit, "1.27in")
    assert d.project.find(PIECES, "boy").measure.mm == pytest.approx(32.258)
    d.settle("quick")
    reading = read_piece(d.project.find(PIECES, "boy"), 35)
    assert bench.native.text() == f"1:{reading.n:.1f}".removesuffix(".0")
    stature = 32.258 * 35 / measures("kneeling_one").crown / 1000
    assert f"{stature:.2f} m boy" in bench.reads.text()


def test_a_bad_length_is_told_and_nothing_is_lost(desk, heron):
    d = desk(heron)
    d.session.select(PIECES, "boy")
    bench = d.station("bench").page_of(ShelfPage)
    before = d.project
    field = bench.height_field
    d.type(field.edit, "12 parsecs")
    assert "is not a length" in field.error
    assert field.edit.text() == "12 parsecs"
    assert d.project is before
    QTest.keyClick(field.edit, Qt.Key.Key_Escape)
    assert field.edit.text() == "39.4 mm"
    assert field.error == ""
    d.type(field.edit, "1.3 m real")
    assert d.project.find(PIECES, "boy").measure.mm == pytest.approx(1300 / 35)


def test_the_caliper_takes_a_height_with_its_zero_error(desk, heron):
    d = desk(heron)
    d.station("bench")
    d.session.select(PIECES, "ferryman")
    d.key(Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    assert d.project.find(PIECES, "ferryman").measure.mm == pytest.approx(51.6 + 0.35, abs=0.1)
    assert "zero it first" in d.window.said()
    d.window.undo()
    d.window._actions["zero"].trigger()
    d.key(Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    assert d.project.find(PIECES, "ferryman").measure.mm == pytest.approx(51.6, abs=0.1)


def test_pose_and_person_change_the_reading(desk, heron):
    d = desk(heron)
    d.refresh()
    bench = d.station("bench").page_of(ShelfPage)
    d.session.select(PIECES, "porter")
    d.settle("quick")
    before = bench.native.text()
    bench.pose.box.setFocus()
    QTest.keyClick(bench.pose.box, Qt.Key.Key_Home)
    bench.pose.box.activated.emit(0)
    assert d.project.find(PIECES, "porter").shape.pose == "standing"
    d.settle("quick")
    assert bench.native.text() != before


def test_the_shelf_is_walked_by_keys_and_clicked(desk, heron):
    d = desk(heron)
    d.refresh()
    bench = d.station("bench").page_of(ShelfPage)
    for _ in range(40):
        d.settle("quick")
    bench.shelf.setFocus()
    first = d.session.chosen(PIECES)
    QTest.keyClick(bench.shelf, Qt.Key.Key_Right)
    second = d.session.chosen(PIECES)
    assert first != second
    QTest.keyClick(bench.shelf, Qt.Key.Key_Left)
    assert d.session.chosen(PIECES) == first
    box = bench.shelf._tag_boxes()[3]
    d.click(bench.shelf, box.center())
    assert d.session.chosen(PIECES) == bench.shelf._spots[3].piece.id
    assert all(b.left() >= 0 and b.right() <= bench.shelf.width() for b in bench.shelf._tag_boxes())


def test_figures_are_added_and_rescaled_on_the_bench(desk, empty):
    d = desk(empty)
    bench = d.station("bench").page_of(ShelfPage)
    bench._add(KINDS[0])
    d.settle("quick")
    d.type(bench.height_field.edit, "62")
    bench.origin.box.activated.emit(1)
    d.settle("quick")
    rescale = next(b for b in bench.findChildren(QPushButton) if b.text().startswith("Rescale to"))
    d.click(rescale)
    assert d.project.pieces[0].measure.mm == pytest.approx(1752.5 / 35, rel=0.01)
    assert d.project.pieces[0].origin == "printed file"


def test_a_lamps_level_follows_the_slider_and_the_meters_follow(desk, hut):
    d = desk(hut)
    d.refresh()
    lamps = d.station("lamps")
    d.settle()
    before = d.session.results[LIGHT].meters[0].lux
    lamps.level.setFocus()
    for _ in range(5):
        QTest.keyClick(lamps.level, Qt.Key.Key_PageDown)
    level = levels_of(d.project)["stove"]
    assert level == pytest.approx(0.5)
    d.settle()
    assert d.session.results[LIGHT].meters[0].lux == pytest.approx(before * level, rel=1e-6)
    assert f"{before * level:.0f} lx" in lamps.meters[0].text()
    d.window.undo()
    assert levels_of(d.project)["stove"] == 1.0


def test_moments_are_slides(desk, heron):
    d = desk(heron)
    lamps = d.station("lamps")
    d.settle("quick")
    ident, _name, box = lamps.slides._cells()[2]
    d.click(lamps.slides, box.center())
    assert d.project.moment == ident == "closed"
    lamps.slides.setFocus()
    QTest.keyClick(lamps.slides, Qt.Key.Key_Left)
    assert d.project.moment == "last-boat"


def test_the_rig_is_clicked_and_walked(desk, heron):
    d = desk(heron)
    d.session.results.refresh(slow=False)
    d.settle("quick")
    lamps = d.station("lamps")
    lamps.rig.grab()
    box = next(b for b, listing, ident in lamps.rig._spots if (listing, ident) == (LAMPS, "passage"))
    d.click(lamps.rig, box.center())
    assert d.session.chosen(LAMPS) == "passage"
    QTest.keyClick(lamps.rig, Qt.Key.Key_Down)
    assert d.session.chosen(LAMPS) != "passage"
    box = next(b for b, listing, ident in lamps.rig._spots if (listing, ident) == (STRINGS, "signals"))
    d.click(lamps.rig, box.center())
    ohm = next(w for w, _r in lamps.ticket.rows if getattr(w, "edit", None) is not None and w.edit.accessibleName() == "resistor")
    d.type(ohm.edit, "330")
    assert d.project.find(STRINGS, "signals").resistor_ohm == 330


def test_a_rig_is_built_from_nothing(desk, empty):
    d = desk(empty)
    lamps = d.station("lamps")
    lamps._add_string()
    assert "supply" in d.window.said()
    lamps.take_lux()
    assert "lux meter" in d.window.said()
    lamps._add_lamp()
    lamps._add_supply("cells")
    lamps._add_string()
    lamps._add_meter()
    lamps._add_moment()
    lamp, string = d.project.lamps[0].id, d.project.strings[0].id
    lamps._choose(LAMPS, lamp)
    d.settle()
    choice = next(w for w, r in lamps.ticket.rows if r.__name__ == "string_of")
    choice.box.activated.emit(1)
    assert d.project.find(STRINGS, string).lamps == (lamp,)
    d.refresh()
    assert d.session.results[LIGHT].meters[0].lux > 0
    lamps.take_lux()
    assert "The lux meter shows" in d.window.said()


def test_coats_are_chosen_shifted_and_marked(desk, heron):
    d = desk(heron)
    d.refresh()
    coats = d.station("coats")
    coats.rehearsal.setFocus()
    first = d.session.chosen(STEPS)
    QTest.keyClick(coats.rehearsal, Qt.Key.Key_Right)
    chosen = d.session.chosen(STEPS)
    assert chosen != first
    at = [s.id for s in d.project.steps].index(chosen)
    d.click(coats._later_button)
    assert [s.id for s in d.project.steps].index(chosen) == at + 1
    d.click(coats._earlier)
    assert [s.id for s in d.project.steps].index(chosen) == at
    d.click(coats.ticket.done)
    assert d.project.find(STEPS, chosen).done
    coats.samples.grab()
    box, ident = next((b, i) for b, listing, i in coats.samples._spots if listing == STEPS)
    d.click(coats.samples, box.center())
    assert d.session.chosen(STEPS) == ident
    coats.order.grab()
    box, ident = coats.order._spots[-1]
    d.click(coats.order, box.center())
    assert d.session.chosen(STEPS) == ident


def choose(d, button, name):
    """Press a word, and one line of the list that it opens."""
    d.click(button)
    QTest.keyClicks(button.finder.line, name)
    d.key(Qt.Key.Key_Return, on=button.finder.line)
    button.finder.close()
    QApplication.processEvents()


def test_links_tests_waits_and_the_moment_of_a_step_are_set_by_hand(desk, empty):
    lamp = Lamp(id="lamp", name="Lamp", led="warm_white", x=1, y=1, z=1)
    steps = (Step(id="wire", name="Wire", work="wire"), Step(id="try", name="Try it", work="test", tool="hand"))
    d = desk(empty.but(lamps=(lamp,), steps=steps))
    d.refresh()
    coats = d.station("coats")
    d.session.select(STEPS, "try")
    QApplication.processEvents()
    choose(d, coats.ticket.after, "Wire")
    choose(d, coats.ticket.tests, "Lamp")
    d.type(coats.ticket.waits.edit, "3 days")
    assert coats.ticket.waits.edit.text() == "3 days"
    d.type(coats.ticket.waits.edit, "1.5")
    step = d.project.steps[1]
    assert (step.after, step.tests, step.wait_h) == (("wire",), ("lamp",), 1.5)
    assert (coats.ticket.after.text(), coats.ticket.tests.text()) == ("after wire", "tests lamp")
    d.click(coats.ticket.after)
    found = coats.ticket.after.finder
    assert [found.list.item(i).text() for i in range(found.list.count())] == ["Wire"]  # never after itself
    found.close()
    assert not coats.ticket.finished.isVisible()
    d.click(coats.ticket.done)
    QApplication.processEvents()
    assert d.project.steps[1].finished.date() == TODAY
    d.type(coats.ticket.finished.edit, "2026-11-20 21:30")
    assert d.project.steps[1].finished == datetime(2026, 11, 20, 21, 30)
    d.type(coats.ticket.finished.edit, "2026-11-20")
    assert d.project.steps[1].finished == datetime(2026, 11, 20, 23, 59)
    d.type(coats.ticket.finished.edit, "yesterday")
    assert "2026-12-19 21:30" in coats.ticket.finished.error
    d.key(Qt.Key.Key_Escape, on=coats.ticket.finished.edit)
    d.type(coats.ticket.finished.edit, " ")
    assert d.project.steps[1].finished is None
    d.click(coats.ticket.done)
    assert not d.project.steps[1].done


def test_steps_and_surfaces_are_added_and_edited(desk, empty, monkeypatch):
    d = desk(empty)
    coats = d.station("coats")
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Kiosk front", True))
    coats._add_surface()
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Prime it", True))
    coats._add_step()
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("", True))
    coats._add_step()
    assert len(d.project.steps) == 1
    (step,) = d.project.steps
    assert step.surfaces == ("kiosk-front",)
    d.settle("quick", "plan")
    coats.ticket.coat.box.activated.emit(1)
    d.type(coats.ticket.minutes.edit, "10 20 40")
    step = d.project.steps[0]
    assert (step.coat, step.minutes) == ("primer_spray", (10, 20, 40))
    d.type(coats.ticket.minutes.edit, "40 20 10")
    assert "least, likely and most" in coats.ticket.minutes.error
    choose(d, coats.ticket.closes, "Kiosk front")
    assert d.project.steps[0].closes == ("kiosk-front",)
    choose(d, coats.ticket.closes, "Kiosk front")
    d.refresh()
    assert coats.ready.text().startswith("ready ")
    d.click(coats.ticket.remove)
    assert d.project.steps == ()


@pytest.mark.parametrize("bad", ["", "x", "0", "-3", "1 2", "3 2 1", "9e9"])
def test_bad_minutes_are_told(bad):
    with pytest.raises(Trouble, match="likely"):
        parse_minutes(bad)
    assert parse_minutes("10 to 15 to 25 min") == (10, 15, 25)


def test_the_brief_is_typed_and_the_plan_follows(desk, hut):
    d = desk(hut)
    d.refresh()
    station = d.station("brief")
    brief = station.page_of(SheetPage)
    finish = d.session.results[PLAN].finish
    for field, text in (
        (brief.deadline, "2027-01-30"),
        (station.scale, "1:48"),
        (brief.warmth, "5"),
        (brief.evenings[1], "60"),
        (brief.piece, "Hut"),
        (brief.day_off, "2026-11-25"),
    ):
        d.type(field.edit, text)
    b = d.project.brief
    assert (b.deadline.isoformat(), b.house_n, b.bench_c, b.evenings[1]) == ("2027-01-30", 48, 5, 60)
    assert d.project.name == "Hut"
    assert [x.isoformat() for x in b.days_off] == ["2026-11-25"]
    d.refresh()
    assert d.session.results[PLAN].finish != finish
    d.type(brief.deadline.edit, "tomorrow")
    assert "19 December" in brief.deadline.error
    with pytest.raises(Trouble, match="19 December"):
        parse_day("2026-13-01")
    assert parse_day(" ") is None


@pytest.mark.parametrize(("scale", "wide", "high"), [(1.0, 1100, 700), (1.5, 1280, 800)])
def test_the_minutes_of_every_evening_are_whole(desk, heron, scale, wide, high):
    d = desk(heron, width=wide, height=high, scale=scale)
    d.settle()
    for field in d.station("brief").page.evenings:
        around = 2 * (6 + 1) + 4  # padding, border, and the cursor
        assert field.edit.width() >= field.edit.fontMetrics().horizontalAdvance("720") + around


@pytest.mark.parametrize(
    ("text", "minute"), [("19:30", 1170), ("19", 1140), ("7 pm", 1140), ("7.15pm", 1155), ("12 am", 0), ("12 pm", 720), ("23:00", 1380)]
)
def test_the_hour_of_the_evenings(text, minute):
    assert parse_clock(text) == minute


@pytest.mark.parametrize("text", ["", "x", "25", "7:75", "23:30", "-3", "13 pm pm"])
def test_bad_hours_are_told(text):
    with pytest.raises(Trouble, match="19:30"):
        parse_clock(text)


def test_days_off_go_by_ranges(desk, empty):
    d = desk(empty)
    d.refresh()
    brief = d.station("brief").page_of(SheetPage)
    d.type(brief.day_off.edit, "2026-12-24 to 2026-12-27")
    assert [x.day for x in d.project.brief.days_off] == [24, 25, 26, 27]
    d.type(brief.day_off.edit, "2026-12-26 to 2026-12-29")
    assert [x.day for x in d.project.brief.days_off] == [24, 25, 26, 27, 28, 29]
    d.type(brief.day_off.edit, "2026-12-25 to 2026-12-28")
    assert [x.day for x in d.project.brief.days_off] == [24, 29]
    d.type(brief.day_off.edit, "2026-12-27 to 2026-12-24")
    assert "the earlier day first" in brief.day_off.error
    d.key(Qt.Key.Key_Escape, on=brief.day_off.edit)
    d.type(brief.begins.edit, "8 pm")
    assert d.project.brief.evening_from == 20 * 60
    assert brief.begins.edit.text() == "20:00"
    d.window.undo()
    assert d.project.brief.evening_from == 19 * 60


def test_the_ribbon_sets_the_house_scale(desk, heron):
    d = desk(heron)
    d.refresh()
    brief = d.station("brief")
    n, cell = next((n, c) for n, c in brief.ribbon._cells() if n == 43)
    d.click(brief.ribbon, cell.center())
    assert d.project.brief.house_n == n
    brief.ribbon.setFocus()
    QTest.keyClick(brief.ribbon, Qt.Key.Key_Left)
    assert d.project.brief.house_n < n
    ribbon = d.session.results[RIBBON]
    assert ribbon.at(35.0).serve > ribbon.at(72.0).serve


def test_an_evening_is_logged(desk, heron, today):
    d = desk(heron)
    d.refresh()
    diary = d.station("diary")
    d.settle()
    d.click(diary.write)
    assert "tick what was finished" in d.window.said()
    d.type(diary.minutes.edit, "75")
    d.type(diary.spent.edit, "3.5")
    box = next(b for b in diary.findChildren(QCheckBox) if b.property("step") == "boat-build")
    d.click(box, QPointF(6, box.height() / 2))
    QTest.keyClicks(diary.words, "Planked the hull.")
    QTest.keyClicks(diary.lesson, "Soak the strips longer.")
    d.click(diary.write)
    page = d.project.pages[-1]
    assert (page.day, page.minutes, page.spent, page.done, page.words, page.lesson) == (
        today,
        75,
        3.5,
        ("boat-build",),
        "Planked the hull.",
        "Soak the strips longer.",
    )
    assert d.project.find(STEPS, "boat-build").done
    assert diary.words.toPlainText() == ""
    d.window.undo()
    assert not d.project.find(STEPS, "boat-build").done


def test_the_timer_starts_and_stops_with_one_key(desk, empty):
    d = desk(empty)
    d.key(Qt.Key.Key_F6)
    diary = d.window.stations["diary"]
    assert d.window.station == "diary"
    assert diary.timer_button.text().startswith("Stop the timer")
    d.key(Qt.Key.Key_F6)
    assert diary.timer_button.text() == "Start the timer"


def test_no_name_is_cut_on_coats(desk, heron):
    d = desk(heron)
    d.refresh()
    coats = d.station("coats")
    d.refresh()
    metrics = QFontMetrics(d.session.theme.font(11.5, 600))
    longest = max(metrics.horizontalAdvance(s.name) for s in heron.steps if s.coat)
    assert coats.samples._column() - d.session.theme.px(SAMPLE) - 12 >= longest
    assert coats.samples.width() >= coats.samples._column()


def test_a_surface_is_given_its_piece_and_taken_away_by_hand(desk, empty, monkeypatch):
    d = desk(empty.but(pieces=(Piece(id="kiosk", name="Kiosk", shape=Box(width=10, depth=10, height=10)),)))
    d.refresh()
    coats = d.station("coats")
    ticket = coats.surface_ticket
    assert not ticket.isVisible()
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Kiosk front", True))
    d.click(d.button(coats, "Add a surface"))
    QApplication.processEvents()
    assert ticket.isVisible()
    ticket.piece.box.activated.emit(1)
    ticket.inside.box.activated.emit(1)
    d.type(ticket.area.edit, "24.5")
    d.type(ticket.surface_name.edit, "Kiosk, all round")
    (surface,) = d.project.surfaces
    assert (surface.piece, surface.inside, surface.area_cm2, surface.name) == ("kiosk", True, 24.5, "Kiosk, all round")
    d.click(ticket.remove)
    QApplication.processEvents()
    assert d.project.surfaces == ()
    assert not ticket.isVisible()


def test_a_step_that_hangs_on_nothing_is_said_so(desk, empty):
    d = desk(empty.but(steps=(Step(id="a", name="A"), Step(id="b", name="B")), surfaces=(Surface(id="s", name="S"),)))
    d.refresh()
    coats = d.station("coats")
    d.session.select(STEPS, "b")
    QApplication.processEvents()
    assert coats.ticket._floats.isVisible()
    choose(d, coats.ticket.after, "A")
    assert not coats.ticket._floats.isVisible()
    d.session.select(STEPS, "a")  # now B waits for it
    QApplication.processEvents()
    assert not coats.ticket._floats.isVisible()


def test_what_is_added_on_the_bench_is_chosen_and_the_next_typing_is_its_own(desk, empty):
    d = desk(empty)
    d.refresh()
    bench = d.station("bench").page_of(ShelfPage)
    for kind in (KINDS[0], next(k for k in KINDS if k.scenery)):
        bench._add(kind)
        d.settle("quick")
        assert bench.piece is d.project.pieces[-1]
        d.type(bench.name_field.edit, f"My {kind.words.lower()}")
        assert d.project.pieces[-1].name == f"My {kind.words.lower()}"
    figure, block = d.project.pieces
    assert figure.name != block.name
    d.session.select(PIECES, figure.id)
    d.settle("quick")
    d.type(bench.details.length.edit, "12")
    assert bench.details.length.edit.text() == ""
    assert d.project.pieces[0].details[0].mm == 12
    d.type(bench.details.length.edit, "99", enter=False)
    d.session.select(PIECES, block.id)
    d.settle("quick")
    assert bench.details.length.edit.text() == ""


def test_a_figure_of_an_empty_project_is_painted_part_by_part(desk, empty, monkeypatch):
    """By mouse and keys: a figure, a surface of it, one for each part with its area, and a coat on one of them colours the light."""
    d = desk(empty)
    d.refresh()
    d.station("bench").page_of(ShelfPage)._add(next(k for k in KINDS if isinstance(k, FigureKind)))
    figure = d.project.pieces[-1]
    d.session.do(put(PIECES.at(figure.id).then(lambda p: p.place), Place(x=100, y=80), "Place"))
    d.refresh()
    coats = d.station("coats")
    ticket = coats.surface_ticket
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("All of it", True))
    d.click(d.button(coats, "Add a surface"))
    QApplication.processEvents()
    assert not ticket.part.isVisible()  # it is of nothing yet
    ticket.piece.box.activated.emit(1)
    d.refresh()
    d.click(ticket.each)
    parts = {s.part: s for s in d.project.surfaces if s.part}
    assert set(parts) == {"face", "hair", "skin", "shirt", "trousers", "shoes"}
    assert all(0 < s.area_cm2 < 100 for s in parts.values())
    assert "shirt" in d.window.said()
    d.refresh()
    d.click(ticket.each)
    assert len(d.project.surfaces) == 7
    assert "already" in d.window.said()
    d.click(ticket.work_out)
    whole = next(s for s in d.project.surfaces if not s.part)
    assert whole.area_cm2 == pytest.approx(sum(s.area_cm2 for s in parts.values()), rel=0.02)
    edit, _ident = add_step(d.project, "Shirt", (parts["shirt"].id,), "acrylic")
    before = figure_paints(d.project)[figure.id]
    d.session.do(edit)
    d.type(coats.ticket.colour.edit, "#ff0000")
    after = figure_paints(d.project)[figure.id]
    assert [a == b for a, b in zip(before, after, strict=True)].count(False) == 1
    # A figure that has changed is not told the areas of the one before.
    d.session.do(put(PIECES.at(figure.id).then(lambda p: p.shape), Figure(pose="walking"), "Walk"))
    d.click(ticket.work_out)
    assert "still being built" in d.window.said()


def test_bodies_hulls_and_skins_are_made_in_the_background_alone(desk, heron, monkeypatch):
    """A window whose rules and pages built bodies stood still for a second; nothing that is on show or said does."""
    caught = []

    def watched(module, name, real):
        def guarded(*args):
            stack = [f.filename.split("/fondale/")[-1] for f in traceback.extract_stack() if "/fondale/" in f.filename]
            asker = next(f for f in reversed(stack) if f.startswith("qt/") or f in ("app/workers.py", "app/judge.py"))
            if asker != "app/workers.py":
                caught.append((name, stack[-6:]))
            return real(*args)

        monkeypatch.setattr(module, name, guarded)

    for module, name in ((figure, "kept"), (animals, "kept"), (supports, "hang_of"), (scene, "build_scene")):
        watched(module, name, getattr(module, name))
    take = Results.take

    def as_if_elsewhere(self, report):
        """Workers are processes of their own: the window knows nothing of what they keep."""
        for cached in (figure.figure, animals.animal, supports.hangs, solids._solid, clearance.footprint):
            cached.cache_clear()
        take(self, report)

    monkeypatch.setattr(Results, "take", as_if_elsewhere)
    woman = next(p for p in heron.pieces if p.id == "woman")
    d = desk(apply(heron, put(PIECES.at("woman").then(lambda p: p.place), woman.place.but(x=5.0), "Out")))
    for station in STATIONS:
        place = d.station(station)
        for page in place.pages if isinstance(place, PagedStation) else ("",):
            if page:
                place.turn_to(page)
            d.settle()
    d.refresh()
    assert any(f.code == "STAGE-OUT" for f in d.session.results.prompts)
    assert not caught, caught[:3]
