# SPDX-License-Identifier: MIT
"""The demo's photograph: its camera and its scene are known, so every reading off it is held against what was built."""

import io

import numpy as np
import pytest
from PIL import Image

from fondale.core.photo.reading import read_photo, wall_angles
from fondale.core.prints.body import measure, skin
from fondale.demo import heron_stairs, sample_assets
from fondale.demo.bodies import BODIES
from fondale.demo.heron_bench import PHOTO, _read
from fondale.demo.landing_photo import REAL, eye, horizon_px, on_wall, photograph, pixel, scene_project
from fondale.storage.meshes import parse_mesh
from tests.conftest import TODAY

# What was built, in real millimetres.
TRUE = {"bollard": 550, "post": 2900, "window-wide": 1280, "window-high": 920, "drum": 420}


@pytest.fixture(scope="module")
def photo():
    return heron_stairs(TODAY).photos[0]


@pytest.mark.parametrize("name", TRUE)
def test_readings_hold_the_truth_within_what_they_say(photo, name):
    reading = read_photo(photo)[name]
    assert abs(reading.real_mm - TRUE[name]) < 1.645 * reading.give_mm
    assert reading.real_mm == pytest.approx(TRUE[name], rel=0.02)


def test_the_window_is_square(photo):
    (_a, _b, angle), *_rest = wall_angles(photo)
    assert angle == pytest.approx(90, abs=1.5)


def test_pixels_follow_the_pinhole_camera():
    """A second derivation: the camera matrix K [R | t] of a camera looking along y ([hartley2004], section 6.1)."""
    case = scene_project().case
    x0, x1, z1 = -0.04 * case.width, 1.04 * case.width, 1.04 * case.height
    k = 1200 / (x1 - x0)
    ex, ey, ez = eye()
    f = -ey * k
    camera = np.array([[f, (ex - x0) * k, 0], [0, (z1 - ez) * k, -f], [0, 1, 0]])
    for point in [on_wall(120, 0), on_wall(428, 196), (150, 170, 175.3), (60, 47, 0)]:
        u, v, w = camera @ (np.array(point) - [ex, ey, ez])
        assert pixel(point) == pytest.approx((u / w, v / w), abs=1e-6)
    assert horizon_px() == pytest.approx((z1 - ez) * k)
    assert REAL == 10


@pytest.mark.slow
def test_the_shipped_picture_is_the_one_that_is_drawn():
    shipped = np.asarray(Image.open(io.BytesIO(sample_assets("Heron Stairs, last boat")[PHOTO])).convert("RGB"), float)
    drawn = np.asarray(Image.open(io.BytesIO(photograph()[0])).convert("RGB"), float)
    assert shipped.shape == drawn.shape
    assert np.abs(shipped - drawn).mean() < 6


@pytest.mark.parametrize("name", BODIES)
def test_the_shipped_files_are_the_bodies_that_are_made(name):
    shipped = parse_mesh(sample_assets("Heron Stairs, last boat")[f"assets/prints/{name}"], ".stl").body
    made = BODIES[name]()
    assert np.ptp(shipped.vertices, axis=0) == pytest.approx(np.ptp(made.vertices, axis=0), abs=1e-4)
    assert len(shipped.faces) == len(made.faces)
    facts, shell = _read(name)
    fresh = measure(made)
    assert facts.volume == pytest.approx(fresh.volume)
    assert facts.centre == pytest.approx(fresh.centre)
    assert (facts.triangles, facts.bodies, facts.watertight) == (fresh.triangles, fresh.bodies, fresh.watertight)
    assert len(shell[1]) == len(skin(made)[1])
