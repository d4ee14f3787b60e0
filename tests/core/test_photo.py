"""Readings of synthetic photographs against the cameras that made them, and against an outside library."""

import math

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from skimage.transform import ProjectiveTransform

from fondale.core.lengths import parse_length, parse_real
from fondale.core.model import Frame, Horizon, Photo, Thread
from fondale.core.photo.ground import Ground
from fondale.core.photo.reading import read_photo, wall_angles
from fondale.core.photo.wall import PhotoError, Wall, homography, warp
from fondale.core.sayings import read_saying, sayings

WALL = np.array([[0, 0], [3200, 0], [3200, 2400], [0, 2400.0]])


def camera(turn=25.0, pitch=8.0, distance=7000.0, focal=3600.0):
    """A pinhole camera looking at the wall plane: mm on the wall (x right, y down) to pixels."""
    a, b = np.radians([turn, pitch])
    r = np.array([[np.cos(a), 0, -np.sin(a)], [0, 1, 0], [np.sin(a), 0, np.cos(a)]])
    r = np.array([[1, 0, 0], [0, np.cos(b), -np.sin(b)], [0, np.sin(b), np.cos(b)]]) @ r

    def see(points):
        p = np.asarray(points, float) - [1600, 1200]
        xyz = np.column_stack([p, np.zeros(len(p))]) @ r.T + [0, 0, distance]
        return xyz[:, :2] / xyz[:, 2:] * focal + [2000, 1500]

    return see


@pytest.mark.parametrize("turn", [-40, 0, 30, 55])
def test_lengths_on_a_wall_under_half_a_percent_with_half_a_pixel_of_noise(turn):
    see, rng = camera(turn), np.random.default_rng(3)
    ends = np.array([[300, 400], [2600, 1900.0]])
    true = float(np.linalg.norm(ends[1] - ends[0]))
    errors = []
    for _ in range(60):
        corners = see(WALL) + rng.normal(0, 0.5, (4, 2))
        seen = see(ends) + rng.normal(0, 0.5, (2, 2))
        errors.append(Wall(corners, 3200, 2400).length(*seen)[0] / true - 1)
    assert np.abs(errors).max() < 0.005


def test_the_stated_uncertainty_is_what_scatter_shows():
    see, rng = camera(30), np.random.default_rng(5)
    ends = np.array([[900, 700], [1700, 1500.0]])
    told = Wall(see(WALL), 3200, 2400).length(*see(ends))[1]
    found = [Wall(see(WALL) + rng.normal(0, 1, (4, 2)), 3200, 2400).length(*(see(ends) + rng.normal(0, 1, (2, 2))))[0] for _ in range(800)]
    assert np.std(found) == pytest.approx(told, rel=0.12)


@given(st.integers(0, 10_000))
def test_the_homography_agrees_with_an_outside_library(seed):
    """The projective transform of [skimage], to one part in a million."""
    rng = np.random.default_rng(seed)
    source = WALL / 2 + rng.normal(0, 150, (4, 2))
    target = camera(rng.uniform(-50, 50), rng.uniform(-20, 20))(WALL) + rng.normal(0, 20, (4, 2))
    ours, theirs = homography(source, target), ProjectiveTransform.from_estimate(source, target)
    probe = rng.uniform(400, 1200, (20, 2))
    assert np.allclose(warp(ours, probe), theirs(probe), rtol=1e-6, atol=1e-6)


def test_more_points_than_four_are_balanced():
    rng = np.random.default_rng(1)
    source = rng.uniform(0, 3000, (12, 2))
    target = camera(20)(source) + rng.normal(0, 0.5, (12, 2))
    theirs = ProjectiveTransform.from_estimate(source, target)
    assert np.allclose(warp(homography(source, target), source), theirs(source), atol=1e-6)


@pytest.mark.parametrize(
    "corners",
    [
        np.zeros((4, 2)),
        np.array([[0, 0], [100, 0], [200, 0], [0, 100.0]]),
        np.array([[0, 0], [100, 100], [100, 0], [0, 100.0]]),
        np.array([[0, 0], [100, 0], [np.nan, 100], [0, 100.0]]),
    ],
)
def test_corners_that_fix_nothing_are_refused_in_words(corners):
    with pytest.raises(PhotoError, match=r"[A-Z].+\."):
        Wall(corners, 1000, 500).length((10, 10), (50, 50))


def test_right_angles_stay_right_on_the_straightened_wall():
    see = camera(40, 15)
    assert Wall(see(WALL), 3200, 2400).angle(*see([[1000, 500], [1000, 1500], [2200, 1500]])) == pytest.approx(90, abs=1e-6)
    with pytest.raises(PhotoError):
        Wall(see(WALL), 3200, 2400).angle((5, 5), (5, 5), (9, 9))


def standing(height_mm, x_mm, away_mm, camera_mm=1500.0, focal=2000.0, roll=0.0):
    """Foot and top of an upright thing on level ground, seen by a level camera at 2000, 1500."""
    points = np.array([[x_mm, camera_mm], [x_mm, camera_mm - height_mm]]) / away_mm * focal
    r = math.radians(roll)
    points = points @ np.array([[math.cos(r), math.sin(r)], [-math.sin(r), math.cos(r)]])
    return [tuple(map(float, p + np.array([2000, 1500]))) for p in points]


def photo(*threads, **more):
    return Photo(id="p", name="Quay", asset="assets/photos/p.png", width=4000, height=3000, threads=threads, **more)


