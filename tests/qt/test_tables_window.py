# SPDX-License-Identifier: MIT
"""The window of the tables: read, searched, and rows of one's own made, changed, undone and used."""

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from fondale.core.model import LAMPS, OWN
from fondale.core.tables import SECTIONS, is_own
from fondale.knowledge import hold
from fondale.qt.furniture.fields import Choice, Field


def opened(d):
    d.window.hands.show_tables()
    QApplication.processEvents()
    return d.window.tables_window


def field(window, caption):
    return next(f for f, _read in window.ticket.rows if (f.edit if isinstance(f, Field) else f.box).accessibleName() == caption)


def test_every_table_is_shown_and_can_be_searched(desk, heron):
    d = desk(heron)
    window = opened(d)
    for section in SECTIONS:
        window.which.box.activated.emit([s.name for s in SECTIONS].index(section.name))
        QApplication.processEvents()
        assert window.rows.entries, section.name
        assert window._question.text() == section.question
        assert window._note.text().startswith("Source:")
        assert window.grab().width() > 400
    window.turn_to("scales.things")
    QTest.keyClicks(window.search, "riser")
    assert [e.words[0] for e in window.rows.entries] == ["stair riser"]
    window.search.clear()
    window.choose(window.rows.entries[0].ident)
    QTest.keyClick(window.rows, Qt.Key.Key_Down)
    assert window.at == window.rows.entries[1].ident


def test_a_row_is_made_ones_own_changed_used_undone_and_kept(desk, heron, tmp_path):
    d = desk(heron)
    window = opened(d)
    window.turn_to("electric.led")
    window.choose("amber")
    assert not window.ticket.isVisible()
    d.click(window.mine)
    (own,) = d.project.own
    assert own.name == "My amber"
    assert window.ticket.isVisible()
    d.type(field(window, "name").edit, "Sodium")
    d.type(field(window, "light, 120° wide").edit, "1.4 cd")
    own = d.project.own[0]
    assert (own.name, own.values["candela"]) == ("Sodium", 1.4)
    edit = field(window, "volts and mA").edit
    d.type(edit, "2.0 20, 1.9 10")
    assert d.project.own[0].values["points"] == own.values["points"]
    d.type(field(window, "bears").edit, "25 mA")
    assert d.project.own[0].values["max_ma"] == 25
    # It can be chosen on a lamp at once, and goes with what it is named by when it changes.
    lamps = d.station("lamps")
    d.session.select(LAMPS, "passage")
    d.refresh()
    led = next(f for f, _r in lamps.ticket.rows if isinstance(f, Choice) and f.box.accessibleName() == "LED")
    led.box.activated.emit(led.box.words.index("Sodium"))
    QApplication.processEvents()
    assert is_own(d.project.get(LAMPS, "passage").led)
    opened(d)
    window.turn_to("electric.led")
    window.choose(d.project.own[0].key)
    assert "Used by Passage" in window._says.text()
    d.type(field(window, "bears").edit, "22 mA")
    assert d.project.get(LAMPS, "passage").led == d.project.own[0].key
    led = next(f for f, _r in lamps.ticket.rows if isinstance(f, Choice) and f.box.accessibleName() == "LED")
    assert led.box.shown == "Sodium"
    d.session.document.undo()
    QApplication.processEvents()
    assert d.project.own[0].values["max_ma"] == 25
    assert d.project.get(LAMPS, "passage").led == d.project.own[0].key
    # Saved, it is kept for all projects; taken away, the lamp is what it was made of.
    d.session.document.save(tmp_path / "a.fondale")
    assert [r.name for r in d.session.shelf.rows] == ["Sodium"]
    d.click(window.ticket.remove)
    assert d.project.own == ()
    assert d.project.get(LAMPS, "passage").led == "amber"
    entry = next(e for e in window.rows.entries if is_own(e.ident))
    window.choose(entry.ident)
    assert window.use.isVisible()
    d.click(window.use)
    assert [r.name for r in d.project.own] == ["Sodium"]
    d.session.document.undo()
    QApplication.processEvents()
    window.choose(entry.ident)
    d.click(window.forget)
    assert d.session.shelf.rows == ()
    assert not any(is_own(e.ident) for e in window.rows.entries)
    hold({})


def test_the_marks_choose_the_nearest_row(desk, heron):
    d = desk(heron)
    window = opened(d)
    window.turn_to("materials.material")
    window.resize(1000, 640)
    QApplication.processEvents()
    key, value = window.among._marks[3]
    QTest.mouseClick(window.among, Qt.MouseButton.LeftButton, pos=window.among.rect().center())
    assert window.at in dict(window.among._marks)
    assert window.among.accessibleDescription()
    assert d.project.find(OWN, "none") is None
    assert value > 0
    assert key


def test_rows_that_change_keep_the_table_beside_them(desk, heron):
    """A coat of one's own has many values: all of them can be set."""
    d = desk(heron)
    window = opened(d)
    window.turn_to("coats.coat")
    window.choose("enamel")
    d.click(window.mine)
    captions = {(f.edit if isinstance(f, Field) else f.box).accessibleName() for f, _r in window.ticket.rows}
    assert {"name", "dry: touch, next coat, hard", "thinned with", "lifted by", "cautions", "source", "may be sprayed"} <= captions
    d.type(field(window, "dry: touch, next coat, hard").edit, "2 8 30 h")
    assert d.project.own[0].values["dry_h"] == (2, 8, 30)
    d.type(field(window, "lifted by").edit, "spirit")
    assert d.project.own[0].values["lifts_with"] == ("spirit",)
    thinner = field(window, "thinned with")
    thinner.box.activated.emit(thinner.box.words.index("water"))
    assert d.project.own[0].values["thinner"] == "water"
    hold({})


def test_a_decimal_comma_is_a_decimal_comma(desk, heron):
    d = desk(heron)
    window = opened(d)
    window.turn_to("coats.coat")
    d.click(window.mine)
    hours = field(window, "dry: touch, next coat, hard").edit
    for typed in ("0,5 1,5 24", "0,5; 1,5; 24 h", "0.5, 1.5, 24"):
        d.type(hours, "1 2 3")
        d.type(hours, typed)
        assert tuple(d.project.own[0].values["dry_h"]) == (0.5, 1.5, 24), typed
    window.turn_to("electric.led")
    d.click(window.mine)
    d.type(field(window, "volts and mA").edit, "1,9 10; 2,1 20,5")
    assert [tuple(p) for p in d.project.own[1].values["points"]] == [(1.9, 10), (2.1, 20.5)]


def test_no_caption_of_an_own_row_is_cut(desk, heron):
    d = desk(heron)
    window = opened(d)
    for section in (s for s in SECTIONS if s.own):
        window.turn_to(section.name)
        d.click(window.mine)
        QApplication.processEvents()
        for each, _read in window.ticket.rows:
            caption = each._caption
            assert caption.fontMetrics().horizontalAdvance(caption.text()) <= caption.width(), (section.name, caption.text())
