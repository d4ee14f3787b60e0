# SPDX-License-Identifier: MIT
"""What everything weighs, where it tips, and what its lines bear: against statics worked by hand."""

import math
from dataclasses import replace

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from fondale.core.bodies.animals import animal
from fondale.core.derived import WEIGHTS
from fondale.core.edits import apply
from fondale.core.edits.new_things import hung
from fondale.core.materials import density
from fondale.core.model import PIECES, Boards, Case, CaseOpening, Piece, Place, Sling
from fondale.core.model.shapes import Box, Cylinder, Hull, Mesh, Stairs, Wall
from fondale.core.prompts import all_prompts
from fondale.core.shapes import kind_of
from fondale.core.shapes.solid import of_tris
from fondale.core.stage.cases import board_mm
from fondale.core.stage.cutting import cut_list
from fondale.core.stage.hanging import hang
from fondale.core.stage.solids import solid_of
from fondale.core.stage.weights import case_mass, grams_of, volume_of, weights
from fondale.knowledge import table
from tests.conftest import TODAY, boxed, derive, figure


def thing(shape, ident="t", x=150, y=100, **more):
    return Piece(id=ident, name=ident.capitalize(), shape=shape, place=Place(x=x, y=y, z=more.pop("z", None)), **more)


def codes(project):
    return {f.code for f in all_prompts(derive(project, TODAY)) if f.code.startswith("WEIGHT")}


def over(tied, up):
    """Hooks straight over where lines are tied."""
    return tied + np.array([0.0, 0.0, up])


# Volumes and centres.


@pytest.mark.parametrize(
    ("shape", "volume", "centre"),
    [
        (Box(width=10, depth=20, height=30), 6000, (0, 0, 15)),
        (Wall(length=100, height=50, thickness=4), 20000, (0, 0, 25)),
        (Cylinder(diameter=10, length=20), math.pi * 25 * 20, (0, 0, 10)),
        # Steps of 4 x 10 x 2, 4 and 6 high: their middles by hand.
        (Stairs(width=10, depth=12, height=6, steps=3), 480, (0, (-4 * 80 + 0 * 160 + 4 * 240) / 480, (1 * 80 + 2 * 160 + 3 * 240) / 480)),
    ],
)
def test_volume_and_centre_of_plain_bodies(shape, volume, centre):
    found, middle = volume_of(solid_of(thing(shape)))
    assert found == pytest.approx(volume, rel=0.03)
    assert middle == pytest.approx(centre, abs=0.3)


def test_a_boat_is_its_planks_not_its_hollow():
    """An open boat's volume is that of its skin: far less than the hollow that its outside encloses."""
    found, _middle = volume_of(solid_of(thing(Hull(length=120, beam=40, depth=20))))
    assert 0 < found < 120 * 40 * 20 * 0.5


def test_how_a_weight_is_known():
    block = thing(Box(width=10, depth=20, height=30), material="resin")
    assert grams_of(block, {}) == (pytest.approx(6 * 1.15), "reckoned")
    assert grams_of(block.but(filled=0.5), {})[0] == pytest.approx(3 * 1.15)
    assert grams_of(block.but(weight_g=9.0), {}) == (9.0, "weighed")
    assert grams_of(block.but(material=""), {}) == (0.0, "")


# Lines.


def test_a_load_between_two_davits_is_half_on_each():
    """150 g evenly between two davits: 75 g a hook."""
    tied = np.array([[-40.0, 0, 10], [40.0, 0, 10]])
    found = hang(150.0, np.array([0.0, 0, 5]), tied, over(tied, 100))
    assert found.pulls == pytest.approx([75, 75], abs=0.01)
    assert found.still


def test_two_lines_by_the_lever():
    """The weight a quarter of the way from the left line: it bears three quarters."""
    tied = np.array([[0.0, 0, 0], [80.0, 0, 0]])
    found = hang(100.0, np.array([20.0, 0, -10]), tied, over(tied, 50))
    assert found.pulls == pytest.approx([75, 25], abs=0.05)


