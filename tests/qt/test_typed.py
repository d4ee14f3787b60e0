# SPDX-License-Identifier: MIT
"""What stands in a field is part of the work, though no edit has told of it: saved, asked about, written down, never carried on."""

import os
import signal
import subprocess
import sys
import time
from datetime import datetime, timedelta

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox, QFileDialog, QMessageBox

from fondale.core.edits import put
from fondale.core.model import LAMPS, PIECES, PROJECT
from fondale.qt.frame.ending import Ending
from fondale.qt.furniture.fields import Field
from fondale.qt.furniture.typed import being_typed
from fondale.storage import left_behind, load, save
from tests.conftest import figure

CTRL = Qt.KeyboardModifier.ControlModifier


def typed_into(d, text, caption="occasion"):
    """A field of the Brief in which so much is typed and which has not been left."""
    brief = d.station("brief")
    field = next(f for f in brief.findChildren(Field) if f.caption == caption)
    field.edit.setFocus()
    field.edit.selectAll()
    QTest.keyClicks(field.edit, text)
    assert field.edit.hasFocus()
    return field


@pytest.fixture
def asked(monkeypatch):
    """What was asked; the answer is No or Cancel."""
    told = []
    monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: told.append(a[2]) or QMessageBox.StandardButton.Cancel)
    return told


def test_what_is_typed_is_saved_with_the_field_still_in_focus(desk, hut, tmp_path):
    path = tmp_path / "a.fondale"
    save(hut, path)
    d = desk(hut, path=path)
    field = typed_into(d, "Fair in June")
    d.key(Qt.Key.Key_S, CTRL)
    assert load(path).brief.occasion == "Fair in June"
    assert field.edit.hasFocus()
    assert not d.session.document.modified


def test_closing_asks_about_what_is_typed(desk, hut, asked):
    d = desk(hut)
    typed_into(d, "Fair in June")
    assert not d.window.close()
    assert "not saved" in asked[0]
    assert d.project.brief.occasion == "Fair in June"


def test_what_cannot_be_taken_is_said_and_stays(desk, hut, tmp_path, asked):
    path = tmp_path / "a.fondale"
    save(hut, path)
    d = desk(hut, path=path)
    field = typed_into(d, "eleventy", "shelf height")
    d.key(Qt.Key.Key_S, CTRL)
    assert d.window.said().startswith("Saved to a.fondale. “eleventy” in “shelf height” is not taken: ")
    assert field.edit.text() == "eleventy"
    assert not d.window.close()
    assert asked[-1].startswith("“eleventy” in “shelf height” is not taken")
    d.window.go("stage")
    assert "“eleventy” in “shelf height”" in d.window.said()
    d.session.do(put(PROJECT.then(lambda p: p.brief.cap), 5.0, "Cap"))
    d.window.go("brief")
    assert field.edit.text() == "eleventy"


@pytest.mark.parametrize("how", ["undo", "go", "papers", "export", "copy", "new", "select"])
def test_every_command_takes_what_is_typed_first(desk, hut, how, asked, monkeypatch):
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: ("", ""))
    d = desk(hut)
    typed_into(d, "Fair in June")
    if how == "go":
        d.window.footlights.chosen.emit("stage")
    elif how == "select":
        d.session.select(LAMPS, d.project.lamps[-1].id)
    else:
        d.window._actions[how].setEnabled(True)
        d.window._actions[how].trigger()
    taken = d.session.document.redo_label if how == "undo" else d.session.document.undo_label
    assert taken == "Occasion"
    assert d.project.brief.occasion == (hut.brief.occasion if how == "undo" else "Fair in June")


def test_another_document_knows_nothing_of_what_was_typed(desk, hut, empty, monkeypatch):
    d = desk(hut)
    field = typed_into(d, "eleventy", "shelf height")
    monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Yes)
    d.window._actions["new"].trigger()
    assert d.project.name == "New piece"
    assert "eleventy" not in field.edit.text()
    assert not being_typed(d.window)
    assert not d.session.document.modified


def test_autosave_writes_down_what_is_typed_and_leaves_the_field_alone(desk, hut, qtbot):
    d = desk(hut)
    field = typed_into(d, "Fair in Ju")
    recovery = d.window.projects.recovery
    qtbot.waitUntil(lambda: recovery.found() is not None, timeout=1800)
    d.window.projects.wait()
    assert recovery.found()[0].brief.occasion == "Fair in Ju"
    assert field.edit.text() == "Fair in Ju"
    assert d.project is hut
    assert not d.session.document.undo_label
    QTest.keyClicks(field.edit, "ly")
    d.key(Qt.Key.Key_Escape, on=field.edit)
    d.window.projects.keeper.keep()
    d.window.projects.wait()
    assert recovery.found() is None


def test_attempts_change_and_say_nothing(desk, hut):
    d = desk(hut)
    said = []
    d.session.said.connect(said.append)
    after = d.session.after(
        [
            lambda: d.session.do(put(PIECES.at("none").then(lambda p: p.name), "x", "Rename")),
            lambda: d.session.do(put(PROJECT.then(lambda p: p.name), "N", "Rename")),
        ]
    )
    assert (after.name, d.project.name, said) == ("N", hut.name, [])