def test_one_known_person_gives_the_height_of_everything_on_the_ground():
    man, post = standing(1750, -800, 6000), standing(2600, 1500, 11_000)
    picture = photo(
        Thread(id="man", name="Man", a=man[0], b=man[1], on="ground", known_mm=1750, known_give_mm=70),
        Thread(id="post", name="Post", a=post[1], b=post[0], on="ground"),
        horizon=Horizon(left=1500, right=1500),
    )
    reading = read_photo(picture)["post"]
    assert reading.real_mm == pytest.approx(2600, rel=1e-6)
    assert 0.04 < reading.give_mm / reading.real_mm < 0.05
    assert "2.60 m" in reading.words(35)
    assert "74.3 mm at 1:35" in reading.words(35)


def test_a_camera_held_askew_still_reads_upright_things():
    man, post = standing(1750, -800, 6000, roll=4), standing(2600, 1500, 11_000, roll=4)
    drop = 2000 * math.tan(math.radians(4))
    picture = photo(
        Thread(id="man", name="Man", a=man[0], b=man[1], on="ground", known_mm=1750),
        Thread(id="post", name="Post", a=post[0], b=post[1], on="ground"),
        horizon=Horizon(left=1500 - drop, right=1500 + drop),
    )
    reading = read_photo(picture)["post"]
    assert reading.real_mm == pytest.approx(2600, rel=0.01)
    assert reading.trouble == ""


@pytest.mark.parametrize(
    ("a", "b", "says"),
    [((10, 1400), (10, 1300), "below the horizon"), ((10, 1800), (12, 1800), "no height"), ((100, 2500), (900, 2200), "leans")],
)
def test_threads_that_cannot_stand_on_the_ground_say_so(a, b, says):
    man = standing(1750, 0, 6000)
    threads = (
        Thread(id="man", name="Man", a=man[0], b=man[1], on="ground", known_mm=1750),
        Thread(id="odd", name="Odd", a=a, b=b, on="ground"),
    )
    assert says in read_photo(photo(*threads, horizon=Horizon(left=1500, right=1500)))["odd"].trouble
    assert "horizon" in read_photo(photo(*threads))["odd"].trouble


def test_threads_on_a_plane_follow_the_known_one_and_a_second_known_is_checked():
    threads = (
        Thread(id="door", name="Door", a=(0, 0), b=(0, 406), known_mm=2030, known_give_mm=20),
        Thread(id="window", name="Window", a=(0, 0), b=(210, 0)),
    )
    assert read_photo(photo(*threads))["window"].real_mm == pytest.approx(1050)
    second = Thread(id="pallet", name="Pallet", a=(0, 0), b=(200, 0), known_mm=1200)
    assert read_photo(photo(*threads, second))["pallet"].off == pytest.approx(-1 / 6, abs=1e-3)
    alone = photo(threads[1], Thread(id="dot", name="Dot", a=(5, 5), b=(5, 5)))
    assert "Declare" in read_photo(alone)["window"].trouble
    assert "too short" in read_photo(alone)["dot"].trouble


def test_threads_on_the_wall_use_its_frame():
    see = camera(30)
    a, b, c = see([[500, 600], [500, 2000], [1700, 2000]]).tolist()
    threads = (Thread(id="up", name="Up", a=a, b=b, on="wall"), Thread(id="sill", name="Sill", a=b, b=c, on="wall", known_mm=1300))
    frame = Frame(corners=tuple(map(tuple, see(WALL).tolist())), width_mm=3200, height_mm=2400)
    readings = read_photo(photo(*threads, frame=frame))
    assert readings["up"].real_mm == pytest.approx(1400, rel=1e-6)
    assert readings["sill"].off == pytest.approx(1200 / 1300 - 1, rel=1e-4)
    assert [round(x[2], 3) for x in wall_angles(photo(*threads, frame=frame))] == [90.0]
    assert "frame" in read_photo(photo(*threads))["up"].trouble
    crossed = Frame(corners=((0, 0), (10, 10), (10, 0), (0, 10)), width_mm=1, height_mm=1)
    assert "folds" in read_photo(photo(*threads, frame=crossed))["up"].trouble


@given(st.lists(st.floats(-9e4, 9e4), min_size=4, max_size=4), st.sampled_from(["plane", "wall", "ground"]), st.floats(1, 1e6))
@example([2.0, 0.0, 0.0, 2.0], "wall", 1.0)
def test_no_thread_breaks_the_reading(xy, on, known):
    threads = (
        Thread(id="a", name="A", a=(xy[0], xy[1]), b=(xy[2], xy[3]), on=on, known_mm=known),
        Thread(id="b", name="B", a=(xy[3], xy[1]), b=(xy[0], xy[2]), on=on),
    )
    frame = Frame(corners=((0, 0), (xy[0], 0), (1000, 900), (0, 900)), width_mm=2000, height_mm=1000)
    for reading in read_photo(photo(*threads, frame=frame, horizon=Horizon(left=xy[1], right=xy[2]))).values():
        assert reading.real_mm is None or reading.real_mm >= 0
        assert reading.words(35)


def test_ground_alone_refuses_a_foot_on_the_horizon():
    with pytest.raises(PhotoError):
        Ground(100, 100, 500).share((5, 100), (5, 20))


def test_sizes_said_by_people():
    """Hip 0.530 and shoulder breadth 0.259 of stature: [drillis1966] (from memory)."""
    assert read_saying("Hip high").real_mm == pytest.approx(0.530 * 1752.5)
    assert read_saying("2 x shoulder wide").real_mm == pytest.approx(2 * 0.259 * 1752.5)
    assert parse_length("hip high", 35) == pytest.approx(0.530 * 1752.5 / 35)
    assert parse_real("a person fits between", 35) > parse_real("shoulder wide", 35)
    assert parse_real("30 mm model", 35) == pytest.approx(1050)
    assert parse_real("1.05 m", 35) == pytest.approx(1050)
    assert read_saying("as big as a whale") is None
    assert len(sayings()) > 20
