import os
from pathlib import Path

import pytest
from PySide6.QtWidgets import QFileDialog, QMessageBox

from fondale.app.document import Document
from fondale.core.edits import put
from fondale.core.model import PROJECT
from fondale.demo import SAMPLES
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
    d.window.projects.keep()
    d.window.projects.wait()
    found = Recovery(tmp_path / "state").found()
    assert found[0].brief.cap == 77
    d.window.projects.save_to(tmp_path / "a.fondale")
    d.window.projects.wait()
    assert Recovery(tmp_path / "state").found() is None


def test_after_a_crash_the_work_comes_back_unsaved(desk, hut, empty, tmp_path):
    changed = Document(hut)
    changed.do(put(PROJECT.then(lambda p: p.brief.cap), 55.0, "Cap"))
    dead = tmp_path / "old" / str(2**22 + 7)
    Recovery(dead).keep(changed.project, tmp_path / "a.fondale")
    Recovery(tmp_path / "old" / str(os.getpid())).keep(hut, None)
    d = desk(empty)
    left = left_behind(tmp_path / "old")
    assert d.window.projects.recover(left)
    assert left.found() is None
    assert Recovery(tmp_path / "state").found()[0] == changed.project
    assert d.project.brief.cap == 55
    assert d.session.document.modified
    assert d.session.document.path == tmp_path / "a.fondale"
    assert "did not end well" in d.window.said()


def test_nothing_to_recover_changes_nothing(desk, empty):
    d = desk(empty)
    assert not d.window.projects.recover(None)
    assert left_behind(Path("/proc/none")) is None


def test_the_build_sheet_is_printed(desk, hut, answers, tmp_path):
    d = desk(hut)
    d.window._actions["papers"].trigger()
    assert "try again" in d.window.said()
    d.refresh()
    answers["save"] = tmp_path / "sheet.pdf"
    d.window._actions["papers"].trigger()
    assert (tmp_path / "sheet.pdf").read_bytes().startswith(b"%PDF")
    assert {p.name for p in tmp_path.glob("sheet*")} == {"sheet.pdf", "sheet-running-order.ics", "sheet-pieces.csv"}
    assert not d.window.projects.write_sheet(Path("/proc/none/sheet.pdf"))
    assert answers["told"]


def test_a_saved_file_opens_in_the_window(desk, heron, tmp_path):
    save(heron, tmp_path / "h.fondale")
    d = desk(load(tmp_path / "h.fondale"), tmp_path / "h.fondale")
    assert d.window.windowTitle() == "Heron Stairs, last boat – Fondale"
