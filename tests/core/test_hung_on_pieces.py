# SPDX-License-Identifier: MIT
"""What hangs on a piece counts where its hook is: against statics worked by hand."""

import math

import pytest

from fondale.core.derived import WEIGHTS
from fondale.core.edits import apply
from fondale.core.edits.moving import move
from fondale.core.edits.new_things import hung
from fondale.core.edits.pasting import copied, pasted
from fondale.core.model import PIECES, Case, Piece, Place, Sling
from fondale.core.model.references import without
from fondale.core.model.shapes import Box, Cylinder
from fondale.core.prompts import all_prompts
from fondale.core.stage.weights import weights
from tests.conftest import TODAY, derive


def block(ident, x, wide, high, grams, z=None, **more):
    return Piece(
        id=ident,
        name=ident.capitalize(),
        shape=Box(width=wide, depth=40, height=high),
        place=Place(x=x, y=100, z=z),
        weight_g=grams,
        **more,
    )


def load(grams, x=200.0, **more):
    """A box of 10 mm hung with its top 50 mm under a hook at (x, 100, 120) on the crane."""
    return block("load", x, 10, 10, grams, z=60.0, slings=(Sling(x=x, y=100, z=120, at_z=10, on="crane"),), **more)


def tip(project, ident="crane"):
    return weights(project, {}).pieces[ident].tip_deg


def test_a_load_on_a_crane_goes_into_its_tipping(empty):
    # A mast of 100 g, 60 wide and 120 high, its middle at x 150; 50 g on a hook 20 mm beyond its right edge, by the lever.
    crane = block("crane", 150, 60, 120, 100.0)
    x, z = (100 * 150 + 50 * 200) / 150, (100 * 60 + 50 * 120) / 150
    assert tip(empty.but(pieces=(crane, load(50.0)))) == pytest.approx(math.degrees(math.atan2(180 - x, z)), abs=0.01)
    heavy = empty.but(pieces=(crane, load(200.0)))
    assert tip(heavy) == 0.0
    falls = next(f for f in all_prompts(derive(heavy, TODAY)) if f.code == "WEIGHT-FALLS")
    assert "200 g hang on it" in falls.numbers


def test_the_same_on_the_case_leaves_it_be(empty):
    crane, hanging = block("crane", 150, 60, 120, 100.0), load(200.0)
    free = hanging.but(slings=tuple(s.but(on="") for s in hanging.slings))
    assert tip(empty.but(pieces=(crane, free))) == pytest.approx(math.degrees(math.atan2(20, 60)))  # over its long edge


def test_a_jib_counts_with_its_mast_and_what_hangs_on_the_jib(empty):
    # Mast 20 wide and 100 high of 100 g, a jib of 30 g whose middle is 30 mm right of it, 20 g on the jib's end 60 mm right of it.
    mast = block("mast", 100, 20, 100, 100.0, role="scenery")
    jib = block("jib", 130, 60, 6, 30.0, z=100.0, part_of="mast")
    bucket = block("bucket", 160, 10, 10, 20.0, z=50.0, slings=(Sling(x=160, y=100, z=100, at_z=10, on="jib"),))
    x = (30 * 30 + 20 * 60) / 150
    assert x > 10
    assert tip(empty.but(pieces=(mast, jib, bucket)), "mast") == 0.0
    wide = mast.but(shape=Box(width=60, depth=40, height=100))
    z = (100 * 50 + 30 * 103 + 20 * 100) / 150
    project = empty.but(pieces=(wide, jib, bucket))
    assert tip(project, "mast") == pytest.approx(math.degrees(math.atan2(30 - x, z)), abs=0.01)
    # The joint of the jib, at the mast's edge, bears both: 30 g at 0 mm and 20 g at 30 mm beyond it.
    found = weights(project, {}).pieces["jib"]
    assert found.carried_g == pytest.approx(20.0)
    assert found.arm_gmm == pytest.approx(30 * 0 + 20 * 30)


def test_a_slanting_line_pulls_its_crane_over(empty):
    # 100 g between the wall's hook and the crane's, both lines at 45 degrees: each bears 50 g up and 50 g aside.
    crane = block("crane", 100, 60, 150, 400.0)
    slings = (Sling(x=130, y=100, z=150, at_z=10, on="crane"), Sling(x=290, y=100, z=150, at_z=10))
    hanging = block("load", 210, 10, 10, 100.0, z=60.0, slings=slings)
    found = weights(empty.but(pieces=(crane, hanging)), {})
    assert found.pieces["load"].hang.pulls == pytest.approx([50 * math.sqrt(2)] * 2, rel=1e-3)
    foot = (400 * 100 + 50 * 130 + 50 * 150) / 450
    high = (400 * 75 + 50 * 150) / 450
    assert found.pieces["crane"].tip_deg == pytest.approx(math.degrees(math.atan2(130 - foot, high)), abs=0.01)


