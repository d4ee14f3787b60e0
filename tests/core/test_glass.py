# SPDX-License-Identifier: MIT
"""Panes and mirrors in the light and in the pictures: image lamps, Fresnel and sums by hand."""

from datetime import date

import numpy as np
import pytest

from fondale.core.edits import new_project
from fondale.core.emitters import emitter_of
from fondale.core.emitters.point import Point
from fondale.core.light.frames import look
from fondale.core.light.picture import Picture, work_light
from fondale.core.light.receivers import gather
from fondale.core.light.solver import prepare
from fondale.core.model import Case, Lamp, Piece, Place, Project, Seat
from fondale.core.model.shapes import Box, Figure, Glass, Water
from fondale.core.prompts import all_prompts
from fondale.core.stage.cases import floor_over_shelf
from fondale.core.stage.glass import face_throws, pane_throws
from fondale.core.stage.paths import follow, in_mirrors, sequences
from fondale.core.stage.scene import build_scene
from fondale.core.views.places import Target, hiding, look_at, told
from fondale.core.views.sight import bare_lamps, piece_views
from tests.conftest import known

BLACK = dict.fromkeys(("floor_paint", "wall_paint", "ceiling_paint"), (0.0, 0.0, 0.0))
LAMP = Point((200.0, 100.0, 150.0), (0.0, 0.0, -1.0), None)
FLOOR = np.array([250.0, 120.0, 0.0])
UP = np.array([[0.0, 0.0, 1.0]])


def stage(*pieces: Piece, kind: str = "open box", **more: object) -> Project:
    case = Case(kind=kind, width=400, depth=300, height=250, **{**BLACK, **more})
    return new_project("Glass", date(2026, 1, 1)).but(case=case, pieces=pieces)


def sheet(made: str = "glass", ident: str = "sheet", width: float = 300.0, **place: float) -> Piece:
    at = Place(**{"x": 200.0, "y": 201.0, "z": 0.0, **place})
    return Piece(id=ident, name=ident, shape=Glass(width=width, height=200, made=made), place=at, role="scenery")


def lux(project: Project, point: np.ndarray = FLOOR, lamp: Point = LAMP, rays: int = 16) -> float:
    return float(gather(prepare(build_scene(project), rays=rays), [lamp], point[None], UP, rays=4 * rays)[0, 0, 0])


def by_hand(at: tuple[float, float, float] | np.ndarray, point: np.ndarray = FLOOR) -> float:
    way = np.array(at) - point
    return float(way[2] / np.linalg.norm(way) ** 3 * 1e6)


def slant(at: tuple[float, float, float], axis: int, point: np.ndarray = FLOOR) -> np.ndarray:
    way = np.array(at) - point
    return np.array([abs(way[axis]) / np.linalg.norm(way)])


def test_glass_throws_back_what_is_published():
    # [hecht]: 4 % straight on at n = 1.5; at the angle of Brewster one polarisation goes through whole; at grazing nothing does.
    assert face_throws(np.array([1.0]))[0] == pytest.approx(0.04)
    assert pane_throws(np.array([1.0]))[0] == pytest.approx(2 * 0.04 / 1.04)
    assert face_throws(np.cos(np.arctan([1.5])))[0] == pytest.approx(0.5 * ((1.5**2 - 1) / (1.5**2 + 1)) ** 2)
    assert face_throws(np.array([1e-9]))[0] == pytest.approx(1.0, abs=1e-6)


def test_the_front_pane_throws_light_back_as_an_image_of_the_lamp():
    image = (200.0, -100.0, 150.0)
    wanted = by_hand(LAMP.at) + by_hand(image) * pane_throws(slant(image, 1))[0]
    assert lux(stage(kind="glazed box")) == pytest.approx(wanted, rel=0.002)
    assert lux(stage(kind="open box")) == pytest.approx(by_hand(LAMP.at), rel=0.002)


@pytest.mark.parametrize(("made", "share"), [("glass mirror", 0.88), ("front-silvered", 0.94), ("half mirror", 0.5)])
def test_a_mirror_shows_the_lamp_behind_it(made, share):
    # Its front is a millimetre before its middle.
    assert lux(stage(sheet(made))) == pytest.approx(by_hand(LAMP.at) + share * by_hand((200, 300, 150)), rel=0.003)


