# SPDX-License-Identifier: MIT
"""The pages of the Bench through real events: bits, prints, fits, joins, the caliper and true size."""

import struct
from itertools import pairwise

import pytest
from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QFocusEvent, QHelpEvent, QPixmap
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog, QMessageBox, QPushButton, QWidget

from fondale.core.bits.search import VERDICTS
from fondale.core.derived import JOBS, LEDGER, READINGS
from fondale.core.edits import Remove, put
from fondale.core.edits.boxes import add_need
from fondale.core.fits.air import air_of
from fondale.core.lengths import LengthError
from fondale.core.model import BITS, FITS, JOINS, NEEDS, PIECES, PRINTS, STEPS
from fondale.core.shapes import KINDS
from fondale.core.troubles import Trouble
from fondale.demo import sample_assets
from fondale.qt.furniture.fields import Choice
from fondale.qt.furniture.prose import kept_together
from fondale.qt.furniture.rows import ShortAction
from fondale.qt.stations.bench.bits_page import AGAIN
from fondale.qt.stations.bench.how_many import BOAT, BOX
from fondale.qt.stations.bench.print_panels import parse_panels, show_panels
from fondale.qt.stations.bench.print_sizes import parse_cuts, parse_stretch, show_cuts
from fondale.qt.stations.bench.true_size import CARD_MM, CardDialog, px_per_mm


def stl_box(width: float, depth: float, height: float) -> bytes:
    """A closed box as binary STL."""
    x, y, z = width, depth, height
    c = [(0, 0, 0), (x, 0, 0), (x, y, 0), (0, y, 0), (0, 0, z), (x, 0, z), (x, y, z), (0, y, z)]
    f = [(0, 2, 1), (0, 3, 2), (4, 5, 6), (4, 6, 7), (0, 1, 5), (0, 5, 4), (1, 2, 6), (1, 6, 5), (2, 3, 7), (2, 7, 6), (3, 0, 4), (3, 4, 7)]
    body = b"".join(struct.pack("<12fH", 0, 0, 0, *c[i], *c[j], *c[k], 0) for i, j, k in f)
    return b"\0" * 80 + struct.pack("<I", len(f)) + body


def page_of(d, title):
    bench = d.station("bench")
    bench.turn_to(title)
    QApplication.processEvents()
    return bench.page


def test_a_need_is_typed_and_bits_float_up(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d, "Bits box")
    d.type(page.line, "drum, 300 mm real across, 420 long, at 1:35", enter=False)
    assert "8.6 × 12\N{NO-BREAK SPACE}mm at 1:35" in page._said.text()
    assert page.bits.things[0].id in page.bits.matches
    places = [(VERDICTS.index(m.verdict), m.score) for m in (page.bits.matches[b.id] for b in page.bits.things)]
    assert places == sorted(places)
    before = len(d.project.needs)
    d.click(page.keep)
    assert len(d.project.needs) == before + 1
    assert d.project.needs[-1].real == (300, 420)
    d.type(page.line, "drum, very large", enter=False)
    assert "How large" in page._said.text()
    assert len(page.bits.things) == len(d.project.bits)


def test_the_line_and_the_chosen_need_go_together(desk, heron):
    d = desk(heron)
    page = page_of(d, "Bits box")
    # The first need that is open asks for its bits at once.
    assert page.needs.at == "bollard"
    assert page.line.text().startswith("Bollard")
    assert page.bits.matches
    best = page.bits.matches[page.bit.id]
    assert page._reads.text().startswith(kept_together(f"For Bollard: {best.trim}."))
    page.line.clear()
    assert page.needs.at == ""
    assert not page._reads.text().startswith("For")
    assert page.need_ticket.isHidden()
    assert page.use.text() == "Use it"
    QTest.keyClick(page.needs, Qt.Key.Key_Down)
    assert page.line.text().startswith(d.project.needs[0].name)
    # One that is made elsewhere, for example from a photograph, is asked for next.
    edit, ident = add_need(d.project, "Mooring ring", "cylinder", (220.0, 40.0))
    d.session.do(edit)
    d.session.select(NEEDS, ident)
    d.settle("quick")
    assert page.line.text().startswith("Mooring ring")
    d.window.undo()
    d.settle("quick")
    assert page.need is None
    assert page.bits.matches


