# SPDX-License-Identifier: MIT
import os
from pathlib import Path

import pytest
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QMessageBox

from fondale.app.document import Document
from fondale.core.edits import put
from fondale.core.model import PROJECT
from fondale.demo import SAMPLES
from fondale.qt.frame.keeping import LeftBehind
from fondale.storage import Recovery, left_behind, load, save


@pytest.fixture
def answers(monkeypatch):
    """What the maker answers, and what was told."""
    told: list[str] = []
    reply = {"question": QMessageBox.StandardButton.Cancel, "open": "", "save": ""}
    monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: reply["question"])
    monkeypatch.setattr(QMessageBox, "warning", lambda *a, **k: told.append(a[2]))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(reply["open"]), ""))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(reply["save"]), ""))
    reply["told"] = told
    return reply


def change(d) -> None:
    d.session.do(put(PROJECT.then(lambda p: p.brief.cap), 77.0, "Cap"))


def test_save_close_and_reopen(desk, hut, answers, tmp_path):
    d = desk(hut)
    change(d)
    answers["save"] = tmp_path / "mine"
    d.window._actions["save"].trigger()
    assert load(tmp_path / "mine.fondale").brief.cap == 77
    assert not d.session.document.modified
    assert "Saved to mine.fondale" in d.window.said()
    d.session.do(put(PROJECT.then(lambda p: p.name), "Other", "Rename"))
    d.window._actions["save"].trigger()
    assert load(tmp_path / "mine.fondale").name == "Other"
    answers["open"] = tmp_path / "mine.fondale"
    d.window._actions["open"].trigger()
    assert d.project.name == "Other"
    assert d.session.settings.get("recent")[0].endswith("mine.fondale")
    d.window._fill_recent()
    assert d.window._recent.actions()[0].text() == "mine.fondale"


def test_a_bad_file_is_told_and_the_present_project_stays(desk, hut, answers, tmp_path):
    d = desk(hut)
    bad = tmp_path / "bad.fondale"
    bad.write_bytes(b"nonsense")
    answers["open"] = bad
    d.window._actions["open"].trigger()
    assert "not a Fondale file" in answers["told"][0]
    assert d.project is hut


def test_unsaved_work_is_never_left_silently(desk, hut, answers):
    d = desk(hut)
    change(d)
    d.window._actions["new"].trigger()
    assert d.project.brief.cap == 77
    assert not d.window.close()
    answers["question"] = QMessageBox.StandardButton.Discard
    d.window._actions["new"].trigger()
    assert d.project.name == "New piece"


def test_saving_where_it_cannot_be_is_told(desk, hut, answers, tmp_path):
    d = desk(hut)
    change(d)
    assert not d.window.projects.save_to(tmp_path / "none" / "a.fondale")
    assert "Nothing was lost" in answers["told"][0]
    assert d.session.document.modified
    answers["save"] = ""
    assert not d.window.projects.save_as()


@pytest.mark.parametrize("name", list(SAMPLES))
def test_samples_open_from_the_menu(desk, empty, answers, name):
    d = desk(empty)
    d.window.projects.open_sample(name)
    d.settle("quick", "stage")
    assert d.project.name == name
    assert not d.session.document.modified


def test_unsaved_work_is_kept_for_recovery_and_dropped_when_saved(desk, hut, tmp_path):
    d = desk(hut)
    change(d)
    d.window.projects.keeper.keep()
    d.window.projects.wait()
    assert d.window.projects.recovery.found()[0].brief.cap == 77
    assert left_behind(tmp_path / "state") == ()  # its window is still running
    d.window.projects.save_to(tmp_path / "a.fondale")
    d.window.projects.wait()
    assert d.window.projects.recovery.found() is None


def test_after_a_crash_the_work_comes_back_unsaved(desk, hut, empty, tmp_path):
    changed = Document(hut)
    changed.do(put(PROJECT.then(lambda p: p.brief.cap), 55.0, "Cap"))
    # Two windows died; one bore the number that this process has now, which says nothing.
    for name, project in (("old", changed.project), (str(os.getpid()), hut)):
        dead = Recovery(tmp_path / "state" / name)
        dead.keep(project, tmp_path / "a.fondale")
        os.close(dead._lock)
    d = desk(empty)
    found = left_behind(tmp_path / "state")
    assert {left.name for left in found} == {hut.name}
    left = next(x for x in found if x.recovery.folder.name == "old")
    dialog = LeftBehind([left], d.window.projects.recover, d.window)
    assert f"“{hut.name}”" not in dialog.list.item(0).text()
    assert dialog.list.item(0).text().startswith(hut.name)
    dialog.open_chosen()
    assert left.recovery.found() is None
    assert not left.recovery.folder.exists()
    assert d.window.projects.recovery.found()[0] == changed.project
    assert len(left_behind(tmp_path / "state")) == 1
    assert d.project.brief.cap == 55
    assert d.session.document.modified
    assert d.session.document.path == tmp_path / "a.fondale"
    assert "did not end well" in d.window.said()


def test_nothing_to_recover_changes_nothing(desk, empty):
    d = desk(empty)
    d.window.projects.offer_left()
    assert left_behind(Path("/proc/none")) == ()
    d.window._actions["unsaved"].trigger()
    assert "No window has left" in d.window.said()


