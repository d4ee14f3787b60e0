# SPDX-License-Identifier: MIT
"""What makers type: colours, directions, days and minutes, runs of the same thing."""

from datetime import date, datetime

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.core.colours import WORDS, ColourError, parse_colour, show_colour
from fondale.core.directions import DirectionError, parse_direction, show_direction
from fondale.core.edits import apply
from fondale.core.edits.again import Run, again, parse_run
from fondale.core.edits.wiring import add_lamp
from fondale.core.lengths import LengthError
from fondale.core.model import LAMPS, PIECES, STEPS, SURFACES, Piece, Place, PrintFile, Setup, Step, Surface
from fondale.core.model.shapes import Box
from fondale.core.times import parse_days, parse_hours, parse_minutes, parse_moment, parse_setup, show_days, show_setup


@given(st.tuples(*[st.integers(0, 255)] * 3))
def test_colours_go_round(rgb):
    text = "#" + "".join(f"{c:02x}" for c in rgb)
    assert show_colour(parse_colour(text)) == text
    assert parse_colour(" ".join(map(str, rgb))) == parse_colour(text)


def test_a_display_s_middle_grey_reflects_a_fifth():
    # [iec61966]: sRGB 119 of 255 is a linear 0.184; the ends are the ends.
    assert parse_colour("119 119 119")[0] == pytest.approx(0.184, abs=0.001)
    assert parse_colour("#ffffff") == (1, 1, 1)
    assert parse_colour("#000000") == (0, 0, 0)


def test_colours_have_words():
    assert parse_colour(" Dark  Green") == parse_colour(WORDS["dark green"])
    for bad in ("", "greenish", "#12345", "300 0 0", "1 2"):
        with pytest.raises(ColourError, match="#rrggbb"):
            parse_colour(bad)


@given(st.floats(-1, 1), st.floats(-1, 1), st.floats(-1, 1))
def test_directions_go_round_to_a_degree(x, y, z):
    vector = np.array([x, y, z])
    length = float(np.linalg.norm(vector))
    if length < 0.05:
        return
    again_ = np.array(parse_direction(show_direction(x, y, z)))
    assert np.degrees(np.arccos(np.clip(again_ @ vector / length, -1, 1))) < 1.6


@pytest.mark.parametrize(
    ("text", "way"),
    [
        ("down", (0, 0, -1)), ("left", (-1, 0, 0)), ("back and down", (0, 0.7071, -0.7071)), ("30° down to the left", (-0.866, 0, -0.5)),
        ("right back", (0.7071, 0.7071, 0)), ("30° down, turned 90°", (0, 0.866, -0.5)),
    ],
)  # fmt: skip
def test_directions_are_said_by_makers(text, way):
    assert parse_direction(text) == pytest.approx(way, abs=1e-3)


@pytest.mark.parametrize(
    ("text", "as_if"),
    [
        ("forward", "front"),
        ("backwards and down", "back and down"),
        ("towards the viewer", "front"),
        ("30° down, forward", "30° down to the front"),
    ],
)
def test_directions_by_other_words(text, as_if):
    assert parse_direction(text) == parse_direction(as_if)


def test_what_is_no_direction_is_told():
    for bad in ("", "sideways", "left right", "up down", "10 20 down"):
        with pytest.raises(DirectionError):
            parse_direction(bad)
    assert show_direction(0, 0, 0) == "nowhere"


def test_minutes_of_a_batch():
    assert parse_minutes("32 times 4 min, 10 min set-up")[1] == 138
    assert parse_minutes("32 x 4 + 10")[1] == 138
    assert parse_minutes("32x4")[1] == 128
    assert parse_minutes("10 15 25") == (10, 15, 25)


