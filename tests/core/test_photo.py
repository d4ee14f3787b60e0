# SPDX-License-Identifier: MIT
"""Readings of synthetic photographs against the cameras that made them, and against an outside library."""

import math

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from skimage.transform import ProjectiveTransform

from fondale.core.lengths import LengthError, parse_known, parse_length, parse_real
from fondale.core.model import Frame, Horizon, Photo, Thread
from fondale.core.photo.reading import assumed_words, give_words, read_photo, show_known, wall_angles
from fondale.core.photo.wall import PhotoError, lengths, straightening, wall_angle, warp
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
        errors.append(lengths(corners[None], seen[None], np.array([[3200.0, 2400.0]]))[0] / true - 1)
    assert np.abs(errors).max() < 0.005


@given(st.integers(0, 10_000))
def test_the_straightened_wall_agrees_with_an_outside_library(seed):
    """The projective transform of [skimage], to one part in a million."""
    rng = np.random.default_rng(seed)
    corners = camera(rng.uniform(-50, 50), rng.uniform(-20, 20))(WALL) + rng.normal(0, 20, (4, 2))
    theirs = ProjectiveTransform.from_estimate(corners, WALL)
    ends = rng.uniform(1200, 2400, (2, 2))
    assert np.allclose(warp(straightening(corners[None], WALL[None, 2]), ends[None])[0], theirs(ends), rtol=1e-6, atol=1e-6)
    assert lengths(corners[None], ends[None], WALL[None, 2]) == pytest.approx(np.linalg.norm(np.diff(theirs(ends), axis=0)), rel=1e-6)


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
        wall_angle(corners, (1000, 500), (5, 5), (9, 5), (9, 9))


def test_two_known_lengths_err_each_by_itself_whatever_they_are_called():
    def give(first, second):
        ways = {first: 200, second: 1200, "x": 700}
        threads = [Thread(id=i, name=i, a=(x, 400), b=(x, 1400), on="plane", hand_px=0.2) for i, x in ways.items()]
        threads[:2] = [t.but(known_mm=2000, known_give_mm=200) for t in threads[:2]]
        return read_photo(Photo(id="p", name="P", asset="a", width=2000, height=1800, threads=tuple(threads), f35_mm=40))["x"].give_mm

    assert give("t12", "t21") == pytest.approx(give("t12", "t57"), rel=0.1)


def test_right_angles_stay_right_on_the_straightened_wall():
    see = camera(40, 15)
    assert wall_angle(see(WALL), WALL[2], *see([[1000, 500], [1000, 1500], [2200, 1500]])) == pytest.approx(90, abs=1e-6)
    with pytest.raises(PhotoError):
        wall_angle(see(WALL), WALL[2], (5, 5), (5, 5), (9, 9))


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
    assert reading.real_mm == pytest.approx(2600, rel=1e-3)
    assert 0.04 < reading.give_mm / reading.real_mm < 0.06
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


def tilted(points, pitch, f35=35.0):
    """Pixels of points in the world (x right, y down, z ahead) by a camera tilted up by ``pitch`` degrees, with a picture of 4000 x 3000."""
    a, f = -math.radians(pitch), f35 / 43.27 * 5000
    p = np.asarray(points, float) @ np.array([[1, 0, 0], [0, math.cos(a), -math.sin(a)], [0, math.sin(a), math.cos(a)]]).T
    return [tuple(map(float, q)) for q in p[:, :2] / p[:, 2:] * f + [2000, 1500]]


def lintel(pitch, **more):
    """A known sill a little over the eye, and a lintel of 1 m four metres above it."""
    sill = tilted([[-500, 0, 8000], [500, 0, 8000]], pitch)
    top = tilted([[-500, -4000, 8000], [500, -4000, 8000]], pitch)
    return photo(
        Thread(id="sill", name="Sill", a=sill[0], b=sill[1], known_mm=1000),
        Thread(id="lintel", name="Lintel", a=top[0], b=top[1]),
        *more.pop("posts", ()),
        **more,
    )


