# SPDX-License-Identifier: MIT
"""Another scale for the whole scene, against what the arithmetic of scales says."""

import pytest

from fondale.core.edits import EditError, apply
from fondale.core.edits.rescaling import consequences, is_built, rescaled
from fondale.core.model import PIECES, CaseOpening, CaseRoom, Lamp, Piece, Place, Sling
from fondale.core.model.shapes import Box, Opening, Wall
from tests.conftest import boxed, figure


def scene(empty):
    wall = Piece(
        id="wall", name="Wall", role="scenery", weight_g=100.0,
        shape=Wall(length=120, height=80, thickness=4, openings=(Opening(x=10, z=5, width=20, height=40, form="arch"),)), place=Place(x=100, y=120, z=0.0),
    )  # fmt: skip
    hung = Piece(
        id="crate",
        name="Crate",
        shape=Box(width=10, depth=10, height=10),
        place=Place(x=150, y=60, z=40),
        slings=(Sling(x=150, y=60, z=100, at_z=10),),
    )
    return boxed(empty, figure("bought", 150, 100, mm=50).but(origin="bought"), wall, hung).but(
        lamps=(Lamp(id="l", name="L", x=50, y=40, z=90),)
    )


def test_what_is_to_be_built_grows_and_what_was_bought_does_not(empty):
    project = scene(empty)
    done = apply(project, rescaled(project, 17.5))  # 1:35 to 1:17.5: twice as large
    wall, crate, bought = (done.get(PIECES, i) for i in ("wall", "crate", "bought"))
    assert done.brief.house_n == 17.5
    assert (wall.shape.length, wall.shape.height, wall.shape.thickness) == (240, 160, 8)
    (hole,) = wall.shape.openings
    assert (hole.x, hole.z, hole.width, hole.height, hole.form) == (20, 10, 40, 80, "arch")
    assert wall.weight_g == 800
    # Places go apart from the middle of the floor: 150 of 300, 100 of 200 mm.
    assert (wall.place.x, wall.place.y) == (50, 140)
    assert (bought.place.x, bought.place.y) == (150, 100)
    assert bought.measure == project.get(PIECES, "bought").measure
    assert (crate.slings[0].z, crate.slings[0].at_z, crate.place.z) == (200, 20, 80)
    assert (done.lamps[0].x, done.lamps[0].z) == (-50, 180)
    assert done.case == project.case


def test_the_case_grows_with_its_rooms_and_openings(empty):
    room = CaseRoom(id="up", name="Up", z=200.0, width=300, depth=200, height=100)
    project = scene(empty)
    project = project.but(case=project.case.but(rooms=(room,), openings=(CaseOpening(side="back", x=30, width=40, height=50),)))
    done = apply(project, rescaled(project, 70, case_too=True))
    assert (done.case.width, done.case.rooms[0].z, done.case.openings[0].x) == (150, 100, 15)
    assert done.get(PIECES, "wall").place.x == 50


def test_there_and_back_again_is_where_it_was(empty):
    project = scene(empty)
    there = apply(project, rescaled(project, 48))
    back = apply(there, rescaled(there, 35))
    for piece in project.pieces:
        now = back.get(PIECES, piece.id)
        assert (now.place.x, now.place.y) == (pytest.approx(piece.place.x, abs=0.01), pytest.approx(piece.place.y, abs=0.01))
    assert back.get(PIECES, "wall").shape.length == pytest.approx(120, abs=0.001)


def test_the_consequences_are_said_before(empty):
    project = scene(empty)
    said = " ".join(consequences(project, 17.5))
    assert "grows to 200 %, areas to 400 %, volumes and weights to 800 %" in said
    assert "Sticks out of the case then: Wall; at worst by 70 mm" in said
    assert "0 of 1 measured pieces serve as they are, 1 now" in said
    assert "No longer right: Bought" in said
    smaller = " ".join(consequences(project, 70, case_too=True))
    assert "The case is 150 × 100 × 100 mm inside." in smaller


def test_what_no_file_can_hold_is_told(empty):
    project = scene(empty)
    huge = project.but(pieces=(project.get(PIECES, "wall").but(shape=Wall(length=90_000, height=80)),))
    with pytest.raises(EditError, match="no file can hold it"):
        consequences(huge, 2.0)


def test_who_is_built(heron):
    built = {p.id for p in heron.pieces if is_built(p)}
    assert {"quay", "stairs", "kiosk", "boat"} & {p.id for p in heron.pieces} <= built
    assert not built & {"ferryman", "woman", "boy", "watchman"}


def test_a_thing_that_was_bought_keeps_its_size(empty):
    bench = Piece(id="bench", name="Bench", shape=Box(width=40, depth=20, height=10), origin="bought", place=Place(x=100, y=100))
    project = empty.but(pieces=(bench,))
    done = apply(project, rescaled(project, 17.5)).get(PIECES, "bench")
    assert done.shape == bench.shape
    assert (done.place.x, done.place.y) == (50, 100)