def test_an_edit_that_is_refused_leaves_the_text_in_its_field(desk, empty):
    d = desk(empty.but(pieces=(figure("a", 10, 10),)))
    brief = d.station("brief")
    field = next(f for f in brief.findChildren(Field) if f.caption == "occasion")
    field._commit = lambda v: d.session.do(put(PIECES.at("none").then(lambda p: p.name), v, "Rename"))
    typed_into(d, "Fair in June")
    d.key(Qt.Key.Key_Return, on=field.edit)
    assert (field.edit.text(), field.typed) == ("Fair in June", "Fair in June")
    d.window.go("stage")
    assert d.window.said().startswith("“Fair in June” in “occasion” is not taken: ")
    assert "It is not taken." not in d.window.said()


def test_the_page_that_is_being_written_belongs_to_the_document(desk, heron, empty, tmp_path, monkeypatch):
    d = desk(heron)
    diary = d.station("diary")
    d.type(diary.minutes.edit, "40")
    QTest.keyClicks(diary.words, "Planked the hull")
    diary.words.setFocus()
    box = next(b for b in diary.findChildren(QCheckBox) if b.isVisible())
    box.click()
    d.click(diary.timer_button)
    assert d.session.document.modified
    assert d.window.projects.save_to(tmp_path / "a.fondale")
    kept = load(tmp_path / "a.fondale").tonight
    assert (kept.minutes, kept.words, kept.done) == (40, "Planked the hull", (box.property("step"),))
    assert kept.since is not None
    d.window.projects.new()
    d.settle()
    assert (diary.words.toPlainText(), diary.minutes.edit.text(), diary.timer_button.text()) == ("", "0", "Start the timer")
    since = datetime.now().replace(microsecond=0) - timedelta(minutes=35)
    save(heron.but(tonight=kept.but(since=since)), tmp_path / "b.fondale")
    d.window.projects.open_path(tmp_path / "b.fondale")
    assert "its 35 min until then" in d.window.said().replace("\u00a0", " ")
    d.settle()
    assert d.project.tonight.since is None
    assert d.project.tonight.minutes == pytest.approx(75, abs=0.3)
    assert diary.words.toPlainText() == "Planked the hull"
    d.click(diary.write)
    assert d.project.pages[-1].minutes == pytest.approx(75, abs=0.3)
    assert d.project.tonight == empty.tonight
    d.window.undo()
    d.settle()
    assert diary.words.toPlainText() == "Planked the hull"


def test_a_clock_that_is_set_while_the_timer_runs_is_told_as_that(desk, hut):
    d = desk(hut)
    diary = d.station("diary")
    diary.toggle_timer()
    ahead = diary._started = diary._started + timedelta(hours=3)
    d.session.do(put(PROJECT.then(lambda p: p.tonight.since), ahead, "Start"))
    diary.toggle_timer()
    assert "clock was set back while the timer ran" in d.window.said()
    assert d.project.tonight.minutes < 1


def test_a_file_of_a_later_day_tells_that_the_clock_was_set_back(desk, hut, empty, tmp_path):
    path = tmp_path / "a.fondale"
    save(hut, path)
    later = time.time() + 86_400
    os.utime(path, (later, later))
    d = desk(empty)
    d.window.projects.open_path(path)
    assert "this machine’s clock was set back" in d.window.said()


class Manager:
    """A desktop's session that ends."""

    def __init__(self, may_ask):
        self.may_ask, self.stays = may_ask, False

    def allowsInteraction(self):
        return self.may_ask

    def release(self):
        pass

    def cancel(self):
        self.stays = True


@pytest.mark.parametrize("may_ask", [True, False])
def test_the_end_of_the_desktop_takes_what_is_typed(desk, hut, asked, may_ask):
    d = desk(hut)
    typed_into(d, "Fair in June")
    manager = Manager(may_ask)
    with Ending(d.window.projects, lambda: None) as ending:
        ending.session_ends(manager)
    assert d.window.projects.recovery.found()[0].brief.occasion == "Fair in June"
    assert (manager.stays, len(asked)) == (may_ask, may_ask)


@pytest.mark.slow
def test_a_window_that_is_asked_to_stop_writes_down_what_is_typed(hut, tmp_path):
    from tests.attack.kills import WINDOW

    path, script = tmp_path / "a.fondale", tmp_path / "window.py"
    save(hut.but(brief=hut.brief.but(occasion="0")), path)
    script.write_text(WINDOW)
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    args = [sys.executable, str(script), str(tmp_path / "home"), str(path), "0.05", "0", "0"]
    with subprocess.Popen(args, stdout=subprocess.PIPE, text=True, env=env) as window:
        for _ in range(12):
            told = window.stdout.readline()
        window.send_signal(signal.SIGTERM)
        last = [told, *window.stdout.readlines()][-1]
    left = left_behind(tmp_path / "home" / "state")
    assert (window.returncode, left[0].recovery.found()[0].brief.occasion) == (0, last.split()[0])