def test_a_sling_of_two_slanting_lines():
    """Each at 60 degrees from the vertical: W / (2 cos 60) = W a line."""
    hook = np.array([[0.0, 0, 10], [0.0, 0, 10]])
    tied = np.array([[-10 * math.tan(math.radians(60)), 0, 0], [10 * math.tan(math.radians(60)), 0, 0]])
    found = hang(100.0, np.array([0.0, 0, -5]), tied, hook)
    assert found.pulls == pytest.approx([100, 100], abs=0.1)
    assert found.still


def test_three_lines_by_the_shares_of_the_triangle():
    """Barycentric coordinates of the centre of mass in the triangle of the hooks."""
    tied = np.array([[0.0, 0, 0], [60.0, 0, 0], [0.0, 60, 0]])
    found = hang(120.0, np.array([10.0, 20, -3]), tied, over(tied, 40))
    assert found.pulls == pytest.approx([120 * (1 - 10 / 60 - 20 / 60), 20, 40], abs=0.05)


def test_four_lines_share_evenly():
    tied = np.array([[x, y, 0.0] for x in (-30, 30) for y in (-20, 20)])
    assert hang(200.0, np.array([0.0, 0, -5]), tied, over(tied, 80)).pulls == pytest.approx([50] * 4, abs=0.05)


def test_one_line_beside_the_weight_turns():
    found = hang(10.0, np.array([5.0, -2, 0]), np.array([[0.0, 0, 10]]), np.array([[0.0, 0, 90]]))
    assert not found.still
    assert found.shift == pytest.approx([5, -2])


def test_no_lines_no_weight_and_no_length():
    assert not hang(10.0, np.zeros(3), np.zeros((0, 3)), np.zeros((0, 3))).still
    assert hang(0.0, np.zeros(3), np.array([[0.0, 0, 1]]), np.array([[0.0, 0, 2]])).pulls == pytest.approx([0])
    with pytest.raises(ValueError, match="no length"):
        hang(10.0, np.zeros(3), np.array([[0.0, 0, 1]]), np.array([[0.0, 0, 1]]))


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(st.floats(-50, 50), st.floats(-50, 50)), min_size=1, max_size=6),
    st.floats(-60, 60),
    st.floats(-60, 60),
    st.floats(0.1, 5000),
)
def test_a_judge_of_pulls(points, x, y, grams):
    """Whoever knows only statics: lines never push, and what is said to hang still bears its weight without turning."""
    tied = np.array([[a, b, 0.0] for a, b in points])
    found = hang(grams, np.array([x, y, -10.0]), tied, over(tied, 70))
    assert (found.pulls >= 0).all()
    if found.still:
        assert found.pulls.sum() == pytest.approx(grams, rel=0.03)
        assert found.pulls @ tied[:, :2] / grams == pytest.approx([x, y], abs=0.03 * 120)


def test_what_hangs_from_an_empty_project(empty):
    body = thing(Box(width=40, depth=20, height=10), "body", weight_g=150.0)
    project = empty.but(pieces=(body,))
    for _k in range(2):
        project = apply(project, *hung(project, project.get(PIECES, "body")))
    one, two = project.get(PIECES, "body").slings
    assert (one.z, one.at_z) == (200.0, 10.0)
    slings = (one.but(x=130.0, at_x=-20.0, name="left davit", bears_g=80.0), two.but(x=170.0, at_x=20.0, bears_g=200.0))
    piece = project.get(PIECES, "body").but(slings=slings, place=Place(x=150, y=100, z=60))
    project = project.but(pieces=(piece,))
    found = derive(project, TODAY)[WEIGHTS].pieces["body"]
    assert found.hang.pulls == pytest.approx([75, 75], abs=0.05)
    hook = next(f for f in all_prompts(derive(project, TODAY)) if f.code == "WEIGHT-HOOK")
    assert hook.severity == "mind"
    assert "75 g on what bears 80 g" in hook.numbers
    weak = project.but(pieces=(piece.but(slings=(slings[0].but(bears_g=70.0), slings[1])),))
    assert next(f for f in all_prompts(derive(weak, TODAY)) if f.code == "WEIGHT-HOOK").severity == "stop"