def test_a_bar_bears_what_hangs_on_it(empty):
    # A bar of 40 g on two lines 80 mm apart; 60 g on its left quarter: 20 + 45 and 20 + 15 by the lever.
    bar = block(
        "bar",
        150,
        100,
        4,
        40.0,
        z=100.0,
        slings=(Sling(x=110, y=100, z=190, at_x=-40, at_z=4), Sling(x=190, y=100, z=190, at_x=40, at_z=4)),
    )
    weight = block("weight", 130, 10, 10, 60.0, z=50.0, slings=(Sling(x=130, y=100, z=100, at_z=10, on="bar"),))
    rider = block("rider", 190, 4, 8, 10.0, z=104.0, part_of="bar")
    found = weights(empty.but(pieces=(bar, weight, rider)), {})
    assert found.pieces["bar"].hang.pulls == pytest.approx([20 + 45, 20 + 15 + 10], abs=0.1)
    assert found.pieces["bar"].hang.still


def test_what_hangs_in_a_ring_ends(empty):
    one = block("one", 100, 10, 10, 5.0, z=50.0, slings=(Sling(x=100, y=100, z=100, at_z=10, on="two"),))
    two = block("two", 100, 10, 10, 5.0, z=100.0, slings=(Sling(x=100, y=100, z=150, at_z=10, on="one"),))
    assert set(weights(empty.but(pieces=(one, two)), {}).pieces) == {"one", "two"}


def test_the_whole_leans_with_what_hangs_at_its_hook(empty):
    # A pendulum swings as the case leans: its weight acts at the hook, however long the line.
    case = Case(kind="open base", width=200, depth=200, height=200)
    hanging = block("load", 100, 10, 10, 500.0, z=20.0, slings=(Sling(x=100, y=100, z=180, at_z=10),))
    low, high = (weights(empty.but(case=case, pieces=(p,)), {}).whole.centre[2] for p in (hanging.but(slings=()), hanging))
    board = weights(empty.but(case=case), {}).whole
    assert high == pytest.approx((board.case_grams * board.centre[2] + 500 * 180) / (board.case_grams + 500))
    assert low < high


def test_a_crane_takes_its_load_along(empty):
    project = empty.but(pieces=(block("crane", 150, 60, 120, 100.0), load(50.0), block("other", 40, 10, 10, 1.0)))
    done = apply(project, move(project, "crane", Place(x=130, y=110, turn_deg=90)))
    there = done.get(PIECES, "load")
    assert (there.place.x, there.place.y, there.place.z) == (pytest.approx(130), pytest.approx(160), 60)
    assert (there.slings[0].x, there.slings[0].y, there.slings[0].z) == (pytest.approx(130), pytest.approx(160), 120)
    # What hangs elsewhere too stays, and its hook goes.
    two = load(50.0).but(slings=(*load(50.0).slings, Sling(x=240, y=100, z=190, at_z=10)))
    done = apply(project.but(pieces=(project.pieces[0], two)), move(project, "crane", Place(x=130, y=110)))
    there = done.get(PIECES, "load")
    assert (there.place.x, there.slings[0].x, there.slings[1].x) == (200, 180, 240)


def test_a_copied_crane_has_its_load(empty):
    project = empty.but(pieces=(block("crane", 60, 30, 120, 100.0), load(50.0, x=80.0)))
    edits, ident = pasted(project, copied(project, "crane"))
    done = apply(project, *edits)
    copy = next(p for p in done.pieces if p.slings and p.id != "load")
    assert copy.slings[0].on == ident != "crane"
    assert without(done, PIECES, ident).get(PIECES, copy.id).slings[0].on == ""


def test_a_line_goes_to_what_is_over_the_piece(empty):
    """A line of its own is tied to the arm over it, if there is one, and to the ceiling elsewhere."""
    arm = block("arm", 150, 100, 6, 10.0, z=120.0)
    under, beside = block("load", 180, 10, 10, 5.0), Piece(id="b", name="B", shape=Cylinder(diameter=8, length=10), place=Place(x=40, y=40))
    project = empty.but(pieces=(arm, under, beside))
    for ident, on, z in (("load", "arm", 120.0), ("b", "", 200.0)):
        (sling,) = apply(project, *hung(project, project.get(PIECES, ident))).get(PIECES, ident).slings
        assert (sling.on, sling.z) == (on, pytest.approx(z))


def test_what_bears_an_unknown_weight_is_said(empty):
    found = derive(empty.but(pieces=(block("crane", 150, 60, 120, 100.0), load(0.0))), TODAY)[WEIGHTS]
    assert found.whole.unknown == ("load",)
