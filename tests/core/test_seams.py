# SPDX-License-Identifier: MIT
"""Where donor parts meet the bodies that they sit on, by hand."""

import math

import manifold3d
import numpy as np
import pytest

from fondale.core.derived import CLASHES, SEAMS
from fondale.core.model import Piece, Place
from fondale.core.model.shapes import Backdrop, Box, Cylinder
from fondale.core.stage.seams import MOST_PAIRS, _air, seam, seam_told
from tests.conftest import boxed, known

HOST = Piece(id="body", name="Body", shape=Box(width=60, depth=50, height=30), place=Place(x=100, y=100, z=0))


def arm(x: float = 100, y: float = 100, z: float = 22, turn: float = 0.0, tilt: float = 0.0, high: float = 40) -> Piece:
    """A square bar of 10 x 10 mm."""
    place = Place(x=x, y=y, z=z, turn_deg=turn, tilt_deg=tilt)
    return Piece(id="arm", name="Arm", shape=Box(width=10, depth=10, height=high), place=place, part_of="body")


def of(part: Piece, host: Piece = HOST):
    return seam(part, part.place, host, host.place)


@pytest.mark.parametrize("turn", [0, 37, 90, 215])
def test_a_bar_that_stands_in_a_block_is_sawn_square(turn):
    found = of(arm(turn=turn))
    (cut,) = found.cuts
    assert cut.end == "foot"
    assert cut.marks == pytest.approx((8, 8), abs=1e-6)
    assert cut.face_mm2 == pytest.approx(100)
    assert cut.off_mm == pytest.approx(0, abs=1e-6)
    assert found.within == pytest.approx(0.2)
    assert found.deep_mm == pytest.approx(8)
    told = seam_told(found, arm(), HOST)
    assert told.shown == "Saw it 8 mm from its foot"
    assert "From its foot: square" in told.how.formula


def test_a_leaning_bar_is_sawn_at_a_slant():
    part = arm(tilt=20, z=22)
    (cut,) = of(part).cuts
    lean = math.radians(20)
    # A point (y, z) of the bar lies z cos 20° - y sin 20° over its origin, which is lifted until the back edge of the foot is on the ground.
    marks = [(8 - (5 - y) * math.sin(lean)) / math.cos(lean) for y in (-5, 5)]
    assert cut.marks == pytest.approx(marks, abs=1e-6)
    assert cut.face_mm2 == pytest.approx(100 / math.cos(lean))
    rim = cut.rim
    assert rim[..., 2] == pytest.approx(np.full(rim.shape[:2], 30.0), abs=1e-6)
    assert "4.9 mm in front, 8.5 mm behind" in seam_told(of(part), part, HOST).how.formula


def test_a_bar_right_through_is_sawn_twice():
    found = of(arm(z=-5, high=40))
    assert sorted((c.end, round(c.marks[0], 6)) for c in found.cuts) == [("foot", 35.0), ("top", 35.0)]
    assert found.within == pytest.approx(30 / 40)


def test_on_a_round_trunk_the_seam_strays_from_the_plane():
    # A limb of radius 4 upright on a lying trunk of radius 20, which is drawn as a prism of 24 sides with an edge on top: its skin falls by tan 7.5°
    # to both sides, and over a circle the mean of |y| is 2 r / pi.
    trunk = Piece(id="body", name="Trunk", shape=Cylinder(diameter=40, length=80, axis="x"), place=Place(x=100, y=100, z=0))
    limb = Piece(id="arm", name="Limb", shape=Cylinder(diameter=8, length=30), place=Place(x=100, y=100, z=25), part_of="body")
    (cut,) = of(limb, trunk).cuts
    falls = math.tan(math.radians(7.5)) * 2 * 4 / math.pi
    assert cut.marks == pytest.approx((40 - 25 - falls,) * 2, abs=0.02)
    assert cut.off_mm == pytest.approx(falls, abs=0.02)
    assert cut.face_mm2 == pytest.approx(math.pi * 16, rel=0.04)  # it is a prism of many sides


def test_what_does_not_meet_says_how_far_apart_it_is():
    assert of(arm(z=42.5)).air_mm == pytest.approx(12.5)
    assert of(arm(z=30)).air_mm == pytest.approx(0, abs=1e-6)
    assert seam_told(of(arm(z=42.5)), arm(), HOST).shown == "12.5 mm of air"
    assert seam_told(of(arm(z=30)), arm(), HOST).shown == "it touches"


@pytest.mark.parametrize(("apart", "within"), [(15.0, 0.02), (0.6, 0.01), (0.0, 0.01)])
def test_very_fine_bodies_are_measured_in_moments(apart, within):
    """Two balls of radius 20: every pair of their triangles would be billions."""
    ball = manifold3d.Manifold.sphere(20.0, 512)
    assert ball.num_tri() ** 2 > 100 * MOST_PAIRS
    assert _air(ball, ball.translate((40.0 + apart, 0, 0))) == pytest.approx(apart, abs=within)


def test_what_is_swallowed_has_nothing_to_saw():
    found = of(arm(z=5, high=10))
    assert found.cuts == ()
    assert found.within == pytest.approx(1)
    assert "100 % within" in seam_told(found, arm(), HOST).shown


def test_a_body_that_is_not_closed_is_named(empty):
    hull = Piece(id="body", name="Skin", shape=Backdrop(width=60, height=80), place=Place(x=100, y=100, z=0))
    found = of(arm(z=5), hull)
    assert found.open_one == "Skin"
    assert "Skin is not a closed body" in seam_told(found, arm(), hull).how.formula


def test_a_body_of_too_many_faces_is_named(monkeypatch):
    monkeypatch.setattr("fondale.core.stage.seams.MOST_FACES", 50)
    limb = Piece(id="arm", name="Limb", shape=Cylinder(diameter=8, length=30), place=Place(x=100, y=100, z=25), part_of="body")
    assert "Limb has more than 50" in seam_told(of(limb), limb, HOST).how.formula


def test_a_part_may_share_room_with_what_it_is_part_of(empty):
    part = arm()
    project = boxed(empty, HOST, part)
    assert known(project, CLASHES)[CLASHES] == ()
    assert known(project, SEAMS)[SEAMS][0].cuts[0].marks == pytest.approx((8, 8))
    apart = boxed(empty, HOST, part.but(part_of=""))
    assert len(known(apart, CLASHES)[CLASHES]) == 1
    assert known(apart, SEAMS)[SEAMS] == ()