def test_what_swings_is_tied_over_its_weight(empty):
    body = thing(Box(width=40, depth=20, height=10), "body", weight_g=10.0, z=50.0).but(place=Place(x=150, y=100, z=50, turn_deg=30))
    body = body.but(
        slings=(Sling(x=160, y=100, z=200, at_x=10 * math.cos(math.radians(30)), at_y=-10 * math.sin(math.radians(30)), at_z=10),)
    )
    project = empty.but(pieces=(body,))
    swings = next(f for f in all_prompts(derive(project, TODAY)) if f.code == "WEIGHT-SWINGS")
    mended = apply(project, *swings.fixes[0].edits)
    assert codes(mended) & {"WEIGHT-SWINGS"} == set()
    (sling,) = mended.get(PIECES, "body").slings
    assert (sling.x, sling.y) == (pytest.approx(150), pytest.approx(100))
    assert (sling.at_x, sling.at_y) == (pytest.approx(0, abs=0.01), pytest.approx(0, abs=0.01))


# Standing.


def test_a_block_tips_at_the_angle_of_its_diagonal(empty):
    tall = thing(Box(width=10, depth=30, height=40), material="wood")
    found = weights(empty.but(pieces=(tall,)), {}).pieces["t"]
    assert found.tip_deg == pytest.approx(math.degrees(math.atan2(5, 20)))


def test_a_case_of_boards_weighs_what_its_boards_weigh():
    case = Case(kind="open box", width=300, depth=200, height=150, boards=Boards(board=6, base=12))
    volume = 312 * 206 * (12 + 6) + 2 * 206 * 150 * 6 + 300 * 150 * 6
    from fondale.core.edits import new_project

    grams, _centre = case_mass(new_project("E", TODAY).but(case=case))
    assert grams == pytest.approx(volume / 1000 * 0.75)


def test_the_whole_tips_over_the_side_of_the_heavy_thing(empty):
    case = Case(kind="open base", width=200, depth=200, height=200, boards=Boards(base=1.0))
    mast = thing(Box(width=4, depth=4, height=180), "mast", x=185, y=100, weight_g=2000.0)
    project = empty.but(case=case, pieces=(mast,))
    whole = derive(project, TODAY)[WEIGHTS].whole
    # The board: 200 x 200 x 1 mm of 0.75 g/cm3 = 30 g at x 100. The rest by levers.
    x = (2000 * 185 + 30 * 100) / 2030
    z = (2000 * 90 + 30 * -0.5) / 2030 + 1.0
    assert whole.edge == "right"
    assert whole.tip_deg == pytest.approx(math.degrees(math.atan2(200 - x, z)), abs=0.05)
    assert whole.widen_mm == pytest.approx(z * math.tan(math.radians(15)) - (200 - x), abs=0.05)
    assert sum(whole.feet) == pytest.approx(whole.grams)
    assert (whole.feet[1] + whole.feet[3]) / whole.grams == pytest.approx(x / 200)  # the feet on the right bear by the lever
    assert "WEIGHT-TIPS" in codes(project)
    wider = project.but(case=case.but(width=200 + 2 * whole.widen_mm + 1), pieces=(mast.but(place=mast.place.but(x=185 + whole.widen_mm)),))
    assert "WEIGHT-TIPS" not in codes(wider)


def test_a_shelf_that_bears_less(empty):
    project = boxed(empty, thing(Box(width=40, depth=40, height=40), weight_g=3000.0))
    assert "WEIGHT-SHELF" not in codes(project)
    assert "WEIGHT-SHELF" in codes(project.but(brief=project.brief.but(shelf_bears_kg=2.5)))


