# SPDX-License-Identifier: MIT
"""Photographs, house rules and the ribbon through real events."""

import io

import pytest
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMessageBox

from fondale.core.derived import AIRS, PHOTO_READINGS
from fondale.core.edits.boxes import add_machine
from fondale.core.model import PIECES
from fondale.demo import sample_assets
from fondale.knowledge import table


def page_of(d, title="Photographs"):
    brief = d.station("brief")
    brief.turn_to(title)
    QApplication.processEvents()
    return brief.page


def picture(width: int, height: int, kind: str = "PNG") -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (width, height), (200, 190, 170)).save(out, kind)
    return out.getvalue()


def test_a_photograph_is_brought_threads_are_stretched_and_read(desk, empty, tmp_path):
    d = desk(empty)
    (tmp_path / "quay.png").write_bytes(picture(800, 400))
    page = page_of(d)
    page.bring(str(tmp_path / "quay.png"))
    d.settle()
    photo = d.project.photos[0]
    assert (photo.width, photo.height) == (800, 400)
    assert d.session.document.assets[photo.asset] == (tmp_path / "quay.png").read_bytes()
    view = page.view
    d.drag(view, view.to_screen((100, 100)), view.to_screen((300, 100)))
    assert len(d.project.photos[0].threads) == 1
    d.type(page.known.edit, "2.03 m")
    d.type(page.name.edit, "Door")
    d.drag(view, view.to_screen((400, 300)), view.to_screen((400, 200)))
    second = d.project.photos[0].threads[1]
    d.type(page.name.edit, "Crate")
    d.settle("quick")
    ends = [(t.a, t.b) for t in d.project.photos[0].threads]
    pixels = [abs(a[0] - b[0]) + abs(a[1] - b[1]) for a, b in ends]
    expected = 2030 * pixels[1] / pixels[0]
    reading = d.session.results[PHOTO_READINGS][photo.id][second.id]
    assert reading.real_mm == pytest.approx(expected, rel=1e-6)
    before = len(d.project.pieces)
    d.click(page.makes.part)
    assert len(d.project.pieces) == before + 1
    assert d.project.pieces[-1].measure.mm == pytest.approx(expected / 35)
    d.click(page.makes.need)
    assert d.project.needs[-1].real[-1] == pytest.approx(expected)
    d.click(page.off)
    assert len(d.project.photos[0].threads) == 1
    while d.session.document.undo_label:
        d.window.undo()
    assert d.project == empty


def test_a_thread_is_moved_by_its_end_as_one_step_and_by_keys(desk, heron):
    d = desk(heron)
    d.session.document.assets.update(sample_assets(heron.name))
    d.refresh()
    page = page_of(d)
    d.settle()
    assert page._pictures._shown
    page._choose("bollard")
    view = page.view
    thread = next(t for t in d.project.photos[0].threads if t.id == "bollard")
    d.click(page.tools["hand"])
    d.drag(view, view.to_screen(thread.b), view.to_screen((thread.b[0] + 40, thread.b[1] - 30)))
    moved = next(t for t in d.project.photos[0].threads if t.id == "bollard")
    assert moved.b[0] == pytest.approx(thread.b[0] + 40, abs=2)
    assert moved.a == thread.a
    d.window.undo()
    assert d.project == heron
    d.settle("quick")
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Right)
    d.settle("quick")
    for _ in range(9):
        if view._held().end != "a":
            QTest.keyClick(view, Qt.Key.Key_Space)
    QTest.keyClick(view, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    keyed = next(t for t in d.project.photos[0].threads if t.id == "bollard")
    assert keyed.b[0] + keyed.a[0] == pytest.approx(thread.b[0] + thread.a[0] + 1)
    assert keyed.a[1] + keyed.b[1] == pytest.approx(thread.a[1] + thread.b[1] - 10)
    d.settle("quick")
    QTest.keyClick(view, Qt.Key.Key_Delete)
    assert all(t.id != "bollard" for t in d.project.photos[0].threads)


def test_everything_on_a_photograph_is_made_and_moved_by_keys(desk, empty, tmp_path):
    d = desk(empty)
    (tmp_path / "p.png").write_bytes(picture(400, 200))
    page = page_of(d)
    page.bring(str(tmp_path / "p.png"))
    d.settle()
    view = page.view
    for tool, key in (("ground", Qt.Key.Key_Return), ("frame", Qt.Key.Key_Insert), ("horizon", Qt.Key.Key_Enter)):
        d.click(page.tools[tool])
        view.setFocus()
        QTest.keyClick(view, key)
        d.settle("quick")
    photo = d.project.photos[0]
    assert photo.threads[0].on == "ground"
    assert photo.frame is not None
    assert (photo.horizon.left, photo.horizon.right) == (100, 100)
    view.setFocus()
    seen = []
    for _ in range(8):
        QTest.keyClick(view, Qt.Key.Key_Space)
        held = view._held()
        seen.append((held.what, held.end))
        before = view._point_of(held)
        QTest.keyClick(view, Qt.Key.Key_Down)
        d.settle("quick")
        assert view._point_of(held)[1] == pytest.approx(before[1] + 1)
    assert len(set(seen)) == 8
    d.click(page.tools["hand"])
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Return)
    assert len(d.project.photos[0].threads) == 1