def test_days_hours_and_moments():
    assert parse_days("2026-12-24 to 2026-12-26, 2026-12-31") == (*(date(2026, 12, d) for d in (24, 25, 26)), date(2026, 12, 31))
    assert show_days(parse_days("2026-12-31, 2026-12-24 to 2026-12-26")) == "2026-12-24 to 2026-12-26, 2026-12-31"
    dec = lambda *days: tuple(date(2026, 12, d) for d in days)  # noqa: E731
    today = date(2026, 11, 24)
    assert parse_days("10 to 12 December", today) == dec(10, 11, 12)
    assert parse_days("10th–12th Dec 2026, 24 december", today) == dec(10, 11, 12, 24)
    assert parse_days("30 December to 2 January", today) == (*dec(30, 31), date(2027, 1, 1), date(2027, 1, 2))
    assert parse_days("3 May", today) == (date(2027, 5, 3),)  # the next one there is
    assert parse_days("Dec 24, 2026-12-25", today) == dec(24, 25)
    assert parse_days("24 December 2025", today) == (date(2025, 12, 24),)
    assert [parse_hours(t) for t in ("2", "2 h", "30 min", "3 days", "1.5h", "2 h 30", "0 h 05 min")] == [2, 2, 0.5, 72, 1.5, 2.5, 5 / 60]
    assert parse_moment("2026-11-20 21:30") == datetime(2026, 11, 20, 21, 30)
    for parse, bad in (
        (parse_hours, "soon"),
        (parse_hours, "9999 days"),
        (parse_days, "2026-12-24 to"),
        (parse_days, "31 February"),
        (parse_days, "10 to 12"),
        (parse_setup, "x"),
        (parse_setup, "99"),
    ):
        with pytest.raises(LengthError):
            parse(bad)
    assert parse_setup("8 out, 10 clean") == Setup(out=8, clean=10)
    assert show_setup(parse_setup("8 10 3")) == "8 10 3"


def test_eighty_four_lamps_in_twelve_rows(empty):
    edit, ident = add_lamp(empty)
    one = apply(empty, edit)
    edits, idents = again(one, LAMPS, ident, parse_run("7 every 20 right, 12 rows every 10 back"))
    many = apply(one, *edits)
    assert len(many.lamps) == 84
    assert len(set(idents)) == 83
    first = many.lamps[0]
    assert {(round(m.x - first.x), round(m.y - first.y)) for m in many.lamps} == {(20 * k, 10 * r) for k in range(7) for r in range(12)}
    assert len({m.seed for m in many.lamps}) == 84  # no two candles in step by chance


def test_once_more_never_lies_on_its_like(empty):
    box = Piece(id="box", name="Box", shape=Box(width=20, depth=20, height=20), place=Place(x=100, y=100))
    project = empty.but(pieces=(box,), surfaces=(Surface(id="s", name="Front"),))
    edits, (ident,) = again(project, PIECES, "box", Run(2, (0.0, 0.0, 0.0)))
    place = apply(project, *edits).get(PIECES, ident).place
    assert abs(place.x - 100) >= 20 or abs(place.y - 100) >= 20
    edits, (ident,) = again(project, SURFACES, "s", parse_run("2", placed=False))
    assert apply(project, *edits).get(SURFACES, ident).name == "Front 2"
    for bad in ("", "five", "0 every 3 right", "5 every 3", "9999 every 1 right", "3 every 1 right, 2 every 2 back"):
        with pytest.raises(LengthError):
            parse_run(bad)
    with pytest.raises(LengthError):
        parse_run("0", placed=False)


def test_a_step_once_more_is_the_makers_own(empty):
    file = PrintFile(id="f", name="F", asset="assets/f.stl", size=(10, 10, 10), volume=1000, area=600, centre=(5, 5, 5), triangles=12)
    printed = empty.but(prints=(file,), steps=(Step(id="p", name="Print", work="print", file="f", duty="print", done=True),))
    edits, (ident,) = again(printed, STEPS, "p", parse_run("2", placed=False))
    copy = apply(printed, *edits).get(STEPS, ident)
    assert (copy.file, copy.duty, copy.done) == ("", "", False)
