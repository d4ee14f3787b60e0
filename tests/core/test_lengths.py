# SPDX-License-Identifier: MIT
import contextlib
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.core.lengths import INCH_MM, LengthError, parse_length, parse_scale
from fondale.core.words import digits, percent, show_mm, show_real, show_scale


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("37", 37.0),
        ("37mm", 37.0),
        (" 37 mm ", 37.0),
        ("3.7cm", 37.0),
        ("0.037 m", 37.0),
        ("1,5 cm", 15.0),
        (".5 mm", 0.5),
        ("1.46in", 37.084),
        ('1 7/16"', 36.5125),
        ("7/16 in", 11.1125),
        ("6ft 2in", 1879.6),
        ("6' 2\"", 1879.6),
        ("6′2″", 1879.6),
        ("1 m 30 cm", 1300.0),
        ("6 inch", 152.4),
        ("6-inch", 152.4),
        ("2 inches", 50.8),
        ("1 foot", 304.8),
        ("5 feet 6 inches", 1676.4),
        ("½ in", 12.7),
        ("1½ in", 38.1),
        ("1-1/2 in", 38.1),
        ('¾"', 19.05),
        ("37 mm.", 37.0),
        ("2 metres", 2000.0),
        ("⅙ in", 25.4 / 6),
        ("1⅜ in", 34.925),
        ("1 7⁄16 in", 36.5125),
        ("+37", 37.0),
        ("6’ 2”", 1879.6),
        ("6‘ 2“", 1879.6),
        ("1'000 mm", 1000.0),
        ("1’000", 1000.0),
        ("1 000 mm", 1000.0),
        ("1\u202f250,5 mm", 1250.5),
        ("1,000,000 mm", 1e6),
        ("1.000.000 mm", 1e6),
        ("1,250.5 mm", 1250.5),
        ("1.250,5 mm", 1250.5),
        ("1.375 in", 34.925),
        ("0.125 in", 3.175),
        ("0,125", 0.125),
        ("1.435 m", 1435.0),
        ("1,435 m", 1435.0),
        ("12.3456", 12.3456),
    ],
)
def test_lengths_as_makers_write_them(text, mm):
    assert parse_length(text) == pytest.approx(mm, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "n"),
    # Names after NEM 010 and NMRA S-1.2, from memory: 0 is 1:45, O is 1:48.
    [
        ("1/35th", 35),
        ("1:35", 35),
        ("35", 35),
        ("H0", 87),
        ("HO", 87),
        ("ho scale", 87),
        ("O", 48),
        ("o gauge", 48),
        ("0 gauge", 45),
        ("N", 160),
        ("tt", 120),
        ("OO", 76),
        ("00", 76),
        ("1:72 scale", 72),
        ("1/35 scale", 35),
        ("1∶48", 48),
        ("1：48", 48),
        ("1⁄35", 35),
    ],
)
def test_scales_as_makers_write_them(text, n):
    assert parse_scale(text) == n


def test_real_sizes_are_divided_by_the_house_scale():
    # Kneeling upright on one knee, about 1.30 m: 37 mm at 1:35 (common practice, no source).
    assert parse_length("1.3 m real", 35) == pytest.approx(37.14, abs=0.01)
    # 4 mm grass at 1:35 is 140 mm (common practice, no source).
    assert parse_length("140 mm real", 35) == pytest.approx(4.0)


def test_an_inch_stands_for_a_foot_at_1_12():
    # A six-inch figure of a six-foot person is 1:12 (common practice; both units are exact by definition).
    assert parse_length("6ft") / parse_length("6in") == pytest.approx(12.0, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "Type a length"),
        ("abc", "is not a length"),
        ("37 parsec", "is not a length"),
        ("-3", "above zero"),
        ("0", "above zero"),
        ("1/0 in", "below the line"),
        ("3 4", "two numbers"),
        ("1e9 m", "is not a length"),
        ("99999999999", "kilometre"),
        ("nan", "is not a length"),
        ("1.3 m real", "house scale"),
        ("5² mm", "is not a length"),
        ("3 mm 4", "two numbers"),
        # A comma or a point before three figures is a thousand to some and a fraction to others: it is asked.
        ("1,000 mm", "1000 mm or 1 mm"),
        ("1.000", "1000 mm or 1 mm"),
        ("10,000 mm", "10000 mm or 10 mm"),
        ("1.250 cm", "1250 cm or 1.25 cm"),
        ("1,375 in", "1375 in or 1.375 in"),
    ],
)
def test_bad_lengths_say_what_to_do(text, says):
    with pytest.raises(LengthError, match=says):
        parse_length(text)


@pytest.mark.parametrize(("text", "n"), [("1:35", 35), ("1/35", 35), ("35", 35), (" 1 : 22,5 ", 22.5), ("1:87.1", 87.1)])
def test_scales(text, n):
    assert parse_scale(text) == n


@pytest.mark.parametrize("text", ["", "1:", "0", "1:0", "1:0.5", "1:-3", "2:35", "x", "1:99999", "inf"])
def test_bad_scales_say_what_to_do(text):
    with pytest.raises(LengthError):
        parse_scale(text)


@given(st.floats(min_value=0.01, max_value=9e5))
def test_a_shown_length_reads_back(mm):
    text = f"{digits(mm, 2)} mm"
    assert parse_length(text) == pytest.approx(mm, abs=0.00501)


@given(st.floats(min_value=0.01, max_value=3e4))
def test_inches_and_millimetres_agree(inches):
    assert parse_length(f"{inches:.6f}in") == pytest.approx(parse_length(f"{inches * INCH_MM:.6f}mm"), rel=1e-6, abs=1e-4)


@given(st.text(max_size=40))
def test_no_text_breaks_the_parsers(text):
    for parse in (parse_length, parse_scale):
        with contextlib.suppress(LengthError):
            value = parse(text)
            assert math.isfinite(value)
            assert value > 0


def test_numbers_are_shown_with_sensible_digits():
    assert show_mm(37.142857142857146) == "37.1 mm"
    assert show_mm(182.4) == "182 mm"
    assert show_real(1300) == "1.30 m"
    assert show_real(140.2) == "140 mm"
    assert show_scale(35.0) == "1:35"
    assert show_scale(28.44) == "1:28.4"
    assert show_scale(160.2) == "1:160"
    assert show_scale(720 / 278) == "1:2.59"
    assert show_scale(6.0) == "1:6"
    assert digits(2.50, 2) == "2.5"
    assert digits(100.0, 0) == "100"
    assert digits(float("nan"), 1) == "–"
    assert percent(0.914) == "91 %"