def test_a_bit_is_used_and_another_is_lost(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d, "Bits box")
    page._choose_need("bollard")
    d.settle("quick")
    bit = page.bit
    d.click(page.use)
    assert d.project.find(BITS, bit.id).count == bit.count - 1
    assert d.project.find(NEEDS, "bollard").made
    assert any(bit.name in p.note for p in d.project.pieces)
    d.window.undo()
    assert d.project.find(BITS, bit.id).count == bit.count
    assert not d.project.find(NEEDS, "bollard").made
    page.line.clear()
    d.settle("quick")
    lost = page.bit.id
    d.click(page.lose)
    assert d.project.find(BITS, lost).state == "lost"


def test_bits_travel_as_a_table(desk, heron, tmp_path, monkeypatch):
    d = desk(heron)
    page = page_of(d, "Bits box")
    assert page.write(tmp_path / "bits.csv")
    warned = []
    monkeypatch.setattr(QMessageBox, "warning", lambda *a: warned.append(a[-1]))
    (tmp_path / "more.csv").write_text("name;size 1;scale\nHub;nan;1:24\nWheel;12,5 mm;1:24\n;3;\n", "utf-8")
    page.bring(tmp_path / "more.csv")
    d.settle("table")
    assert d.project.bits[-1].name == "Wheel"
    assert d.project.bits[-1].sizes[0] == 12.5
    assert "Line 2" in warned[0]
    page.bring(tmp_path / "nothing.csv")
    d.settle("table")
    assert "nothing.csv" in warned[1]
    # The box comes back from a spreadsheet with one count changed: as it is there, or once more, or not at all.
    text = (tmp_path / "bits.csv").read_text("utf-8")
    one = d.project.bits[0]
    (tmp_path / "bits.csv").write_text(text.replace(f",{one.drawer},{one.count},", f",{one.drawer},77,", 1), "utf-8")
    before = len(d.project.bits)
    for answer, count in (("", before), (AGAIN[0], before), (AGAIN[1], before + len(heron.bits))):
        monkeypatch.setattr(QInputDialog, "getItem", lambda *_a, answer=answer: (answer, bool(answer)))
        page.bring(tmp_path / "bits.csv")
        d.settle("table")
        assert len(d.project.bits) == count
        assert d.project.find(BITS, one.id).count == (77 if answer else one.count)


def test_cells_are_walked_by_keys(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d, "Bits box")
    page.bits.setFocus()
    first = page.bits.at
    QTest.keyClick(page.bits, Qt.Key.Key_Right)
    d.settle("quick")
    assert d.session.chosen(BITS) != first
    QTest.keyClick(page.bits, Qt.Key.Key_Down)
    QTest.keyClick(page.bits, Qt.Key.Key_Left)
    d.click(page.bits, page.bits.box(0).center())
    d.settle("quick")
    assert d.session.chosen(BITS) == page.bits.things[0].id


def test_a_file_without_a_unit_is_asked_about_and_brought(desk, empty, tmp_path, monkeypatch):
    d = desk(empty)
    path = tmp_path / "Cart Shed.stl"
    path.write_bytes(stl_box(4, 2, 3))
    asked = []

    def answer(_parent, _title, words, choices, *_more):
        asked.append((words, choices))
        return choices[1], True

    monkeypatch.setattr(QInputDialog, "getItem", answer)
    page = page_of(d, "Print shop")
    page.files.bring((str(path),))
    d.settle()
    assert "states no unit" in asked[0][0]
    assert asked[0][1][1] == "cm: 40 mm × 20 mm × 30 mm"
    file = d.project.prints[0]
    assert file.unit == "cm"
    assert file.size == pytest.approx((40, 20, 30))
    assert file.volume == pytest.approx(24_000, rel=1e-6)
    assert d.session.document.assets[file.asset] == path.read_bytes()
    piece = d.project.pieces[0]
    assert piece.shape.file == file.id
    assert piece.measure.mm == pytest.approx(30)
    d.window.undo()
    assert not d.project.prints
    assert not d.project.pieces