def test_nothing_is_thrown_back_past_the_edge_of_a_mirror():
    # The ray to the image crosses the mirror's plane at x = 227.8: a mirror that ends at 225 throws nothing there.
    assert lux(stage(sheet("glass mirror", width=40, x=205.0))) == pytest.approx(by_hand(LAMP.at), rel=0.002)
    assert lux(stage(sheet("glass mirror", width=40, x=210.0))) > by_hand(LAMP.at) * 1.1


def test_a_pane_between_lets_through_what_it_does_not_throw_back():
    between = sheet("glass", y=60.0, x=225.0, turn_deg=90.0)
    wanted = by_hand(LAMP.at) * (1 - pane_throws(slant(LAMP.at, 0))[0])
    assert lux(stage(between)) == pytest.approx(wanted, rel=0.003)
    assert lux(stage(between.but(shape=between.shape.but(made="half mirror")))) == pytest.approx(by_hand(LAMP.at) / 2, rel=0.003)
    assert lux(stage(between.but(shape=between.shape.but(made="glass mirror")))) == 0.0  # its back is no mirror, and nothing comes through


def test_facing_mirrors_show_a_lamp_as_often_as_they_can():
    # Faces at y = 80 and 180: the images of y = 100 stand at 60, 260, 300, -100, ...; those of less than 1 % are left out.
    pair = (sheet("half mirror", "front", y=79.0, turn_deg=180.0), sheet("half mirror", "back", y=181.0))
    point, faces = np.array([200.0, 130.0, 0.0]), (80.0, 180.0)
    total = by_hand(LAMP.at, point)
    for first in (0, 1):
        y, which, share = 100.0, first, 0.5
        while share >= 0.01:
            y = 2 * faces[which] - y
            total += share * by_hand((200, y, 150), point)
            which, share = 1 - which, share * 0.5
    assert lux(stage(*pair), point) == pytest.approx(total, rel=0.01)  # two hairs of each image’s place
    assert len(sequences(build_scene(stage(*pair)).panes)) == 12


def test_bounced_light_comes_back_from_the_front_pane():
    paints = dict.fromkeys(BLACK, (0.6, 0.6, 0.6))
    glazed, open_ = (lux(stage(kind=kind, **paints), rays=128) for kind in ("glazed box", "open box"))
    assert 1.02 < glazed / open_ < 1.12  # 2 to 8 % of lux and more near the pane


@pytest.mark.parametrize("seed", range(4))
def test_no_ray_carries_more_than_it_was_given(seed):
    rng = np.random.default_rng(seed)
    sheets = [sheet(str(rng.choice(["glass", "half mirror", "glass mirror", "acrylic"])), f"s{k}", x=float(rng.uniform(80, 320)), y=float(rng.uniform(60, 240)), turn_deg=float(rng.uniform(0, 360))) for k in range(4)]  # fmt: skip
    scene = build_scene(stage(*sheets, kind="closed box"))
    starts = rng.uniform([20, 20, 20], [380, 280, 230], (400, 3))
    ways = rng.normal(size=(400, 3))
    met = follow(scene, starts, ways / np.linalg.norm(ways, axis=1, keepdims=True))
    total = np.bincount(met.ray, met.share, 400)
    assert total.max() <= 1 + 1e-9
    assert np.median(total[met.outside]) > 0.6


def test_a_mirror_shows_in_the_picture_what_stands_before_it():
    """The picture of a room in a mirror is that of the same room built behind it, mirrored."""
    post, wall = Box(width=30, depth=20, height=90), 299.0
    red = Piece(id="post", name="Post", shape=post, place=Place(x=120, y=60, z=0), paint=(0.8, 0.1, 0.1))
    eye = np.array([260.0, -600.0, 160.0])
    with_mirror = build_scene(stage(red, sheet("front-silvered", y=wall - 99, width=390)))
    twin = red.but(id="twin", place=Place(x=120, y=2 * (wall - 100) - 60, z=0))
    built = build_scene(
        stage(red, twin, floor_paint=(0.0, 0.0, 0.0)).but(case=Case(kind="open base", width=400, depth=600, height=250, **BLACK))
    )
    shown = (150.0, 210.0, 40.0, 90.0)
    one, other = (work_light(s, look(s, eye, 60, shown)) for s in (with_mirror, built))
    assert one[..., 0].max() > 0.2
    lit = (one[..., 0] > 0.05) == (other[..., 0] > 0.05)
    assert lit.mean() > 0.97
    frame = look(with_mirror, eye, 60, shown)
    assert (with_mirror.paint[frame.prim[frame.straight :]][:, 0] > 0.7).any()


