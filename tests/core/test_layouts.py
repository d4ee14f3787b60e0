# SPDX-License-Identifier: MIT
from fondale.core.edits import apply, remove
from fondale.core.edits.layouts import is_present, keep_layout, lay_out
from fondale.core.model import LAYOUTS, PIECES, CaseRoom, Place
from tests.conftest import boxed, figure


def test_a_layout_is_kept_left_and_come_back_to(empty):
    project = boxed(empty, figure("a", 100, 100), figure("b", 200, 100))
    edit, ident = keep_layout(project)
    project = apply(project, edit)
    layout = project.get(LAYOUTS, ident)
    assert is_present(project, layout)
    moved = PIECES.at("a").then(lambda p: p.place).set(project, Place(x=50, y=50))
    assert not is_present(moved, layout)
    back = apply(moved, lay_out(moved, layout))
    assert back.get(PIECES, "a").place == Place(x=100, y=100)
    assert is_present(back, layout)


def test_what_is_gone_is_gone_from_layouts_too(empty):
    project = boxed(empty, figure("a", 100, 100), figure("b", 200, 100).but(place=Place(x=200, y=100, room="up")))
    project = project.but(case=project.case.but(rooms=(CaseRoom(id="up", name="Up", z=200.0),)))
    edit, ident = keep_layout(project)
    project = apply(project, edit)
    without = apply(project, remove(PIECES, project.get(PIECES, "a")))
    assert [s.piece for s in without.get(LAYOUTS, ident).stands] == ["b"]
    from fondale.core.model import ROOMS

    lower = apply(without, remove(ROOMS, without.get(ROOMS, "up")))
    assert apply(lower, lay_out(lower, lower.get(LAYOUTS, ident))).get(PIECES, "b").place.room == ""