def test_a_part_that_hangs_out_from_what_carries_it(empty):
    post = thing(Box(width=10, depth=10, height=100), "post", x=100, role="scenery")
    arm = thing(Box(width=80, depth=6, height=6), "arm", x=145, z=90.0, part_of="post", weight_g=60.0)
    project = empty.but(pieces=(post, arm))
    found = derive(project, TODAY)[WEIGHTS].pieces["arm"]
    assert found.overhang_mm == pytest.approx(145 - 105)
    assert "WEIGHT-ARM" in codes(project)
    assert "WEIGHT-ARM" not in codes(empty.but(pieces=(post, arm.but(weight_g=20.0))))


def leaning_post():
    """A post on a small foot at its left, its top at its right."""
    low = [(-0.5, -0.5, 0.0), (-0.3, -0.5, 0.0), (-0.3, 0.5, 0.0), (-0.5, 0.5, 0.0)]
    high = [(0.3, -0.5, 1.0), (0.5, -0.5, 1.0), (0.5, 0.5, 1.0), (0.3, 0.5, 1.0)]
    sides = [t for k in range(4) for t in ((k, (k + 1) % 4, 4 + (k + 1) % 4), (k, 4 + (k + 1) % 4, 4 + k))]
    return Mesh(width=40, depth=10, height=60, points=tuple(low + high), faces=((0, 2, 1), (0, 3, 2), (4, 5, 6), (4, 6, 7), *sides))


def test_what_has_its_weight_beside_its_foot_falls(empty):
    assert "WEIGHT-FALLS" in codes(empty.but(pieces=(thing(leaning_post(), weight_g=10.0),)))
    assert "WEIGHT-FALLS" not in codes(boxed(empty, figure("a", 150, 100)))  # nobody knows its weight


# Cases and bodies by hand and by handbooks.


@pytest.mark.parametrize(
    ("case", "grams", "height"),
    [
        # Glazed box of 300 x 200 x 150: base 312 x 209 x 12 (three sides and a top of 6 mm board, a 3 mm pane in front), added up by hand.
        (
            Case(kind="open box", width=300, depth=200, height=150, boards=Boards(board=6, base=12)),
            (312 * 206 * 12 + 312 * 206 * 6 + 2 * 206 * 150 * 6 + 300 * 150 * 6) / 1000 * 0.75,
            (312 * 206 * 12 * -6 + 312 * 206 * 6 * 153 + (2 * 206 * 150 * 6 + 300 * 150 * 6) * 75)
            / (312 * 206 * 12 + 312 * 206 * 6 + 2 * 206 * 150 * 6 + 300 * 150 * 6),
        ),
        (Case(kind="open base", width=200, depth=200, height=200, boards=Boards(base=10)), 200 * 200 * 10 / 1000 * 0.75, -5.0),
    ],
)
def test_a_case_weighs_and_balances_as_its_boards_do(empty, case, grams, height):
    mass, centre = case_mass(empty.but(case=case))
    assert mass == pytest.approx(grams, rel=0.01)
    assert centre[2] == pytest.approx(height, abs=0.5)


def test_unequal_sides_pull_the_middle_to_the_heavy_one(empty):
    # Glass on the right and in front, board on the left and behind: each where it stands, by the lever.
    case = Case(
        kind="glazed box", width=300, depth=200, height=150, panes=("right",), boards=Boards(board=6, base=6, pane=3, pane_kind="glass")
    )
    mass, centre = case_mass(empty.but(case=case))
    parts = []
    for p in cut_list(case):
        density = {"board": 0.75, "glass": 2.5}[p.stuff]
        where = {"left": (-3, 101.5, 75), "right pane": (301.5, 101.5, 75), "front pane": (150, -1.5, 75), "back": (150, 203, 75)}
        x, y, z = where.get(p.name, (148.5, 101.5, 153 if p.name == "top" else -3))
        parts.append((p.count * p.long * p.wide * p.thick * p.layers / 1000 * density, x, y, z))
    total = sum(p[0] for p in parts)
    assert mass == pytest.approx(total, rel=0.001)
    for axis in range(3):
        assert centre[axis] == pytest.approx(sum(p[0] * p[axis + 1] for p in parts) / total, abs=0.6)