def test_a_picture_through_a_pane_has_its_share():
    block = Piece(id="b", name="B", shape=Box(width=200, depth=20, height=200), place=Place(x=200, y=200, z=0), paint=(0.5, 0.5, 0.5))
    eye = np.array([200.0, -700.0, 120.0])
    lamp = Point((200.0, 120.0, 150.0), (0.0, 1.0, 0.0), 4.0)  # it shines away from the pane

    def middle(*pieces: Piece) -> float:
        lit = prepare(build_scene(stage(*pieces)), rays=16)
        return float(Picture(lit, look(lit.scene, eye, 40)).luminance([lamp], np.ones((1, 3)))[15, 20, 1])

    clear = middle(block, sheet("glass", y=60.0))
    assert clear / middle(block) == pytest.approx(1 - pane_throws(np.array([1.0]))[0], rel=0.01)
    assert middle(block, sheet("half mirror", y=60.0)) / middle(block) == pytest.approx(0.5, rel=0.1)  # and what the block throws at it


def test_one_sees_through_panes_and_half_mirrors_alone():
    man = Piece(id="man", name="Man", shape=Figure(), place=Place(x=200, y=200, z=0))
    seat = Seat(id="s", name="S", distance=700)
    for made, seen in (("glass", True), ("half mirror", True), ("glass mirror", False)):
        project = stage(man, sheet(made, y=100.0)).but(seats=(seat,))
        (view,) = piece_views(project, build_scene(project), project.seats)
        assert (view.seen > 0.95) is seen


def test_water_shows_the_lamp_in_its_surface_and_what_lies_in_it():
    pool = Piece(id="pool", name="Pool", shape=Water(width=380, depth=280, height=8), place=Place(x=200, y=150, z=0), role="scenery")
    wall = np.array([200.0, 299.9, 100.0])
    front = np.array([[0.0, -1.0, 0.0]])

    def on_wall(project: Project) -> float:
        return float(gather(prepare(build_scene(project), rays=16), [LAMP], wall[None], front, rays=64)[0, 0, 0])

    way = np.array([200.0, 100.0, 16.0 - 150.0]) - wall  # the lamp stands 142 mm above the surface, its image as deep below
    cos = np.array([abs(way[2]) / np.linalg.norm(way)])
    image = -way[1] / np.linalg.norm(way) ** 3 * 1e6 * face_throws(cos)[0]
    assert on_wall(stage(pool)) - on_wall(stage()) == pytest.approx(image, rel=0.02)
    down = lux(stage(pool)) / lux(stage())
    assert down == pytest.approx(1 - face_throws(slant(LAMP.at, 2))[0], rel=0.002)
    post = Piece(id="post", name="Post", shape=Box(width=20, depth=20, height=30), place=Place(x=200, y=150))
    assert build_scene(stage(pool, post)).places["post"].z == 0  # it stands in it, on the ground


def spied(made: str, wide: float = 20, x: float = 130) -> tuple[Project, Seat]:
    """A bulb behind a post, 60 mm from the front; a sheet 201 mm behind the front; one eye before the middle, 500 mm off and level with the bulb."""
    seat = Seat(id="eye", name="Eye", eyes_mm=100.0 + 1000, distance=500, range=0, rise=0)
    lamp = Lamp(id="bulb", name="Bulb", led="warm_white", x=x, y=60, z=100, angle_deg=360)
    post = Piece(id="post", name="Post", shape=Box(width=wide, depth=4, height=140), place=Place(x=131, y=50), role="scenery")
    project = stage(post, sheet(made), kind="glazed box")
    brief = project.brief.but(shelf_height_mm=1000.0 - floor_over_shelf(project.case))
    return project.but(seats=(seat,), lamps=(lamp,), brief=brief), seat