def test_what_comes_back_does_not_write_over_what_another_wrote_meanwhile(desk, empty, hut, answers, tmp_path, monkeypatch):
    path = tmp_path / "a.fondale"
    save(hut, path)
    opened = Document.opened(path)
    dead = Recovery(tmp_path / "state" / "dead")
    dead.keep(hut.but(name="Mine"), path, {}, opened.stamp)
    os.close(dead._lock)
    save(hut.but(name="Theirs"), path)
    d = desk(empty)
    (left,) = left_behind(tmp_path / "state")
    assert d.window.projects.recover(left)
    asked = []
    monkeypatch.setattr("fondale.qt.frame.projects.choose", lambda *a: asked.append(a[1]) or "")
    assert not d.window.projects.save()
    assert asked == ["Written by another"]
    assert load(path).name == "Theirs"


def test_what_is_let_go_is_gone_and_the_rest_is_offered_again(desk, empty, hut, answers, tmp_path):
    for name in ("one", "two"):
        dead = Recovery(tmp_path / "state" / name)
        dead.keep(hut.but(name=name), None)
        os.close(dead._lock)
    d = desk(empty)
    dialog = LeftBehind(left_behind(tmp_path / "state"), d.window.projects.recover, d.window)
    dialog.drop_chosen()
    assert dialog.list.count() == 2  # it was not confirmed
    answers["question"] = QMessageBox.StandardButton.Yes
    dialog.drop_chosen()
    assert dialog.list.count() == 1
    dialog.reject()
    assert [x.name for x in left_behind(tmp_path / "state")] == [dialog.list.item(0).text().partition("\n")[0]]


def test_whoever_keeps_typing_is_kept_too(desk, hut):
    d = desk(hut)
    keeper, seen = d.window.projects.keeper, []
    for k in range(40):  # an edit every 0.1 s
        d.session.do(put(PROJECT.then(lambda p: p.brief.cap), 100.0 + k, "Cap"))
        QTest.qWait(100)
        found = d.window.projects.recovery.found()
        seen.append(found[0].brief.cap if found else 0)
    late = [100 + k - cap for k, cap in enumerate(seen) if k >= 15]
    assert max(late) < 20, late  # of edits that are 0.1 s apart: two seconds
    assert keeper is not None


def test_trouble_with_writing_down_is_told_once_and_tried_again(desk, hut, monkeypatch):
    d = desk(hut)
    said = []
    d.session.said.connect(said.append)

    def full(*_args, **_more):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("fondale.storage.recovery.put_file", full)
    keeper = d.window.projects.keeper
    change(d)
    for _ in range(3):
        keeper.keep()
        d.window.projects.wait()
        QTest.qWait(20)
    assert len(said) == 1
    assert "the disk is full; free some space" in said[0]
    assert keeper._timer.isActive()
    monkeypatch.undo()
    keeper.keep()
    d.window.projects.wait()
    QTest.qWait(20)
    assert "again" in said[1]
    assert d.window.projects.recovery.found()[0].brief.cap == 77


def test_one_bad_asset_never_keeps_the_project_from_being_written_down(hut, tmp_path):
    class Bad(dict):
        def __getitem__(self, name):
            if "bad" in name:
                raise OSError(5, "Input/output error")
            return super().__getitem__(name)

    recovery = Recovery(tmp_path / "r")
    trouble = recovery.keep(hut, None, Bad({"assets/photos/bad.png": b"x", "assets/photos/" + "long" * 80 + ".png": b"fine"}))
    assert "bad.png" in trouble
    assert recovery.found()[0] == hut
    assert [len(d) for d in recovery.read(None).assets.values()] == [4]


@pytest.mark.parametrize("choice", ["Keep mine beside it", "Take theirs", "Look at both", "Cancel"])
def test_a_file_that_another_wrote_is_never_written_over(desk, hut, answers, tmp_path, monkeypatch, choice):
    path = tmp_path / "a.fondale"
    save(hut, path)
    d = desk(hut)
    d.window.projects.open_path(path)
    change(d)
    save(hut.but(name="Theirs"), path)
    started = []
    monkeypatch.setattr("fondale.qt.frame.projects.QProcess.startDetached", lambda _program, args: (started.append(args), (True, 1))[1])
    monkeypatch.setattr(QMessageBox, "exec", lambda box: next(b for b in box.buttons() if b.text().replace("&", "") == choice).click())
    d.window.projects.save()
    assert load(path).name == "Theirs"
    if choice == "Keep mine beside it":
        assert load(tmp_path / "a-mine.fondale").brief.cap == 77
        assert d.session.document.path == tmp_path / "a-mine.fondale"
    elif choice == "Take theirs":
        assert d.project.name == "Theirs"
        d.window.undo()
        assert (d.project.name, d.project.brief.cap) == (hut.name, 77)
    else:
        assert (d.project.brief.cap, d.session.document.modified) == (77, True)
        assert bool(started) == (choice == "Look at both")


def test_the_build_sheet_is_printed(desk, hut, answers, tmp_path):
    d = desk(hut)
    d.window._actions["papers"].trigger()
    assert "try again" in d.window.said()
    d.refresh()
    d.window._actions["papers"].trigger()
    assert "try again" in d.window.said()  # the light is still being refined
    d.settle("fine light")
    answers["save"] = tmp_path / "sheet.pdf"
    d.window._actions["papers"].trigger()
    assert (tmp_path / "sheet.pdf").read_bytes().startswith(b"%PDF")
    assert {p.name for p in tmp_path.glob("sheet*")} == {"sheet.pdf", "sheet-running-order.ics", "sheet-pieces.csv", "sheet-cut-list.csv"}
    assert not d.window.projects.write_sheet(Path("/proc/none/sheet.pdf"))
    assert answers["told"]


def test_a_saved_file_opens_in_the_window(desk, heron, tmp_path):
    save(heron, tmp_path / "h.fondale")
    d = desk(load(tmp_path / "h.fondale"), tmp_path / "h.fondale")
    assert d.window.windowTitle() == "Heron Stairs, last boat – Fondale"