def test_a_thread_that_starts_on_another_leaves_that_one_be(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d)
    view = page.view
    page._choose("bollard")
    old = next(t for t in d.project.photos[0].threads if t.id == "bollard")
    count = len(d.project.photos[0].threads)
    d.drag(view, view.to_screen(old.b) + QPointF(3, 2), view.to_screen((old.b[0] + 160, old.b[1] - 90)))
    new = d.project.photos[0].threads[-1]
    assert len(d.project.photos[0].threads) == count + 1
    assert old in d.project.photos[0].threads
    assert new.a == pytest.approx(old.b, abs=0.5)  # exactly where the other one ends, so that an angle can be read
    middle = ((old.a[0] + old.b[0]) / 2, (old.a[1] + old.b[1]) / 2)
    d.drag(view, view.to_screen(middle), view.to_screen((middle[0] + 150, middle[1])))
    assert len(d.project.photos[0].threads) == count + 2
    d.click(view, view.to_screen(old.a))
    assert page.chosen_thread.id == "bollard"  # a click chooses
    assert len(d.project.photos[0].threads) == count + 2


def test_two_threads_make_one_panel_and_an_opening(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d)
    level, upright = "sill", "bollard"
    names = {t.id for t in d.project.photos[0].threads}
    level = level if level in names else next(t.id for t in d.project.photos[0].threads if abs(t.b[0] - t.a[0]) > abs(t.b[1] - t.a[1]))
    page._choose(level)
    d.settle("quick")
    page.makes.second.box.activated.emit([v for v, _w in page.makes.second._options].index(upright))
    d.settle("quick")
    reads = sorted(page.makes.reads(), key=lambda r: r.lean)
    assert len(reads) == 2
    d.click(page.makes.need)
    assert d.project.needs[-1].real == tuple(r.mm for r in reads)
    assert "×" in page.makes.part.text()
    before = len(d.project.get(PIECES, "rear-wall").shape.openings)
    page.makes.opening.box.activated.emit([v for v, _w in page.makes.opening._options].index("rear-wall"))
    house, shape = d.project.brief.house_n, d.project.get(PIECES, "rear-wall").shape
    fits = reads[0].mm / house < shape.length and reads[1].mm / house < shape.height
    assert len(shape.openings) == before + fits


def test_nothing_is_made_of_lengths_that_are_still_being_read(desk, heron, monkeypatch):
    d = desk(heron)
    d.refresh()
    page = page_of(d)
    d.settle("quick")
    said: list[str] = []
    d.session.said.connect(said.append)
    monkeypatch.setattr(d.session.results, "fresh", lambda _result: False)
    for make in (page.makes.part, page.makes.need):
        d.click(make)
    assert (d.project.pieces, d.project.needs) == (heron.pieces, heron.needs)
    assert said == ["The threads are still being read. Make it in a moment."] * 2