def test_a_unit_that_is_not_said_brings_nothing(desk, empty, tmp_path, monkeypatch):
    d = desk(empty)
    (tmp_path / "a.stl").write_bytes(stl_box(4, 2, 3))
    (tmp_path / "b.stl").write_bytes(b"")
    warned = []
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a: ("", False))
    monkeypatch.setattr(QMessageBox, "warning", lambda *a: warned.append(a[-1]))
    page = page_of(d, "Print shop")
    page.files.bring((str(tmp_path / "a.stl"), str(tmp_path / "b.stl"), str(tmp_path / "none.obj")))
    d.settle()
    assert not d.project.prints
    assert "is empty" in warned[0]
    assert "none.obj" in warned[0]


def test_a_file_is_scaled_by_factor_height_and_axis_and_its_family_follows(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d, "Print shop")
    d.session.select(PRINTS, "boy-with-creel")
    d.settle("quick")
    rows = [field for field, _read in page.ticket.rows]
    d.type(rows[0].edit, "50 %")
    assert d.project.find(PRINTS, "landing-crate").percent == 50
    assert d.project.find(PIECES, "boy").measure.mm == pytest.approx(39.4 / 2)
    d.type(rows[1].edit, "1.3 m real")
    assert d.project.find(PRINTS, "boy-with-creel").printed[2] == pytest.approx(1300 / 35)
    d.type(rows[2].edit, "100 x 100 x 110")
    assert d.project.find(PRINTS, "boy-with-creel").stretch == (1, 1, 1.1)
    d.settle("quick")
    assert "will look stretched" in page._advice.text()
    d.type(rows[2].edit, "100 x 0 x 110")
    assert "Three percentages" in rows[2].error


def test_cuts_are_suggested_and_written(desk, heron, tmp_path, monkeypatch):
    from fondale.demo import sample_assets

    d = desk(heron)
    d.session.document.assets.update(sample_assets("Heron Stairs, last boat"))
    d.refresh()
    page = page_of(d, "Print shop")
    d.session.select(PRINTS, "quay-crane")
    d.settle("quick")
    page.sizes.suggest_cuts()
    d.settle()
    assert not d.session.results[JOBS]["quay-crane"].too_large
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a: str(tmp_path))
    for ending in ("STL", "3MF"):
        d.click(page.write)
        menu = QApplication.activePopupWidget()
        next(a for a in menu.actions() if a.text().startswith(ending)).trigger()
        menu.close()
        d.settle()
        assert "Wrote 3 files" in d.window.said()
        assert len(list(tmp_path.glob(f"*.{ending.lower()}"))) == 3
    assert len(list(tmp_path.glob("quay-crane-*.stl"))) >= 3
    page.sizes.suggest_posture()
    page.takes.run_night()
    assert page.takes.bank.bars
    d.click(page.steps)
    assert any("Wash" in s.name for s in d.project.steps[:8])


def test_a_quote_is_taken_set_right_and_let_go(desk, empty, tmp_path, monkeypatch):
    """From an empty project: a file is brought and handed over, a quote taken by its button, its fields typed, and the print had here again."""
    (tmp_path / "Crane.stl").write_bytes(stl_box(20, 10, 40))
    monkeypatch.setattr(QInputDialog, "getItem", lambda _p, _t, _w, choices, *_more: (choices[0], True))
    d = desk(empty)
    page = page_of(d, "Print shop")
    page.files.bring((str(tmp_path / "Crane.stl"),))
    d.settle()
    d.session.select(PRINTS, d.project.prints[0].id)
    d.settle("quick")
    d.click(page.steps)
    assert d.project.steps[0].name == "Print Crane"
    d.settle("quick")
    quotes = page.takes.quotes
    d.click(d.button(quotes, "Have it printed by Kiln & Comb"))
    d.settle("quick")
    assert [s.name for s in d.project.steps] == ["Order Crane from Kiln & Comb"]
    assert d.project.steps[0].wait_h == (11 + 2 * 3) * 24
    price = d.project.prints[0].ordered.price
    assert d.session.results[LEDGER].prints == pytest.approx(price)
    for name, text in (("price", "12.50"), ("days", "4"), ("late_days", "2"), ("late_share", "50 %"), ("service", "Harbour Prints")):
        d.type(quotes.fields[name].edit, text)
    taken = d.project.prints[0].ordered
    assert (taken.price, taken.days, taken.late_days, taken.late_share, taken.service) == (12.5, 4, 2, 0.5, "Harbour Prints")
    d.settle("quick")
    assert d.project.steps[0].name == "Order Crane from Harbour Prints"
    assert d.project.steps[0].wait_h == 6 * 24
    d.click(quotes.here)
    d.settle("quick")
    assert d.project.prints[0].ordered is None
    assert d.project.steps[0].name == "Print Crane"
    d.click(quotes.by_hand)
    d.settle("quick")
    d.type(quotes.fields["price"].edit, "25")
    quotes.fields["price"].edit.selectAll()
    quotes.fields["price"].edit.insert("20 €")  # as it is pasted: the keys of a test have no such sign
    QTest.keyClick(quotes.fields["price"].edit, Qt.Key.Key_Return)
    assert quotes.fields["price"].edit.text() == "20 €"
    assert d.project.prints[0].ordered.price == 20.0


