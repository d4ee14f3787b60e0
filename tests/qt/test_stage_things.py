# SPDX-License-Identifier: MIT
"""Stage: grounds drawn with the mouse, doors that turn, pieces on the clipboard, a point that is looked for."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog, QLabel

from fondale.core.derived import STAGE, VIEWS
from fondale.core.model import AREAS, LAMPS, METERS, PIECES
from fondale.core.shapes.grounds import relief
from fondale.qt.stations.stage.ground_lines import DEEDS
from fondale.qt.stations.stage.stage_page import DRAWN_LEAST
from tests.qt.test_stage_by_hand import choose, field, fill, kind

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def scene(desk, empty):
    d = desk(empty, width=1500, height=1000)
    station = d.station("stage")
    station.turn_to("The scene")
    return d, station.page


def grounded(scene):
    """A ground of 200 x 150 on show from above."""
    d, page = scene
    page._add(kind("Ground"))
    d.settle()
    fill(d, page.ticket, width="200", depth="150", height="5")
    d.settle()
    d.click(d.button(page, "from above"))
    d.settle()
    return d, page, page.relief


def draw(d, relief_, points):
    """A line with the mouse through points in mm from the middle."""
    spots = [relief_.to_screen(*p).toPoint() for p in points]
    QTest.mousePress(relief_, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spots[0])
    for spot in spots[1:]:
        QTest.mouseMove(relief_, spot)
        QApplication.processEvents()
    QTest.mouseRelease(relief_, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spots[-1])
    d.settle()


def lines(d):
    return d.project.pieces[-1].shape.lines


def test_contours_and_strokes_are_drawn_moved_and_taken_out(scene):
    d, page, plan = grounded(scene)
    assert plan.isVisible()
    turn = np.linspace(0, 2 * np.pi, 25)
    draw(d, plan, np.column_stack([40 * np.cos(turn), 40 * np.sin(turn)]).tolist())
    (hill,) = lines(d)
    assert (hill.kind, hill.closed) == ("contour", True)  # it ended where it began
    radius = np.linalg.norm(np.array(hill.points) * (200, 150), axis=1)
    assert radius == pytest.approx(40, abs=1.5)
    fill(d, page.ticket, at="30")
    d.settle()
    assert relief(d.project.pieces[-1].shape)[2].max() == pytest.approx(30.0)
    # A stroke that digs: chosen in the menu, drawn, its depth and reach typed.
    page._change_lines("stroke")
    draw(d, plan, [(-90, -60), (0, -55), (90, -60)])
    fill(d, page.ticket, by="-3", reach="10 mm")
    d.settle()
    stroke = lines(d)[1]
    assert (stroke.kind, stroke.height, stroke.reach, stroke.closed) == ("stroke", -3.0, 10.0, False)
    shape = d.project.pieces[-1].shape
    dug = relief(shape)[2] - relief(shape.but(lines=shape.lines[:1]))[2]
    assert -3.0 <= dug.min() < -2.5
    assert dug.max() == 0.0
    # The hill is dragged as one step, moved by keys, taken out by Delete; undo brings all of it back.
    at = plan.to_screen(40, 0)
    d.drag(plan, at, at + QPointF(20, 0))
    moved = np.array(lines(d)[0].points) * (200, 150)
    scale = plan.to_screen(1, 0).x() - plan.to_screen(0, 0).x()
    assert moved.mean(0)[0] == pytest.approx(np.array(hill.points).mean(0)[0] * 200 + 20 / scale, abs=1.0)
    d.key(Qt.Key.Key_Left, on=plan)
    d.key(Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier, on=plan)
    stepped = np.array(lines(d)[0].points) * (200, 150)
    assert (stepped - moved).mean(0) == pytest.approx([-1, 10], abs=0.1)
    d.key(Qt.Key.Key_Delete, on=plan)
    d.settle()
    assert [line.kind for line in lines(d)] == ["stroke"]
    d.window.undo()
    assert len(lines(d)) == 2
    choose(page.ticket, "rim", "free")
    assert d.project.pieces[-1].shape.rim == "free"


def test_every_deed_of_the_ground_menu_does_something(scene):
    d, page, plan = grounded(scene)
    for how in DEEDS:
        page._change_lines(how)
        d.settle()
        plan.grab()
    assert [line.height for line in lines(d)] == [15.0]  # a hill was added, copied higher and inwards, and the copy taken out
    page._change_lines("copy")
    d.settle()
    inner, outer = lines(d)[1], lines(d)[0]
    assert inner.height > outer.height
    assert np.abs(inner.points).max() < np.abs(outer.points).max()
    choose(page.ticket, "line", 0)
    d.settle()
    assert page._rows.lines.at == 0
    assert np.ptp(np.array(lines(d)[0].points), axis=0).max() > 0


def test_a_block_is_not_looked_at_from_above(scene):
    d, page, plan = grounded(scene)
    page._add(kind("Block"))
    d.settle()
    assert not plan.isVisible()
    assert not page.lines.isVisible()
    plan.grab()
    d.click(plan, QPointF(20, 20))
    d.key(Qt.Key.Key_Delete, on=plan)
    assert len(d.project.pieces) == 2


def test_a_door_that_cannot_open_is_said_and_let_stop(scene):
    d, page = scene
    page._add(kind("Block"))
    d.settle()
    fill(d, page.ticket, width="40", depth="2", height="70", x="150", y="100", turns="120")
    d.settle()
    choose(page.ticket, "about", "left")
    page._add(kind("Figure"))
    d.settle()
    fill(d, page.ticket, x="162", y="116")
    d.settle()
    page.plan.grab()
    card = next(f for f in d.session.results.prompts if f.code == "STAGE-SWING")
    assert "in the way" in card.text
    d.session.do(*card.fixes[0].edits)
    d.settle()
    assert all(f.code != "STAGE-SWING" for f in d.session.results.prompts)
    door = d.project.pieces[0]
    d.session.select(PIECES, door.id)
    d.settle()
    fill(d, page.ticket, turns="not")
    assert d.project.pieces[0].swing_deg == 0.0
    d.type(field(page.ticket, "turns").edit, "a lot")
    assert d.project.pieces[0].swing_deg == 0.0


def test_pieces_are_copied_and_pasted_by_keys(scene):
    d, page = scene
    page._add(kind("Figure"))
    d.settle()
    page.plan.setFocus()
    d.window._allow()
    d.key(Qt.Key.Key_C, CTRL)
    d.key(Qt.Key.Key_V, CTRL)
    d.settle()
    first, second = d.project.pieces
    assert second.shape == first.shape
    assert d.session.chosen(PIECES) == second.id
    d.window.undo()
    assert len(d.project.pieces) == 1
    # In a field the keys are the field's own.
    edit = field(page.ticket, "name").edit
    edit.setFocus()
    edit.selectAll()
    d.key(Qt.Key.Key_C, CTRL, on=edit)
    assert QApplication.clipboard().text() == edit.text()
    d.key(Qt.Key.Key_V, CTRL, on=edit)
    assert len(d.project.pieces) == 1


@pytest.mark.parametrize("text", ["", "words", "{}", "[" * 5000, "x" * 21_000_000, '{"schema_version": 4, "pieces": [{}]}'])
def test_what_is_no_piece_is_refused_in_words(scene, text):
    d, _page = scene
    said = []
    d.session.said.connect(said.append)
    QApplication.clipboard().setText(text)
    d.window.exchange.paste()
    d.settle()
    assert said == ["There is no piece to paste: choose one and copy it first."]
    assert d.project.pieces == ()


def test_a_piece_of_a_newer_fondale_is_told_as_that(scene):
    d, _page = scene
    QApplication.clipboard().setText('{"schema_version": 99}')
    d.window.exchange.paste()
    d.settle()
    assert "newer Fondale (its version is 99" in d.window.said()
    assert d.project.pieces == ()


def test_a_typed_point_is_looked_for(scene, monkeypatch):
    d, page = scene
    page._add_seat()
    d.settle()
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a: ("150, 80, 20", True))
    entry = dict(page._targets())["a point…"]
    entry()
    d.settle()
    assert page.seen_from.words.text().startswith("The point 150, 80, 20")
    assert "all of it" in page.seen_from.words.text()
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a: ("over there", True))
    said = []
    d.session.said.connect(said.append)
    entry()
    assert said == ["Three numbers, please: from the left, from the front, and up."]
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a: ("10,-5000,20", True))
    entry()  # before the front, behind the eye: nothing hides it, and nothing breaks
    d.settle()
    assert page.seen_from.isVisible()


def test_meters_and_areas_are_chosen_in_the_rig_and_in_the_picture(desk, empty):
    d = desk(empty, width=1400, height=900)
    lamps = d.station("lamps")
    lamps._add_lamp()
    lamps._add_meter()
    lamps._add_area()
    d.settle()
    area = d.project.areas[0]
    assert lamps._chosen() == (AREAS, area.id)
    fill(d, lamps.ticket, x="40", y="30", wide="120", deep="90", wanted="1")
    d.refresh()
    assert (d.project.areas[0].x, d.project.areas[0].width, d.project.areas[0].wanted_u0) == (40.0, 120.0, 1.0)
    assert "even" in lamps.meters[1].text()
    assert any(f.code == "LIGHT-EVEN" for f in d.session.results.prompts)
    # The meter again, by a click in the rig and by keys.
    lamps.rig.grab()
    box = next(b for b, listing, _ident in lamps.rig._spots if listing == METERS)
    d.click(lamps.rig, box.center())
    d.settle()
    assert lamps._chosen() == (METERS, d.project.meters[0].id)
    fill(d, lamps.ticket, z="12")
    assert d.project.meters[0].z == 12.0
    d.key(Qt.Key.Key_Down, on=lamps.rig)
    assert lamps._chosen()[0] == AREAS
    d.key(Qt.Key.Key_Up, on=lamps.rig)
    d.key(Qt.Key.Key_Up, on=lamps.rig)
    assert lamps._chosen()[0] == LAMPS
    # And in the picture.
    d.settle()
    meter = d.project.meters[0]
    at = lamps.view.project_point(meter.x, meter.y, meter.z)
    d.click(lamps.view, at)
    assert lamps._chosen() == (METERS, meter.id)
    lamps.view.grab()


@pytest.mark.parametrize(("width", "height", "scale"), [(1280, 800, 1.0), (1100, 700, 1.0), (1280, 800, 1.5)])
@pytest.mark.parametrize("words", ["Ground", "Wall with an opening", "Room with a window"])
def test_what_is_seen_of_its_face_or_from_above_leaves_the_page_as_wide_as_the_window(desk, heron, width, height, scale, words):
    d = desk(heron, width=width, height=height, scale=scale)
    station = d.station("stage")
    station.turn_to("The scene")
    page = station.page
    page._add(kind(words))
    d.settle("quick", "stage")
    if words == "Ground":
        page._change_lines("hill")
        page._change_lines("stroke")
    page._show_drawing(1)
    d.settle("quick", "stage")
    assert page._section_note.text() == ""  # no section is on show
    frame = station.parentWidget().parentWidget()
    assert station.minimumSizeHint().width() <= frame.viewport().width()
    assert frame.horizontalScrollBar().maximum() == 0
    page._show_drawing(0)
    assert page._section_note.text() == "front on the left"


def test_the_scene_is_folded_where_plan_and_view_have_no_room_side_by_side(desk, heron):
    """With large type the page was wider than the window once a piece with openings was chosen, and the end of its ticket was cut."""
    d = desk(heron, width=1280, height=800, scale=1.5)
    station = d.station("stage")
    station.turn_to("The scene")
    page, frame = station.page, station.parentWidget().parentWidget()
    for piece in d.project.pieces:
        if piece.place is not None:
            d.session.select(PIECES, piece.id)
            d.settle("quick", "stage")
            assert frame.horizontalScrollBar().maximum() == 0, piece.name
            assert page.ticket.remove.mapTo(page, page.ticket.remove.rect().topRight()).x() <= page.width(), piece.name
    d.session.select(PIECES, next(p.id for p in d.project.pieces if p.name == "Ticket kiosk"))
    d.settle("quick", "stage")
    assert page.view.mapTo(page, QPoint()).y() > page.section.mapTo(page, QPoint()).y()
    assert min(page.plan.height(), page.section.height()) >= d.session.theme.px(DRAWN_LEAST)


def test_the_name_of_a_lamp_keeps_clear_of_that_of_a_piece(desk, heron):
    d = desk(heron, width=1280, height=800)
    piece = next(p for p in heron.pieces if p.name == "Ticket kiosk")
    page = d.station("stage").page
    d.session.select(PIECES, piece.id)
    d.session.selected[LAMPS] = next(m.id for m in heron.lamps if m.name == "Kiosk")
    d.settle("quick", "stage")
    for drawing in (page.plan, page.section):
        sheet = QPixmap(drawing.size())
        with QPainter(sheet) as painter:
            ring = next(ring for one, ring in drawing._outlines() if one.id == piece.id)
            taken = drawing._name(painter, piece, ring)
            mine = drawing._lamps.name(painter, taken)
        assert mine.width() > 10
        assert not mine.intersects(taken)


def test_an_area_lies_on_what_is_there_and_says_when_it_is_covered(desk, heron):
    d = desk(heron)
    lamps = d.station("lamps")
    lamps._add_area()
    d.refresh()
    area = d.project.areas[0]
    assert area.z is None
    assert "even" in lamps.meters[-1].text()  # the middle of the demo's floor lies under its quay and its water
    fill(d, lamps.ticket, z="1")  # in the water
    d.refresh()
    assert lamps.meters[-1].text().endswith("covered")
    fill(d, lamps.ticket, z="lies")
    assert d.project.areas[0].z is None


def painted(page) -> bool:
    return any(row.findChild(QLabel) and row.findChild(QLabel).text() == "paint" for row, _read in page.ticket.rows)


def test_a_mirror_and_water_from_nothing(scene):
    """A figure before a mirror: the seat sees it twice; it stands in water, and nobody says that it collides."""
    d, page = scene
    page._add(kind("Figure"))
    figure = d.project.pieces[-1]
    d.session.select(PIECES, figure.id)
    d.settle()
    fill(d, page.ticket, x="60", y="60")
    d.type(field(page.ticket, "paint").edit, "#c02020")
    page._add(kind("Pane or mirror"))
    sheet = d.project.pieces[-1].id
    d.settle()
    fill(d, page.ticket, width="280", height="190", x="150", y="180")
    choose(page.ticket, "made of", "glass mirror")
    d.settle("quick", "stage")
    assert d.project.get(PIECES, sheet).shape.made == "glass mirror"
    assert painted(page)  # its back

    def red() -> int:
        image = d.session.results[STAGE].image.astype(int)
        return int(((image[..., 0] > 1.6 * image[..., 1]) & (image[..., 0] > 60)).sum())

    twice = red()
    choose(page.ticket, "made of", "glass")
    d.settle("quick", "stage")
    once = red()
    assert not painted(page)
    assert once > 20
    assert twice > once * 1.15
    page._add(kind("Water"))
    d.settle()
    fill(d, page.ticket, width="280", depth="150", height="6", x="150", y="90")
    d.settle("quick", "stage")
    assert all(f.code != "STAGE-TOUCH" for f in d.session.results.prompts)
    assert d.session.results[VIEWS][0].seen > 0.95  # one sees into it
    while d.session.document.undo_label:
        d.session.document.undo()
    assert d.project.pieces == ()


def test_a_donor_part_on_a_body_says_where_to_saw(scene):
    """From nothing: a drum in a block is told to be in the way until it is part of it; then where it is sawn."""
    d, page = scene
    for words, sizes in (
        ("Block", {"x": "150", "y": "100", "up": "0"}),
        ("Post or drum", {"x": "150", "y": "100", "up": "12", "length": "30"}),
    ):
        page._add(kind(words))
        d.session.select(PIECES, d.project.pieces[-1].id)
        d.settle()
        fill(d, page.ticket, **sizes)
    d.settle()
    assert any(f.code == "STAGE-TOUCH" for f in d.session.results.prompts)
    assert not page.seam.isVisible()
    block = d.project.pieces[0]
    choose(page.ticket, "part of", block.id)
    d.settle()
    assert all(f.code != "STAGE-TOUCH" for f in d.session.results.prompts)
    assert page.seam.isVisible()
    assert page.seam.text() == f"Saw it {block.shape.height - 12:g} mm from its foot"
    d.type(field(page.ticket, "up").edit, "55")
    d.settle()
    assert page.seam.text() == f"{55 - block.shape.height:g} mm of air"
    while d.session.document.undo_label:
        d.session.document.undo()
    assert d.project.pieces == ()
