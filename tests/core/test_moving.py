# SPDX-License-Identifier: MIT
"""Moving and tilting: what goes with a piece, what it snaps to, and where it rests."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.core.edits import EditError, apply
from fondale.core.edits.moving import move
from fondale.core.model import LAMPS, PIECES, Lamp, Piece, Place, Sling
from fondale.core.model.shapes import Box, Cylinder
from fondale.core.stage.gaps import gaps, snap
from fondale.core.stage.scene import build_scene, on_piece, placed_solid, rest_places
from fondale.core.stage.together import with_parts
from fondale.core.stage.weights import weights


def block(ident, x, y, z=None, turn=0.0, **more):
    return Piece(
        id=ident, name=ident.capitalize(), shape=Box(width=20, depth=10, height=30), place=Place(x=x, y=y, z=z, turn_deg=turn), **more
    )


def tower(empty):
    """A crane: its jib is part of it, a bucket part of the jib, a lamp is built into the jib, and the bucket hangs on a line."""
    pieces = (
        block("crane", 100, 100),
        block("jib", 130, 100, 40.0, part_of="crane"),
        block("bucket", 150, 100, 10.0, part_of="jib", slings=(Sling(x=150, y=100, z=60, at_z=30),)),
        block("other", 200, 150),
    )
    return empty.but(pieces=pieces, lamps=(Lamp(id="l", name="L", x=140, y=100, z=50, ax=1.0, ay=0.0, az=0.0, piece="jib"),))


def test_parts_lines_and_lamps_go_with_a_piece(empty):
    project = tower(empty)
    assert [p.id for p in with_parts(project, "crane")] == ["jib", "bucket"]
    done = apply(project, move(project, "crane", Place(x=110, y=120)))
    where = {p.id: (p.place.x, p.place.y, p.place.z) for p in done.pieces}
    assert where == {"crane": (110, 120, None), "jib": (140, 120, 40), "bucket": (160, 120, 10), "other": (200, 150, None)}
    sling, lamp = done.get(PIECES, "bucket").slings[0], done.get(LAMPS, "l")
    assert (sling.x, sling.y, sling.z) == (160, 120, 60)
    assert (lamp.x, lamp.y, lamp.z) == (150, 120, 50)


def test_turning_turns_all_of_it(empty):
    project = tower(empty)
    done = apply(project, move(project, "crane", Place(x=100, y=100, turn_deg=90)))
    jib, lamp = done.get(PIECES, "jib").place, done.get(LAMPS, "l")
    assert (jib.x, jib.y, jib.turn_deg) == (pytest.approx(100), pytest.approx(130), 90)
    assert (lamp.x, lamp.y) == (pytest.approx(100), pytest.approx(140))
    assert (lamp.ax, lamp.ay) == (pytest.approx(0), pytest.approx(1))


def test_lifting_lifts_all_of_it(empty):
    project = tower(empty)
    done = apply(project, move(project, "crane", Place(x=100, y=100, z=15.0)))
    assert [p.place.z for p in done.pieces] == [15, 55, 25, None]
    assert done.get(LAMPS, "l").z == 65


@given(st.floats(-300, 300), st.floats(-300, 300), st.floats(-180, 180))
def test_what_goes_with_a_piece_keeps_its_distances(x, y, turn):
    from datetime import date

    from fondale.core.edits import new_project

    project = tower(new_project("E", date(2026, 11, 24)))
    done = apply(project, move(project, "crane", Place(x=x, y=y, turn_deg=turn)))

    def spots(p):
        return np.array([[q.place.x, q.place.y] for q in p.pieces[:3]] + [[m.x, m.y] for m in p.lamps])

    a, b = spots(project), spots(done)
    assert np.linalg.norm(a[:, None] - a, axis=2) == pytest.approx(np.linalg.norm(b[:, None] - b, axis=2), abs=0.01)


def test_what_is_fixed_stays(empty):
    project = empty.but(pieces=(block("a", 100, 100, fixed=True),))
    with pytest.raises(EditError, match="A is fixed"):
        move(project, "a", Place(x=110, y=100))


# Tilting.


@pytest.mark.parametrize("tilt", [0.0, 20.0, -35.0, 90.0])
def test_a_tilted_block_rests_on_its_lowest_edge(empty, tilt):
    """A block 10 deep and 30 high: its highest corner by the sines of the angle."""
    piece = block("a", 100, 100)
    corners = placed_solid(piece, piece.place.but(z=5.0, tilt_deg=tilt)).corners()
    a = math.radians(abs(tilt))
    assert corners[:, 2].min() == pytest.approx(5.0)
    assert corners[:, 2].max() - 5.0 == pytest.approx(30 * math.cos(a) + 10 * math.sin(a))
    assert np.ptp(corners[:, 1]) == pytest.approx(30 * math.sin(a) + 10 * math.cos(a))


def test_the_top_of_what_leans_goes_to_the_back(empty):
    post = Piece(id="a", name="A", shape=Cylinder(diameter=2, length=50), place=Place(x=100, y=100, tilt_deg=30))
    top = on_piece(post, post.place.but(z=0.0), np.array([[0.0, 0.0, 50.0]]))[0]
    assert top[1] == pytest.approx(100 + 25, abs=0.01)
    found = weights(empty.but(pieces=(post.but(weight_g=5.0),)), {}).pieces["a"]
    assert found.centre[1] == pytest.approx(112.5, abs=0.1)
    assert found.tip_deg == 0.0  # it falls
    scene = build_scene(empty.but(pieces=(post,)))
    assert scene.tris[..., 1].max() > 120


def test_nothing_stands_on_what_leans(empty):
    slope = block("slope", 100, 100).but(role="scenery", place=Place(x=100, y=100, tilt_deg=10))
    assert rest_places(empty.but(pieces=(slope, block("a", 100, 100))))["a"].z == 0.0


# Gaps and snapping.


def test_the_air_on_every_side():
    """A box of 10 x 10 in a room of 100 x 80, with a post to its right and another that does not stand beside it."""
    found = {g.side: g.mm for g in gaps((40, 30, 50, 40), [(70, 35, 75, 60), (60, 50, 65, 55)], (0, 0, 100, 80))}
    assert found == {"left": 40, "right": 20, "low": 30, "high": 40}


def test_what_stands_against_something_has_no_air_there():
    found = {g.side: g.mm for g in gaps((0, 30, 50, 40), [(50, 30, 60, 40)], (0, 0, 100, 80))}
    assert found == {"low": 30, "high": 40}


def test_snapping_to_walls_faces_and_lines():
    room = (0.0, 0.0, 100.0, 80.0)
    assert snap((2.0, 30, 12, 40), [], room, 3.0) == (-2.0, 0.0)
    assert snap((40, 30, 50, 40), [(51.5, 10, 60, 38.5)], room, 2.0) == (1.5, -1.5)  # against its face, and in line with its edge
    assert snap((40, 30, 50, 41), [], room, 2.0) == (0.0, 0.0)
