# SPDX-License-Identifier: MIT
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.app.document import DEPTH, Document
from fondale.core.edits import Edit, EditError, put
from fondale.core.model import PROJECT
from fondale.storage import FileTrouble
from tests.conftest import tries


def cap(value: float, gesture: str = "") -> Edit:
    return put(PROJECT.then(lambda p: p.brief.cap), value, f"Cap {value}", gesture)


def test_doing_undoing_and_redoing(heron):
    document = Document(heron)
    document.do(cap(10))
    document.do(cap(20))
    assert (document.project.brief.cap, document.undo_label) == (20, "Cap 20")
    document.undo()
    assert (document.project.brief.cap, document.redo_label) == (10, "Cap 20")
    document.undo()
    assert document.project is heron
    document.undo()
    assert document.project is heron
    document.redo()
    document.redo()
    document.redo()
    assert document.project.brief.cap == 20


def test_one_gesture_is_one_step(heron):
    document = Document(heron)
    for value in (1, 2, 3):
        document.do(cap(value, "drag"))
    document.undo()
    assert document.project is heron
    document.redo()
    assert document.project.brief.cap == 3
    document.end_gesture()
    document.do(cap(4, "drag"))
    document.undo()
    assert document.project.brief.cap == 3


def test_edits_together_are_all_or_nothing(heron):
    document = Document(heron)
    with pytest.raises(EditError):
        document.do(cap(1), cap(-1))
    assert document.project is heron
    assert document.undo_label == ""


def test_an_edit_that_changes_nothing_is_no_step(heron):
    document = Document(heron)
    document.do(cap(heron.brief.cap))
    document.do()
    assert document.undo_label == ""


def test_modified_is_what_differs_from_the_saved_one(heron, tmp_path):
    document = Document(heron)
    assert not document.modified
    document.do(cap(1))
    assert document.modified
    document.undo()
    assert not document.modified
    document.redo()
    document.save(tmp_path / "a.fondale")
    assert not document.modified
    document.undo()
    assert document.modified
    document.mark_unsaved()
    assert document.modified


def test_saving_needs_a_name_and_opening_a_file(heron, tmp_path):
    with pytest.raises(ValueError, match="no file name"):
        Document(heron).save()
    with pytest.raises(FileTrouble):
        Document.opened(tmp_path / "none.fondale")
    Document(heron).save(tmp_path / "a.fondale")
    assert Document.opened(tmp_path / "a.fondale").project == heron


def test_listeners_hear_every_change(heron):
    document, heard = Document(heron), []
    document.changed.listen(lambda: heard.append(document.project.brief.cap))
    document.do(cap(1))
    document.undo()
    assert heard == [1, heron.brief.cap]


def test_history_has_an_end(heron):
    document = Document(heron)
    for k in range(DEPTH + 20):
        document.do(cap(k + 1))
    count = 0
    while document.undo_label:
        document.undo()
        count += 1
    assert count == DEPTH


@tries(40)
@given(
    st.lists(
        st.one_of(st.just("undo"), st.just("redo"), st.just("end"), st.tuples(st.floats(0, 9), st.sampled_from(["", "g"]))), max_size=25
    )
)
def test_any_run_of_doing_and_undoing_ends_where_it_began(heron, run):
    document = Document(heron)
    for move in run:
        if move == "undo":
            document.undo()
        elif move == "redo":
            document.redo()
        elif move == "end":
            document.end_gesture()
        else:
            document.do(cap(*move))
    last = document.project
    while document.undo_label:
        document.undo()
    assert document.project == heron
    while document.redo_label:
        document.redo()
    if "undo" not in run:
        assert document.project == last


def test_what_was_undone_is_gone_once_something_else_is_done(hut):
    document = Document(hut)
    document.do(cap(10))
    document.do(cap(20))
    document.undo()
    document.do(put(PROJECT.then(lambda p: p.name), "Another", "Name"))
    assert document.redo_label == ""
    document.redo()
    assert (document.project.brief.cap, document.project.name) == (10, "Another")
    document.undo()
    assert (document.project.brief.cap, document.project.name) == (10, hut.name)
    document.undo()
    assert document.project == hut