def test_a_file_is_brought_inside_another(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d, "Print shop")
    d.session.select(PRINTS, "boy-with-creel")
    d.settle("quick")
    page.sizes.follow_inside(d.project.find(PRINTS, "quay-crane"))
    file, outer = d.project.find(PRINTS, "boy-with-creel"), d.project.find(PRINTS, "quay-crane")
    # 2 mm of wall and 0.05 mm of air for resin, on both sides.
    assert file.printed == pytest.approx(tuple(s - 2 * 2.05 for s in outer.printed))
    page.sizes.follow_inside(d.project.find(PRINTS, "landing-crate").model_copy(update={"hollow_mm": 50.0}))
    assert "does not go inside" in d.window.said()


def test_a_stray_file_says_what_to_do(desk, heron, tmp_path):
    d = desk(heron)
    d.refresh()
    page = page_of(d, "Print shop")
    page.files.write_parts(str(tmp_path))
    assert "bring it again" in d.window.said()


def test_a_fit_is_mended_and_its_coats_are_typed(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d, "Fits")
    d.session.select(FITS, "winch-peg")
    d.settle("quick")
    assert "will not go in" in page.air.text()
    d.click(page.mend)
    fit = d.project.find(FITS, "winch-peg")
    assert air_of(fit).verdict == "fits"
    rows = {
        n: f
        for n, (f, _r) in zip(
            ("name", "kind", "hole", "peg", "process", "peg_process", "hole_coats", "hole_on"), page.ticket.rows, strict=False
        )
    }
    d.type(rows["hole_coats"].edit, "2 x water acrylic, oil, thin")
    assert d.project.find(FITS, "winch-peg").hole_coats == ("acrylic", "acrylic", "oil")
    d.type(rows["hole_coats"].edit, "honey")
    assert "not a coat" in rows["hole_coats"].error
    page._add()
    assert d.project.fits[-1].process == "resin"


def choose(choice, value):
    """Take a value from a list, as Enter on its line does."""
    choice.box.activated.emit([v for v, _words in choice._options].index(value))


def test_the_coats_of_a_fit_follow_those_of_its_face_and_a_magnet_says_how_it_pulls(desk, heron):
    d = desk(heron)
    page = page_of(d, "Fits")
    page._add()
    d.session.select(FITS, d.project.fits[-1].id)
    choose(page._named["hole_on"], "kiosk-front")
    d.settle("quick")
    assert not page._named["hole_coats"].isVisible()
    before = page._air(page.fit).hole_film
    front = next(s for s in d.project.steps if "kiosk-front" in s.surfaces and s.coat == "acrylic")
    d.session.do(put(STEPS.at(front.id).then(lambda s: s.coat), "filler_primer", "Coat"))
    assert page._air(page.fit).hole_film == pytest.approx(before + (60 - (22 if front.tool == "brush" else 12)) / 1000)
    choose(page.ticket.rows[1][0], "magnet")
    d.settle("quick")
    assert "how thick" in page._magnet.text()
    thick, deep, *_more = (f for f, _r in page._magnet_rows)
    d.type(thick.edit, "2")
    d.type(deep.edit, "1.9")
    d.settle("quick")
    assert "proud" in page._magnet.text()
    assert "N of pull" in page.pull.text()


