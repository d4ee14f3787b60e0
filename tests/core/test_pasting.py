# SPDX-License-Identifier: MIT
"""Pieces on the clipboard: what goes along, what is named anew, and what is let go in another project."""

import pytest

from fondale.core.edits import EditError, apply, new_project
from fondale.core.edits.pasting import copied, pasted
from fondale.core.model import LAMPS, LISTS, PIECES, CaseRoom, Lamp, Place
from fondale.core.model.references import loose_ends
from fondale.core.model.shapes import Mesh
from fondale.storage.files import from_json, to_json
from tests.conftest import TODAY, boxed
from tests.core.test_moving import tower


def test_parts_and_lamps_come_along_and_keep_their_places_beside_it(empty):
    project = tower(boxed(empty))
    edits, ident = pasted(project, from_json(to_json(copied(project, "crane"))))
    after = apply(project, *edits)
    new = [p for p in after.pieces if p.id not in {q.id for q in project.pieces}]
    assert [p.id for p in new] == [ident, "jib-2", "bucket-2"]
    assert [p.part_of for p in new] == ["", ident, "jib-2"]
    crane, jib, bucket = new
    old = [project.get(PIECES, i) for i in ("crane", "jib", "bucket")]
    way = crane.place.x - old[0].place.x, crane.place.y - old[0].place.y
    assert way != (0, 0)
    for one, was in ((jib, old[1]), (bucket, old[2])):
        assert (one.place.x - was.place.x, one.place.y - was.place.y) == pytest.approx(way)
    hook, before = bucket.slings[0], old[2].slings[0]
    assert (hook.x - before.x, hook.y - before.y) == pytest.approx(way)
    lamp = next(m for m in after.lamps if m.id != "l")
    assert (lamp.piece, lamp.x - 140, lamp.y - 100) == ("jib-2", pytest.approx(way[0]), pytest.approx(way[1]))
    assert lamp.seed != project.get(LAMPS, "l").seed


def test_every_piece_of_the_demo_goes_into_another_project_that_can_be_saved(heron):
    other = new_project("Other", TODAY)
    for piece in heron.pieces:
        edits, ident = pasted(other, from_json(to_json(copied(heron, piece.id))))
        other = apply(other, *edits)
        assert other.get(PIECES, ident).thread == ""
    assert loose_ends(other) == ()
    assert from_json(to_json(other)) == other
    assert all(len({m.id for m in listing.members(other)}) == len(listing.members(other)) for listing in LISTS)
    assert all(not p.shape.file for p in other.pieces if isinstance(p.shape, Mesh))  # its files are not here


def test_a_printed_piece_stays_one_of_its_file_at_home(heron):
    printed = next(p for p in heron.pieces if isinstance(p.shape, Mesh) and p.shape.file)
    edits, ident = pasted(heron, copied(heron, printed.id))
    assert apply(heron, *edits).get(PIECES, ident).shape.file == printed.shape.file


def test_what_lies_on_the_bench_stays_there_and_a_room_is_kept_at_home_alone(empty):
    project = tower(boxed(empty))
    room = CaseRoom(id="up", name="Up", z=212.0)
    project = project.but(
        case=project.case.but(rooms=(room,)), pieces=(*project.pieces[:3], project.pieces[3].but(place=Place(x=50, y=50, room="up")))
    )
    edits, ident = pasted(project, copied(project, "other"))
    assert apply(project, *edits).get(PIECES, ident).place.room == "up"
    elsewhere = new_project("Other", TODAY)
    edits, ident = pasted(elsewhere, copied(project, "other"))
    assert apply(elsewhere, *edits).get(PIECES, ident).place.room == ""
    bench = project.but(pieces=(project.pieces[0].but(place=None),))
    edits, ident = pasted(bench, copied(bench, "crane"))
    assert apply(bench, *edits).get(PIECES, ident).place is None


def test_a_lamp_that_was_built_in_nowhere_else_is_not_copied(empty):
    project = tower(boxed(empty)).but(lamps=(Lamp(id="free", name="Free", x=1, y=1, z=1),))
    assert copied(project, "crane").lamps == ()


def test_nothing_is_said_plainly(empty):
    with pytest.raises(EditError, match="no piece to paste"):
        pasted(empty, new_project("Nothing", TODAY))
