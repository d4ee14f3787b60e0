# SPDX-License-Identifier: MIT
"""Depth: against similar triangles, published Fresnel values and constructions by hand."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.core.derived import BACKDROPS
from fondale.core.edits import apply
from fondale.core.model import PIECES, Case, Piece, Place, Seat
from fondale.core.model.shapes import Backdrop, Opening, Wall
from fondale.core.prompts import all_prompts
from fondale.core.scale.placing import apparent_depth, forced_error, forced_scale
from fondale.core.shapes.backdrops import arc_of, bent
from fondale.core.stage.cases import floor_over_shelf
from fondale.core.stage.glass import fresnel, pane_reflects
from fondale.core.views.backdrops import MARGIN_MM, backdrop_views, tiles
from fondale.core.views.depth import dpi_for, facing_mirrors, veil, zones
from tests.conftest import TODAY, derive

# Forced perspective.


@given(st.floats(10, 200), st.floats(100, 3000), st.floats(0, 100_000), st.floats(0, 1000))
def test_a_forced_thing_covers_the_angle_of_the_true_one(n, eye, real, depth):
    """Similar triangles: a man of 1.75 m at R behind the front in life, and his figure at the depth that there is, fill the same angle."""
    found = forced_scale(n, eye, real, depth)
    assert (1750 / found) / (eye + depth) == pytest.approx((1750 / n) / (eye + real / n), rel=1e-9)
    # The Bench reads it the other way round: so far behind the front it seems to stand.
    assert apparent_depth(found, n, eye, depth) * n == pytest.approx(real, rel=1e-6, abs=1e-3)


def test_forced_perspective_holds_for_one_distance():
    scale = forced_scale(35, 700, 10_000, 150)
    assert forced_error(35, scale, 700, 10_000, 150) == pytest.approx(0, abs=1e-12)
    assert forced_error(35, scale, 400, 10_000, 150) > 0.02
    with pytest.raises(ValueError, match="before the eye"):
        forced_scale(35, 100, 1000, -200)


def test_zones_lead_from_the_house_scale_to_the_farthest():
    found = zones(35, 700, 200, 30_000, 5)
    scales = [s for _d, _r, s in found]
    assert scales == sorted(scales)
    assert all(forced_scale(35, 700, r, d) == pytest.approx(s) for d, r, s in found)
    steps = [b / a for a, b in pairwise(scales)]
    assert steps == pytest.approx([steps[0]] * len(steps))


# Mirrors.


def test_two_mirrors_60_mm_apart():
    """Image k stands 120 k mm further, with (r1 r2)^k of the light."""
    found = facing_mirrors(60, 0.5, 0.9, 100)
    assert found.depth_mm == 120 * found.count
    assert found.light[:3] == pytest.approx((0.45, 0.2025, 0.091125))
    assert found.light[-1] >= 0.02 > found.light[-1] * 0.45
    with pytest.raises(ValueError, match="apart"):
        facing_mirrors(0, 0.5, 0.9, 100)


# Panes.


@pytest.mark.parametrize(("angle", "share"), [(0, 0.04), (45, 0.0502), (60, 0.0892), (75, 0.2531), (85, 0.6129)])
def test_one_face_of_glass(angle, share):
    """Fresnel for n = 1.5, unpolarised: 4 % straight on; values of tables in optics books (from memory: 5.0, 8.9, 25.3, 61 %)."""
    assert fresnel(angle) == pytest.approx(share, rel=0.01)


def test_brewster_and_grazing():
    """At atan(n) the light along the plane of incidence is not thrown back: half of the other is left; grazing, all is."""
    brewster = math.degrees(math.atan(1.5))
    assert fresnel(brewster) == pytest.approx(0.5 * ((1.5**2 - 1) / (1.5**2 + 1)) ** 2, rel=1e-6)
    assert fresnel(90) == pytest.approx(1.0, abs=1e-3)
    assert pane_reflects(0) == pytest.approx(2 * 0.04 / 1.04)


@pytest.mark.parametrize("angle", [0, 30, 56.31, 60, 75, 85])
def test_a_pane_throws_back_each_polarisation_on_its_own(angle):
    # Rays to and fro between the two faces, added up one after the other, for each polarisation [hecht]; absorption left out.
    a = math.radians(angle)
    b = math.asin(math.sin(a) / 1.5)
    for_each = []
    for r in (
        (math.cos(a) - 1.5 * math.cos(b)) / (math.cos(a) + 1.5 * math.cos(b)),
        (1.5 * math.cos(a) - math.cos(b)) / (1.5 * math.cos(a) + math.cos(b)),
    ):
        back, inside = r * r, 1 - r * r
        for _ in range(200):
            inside *= r * r  # thrown back by the far face
            back += inside * (1 - r * r)
            inside *= r * r  # and by the near one
        for_each.append(back)
    assert pane_reflects(angle) == pytest.approx(sum(for_each) / 2, rel=1e-6)


def test_when_a_case_looks_black():
    bright = veil(2000, 0.6, 1.0, 0, 700, 1638, 1350)
    assert bright.share > 1
    assert bright.lamps == pytest.approx(bright.share / 0.1)
    assert veil(2000, 0.6, bright.lamps * 1.0001, 0, 700, 1638, 1350).share <= 0.1
    assert veil(50, 0.1, 20, 0, 700, 1638, 1350).tilt_deg == 0
    # Mirror the ray by hand: from the eye to the top edge, thrown back by a pane that leans by the tilt: it must meet the floor at the viewer.
    # The eyes of a man of 1.75 m, 1,638 mm over the floor, look down on a top edge at 1,350 mm.
    a = math.radians(bright.tilt_deg)
    ray = np.array([700.0, 1350 - 1638.0]) / math.hypot(700, 1350 - 1638)
    normal = np.array([-math.cos(a), -math.sin(a)])  # of a pane leaning to the viewer: it looks down a little
    thrown = ray - 2 * (ray @ normal) * normal
    assert thrown[1] / -thrown[0] * 700 == pytest.approx(-1350, rel=1e-6)
    assert bright.tilt_deg == pytest.approx(20.1, abs=0.1)


def test_dots_that_no_eye_tells_apart():
    """At 700 mm a minute of arc is 0.2036 mm: 125 dots an inch."""
    assert dpi_for(700) == pytest.approx(25.4 / (700 * math.pi / 180 / 60), rel=1e-4)


# Backdrops.


def with_doorway(empty, seats, backdrop=None, **wall):
    """An open box with a wall across it that has a doorway, and a backdrop behind that."""
    case = Case(kind="open box", width=400, depth=300, height=300)
    door = Opening(x=wall.get("x", 160), width=80, height=150)
    pieces = (
        Piece(id="wall", name="Wall", shape=Wall(length=400, height=300, thickness=1.0, openings=(door,)), role="scenery", place=Place(x=200, y=150, z=0)),
        Piece(id="sky", name="Sky", shape=backdrop or Backdrop(width=120, height=160), role="scenery", place=Place(x=200, y=250, z=0)),
    )  # fmt: skip
    brief = empty.brief.but(shelf_height_mm=1000.0)
    return empty.but(case=case, pieces=pieces, seats=seats, brief=brief)


def seat(ident, offset=0.0, span=0.0, eye=1100.0):
    """Eyes 100 mm over the case's floor, less its base."""
    return Seat(id=ident, name=ident, stature_mm=eye / 0.936, distance=600, offset=offset, range=span)