def test_seats_in_a_boat_are_counted(desk, heron):
    d = desk(heron)
    many = page_of(d, "Fits").how_many
    assert many.asked.inside == BOX  # no boat unless it is one
    choose(many.inside, BOAT)
    d.type(many.long.edit, "150 mm")
    d.settle()
    more = many.plan.found.count
    d.type(many.long.edit, "60 mm")
    d.settle()
    assert many.plan.found.count < more
    d.type(many.roof.edit, "10 mm")
    d.settle()
    assert "too tall" in many.words.text()


def test_bases_go_into_a_tray_and_an_own_figure_into_the_kiosk(desk, empty, heron):
    d = desk(empty)
    many = page_of(d, "Fits").how_many
    choose(many.who, "round base")
    for field, text in ((many.long, "150"), (many.wide, "72"), (many.base, "32")):
        d.type(field.edit, text)
    d.settle()
    assert many.words.text().startswith("8 go in")
    d.type(many.hatches.edit, "33 round, 20 x 90")
    d.settle()
    assert "By ø 33 mm it comes out upright." in kept_apart(many.words.text())
    d.type(many.hatches.edit, "a hole")
    assert many.hatches.error
    d = desk(heron)
    many = page_of(d, "Fits").how_many
    choose(many.who, "boy")
    choose(many.inside, "kiosk")
    choose(many.faces, "across")
    d.type(many.every.edit, "30")
    d.settle()
    assert many.plan.found is not None
    assert not many.person.isVisible()
    d.session.do(Remove("Remove", PIECES, "boy"))
    d.settle()
    assert many.asked.who == "a person"


def kept_apart(text):
    return text.replace("\N{NO-BREAK SPACE}", " ")


def test_a_joint_gets_its_glue_and_a_figure_its_pin(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d, "Joins")
    d.session.select(JOINS, "kiosk-pane")
    d.settle("quick")
    names = [page._ways.itemAt(k).widget().accessibleName() for k in range(page._ways.count() - 1)]
    assert names
    assert not any("CA" in n.split() for n in names)
    d.type(page.weight.edit, "240 g")
    thick = page.pin.text()
    d.type(page.lean.edit, "45")
    assert thick
    assert "rod" in page.pin.text()
    d.type(page.rod.edit, "1")
    assert page.pin.text().startswith("1")
    assert "A push of" in page._pin_words.text()


def test_two_pieces_are_dragged_together_and_apart(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d, "The shelf")
    for _ in range(40):
        d.settle("quick")
    spots = page.shelf._spots
    floor = page.shelf._floor()
    a, b = (QPointF(s.x_mm * page.shelf._scale, floor - 8) for s in spots[:2])
    d.drag(page.shelf, a, b, steps=6)
    d.settle("quick")
    assert page.shelf.pair == (spots[0].piece.id, spots[1].piece.id)
    assert "of it" in page._pair_note.text()
    page.shelf.setFocus()
    QTest.keyClick(page.shelf, Qt.Key.Key_Escape)
    assert page.shelf.pair is None


def test_more_sizes_on_one_figure_narrow_the_scale(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d, "The shelf")
    d.session.select(PIECES, "ferryman")
    d.settle("quick")
    wide = d.session.results[READINGS]["ferryman"]
    page.details._choose("eyes")
    d.type(page.details.length.edit, "48.2 mm")
    d.settle("quick")
    page.details._choose("shoulder")
    d.type(page.details.length.edit, "42.3 mm")
    d.settle("quick")
    narrow = d.session.results[READINGS]["ferryman"]
    assert len(d.project.find(PIECES, "ferryman").details) == 2
    assert narrow.high / narrow.low < wide.high / wide.low
    forget = page.details._taken.itemAt(0).widget()
    d.click(forget)
    assert len(d.project.find(PIECES, "ferryman").details) == 1