def test_a_bulb_that_shows_in_a_mirror_is_seen():
    # The image stands at y = 342; the line to it from (200, -500) passes y = 50 at x = 154, clear of the post; the line to the bulb itself at 131.
    project, seat = spied("glass mirror")
    scene = build_scene(project)
    (bare,) = bare_lamps(project, scene, seat)
    assert bare.mirrored
    (finding,) = (f for f in all_prompts(known(project)) if f.code == "LAMP-BARE")
    assert "in a mirror" in finding.text
    for made in ("glass", "acrylic"):  # a clear pane throws back too little to be noticed
        assert bare_lamps(*_scened(*spied(made))) == ()
    alone, seat = spied("glass mirror")
    assert bare_lamps(*_scened(alone.but(pieces=alone.pieces[:1]), seat)) == ()


def _scened(project: Project, seat: Seat):
    return project, build_scene(project), seat


def test_what_hides_a_bulb_hides_its_image_too():
    project, seat = spied("glass mirror")
    project = project.but(seats=(seat.but(eyes_mm=1000.0 + 400),))
    scene = build_scene(project)
    points = emitter_of(project.lamps[0]).seen()
    lip = hiding(project, scene, Target("lamp", "bulb"), points).lip
    # Seen from 400 mm over the floor the line to the image crosses the front at 400 - 300 × 500 / 842 = 222 mm (the bulb is a little thing).
    assert lip == pytest.approx(250 - (400 - 300 * 500 / 842) + 1, abs=4)
    cured = project.but(case=project.case.but(lip_top=lip))
    assert bare_lamps(*_scened(cured, cured.seats[0])) == ()
    # Behind a post from 101 to 161 a bulb at 150 is hidden; the line to its image passes y = 50 at 167, and left of 161 once the bulb is at 140.
    project, seat = spied("glass mirror", 60, 150)
    (bare,) = bare_lamps(*_scened(project, seat))
    assert bare.mirrored
    shift = hiding(project, build_scene(project), Target("lamp", "bulb"), emitter_of(project.lamps[0]).seen()).shift
    assert shift == pytest.approx((-14, 0, 0), abs=4)
    moved = project.but(lamps=(project.lamps[0].but(x=150 + shift[0]),))
    assert bare_lamps(*_scened(moved, seat)) == ()


def test_the_places_that_see_a_bulb_in_a_mirror_are_told_apart():
    """Behind a post from 121 to 141 the mirror shows it to eyes from whom the line to the image at (130, 342) passes y = 50 beside the post."""
    project, _seat = spied("glass mirror")
    found = look_at(project, Target("lamp", "bulb"))
    assert found is not None
    (sight,) = found.sights
    left, right = sight.mirrored
    x = [130 + (edge - 130) * (342 + 500) / (342 - 50) for edge in (121, 141)]
    assert left[1] == pytest.approx(x[0], abs=12)  # the bulb is a little thing, the post 4 mm deep
    assert right[0] == pytest.approx(x[1], abs=12)
    assert sight.share == 1
    assert "in mirrors" in told(project, found)


def test_a_spot_is_seen_by_way_of_two_mirrors():
    """Between facing mirrors a spot shows at the places that unfolding gives, and each eye that sees it sees it along a clear way."""
    project = stage(sheet("front-silvered"), sheet("front-silvered", "other", y=20.0, turn_deg=180.0, width=60))
    scene = build_scene(project)
    eyes = np.array([[200.0 + dx, 100.0, 120.0] for dx in (-90, -30, 0, 30, 90)])
    spot = np.array([200.0, 60.0, 120.0])
    deep = np.array([place[1] for _who, place in in_mirrors(scene, eyes, spot)])
    faces = sorted(float(rect[0, 1]) for rect in scene.panes.rects if rect[0, 1] > 0)
    near, far = faces[0], faces[-1]
    for wanted in (2 * far - 60.0, 2 * near - 60.0, 2 * far - (2 * near - 60.0)):
        assert np.abs(deep - wanted).min() < 1e-6