def test_a_backdrop_is_as_large_as_the_hand_construction(empty):
    """Lines from the outermost eyes through the edges of the doorway, by similar triangles."""
    project = with_doorway(empty, (seat("a", span=200.0), seat("b", offset=-250.0)))
    (found,) = backdrop_views(project)
    xs = [200 + o + k * 100 for o, ks in ((0.0, (-1, 1)), (-250.0, (0,))) for k in ks]
    wall_front, wall_back = 150 - 0.5, 150 + 0.5

    def through(eye_x, edge_x, y):
        return eye_x + (edge_x - eye_x) * (600 + 250) / (600 + y)

    left = min(max(through(x, 160, y) for y in (wall_front, wall_back)) for x in xs)
    right = max(min(through(x, 240, y) for y in (wall_front, wall_back)) for x in xs)
    z = 1100 - 1000 - floor_over_shelf(project.case)
    top = min(z + (150 - z) * (600 + 250) / (600 + y) for y in (wall_front, wall_back))
    assert found.seen[:2] == pytest.approx((left - 200, right - 200), abs=0.4)
    assert found.seen[3] == pytest.approx(top, abs=0.4)
    assert found.wants[0] == pytest.approx(found.seen[0] - MARGIN_MM)
    assert found.horizons == {"a": pytest.approx(z), "b": pytest.approx(z)}


def test_what_is_seen_beside_the_case_is_not_the_backdrop(empty):
    project = with_doorway(empty, (seat("a"),))
    open_ = project.but(pieces=(project.get(PIECES, "sky"),))
    (found,) = backdrop_views(open_)
    assert found.seen[0] >= -200.5
    assert found.seen[1] <= 200.5


def test_an_edge_that_is_seen_is_told_and_mended(empty):
    project = with_doorway(empty, (seat("a"), seat("b", offset=-400.0)), Backdrop(width=90, height=200))
    edge = next(f for f in all_prompts(derive(project, TODAY)) if f.code == "STAGE-EDGE")
    assert "right" in edge.text
    mended = apply(project, *edge.fixes[0].edits)
    assert all(f.code != "STAGE-EDGE" for f in all_prompts(derive(mended, TODAY)))
    assert derive(mended, TODAY)[BACKDROPS][0].edges == {}


def test_a_backdrop_that_nobody_sees(empty):
    project = with_doorway(empty, ())
    assert backdrop_views(project)[0].seen is None


def test_a_cove_is_an_arc_of_its_chord():
    shape = Backdrop(width=200, height=100, cove=60)
    half = arc_of(200, 60)[1]
    x, y = bent(shape, np.array([-half, 0.0, half]))
    assert x == pytest.approx([-100, 0, 100])
    assert y == pytest.approx([-60, 0, -60])
    # By the length of many short chords.
    along = np.linspace(-half, half, 4001)
    px, py = bent(shape, along)
    assert np.hypot(np.diff(px), np.diff(py)).sum() == pytest.approx(2 * half, rel=1e-5)


@given(st.floats(20, 2000), st.floats(20, 1500))
def test_sheets_of_paper_cover_a_backdrop(width, height):
    across, up, turned = tiles(width, height)
    w, h = (287.0, 200.0) if turned else (200.0, 287.0)
    assert across * w - (across - 1) * 10 >= width - 1e-6
    assert up * h - (up - 1) * 10 >= height - 1e-6
