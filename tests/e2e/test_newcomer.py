# SPDX-License-Identifier: MIT
"""A newcomer with three figures, a photograph and a file, from an empty project: real workers, real events."""

from datetime import date

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog, QMessageBox

from fondale.app.document import Document
from fondale.app.settings import Settings
from fondale.core.derived import READINGS, RIBBON
from fondale.core.edits import new_project
from fondale.core.model import PIECES
from fondale.core.shapes import KINDS
from fondale.demo import sample_assets
from fondale.demo.landing_photo import pixel
from fondale.instruments import simulated
from fondale.qt.application import make_window, settle
from fondale.qt.stations.bench.fits_page import FitsPage
from fondale.qt.stations.bench.print_page import PrintPage
from fondale.qt.stations.bench.shelf_page import ShelfPage
from fondale.qt.stations.brief.photo_page import PhotoPage
from fondale.storage import load
from fondale.storage.files import load_all

TODAY = date(2026, 11, 24)


@pytest.fixture
def window(qtbot, tmp_path):
    main = make_window(Document(new_project("New piece", TODAY)), Settings(tmp_path), TODAY, simulated(), tmp_path / "state")
    session = main.session
    main.show()
    QTest.qWaitForWindowExposed(main)
    session.results.refresh()
    assert settle(session)
    yield main
    session.document._clean = session.document._project
    main.close()
    main.shut()


def type_in(edit, text: str) -> None:
    edit.setFocus()
    QTest.keyClick(edit, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(edit, text)
    QTest.keyClick(edit, Qt.Key.Key_Return)


def drag(view, a, b) -> None:
    left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    QTest.mousePress(view, left, none, a.toPoint())
    for k in range(1, 5):
        QTest.mouseMove(view, (a + (b - a) * (k / 4)).toPoint())
    QTest.mouseRelease(view, left, none, b.toPoint())
    QApplication.processEvents()


@pytest.mark.slow
def test_three_figures_a_photograph_and_a_file(window, tmp_path, monkeypatch):
    session = window.session
    bench, brief = window.stations["bench"], window.stations["brief"]
    (tmp_path / "quay.jpg").write_bytes(sample_assets("Heron Stairs, last boat")["assets/photos/landing.jpg"])
    (tmp_path / "crane.stl").write_bytes(sample_assets("Heron Stairs, last boat")["assets/prints/quay-crane.stl"])
    # Three figures: zero the caliper, add, take, say the pose.
    window.go("bench")
    window.hands.zero_caliper()
    for height, person, pose in (("50.2 mm", "man", "standing"), ("36.4 mm", "man", "kneeling_one"), ("30.1 mm", "man", "standing")):
        bench.page_of(ShelfPage)._add(KINDS[0])
        type_in(bench.page_of(ShelfPage).height_field.edit, height)
        piece = bench.page_of(ShelfPage).piece.id
        bench.page_of(ShelfPage).pose.box.activated.emit([v for v, _t in bench.page_of(ShelfPage).pose._options].index(pose))
        assert session.project.find(PIECES, piece).shape.pose == pose
        assert session.project.find(PIECES, piece).shape.person == person
    assert settle(session)
    assert bench.page_of(ShelfPage).factor.text().startswith("166")
    # The ribbon knows which scale suits them, and a click makes it the house scale.
    window.go("brief")
    assert settle(session)
    best = session.results[RIBBON].best
    assert best == 35
    brief.ribbon.show_scale_at(best)
    cell = next(c for n, c in brief.ribbon._cells() if n == best)
    QTest.mouseClick(brief.ribbon, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, cell.center().toPoint())
    assert settle(session)
    assert session.project.brief.house_n == 35
    readings = session.results[READINGS]
    assert [round(r.n) for r in readings.values()] == [35, 36, 58]
    assert readings["figure-3"].factor == pytest.approx(58.2 / 35, rel=0.02)
    # The photograph: a known man, and what stands on the same ground.
    brief.turn_to("Photographs")
    page = brief.page_of(PhotoPage)
    page.bring(str(tmp_path / "quay.jpg"))
    assert settle(session)
    view = page.view
    page.tools["horizon"].click()
    drag(view, view.to_screen((200, 348)), view.to_screen((900, 348)))
    page.tools["ground"].click()
    drag(view, view.to_screen(pixel((150, 170, 0))), view.to_screen(pixel((150, 170, 175.3))))
    type_in(page.known.edit, "1.75 m")
    drag(view, view.to_screen(pixel((60, 47, 0))), view.to_screen(pixel((60, 47, 55))))
    type_in(page.name.edit, "Bollard")
    assert settle(session)
    page.makes.need.click()
    need = session.project.needs[-1]
    assert need.name == "Bollard"
    assert need.real[-1] == pytest.approx(550, rel=0.05)
    # The file: its unit is asked, it is brought to size, cut and written.
    window.go("bench")
    bench.turn_to("Print shop")
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a: (a[3][0], True))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a: str(tmp_path / "parts"))
    monkeypatch.setattr(QMessageBox, "warning", lambda *a: pytest.fail(a[-1]))
    (tmp_path / "parts").mkdir()
    bench.page_of(PrintPage).files.bring((str(tmp_path / "crane.stl"),))
    assert settle(session)
    assert any(f.code == "BENCH-TOO-LARGE" for f in session.results.prompts)
    bench.page_of(PrintPage).sizes.suggest_cuts()
    assert settle(session)
    assert not any(f.code == "BENCH-TOO-LARGE" for f in session.results.prompts)
    bench.page_of(PrintPage).files.ask_and_write(".stl")
    assert settle(session)
    assert len(list((tmp_path / "parts").glob("*.stl"))) >= 3
    # What will not fit after paint.
    bench.turn_to("Fits")
    bench.page_of(FitsPage)._add()
    assert settle(session)
    fields = bench.page_of(FitsPage)._named
    type_in(fields["hole_coats"].edit, "spray primer, 3 x water acrylic")
    type_in(fields["peg_coats"].edit, "spray primer, 3 x water acrylic")
    assert settle(session)
    assert any(f.code == "BENCH-FIT" for f in session.results.prompts)
    # All of it is kept.
    assert window.projects.save_to(tmp_path / "mine.fondale")
    assert load(tmp_path / "mine.fondale") == session.project
    assert len(load_all(tmp_path / "mine.fondale").assets) == 2