def test_the_caliper_takes_into_the_focused_field_and_its_error_must_be_noticed(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d, "Fits")
    d.session.select(FITS, "winch-peg")
    d.settle("quick")
    hole = page.ticket.rows[2][0]
    d.window.activateWindow()
    QTest.qWaitForWindowActive(d.window)
    hole.edit.setFocus()
    QApplication.processEvents()
    d.window.hands.show_caliper()
    tool = d.window.caliper_window
    assert "hole" in tool._what.text()
    d.key(Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    assert d.project.find(FITS, "winch-peg").hole == pytest.approx(5.2 + 0.35, abs=0.1)
    assert "zero it first" in d.window.said()
    d.window.undo()
    tool.open_to(30)
    d.click(tool.zero)
    assert "closed" in tool._note.text()
    d.click(tool.close_jaws)
    d.click(tool.zero)
    assert tool.jaws.shown == 0.0
    tool.follow(hole)
    d.click(tool.take)
    assert d.project.find(FITS, "winch-peg").hole == pytest.approx(5.2, abs=0.1)
    # Reading the same thing again does not add the errors up.
    for _ in range(5):
        tool.follow(hole)
        tool.take_reading()
    assert d.project.find(FITS, "winch-peg").hole == pytest.approx(5.2, abs=0.1)
    tool.jaws.setFocus()
    QTest.keyClick(tool.jaws, Qt.Key.Key_Right)
    QTest.mouseClick(tool.jaws, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPointF(160, 100).toPoint())
    assert tool.jaws.opening == pytest.approx(50, abs=1)
    tool.close()


def test_true_size_is_found_with_a_card(desk, heron, monkeypatch):
    d = desk(heron)
    d.refresh()
    page = page_of(d, "The shelf")
    screen = page.screen().name()

    def hold(dialog):
        dialog.card.set_scale(4.0)
        QTest.keyClick(dialog.card, Qt.Key.Key_Right)
        return dialog.DialogCode.Accepted

    monkeypatch.setattr(CardDialog, "exec", hold)
    d.click(page.true)
    d.settle("quick")
    assert px_per_mm(d.session.settings, screen) == pytest.approx(4.0 + 1 / CARD_MM[0], abs=1e-3)
    assert page.shelf._scale == pytest.approx(px_per_mm(d.session.settings, screen))
    d.click(page.true)
    d.session.settings.set("screens", {screen: "wide"})
    assert px_per_mm(d.session.settings, screen) is None


@pytest.mark.parametrize("text", ["", "100", "a x b x c", "100 x 100", "1e9 x 1 x 1", "nan x 1 x 1"])
def test_odd_stretches_are_refused(text):
    with pytest.raises(Trouble, match="Three percentages"):
        parse_stretch(text)


def test_cuts_are_typed_as_they_are_shown():
    cuts = parse_cuts("height 33 67, width 50 %")
    assert [(c.axis, c.at) for c in cuts] == [("z", 0.33), ("z", 0.67), ("x", 0.5)]
    assert show_cuts(cuts) == "width 50, height 33 67"
    assert parse_cuts(show_cuts(cuts))
    assert parse_cuts("") == ()
    for bad in ("50", "height 0", "height 100", "height x", "width " + "50 " * 50):
        with pytest.raises(Trouble, match=r"percent|40 cuts"):
            parse_cuts(bad)


def test_what_is_dropped_goes_where_it_belongs(desk, empty, tmp_path, monkeypatch):
    d = desk(empty)
    (tmp_path / "a.stl").write_bytes(stl_box(4, 2, 3))
    (tmp_path / "b.csv").write_text("name,size 1\nCap,12\n", "utf-8")
    out = QPixmap(20, 10)
    out.fill(Qt.GlobalColor.gray)
    out.save(str(tmp_path / "c.png"))
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a: (a[3][0], True))
    for name in ("a.stl", "b.csv", "c.png", "d.txt"):
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(tmp_path / name))])
        drop = QDropEvent(QPointF(200, 200), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
        assert d.window.drops.eventFilter(d.window, drop)  # Qt itself delivers a drop only at the end of a drag
        d.settle()
    assert [f.name for f in d.project.prints] == ["A"]
    assert [b.name for b in d.project.bits] == ["Cap"]
    assert [p.width for p in d.project.photos] == [20]
    assert "nothing that Fondale reads" in d.window.said()


def test_things_by_the_makers_own_sizes_from_an_empty_project(desk, empty):
    d = desk(empty)
    d.refresh()
    page = page_of(d, "The shelf")
    page._add(next(k for k in KINDS if k.words == "Block"))
    d.type(page.height_field.edit, "380 mm")
    d.type(page.really.edit, "7.65 m")
    d.refresh()
    assert page.native.text().startswith("1:20.1")
    page._add(KINDS[0])
    d.type(page.height_field.edit, "6 inch")
    d.type(page.really.edit, "1.83 m")
    d.refresh()
    assert page.native.text().startswith("1:12")
    QTest.mouseClick(page.worn, Qt.MouseButton.LeftButton)
    QTest.keyClicks(page.worn.finder.line, "brimmed")
    QTest.keyClick(page.worn.finder.line, Qt.Key.Key_Return)
    page.worn.finder.close()
    d.refresh()
    assert page.piece.worn == ("hat",)
    assert page.native.text().startswith("1:12.3")  # 1830 + 40 over 152.4
    d.type(page.really.edit, "9 years")
    assert page.piece.real_mm == pytest.approx(1333)
    d.type(page.really.edit, "45 years")
    assert "Ages from 2 to 18" in page.really.error
    d.type(page.together.height_asked.edit, "58 mm")
    d.refresh()
    assert page.together.told.text().startswith("58")


def test_a_bought_figure_dictates_the_house_scale_with_one_press(desk, empty):
    d = desk(empty)
    d.refresh()
    page = page_of(d, "The shelf")
    page._add(KINDS[0])
    d.type(page.height_field.edit, "73 mm")
    page.origin.box.activated.emit([v for v, _t in page.origin._options].index("bought"))
    d.refresh()
    assert "asks for 1:24" in page.together.common.text()
    d.click(page.together.take)
    assert d.project.brief.house_n == 24
    d.refresh()
    assert not page.together.take.isVisible()


def test_wires_and_water_are_reckoned_from_an_empty_project(desk, empty, heron):
    d = desk(empty)
    page = page_of(d, "Wires, water")
    d.type(page.fields["tall"].edit, "50")
    assert "0.8 mm of wall left" in kept_apart(page.wall.text())
    choose(page.fields["kind"], "silicone")
    assert "groove" in page._way_words.text()
    choose(page.fields["lamp"], "five")
    assert "too narrow" in page._cavity_words.text()
    d.type(page.fields["depth"].edit, "30")
    d.type(page.fields["thick"].edit, "0.1")
    assert "hundred" in page._pour_words.text()
    assert not page.hand.isVisible()  # there is nothing to pour on
    d = desk(heron)
    page = page_of(d, "Wires, water")
    choose(page.fields["who"], "ferryman")
    choose(page.fields["surface"], "water")
    before = len(d.project.steps)
    d.click(page.hand)
    assert len(d.project.steps) == before + 3
    d.window.undo()
    assert len(d.project.steps) == before


def test_a_panel_is_drawn_typed_and_written(desk, heron, tmp_path):
    d = desk(heron)
    d.session.document.assets.update(sample_assets(heron.name))
    d.refresh()
    page = page_of(d, "Print shop")
    d.session.select(PRINTS, "landing-crate")
    d.settle("quick")
    page.drawing.grab()
    box = page.drawing._views["front"]
    d.drag(page.drawing, box.center() - QPointF(20, 15), box.center() + QPointF(20, 15))
    assert not page.file.panels  # nothing is drawn unasked
    d.click(page.panel)
    d.drag(page.drawing, box.center() - QPointF(20, 15), box.center() + QPointF(20, 15))
    assert [p.side for p in page.file.panels] == ["front"]
    assert not page.drawing.draws
    d.click(page.panel)
    for at in (QPointF(-18, 10), QPointF(18, 10), QPointF(0, -12)):
        d.click(page.drawing, box.center() + at)
    QTest.keyClick(page.drawing, Qt.Key.Key_Return)
    assert len(page.file.panels[-1].outline) == 3
    shown = show_panels(page.file.panels)
    assert parse_panels(shown) == tuple(p.but(id=f"panel-{k}") for k, p in enumerate(page.file.panels, 1))
    for wrong in ("front", "lid 1-2 x 3-4", "front 20-180 x 3-4", "top 1/1 2/2"):
        with pytest.raises(LengthError):
            parse_panels(wrong)
    d.window.undo()
    (tmp_path / "parts").mkdir()
    page.files.write_parts(str(tmp_path / "parts"))
    d.settle()
    assert len(list((tmp_path / "parts").iterdir())) == 2


def press(page, text):
    """Press the button that can be seen with these words."""
    QTest.mouseClick(next(b for b in page.findChildren(QPushButton) if b.text() == text and b.isVisible()), Qt.MouseButton.LeftButton)


def test_a_piece_is_lost_and_found_by_a_press(desk, heron):
    d = desk(heron)
    d.refresh()
    page = page_of(d, "The shelf")
    d.session.select(PIECES, "boy")
    d.settle("quick")
    press(page, "It is lost")
    assert d.project.get(PIECES, "boy").lost
    d.settle("quick")
    press(page, "It is found")
    assert not d.project.get(PIECES, "boy").lost


@pytest.mark.parametrize("ident", ["ferryman", "cat-1", "wheel"])
def test_the_rows_of_the_shelfs_ticket_keep_their_distance(desk, heron, ident):
    """Two lists in one cell of the grid took its spacing away: the row above touched the next."""
    d = desk(heron)
    page = page_of(d, "The shelf")
    d.session.select(PIECES, ident)
    d.settle("quick")
    same = page.details.parentWidget()
    shown = sorted((f.geometry() for f in page._fields if f.isVisible() and f.parentWidget() is same), key=lambda g: g.center().y())
    rows = [[shown[0]]]
    for one, two in pairwise(shown):
        if two.center().y() - one.center().y() > 12:
            rows.append([])
        rows[-1].append(two)
    assert len(rows) >= 5
    for above, below in pairwise(rows):
        assert min(g.top() for g in below) - max(g.bottom() for g in above) > 3


def test_a_list_without_room_for_its_words_ends_in_an_ellipsis_and_tells_them_whole(qtbot):
    choice = Choice("hole is on", [("", "no face of Coats, its coats are as told"), ("a", "short")], lambda _v: None, 90)
    qtbot.addWidget(choice)
    choice.show()
    choice.set_value("")
    assert choice.box._seen()[1].endswith("…")
    QApplication.sendEvent(choice.box, QHelpEvent(QEvent.Type.ToolTip, QPoint(5, 5), choice.box.mapToGlobal(QPoint(5, 5))))
    assert "as told" in choice.box.toolTip()
    choice.set_value("a")
    QApplication.sendEvent(choice.box, QHelpEvent(QEvent.Type.ToolTip, QPoint(5, 5), choice.box.mapToGlobal(QPoint(5, 5))))
    assert choice.box._seen()[1] == "short"
    assert choice.box.toolTip() == ""


def test_a_list_holds_its_words_without_widgets_until_it_is_gone_into(qtbot):
    taken = []
    choice = Choice("thinned with", [(w, w) for w in ("water", "alcohol", "spirit")], taken.append)
    qtbot.addWidget(choice)
    choice.set_value("alcohol")
    choice.show()
    box = choice.box
    assert box.shown == box.accessibleDescription() == "alcohol"
    assert not box.findChildren(QWidget)  # eight for each box made pages and tickets slow
    wide = box.sizeHint()
    QApplication.sendEvent(box, QFocusEvent(QEvent.Type.FocusIn))
    assert [box.itemText(i) for i in range(box.count())] == ["water", "alcohol", "spirit"]
    assert box.currentText() == "alcohol"
    assert box.sizeHint() == wide
    QTest.keyClick(box, Qt.Key.Key_Down)
    assert taken == ["spirit"]
    assert box.shown == "spirit"
    choice.set_value("alcohol")  # it was not taken
    assert box.currentText() == box.shown == "alcohol"
    choice.set_options([("none", "none")])
    assert (box.count(), box.shown) == (1, "")


def test_a_button_without_room_is_measured_anew_when_its_type_changes(qtbot):
    button = ShortAction("Onto the landing of the lower stairs, in this order", lambda: None)
    qtbot.addWidget(button)
    button.show()
    button.setFixedSize(200, 40)
    font = button.font()
    font.setPixelSize(24)
    button.setFont(font)
    QApplication.processEvents()
    assert button.text().endswith("…")
    assert button.fontMetrics().horizontalAdvance(button.text()) <= button.width()
