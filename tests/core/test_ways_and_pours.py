# SPDX-License-Identifier: MIT
"""Wires through limbs, cavities, and resin water pour by pour, against geometry by hand."""

import math
from datetime import datetime

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.core.bodies.figure import figure
from fondale.core.bodies.parts import TROUSERS
from fondale.core.coats.pours import FORMS, pour_lines, pours_of, volume_below
from fondale.core.edits import apply
from fondale.core.edits.pouring import hand_pours
from fondale.core.fits.wire_ways import BUNDLES, NoDrill, bundle_mm, cavity_of, way_of
from fondale.core.model import Surface
from fondale.core.strata import core_sample
from fondale.knowledge import table


def test_bundles_are_the_smallest_circles_round_equal_wires():
    # Two side by side, three in a triangle, four in a square, seven round one: by hand.
    assert bundle_mm(1, 0.5) == 0.5
    assert bundle_mm(2, 0.5) == 1.0
    assert bundle_mm(3, 1.0) == pytest.approx(1 + 2 / math.sqrt(3))
    assert bundle_mm(4, 1.0) == pytest.approx(1 + math.sqrt(2))
    assert bundle_mm(5, 1.0) == pytest.approx(1 + 1 / math.sin(math.pi / 5))
    assert bundle_mm(7, 1.0) == 3.0
    assert bundle_mm(2, 0.5, 0.25) == 1.5
    assert list(BUNDLES) == sorted(BUNDLES)
    assert all(n / times**2 <= 0.91 for n, times in enumerate(BUNDLES, 1) if n > 1)  # no denser than circles can lie
    assert bundle_mm(11, 1.0) > BUNDLES[-1]
    with pytest.raises(ValueError, match="at least one"):
        bundle_mm(0, 0.5)


def test_limbs_of_the_table_are_those_of_the_body():
    """Above the ankle the leg, less its cloth, is as thick as the table says."""
    body = figure("standing", "man")
    legs = body.tris[body.part == TROUSERS].reshape(-1, 3)
    ankle = legs[(legs[:, 2] > 0.06) & (legs[:, 2] < 0.09) & (legs[:, 0] > 0)]
    assert np.ptp(ankle[:, 0]) - 2 * 0.010 == pytest.approx(table("body")["limbs"]["leg"]["thick"], rel=0.25)
    segments = table("body")["segments"]
    limbs = table("body")["limbs"]
    assert limbs["leg"]["length"] == pytest.approx(segments["thigh"] + segments["shank"])
    assert limbs["trunk"]["length"] == pytest.approx(segments["shoulder"] - segments["hip"])
    assert limbs["neck"]["length"] == pytest.approx(segments["chin"] - segments["shoulder"])
    assert limbs["forearm"]["length"] == segments["forearm"]
    assert all(set(r["through"]) <= set(limbs) for r in table("body")["routes"].values())


def test_a_drill_leaves_a_wall_or_the_wires_run_outside():
    """A man of 50 mm: ankle 2.1 mm; two wires of 0.17 are 0.34, with air a drill of 0.5: wall 0.8, by hand."""
    way = way_of(50, "head", 2, "enamelled", "none")
    assert way.drill.mm == pytest.approx(0.5)
    assert way.wall == pytest.approx(0.8)
    assert way.goes
    assert way.length == pytest.approx((0.491 + 0.288 + 0.052) * 50 + 80)
    thick = way_of(50, "head", 2, "silicone", "none")
    assert not thick.goes
    assert "enamelled" in thick.words
    assert "groove" in thick.words
    hand = way_of(50, "hand", 2, "enamelled", "none")
    assert hand.limb == pytest.approx(1.6)  # the wrist is thinner than the ankle
    assert way_of(50, "head", 2, "silicone", "none", own_limb_mm=6.0).goes
    assert "thicker than the ankle" in way_of(20, "leg", 4, "silicone", "shrink").words
    with pytest.raises(NoDrill):
        way_of(50, "head", 90, "bell", "tube")
    with pytest.raises(ValueError, match="above zero"):
        way_of(0, "head", 2, "enamelled", "none")