def test_a_dome_of_glass_has_weight(empty):
    # A pipe 150 high and half a ball of radius 100: 2 pi r h + 2 pi r², 3 mm of glass; its middle at (h/2, h + r/2) by their areas.
    boards = Boards(base=10, pane=3, pane_kind="glass")
    case = Case(kind="dome", width=200, depth=200, height=250, boards=boards)
    mass, centre = case_mass(empty.but(case=case))
    pipe, ball = 2 * math.pi * 100 * 150, 2 * math.pi * 100**2
    glass = (pipe + ball) * 3 / 1000 * 2.5
    base = math.pi * 100**2 * 10 / 1000 * 0.75
    assert mass == pytest.approx(glass + base, rel=0.1)  # the base may be a little wider than the dome
    high = glass * (pipe * 75 + ball * (150 + 50)) / (pipe + ball)
    assert centre[2] == pytest.approx((high - base * 5) / (glass + base), rel=0.05)


def test_what_is_cut_out_of_a_board_does_not_weigh(empty):
    whole = Case(kind="closed box", width=300, depth=200, height=150)
    hole = CaseOpening(side="front", x=50, z=20, width=200, height=100)
    less = case_mass(empty.but(case=whole))[0] - case_mass(empty.but(case=whole.but(openings=(hole,))))[0]
    assert less == pytest.approx(200 * 100 * board_mm(whole.boards) / 1000 * 0.75, rel=0.01)


@pytest.mark.parametrize("shape", [Hull(length=110, beam=36, depth=18), Hull(length=300, beam=90, depth=40)])
def test_a_hull_is_closed_and_hangs_level(shape):
    solid = kind_of(shape).solid(shape, 0.0)
    mesh = trimesh.Trimesh(solid.tris.reshape(-1, 3), np.arange(3 * len(solid.tris)).reshape(-1, 3), process=True)
    assert mesh.is_watertight
    assert mesh.is_winding_consistent
    volume, centre = volume_of(solid)
    assert volume == pytest.approx(mesh.volume, rel=1e-6)
    assert abs(centre[1]) < 0.05
    assert abs(centre[0]) < 0.1 * shape.length


def test_what_is_open_has_no_volume():
    shape = Hull(length=110, beam=36, depth=18)
    solid = kind_of(shape).solid(shape, 0.0)
    torn = replace(solid, tris=solid.tris[:-30], groups=solid.groups[:-30])
    assert volume_of(torn)[0] == 0.0


@pytest.mark.parametrize("axis", ["x", "z"])
def test_round_things_hold_what_a_round_holds(axis):
    shape = Cylinder(diameter=20, length=50, axis=axis)
    grams, _known = grams_of(Piece(id="r", name="R", shape=shape, material="wood"), {})
    assert grams == pytest.approx(math.pi * 100 * 50 / 1000 * density("wood"), rel=1e-3)


@pytest.mark.parametrize(
    ("species", "litres"),
    # Live mass by handbooks of husbandry and bird guides, from memory, as litres, with fleece or feathers: a horse of 500 kg, a cow of 680.
    [("horse", 500), ("cow", 680), ("sheep", 80), ("dog", 20), ("cat", 4), ("gull", 2.5), ("heron", 4), ("hen", 5)],
)
def test_animals_are_as_large_as_in_life(species, litres):
    body = animal(species, False)
    real = table("scales")["things"][species]["real_mm"]
    assert volume_of(of_tris(body.tris, None, body.normals))[0] * real**3 / 1e6 == pytest.approx(litres, rel=0.15)
