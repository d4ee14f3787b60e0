"""What is added stands free, can be reached, and is in step with no other."""

import pytest

from fondale.core.edits import apply, put
from fondale.core.edits.new_things import add_piece
from fondale.core.edits.wiring import add_lamp
from fondale.core.model import PROJECT
from fondale.core.shapes import KINDS
from fondale.core.stage.clearance import clashes, outside


@pytest.mark.parametrize("kind", [k for k in KINDS if k.words], ids=lambda k: k.words)
def test_three_of_a_kind_stand_beside_each_other(empty, kind):
    project = apply(
        empty, put(PROJECT.then(lambda p: p.case.width), 900.0, "Wide"), put(PROJECT.then(lambda p: p.case.depth), 600.0, "Deep")
    )
    for _ in range(3):
        edit, _ident = add_piece(project, kind)
        project = apply(project, edit)
    assert len({(p.place.x, p.place.y) for p in project.pieces}) == 3
    assert not clashes(project)
    assert not outside(project)


def test_a_full_case_takes_the_middle(empty):
    project = apply(
        empty, put(PROJECT.then(lambda p: p.case.width), 12.0, "Narrow"), put(PROJECT.then(lambda p: p.case.depth), 12.0, "Shallow")
    )
    for _ in range(3):
        edit, _ident = add_piece(project, KINDS[0])
        project = apply(project, edit)
    assert (project.pieces[-1].place.x, project.pieces[-1].place.y) == (6, 6)


def test_lamps_hang_apart_and_flicker_apart(empty):
    project = apply(empty, put(PROJECT.then(lambda p: p.case.width), 100_000.0, "Vast"))
    for _ in range(20):
        project = apply(project, add_lamp(project)[0])
    spots = {(m.x, m.y) for m in project.lamps}
    assert len(spots) == len({m.seed for m in project.lamps}) == 20


def test_what_is_added_on_the_bench_lies_on_the_shelf(empty):
    for kind in (k for k in KINDS if k.words):
        edit, ident = add_piece(empty, kind, placed=False)
        piece = apply(empty, edit).pieces[0]
        assert (piece.id, piece.role, piece.place) == (ident, "piece", None)
