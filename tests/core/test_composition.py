# SPDX-License-Identifier: MIT
"""Composition hints on pictures that were made to show them, and the way out of the flat by closed forms."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.core.light.composition import hints
from fondale.core.model import Case, Piece, Place, Seat
from fondale.core.model.shapes import Box
from fondale.core.stage.carrying import Way, carried, carried_told, longest_round
from fondale.core.stage.cutting import outer
from tests.conftest import boxed, figure


def said(project, seat="s"):
    return [h.words for h in hints(project, seat)]


def looked_at(project, eye=1300.0, distance=2000.0):
    seat = Seat(id="s", name="S", eyes_mm=eye, distance=distance, range=0.0)
    return project.but(seats=(seat,), brief=project.brief.but(shelf_height_mm=1000.0))


def test_where_the_main_figure_stands(empty):
    at = lambda x: " ".join(said(looked_at(boxed(empty, figure("a", x, 100, mm=60)))))  # noqa: E731
    assert "A stands on a third" in at(95)
    assert "A stands in the very middle" in at(150)
    assert "A, the largest figure, stands at the edge" in at(20)


def test_what_just_touches_and_what_overlaps(empty):
    left = Piece(id="l", name="L", shape=Box(width=40, depth=1, height=60), place=Place(x=100, y=100))
    right = Piece(id="r", name="R", shape=Box(width=40, depth=1, height=8), place=Place(x=141.0, y=100))
    touching = looked_at(boxed(empty, left, right))
    assert any("L and R just touch" in w for w in said(touching))
    apart = looked_at(boxed(empty, left, right.but(place=Place(x=190, y=100))))
    assert not any("touch" in w for w in said(apart))


def test_empty_thirds_and_their_boxes(empty):
    project = looked_at(boxed(empty, figure("a", 60, 100, mm=60)))
    found = [h for h in hints(project, "s") if "third is empty" in h.words]
    assert [h.words.split()[1] for h in found] == ["middle", "right"]
    assert found[1].boxes[0][0] == pytest.approx(2 / 3)


def test_a_horizon_through_a_head(empty):
    """The eye 57 mm over the floor, a figure of 60 mm: its head is there."""
    project = looked_at(boxed(empty, figure("a", 150, 100, mm=60)), eye=1000 + 12 + 56)
    assert any("horizon runs through the head of A" in w for w in said(project))
    assert not any("horizon" in w for w in said(looked_at(boxed(empty, figure("a", 150, 100, mm=60)), eye=1000 + 12 + 120)))


def test_no_seat_no_hints(empty):
    assert hints(empty, "nobody") == ()


# Out of the flat.


def test_a_ladder_round_a_corner():
    """(a^2/3 + b^2/3)^3/2: the longest thin thing; in corridors of one width, 2 sqrt 2 times that."""
    assert longest_round(1000, 1000, 0) == pytest.approx(2 * math.sqrt(2) * 1000, rel=1e-6)
    assert longest_round(900, 1200, 0) == pytest.approx((900 ** (2 / 3) + 1200 ** (2 / 3)) ** 1.5, rel=1e-6)
    # A box of one breadth in corridors of one width: the corner at 45 degrees leaves 2 (sqrt 2 a - w).
    assert longest_round(1000, 1000, 300) == pytest.approx(2 * (math.sqrt(2) * 1000 - 300), rel=1e-6)
    assert longest_round(500, 900, 600) == 0.0


@given(st.floats(500, 2000), st.floats(500, 2000), st.floats(1, 490))
def test_what_goes_round_goes_round_broader_corridors_too(a, b, w):
    assert longest_round(a + 50, b, w) >= longest_round(a, b, w)
    assert longest_round(a, b, w) == pytest.approx(longest_round(b, a, w), rel=1e-6)


def test_a_case_that_does_not_go_out():
    small, broad = (outer(Case(kind="open box", width=w, depth=d, height=300)) for w, d in ((400, 300), (1500, 900)))
    assert carried(small, Way())[0]
    good, words = carried(broad, Way())
    assert not good
    assert "does not go through the door" in words
    long = outer(Case(kind="open box", width=2200, depth=500, height=300))
    good, words = carried(long, Way(first=800, second=800))
    assert not good
    assert "round the corner" in words
    assert carried_told(small, Way()).shown == "out of the flat: yes"