def test_a_tilted_camera_is_told_or_widens_what_is_said():
    unknown = read_photo(lintel(10))["lintel"]  # as many are tilted
    assert abs(unknown.real_mm - 1000) <= unknown.give_mm * 1.6449
    assert unknown.give_mm / unknown.real_mm > 0.03
    level = 1500 + math.tan(math.radians(15)) * 35 / 43.27 * 5000
    by_horizon = read_photo(lintel(15, horizon=Horizon(left=level, right=level), f35_mm=35))["lintel"]
    assert by_horizon.real_mm == pytest.approx(1000, rel=0.005)
    assert by_horizon.give_mm < unknown.give_mm / 2
    posts = [
        Thread(id=f"u{k}", name="Post", a=p[0], b=p[1], on="upright")
        for k, p in enumerate(tilted([[x, 500, 8000], [x, -4000, 8000]], 15) for x in (-2500, 2500))
    ]
    by_posts = read_photo(lintel(15, posts=posts, f35_mm=35))["lintel"]
    assert by_posts.real_mm == pytest.approx(1000, rel=0.01)
    assert by_posts.give_mm < unknown.give_mm / 2
    assert "tilted up by 15" in assumed_words(lintel(15, posts=posts, f35_mm=35)).lower()
    assert "Nothing says how the camera was tilted" in assumed_words(lintel(15))
    # Both tell of the lens too, where nothing else does.
    both = read_photo(lintel(15, posts=posts, horizon=Horizon(left=level, right=level)))["lintel"]
    assert both.real_mm == pytest.approx(1000, rel=0.02)


def test_known_lengths_that_disagree_are_said_to_and_widen_all_that_hangs_on_them():
    threads = (
        Thread(id="door", name="Door", a=(0, 0), b=(0, 406), known_mm=2030, known_give_mm=20), Thread(id="pallet", name="Pallet", a=(0, 0), b=(200, 0), known_mm=1400, known_give_mm=10),
        Thread(id="window", name="Window", a=(0, 0), b=(210, 0)),
    )  # fmt: skip
    found = read_photo(photo(*threads))
    assert "Door and Pallet disagree by" in found["window"].trouble
    assert "disagree" in found["door"].trouble
    alone = read_photo(photo(threads[0], threads[2]))["window"]
    assert found["window"].give_mm > 3 * alone.give_mm
    assert alone.trouble == ""


def test_a_rougher_hand_widens_what_is_told():
    fine, rough = (
        read_photo(
            photo(
                Thread(id="a", name="A", a=(500, 500), b=(500, 900), known_mm=2000, hand_px=px),
                Thread(id="b", name="B", a=(900, 500), b=(900, 700), hand_px=px),
            )
        )["b"]
        for px in (1.0, 7.0)
    )
    assert fine.real_mm == pytest.approx(rough.real_mm)
    assert rough.give_mm > 2 * fine.give_mm


def test_what_is_told_is_never_nothing():
    assert give_words(0.0) == "under 0.1 %"
    assert give_words(0.004) == "0.4 %"
    assert give_words(0.03) == "3 %"


def test_reasons_are_the_right_ones():
    frontal = Frame(corners=((1000, 1000), (1040, 1000), (1040, 1080), (1000, 1080)), width_mm=1000, height_mm=2000)
    far = Thread(id="far", name="Far", a=(3500, 200), b=(3900, 2800), on="wall")
    said = read_photo(photo(far, frame=frontal))["far"]
    assert said.real_mm is None
    assert "horizon" not in said.trouble
    assert "larger" in said.trouble or "far off" in said.trouble
    thin = Frame(corners=((1000, 1000), (1001, 1000), (1001, 1200), (1000, 1200)), width_mm=1000, height_mm=2000)
    near = Thread(id="near", name="Near", a=(1000, 1000), b=(1200, 1000), on="wall")
    assert read_photo(photo(near, frame=thin))["near"].real_mm is None


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


