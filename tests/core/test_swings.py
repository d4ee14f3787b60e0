# SPDX-License-Identifier: MIT
"""Doors and cranes: after how many degrees they touch, by hand."""

import math

import pytest

from fondale.core.derived import SWINGS
from fondale.core.edits import apply
from fondale.core.model import PIECES, Piece, Place
from fondale.core.model.shapes import Backdrop, Box, Opening, Wall
from fondale.core.prompts.rules import judge
from fondale.core.stage.swings import CASE_WALL, pivot_of, swings
from tests.conftest import boxed, known


def leaf(swing: float, pivot: str = "left", x: float = 150, y: float = 100, turn: float = 0.0) -> Piece:
    """A leaf of 40 x 2 mm, 70 high."""
    place = Place(x=x, y=y, turn_deg=turn)
    return Piece(id="leaf", name="Leaf", shape=Box(width=40, depth=2, height=70), place=place, role="scenery", swing_deg=swing, pivot=pivot)


def post(x: float, y: float, z: float = 0.0, high: float = 50) -> Piece:
    return Piece(id="post", name="Post", shape=Box(width=4, depth=4, height=high), place=Place(x=x, y=y, z=z))


def test_a_leaf_swings_until_its_face_meets_a_corner(empty):
    # Hung at (130, 100), its back face runs 1 mm before the line through the pivot. The post's nearest corner lies at (32 - 2, 16 - 2) from there.
    project = boxed(empty, leaf(120), post(130 + 32, 100 + 16))
    corner = 30 + 4, 14  # of the four the one that a leaf coming from below meets first: the lowest angle seen from the pivot
    wanted = math.degrees(math.atan2(corner[1], corner[0]) - math.asin(1 / math.hypot(*corner)))
    (found,) = swings(project)
    assert (found.piece, found.touches) == ("leaf", "post")
    assert wanted <= found.at_deg <= wanted + 1.5  # it is looked at by degrees


@pytest.mark.parametrize(("swing", "pivot", "x", "y"), [(-120, "left", 162, 84), (-120, "right", 138, 116), (120, "right", 138, 84)])
def test_it_turns_about_either_end_and_either_way(empty, swing, pivot, x, y):
    (found,) = swings(boxed(empty, leaf(swing, pivot), post(x, y)))
    assert found.touches == "post"
    assert found.at_deg == pytest.approx(21.5, abs=1.6)
    other = swings(boxed(empty, leaf(-swing, pivot), post(x, y)))
    assert all(f.touches != "post" for f in other)


def test_a_crane_turns_about_its_middle(empty):
    crane = leaf(180, "middle")
    assert pivot_of(crane, crane.place).tolist() == [150, 100]
    (found,) = swings(boxed(empty, crane, post(150, 115)))
    assert found.at_deg == pytest.approx(math.degrees(math.atan2(13, 2)) - math.degrees(math.asin(1 / math.hypot(13, 2))), abs=1.5)


def test_what_it_hangs_in_and_what_is_beside_or_above_is_in_nobodys_way(empty):
    frame = Piece(
        id="wall", name="Wall", shape=Wall(length=120, height=90, thickness=5, openings=(Opening(x=40, width=40, height=70),)),
        role="scenery", place=Place(x=150, y=100),
    )  # fmt: skip
    project = boxed(empty, frame, leaf(90), post(162, 116, z=80.0), leaf(0).but(id="far", name="Far", place=Place(x=40, y=40)))
    assert swings(project) == ()
    part = boxed(empty, leaf(90), post(162, 116).but(part_of="leaf"))
    assert swings(part) == ()  # it turns with it


def test_it_does_not_swing_through_a_sheet_or_the_case(empty):
    sheet = Piece(id="sheet", name="Sheet", shape=Backdrop(width=80, height=100), role="scenery", place=Place(x=150, y=120))
    (found,) = swings(boxed(empty, leaf(90), sheet))
    assert found.touches == "sheet"
    assert found.at_deg == pytest.approx(math.degrees(math.asin(19.5 / math.hypot(40, 1)) - math.atan2(1, 40)), abs=1.5)
    (found,) = swings(boxed(empty, leaf(90, y=170)))  # the back of the case is 30 mm away
    assert found.touches == CASE_WALL
    assert found.at_deg == pytest.approx(math.degrees(math.asin(30.3 / math.hypot(40, 1)) - math.atan2(1, 40)), abs=1.5)


def test_the_way_out_lets_it_turn_so_far_and_no_further(empty):
    project = boxed(empty, leaf(120), post(162, 116))
    (finding,) = (f for f in judge(known(project, SWINGS))[0] if f.code == "STAGE-SWING")
    assert [ident for _listing, ident in finding.subjects] == ["leaf", "post"]
    after = apply(project, *finding.fixes[0].edits)
    assert 10 < after.get(PIECES, "leaf").swing_deg < 22
    assert swings(after) == ()