def test_a_cavity_is_measured_against_what_goes_in():
    # 3 mm LED: 3.9 across its rim and 5.4 long; 0.1 of air a side, 1.5 for the bend and 1 of putty.
    found = cavity_of("three", "none", 4.1, 7.9)
    assert (found.across, found.deep) == (pytest.approx(4.1), pytest.approx(7.9))
    assert found.goes
    assert found.putty_ml == pytest.approx((math.pi / 4 * (4.1**2 * 7.9 - 3.9**2 * 5.4)) / 1000)
    small = cavity_of("three", "eighth", 4.0, 8.0)
    assert not small.goes
    assert "0.1 mm too narrow and 3.5 mm too shallow" in small.words


@pytest.mark.parametrize(("form", "a", "b", "depth", "volume"), [
    ("basin", 120, 60, 9, 120 * 60 * 9),
    ("round basin", 80, 0, 5, math.pi * 1600 * 5),
    ("bowl", 60, 30, 30, 2 / 3 * math.pi * 30**3),  # a bowl half as deep as wide is half a ball
    ("dome", 100, 0, 50, 2 / 3 * math.pi * 50**3),
    ("dome", 22, 12, 12, math.pi * 12 / 6 * (3 * 11**2 + 12**2)),  # deeper than a half ball
    ("bowl", 22, 12, 12, math.pi * 12 / 6 * (3 * 11**2 + 12**2)),
    ("bowl", 80, 10, 10, math.pi * 10 / 6 * (3 * 40**2 + 10**2)),  # a cap: pi h (3 a^2 + h^2) / 6
])  # fmt: skip
def test_volumes_of_basins_and_bowls(form, a, b, depth, volume):
    assert volume_below(form, a, b, depth) == pytest.approx(volume)
    assert pours_of(form, a, b, depth, 3, 20, 50).ml == pytest.approx(volume / 1000)


@given(st.sampled_from(list(FORMS)), st.floats(10, 300), st.floats(5, 100), st.floats(0.1, 1.0), st.floats(1, 12), st.floats(5, 30))
def test_pours_add_up_and_none_is_too_thick(form, a, b, share, thick, bench_c):
    depth = share * {"bowl": b, "dome": b}.get(form, 40.0)
    if math.ceil(depth / thick) > 100:
        return
    made = pours_of(form, a, b, depth, thick, bench_c, 50)
    assert sum(p.ml for p in made.each) == pytest.approx(volume_below(form, a, b, depth) / 1000)
    assert all(p.high - p.low <= thick + 1e-6 for p in made.each)
    assert len(made.each) == 1 or depth / (len(made.each) - 1) > thick - 1e-6  # and no more of them than are needed
    gaps = np.diff([p.after_h for p in made.each])
    assert gaps == pytest.approx(24 * 2 ** ((20 - bench_c) / 10))


def test_pours_say_when_and_become_steps(empty):
    made = pours_of("basin", 120, 60, 9, 3, 20, 50)
    lines = pour_lines(made, datetime(2026, 11, 24, 19, 0))
    assert [line.split(", ")[-1][-5:] for line in lines] == ["19:00"] * 3
    assert "24.9 g" in lines[0]  # 21.6 ml x 1.1 and a twentieth more
    assert made.hard_h == pytest.approx(2 * 24 + 72)
    project = empty.but(surfaces=(Surface(id="water", name="Water"),))
    after = apply(project, *hand_pours(project, "water", made))
    assert [s.coat for s in after.steps] == ["water_resin"] * 3
    assert len({s.id for s in after.steps}) == 3
    thin = apply(project, *hand_pours(project, "water", pours_of("basin", 120, 60, 8, 3, 20, 50)))
    assert [x.film_um for x in core_sample(thin, "water")] == pytest.approx([8000 / 3] * 3)  # Coats tells what was poured
    for wrong in (("basin", 0, 5, 1, 3), ("bowl", 20, 5, 6, 3), ("basin", 5, 5, 1, 0), ("basin", 5, 5, 400, 1)):
        with pytest.raises(ValueError, match=r"above zero|hundred"):
            pours_of(*wrong, 20, 50)