@pytest.mark.parametrize(
    ("text", "mm", "ninety"),
    [
        ("2.03 m", 2030, 0), ("2.03 ± 0.05 m", 2030, 50), ("2.03 m +- 5 cm", 2030, 50), ("2 m ± 3 %", 2000, 60), ("1.7-1.8 m", 1750, 50), ("1.7 m to 1.8 m", 1750, 50),
        ("170 – 180 cm", 1750, 50), ("6ft 2in", 1879.6, 0), ('1 7/16"', 36.5, 0),
    ],
)  # fmt: skip
def test_known_lengths_are_typed_with_what_they_may_be_off(text, mm, ninety):
    real, give = parse_known(text, 35)
    assert real == pytest.approx(mm, rel=1e-3)
    assert give * 1.6449 == pytest.approx(ninety, rel=1e-3)


def test_people_and_sayings_bring_their_spread():
    assert parse_known("a man", 35) == (1752.5, 69.5)
    assert parse_known("woman", 35) == (1625.1, 58.0)
    real, give = parse_known("hip high", 35)
    assert real == pytest.approx(0.530 * 1752.5)
    assert give > 0.04 * real
    for wrong in ("1.8-1.7 m", "so high", "± 3 %", "2 m ± so"):
        with pytest.raises(LengthError):
            parse_known(wrong, 35)


@given(st.floats(100, 9e5), st.floats(0, 0.3))
def test_what_is_shown_of_a_known_length_can_be_typed_again(mm, share):
    real, give = parse_known(show_known(mm, mm * share / 1.6449), 35)
    assert real == pytest.approx(mm, rel=0.01)
    assert give == pytest.approx(mm * share / 1.6449, abs=mm * 0.0012)


@pytest.mark.parametrize("give", [3e3, 1e6])
def test_a_size_that_may_be_anything_says_so_and_nothing_overflows(give):
    see = camera(30)
    thread = Thread(id="up", name="Up", a=(500, 500), b=(900, 800), on="wall")
    frame = Frame(corners=tuple(map(tuple, see(WALL).tolist())), width_mm=1.0, height_mm=2.0, width_give_mm=give, height_give_mm=give)
    found = read_photo(photo(thread, frame=frame))["up"]
    assert found.real_mm is None or found.give_mm > found.real_mm
    known = thread.but(on="plane", known_mm=1.0, known_give_mm=give)
    found = read_photo(photo(known, known.but(id="other", known_mm=None)))["other"]
    assert found.real_mm is None or found.give_mm > found.real_mm


def test_a_frame_is_nothing_until_it_is_told():
    see = camera(30)
    line = see([[500, 600], [500, 2000]]).tolist()
    thread = Thread(id="up", name="Up", a=line[0], b=line[1], on="wall")
    untold = Frame(corners=tuple(map(tuple, see(WALL).tolist())))
    found = read_photo(photo(thread, frame=untold))["up"]
    assert found.real_mm is None
    assert "how wide and how high" in found.trouble
    assert wall_angles(photo(thread, frame=untold)) == []


@pytest.mark.parametrize("hand", [1e-320, 1e-160, 1e-6])
def test_whoever_says_that_his_hand_is_without_fault_is_told_what_the_photograph_says(heron, hand):
    """It was divided by what was told, and what was known of the camera drowned: three threads said nothing."""
    photo = heron.photos[0]
    told = read_photo(photo.but(horizon=photo.horizon.but(hand_px=hand)))
    for ident, plain in read_photo(photo).items():
        assert (told[ident].real_mm is None) == (plain.real_mm is None)
        if plain.real_mm:
            assert abs(told[ident].real_mm - plain.real_mm) < 1.645 * (told[ident].give_mm + plain.give_mm)  # each within the ± of both