def test_the_frame_and_the_horizon_are_dragged(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d)
    view = page.view
    corner = d.project.photos[0].frame.corners[0]
    d.click(page.tools["frame"])
    d.drag(view, view.to_screen(corner), view.to_screen((corner[0] - 12, corner[1] - 8)))
    assert d.project.photos[0].frame.corners[0][0] == pytest.approx(corner[0] - 12, abs=2)
    d.click(page.tools["horizon"])
    d.drag(view, view.to_screen((700, 60)), view.to_screen((1000, 60)))
    assert d.project.photos[0].horizon.left == pytest.approx(60, abs=2)
    d.click(page.tools["frame"])
    d.drag(view, view.to_screen((900, 40)), view.to_screen((1100, 160)))
    assert d.project.photos[0].frame.corners[2][0] == pytest.approx(1100, abs=2)
    d.type(page.wide.edit, "1.2 m")
    assert d.project.photos[0].frame.width_mm == 1200
    d.click(page.tools["hand"])
    middle = QPointF(view.rect().center())
    wheel = QWheelEvent(middle, view.mapToGlobal(middle), QPointF(0, 0).toPoint(), QPointF(0, 120).toPoint(), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    under = view.to_photo(middle)
    for _ in range(4):
        QApplication.sendEvent(view, wheel)
    assert view._zoom > 1.5
    assert view.to_photo(middle) == pytest.approx(under, abs=30)


@pytest.mark.parametrize(("name", "data"), [("a.png", b""), ("b.jpg", b"\xff\xd8nonsense"), ("c.txt", b"text"), ("d.webp", b"RIFF")])
def test_odd_pictures_are_told_and_nothing_changes(desk, empty, tmp_path, monkeypatch, name, data):
    d = desk(empty)
    warned = []
    monkeypatch.setattr(QMessageBox, "warning", lambda *a: warned.append(a[-1]))
    (tmp_path / name).write_bytes(data)
    page_of(d).bring(str(tmp_path / name))
    d.settle()
    assert warned
    assert len(warned[0]) > 12
    assert d.project is empty


def test_a_picture_of_one_pixel_is_shown(desk, empty, tmp_path):
    d = desk(empty)
    (tmp_path / "dot.png").write_bytes(picture(1, 1))
    page = page_of(d)
    page.bring(str(tmp_path / "dot.png"))
    d.settle()
    assert d.project.photos[0].width == 1
    view = page.view
    d.drag(view, view.box().topLeft() + QPointF(2, 2), view.box().bottomRight() - QPointF(2, 2))
    assert view.grab().width() > 0


def test_house_rules_are_sentences_and_change_what_is_proposed(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d, "House rules")
    assert len(page.choices) == 8
    air = d.session.results[AIRS]["porter-crate"]
    d.click(page.choices["tolerance"]["mock-up"])
    d.settle("quick")
    assert d.session.results[AIRS]["porter-crate"].least > air.least
    d.click(page.choices["order"]["whole"])
    d.settle("quick")
    codes = {f.code for f in d.session.results.prompts}
    assert "COAT-ACCESS" in codes
    d.window.undo()
    d.window.undo()
    assert d.project.brief.rules.tolerance == "measured"
    rows = table("machines")["machine"]
    before = len(d.project.brief.machines)
    d.session.do(add_machine(d.project, next(iter(rows))))
    d.settle("quick")
    assert page._machines.count() == before + 1
    d.click(page._machines.itemAt(0).widget().own)
    d.type(page._machines.itemAt(0).widget().pace.edit, "1.4")
    assert d.project.brief.machines[0].pace == 1.4


def test_the_wheel_moves_the_ribbon_and_it_says_why(desk, heron):
    d = desk(heron)
    d.refresh()
    brief = d.station("brief")
    assert "serve as they are" in brief._why.text()
    shown = [n for n, c in brief.ribbon._cells() if c.left() >= 0 and c.right() <= brief.ribbon.width()]
    assert 35.0 in shown
    assert {6.0, 220.0} <= set(brief.ribbon.candidates())


def test_tags_never_lie_on_each_other(desk, heron):
    d = desk(heron, width=1100, height=700)
    d.session.document.assets.update(sample_assets(heron.name))
    page = page_of(d)
    d.refresh()
    page.view.grab()
    tags = page.view._labels
    assert len(tags) >= 6
    assert not any(a.intersects(b) for i, a in enumerate(tags) for b in tags[i + 1 :])
    assert all(page.view.rect().toRectF().contains(t) for t in tags)


def test_what_a_rule_does_follows_the_choice(desk, heron):
    d = desk(heron)
    page = page_of(d, "House rules")
    d.refresh()
    before = page._effects["tolerance"].text()
    d.click(page.choices["tolerance"]["mock-up"], QPointF(8, 8))
    assert d.project.brief.rules.tolerance == "mock-up"
    d.settle("quick")
    assert page._effects["tolerance"].text() != before
