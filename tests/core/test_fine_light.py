# SPDX-License-Identifier: MIT
"""The light in hard places, judged by plain paths: nothing of how it is solved is used to judge it."""

import numpy as np
import pytest

from fondale.core.emitters.point import Point
from fondale.core.light import fine_picture
from fondale.core.light.fine_picture import FinePicture
from fondale.core.light.frames import look
from fondale.core.light.matrices import ROW_MOST
from fondale.core.light.picture import Picture
from fondale.core.light.receivers import gather, receivers
from fondale.core.light.solver import FINE_RAYS, prepare, solve
from fondale.core.light.texels import cut_texels, direct_on
from fondale.core.model import Case, Piece, Place
from fondale.core.model.shapes import Box
from fondale.core.stage.scene import build_scene
from tests.core.light_scenes import GUIDES, SCENES, eye, judged
from tests.core.paths import by_paths

WIDTH = 160
# How many places are looked at by how many paths; the mean error of meters, of refined pictures, and of first ones. What the judge does not know is
# allowed for beside it.
LIMITS = {
    "box": (30, 6_000, 0.003, 0.004, 0.009), "figures": (30, 6_000, 0.003, 0.007, 0.015), "gap": (30, 6_000, 0.003, 0.007, 0.015),
    "near": (20, 10_000, 0.005, 0.008, 0.02), "grazing": (20, 10_000, 0.005, 0.008, 0.02), "doorway": (20, 20_000, 0.01, 0.02, 0.05),
    "kiosk": (10, 25_000, 0.02, 0.04, 0.1), "slot": (10, 25_000, 0.02, 0.03, 0.09),
}  # fmt: skip


@pytest.mark.parametrize("name", LIMITS)
def test_pictures_and_meters_agree_with_plain_paths(name):
    scene, lamp = SCENES[name]()
    first = prepare(scene, [lamp])
    solve(first, [lamp])
    fine = prepare(scene, [lamp], rays=FINE_RAYS, before=first)
    frame = look(scene, eye(name), WIDTH)
    pixel = np.arange(frame.width * frame.height)
    alone = np.flatnonzero((frame.prim[pixel] >= 0) & (frame.share[pixel] > 0.99))  # no edge runs through them
    count, paths, of_meters, of_refined, of_first = LIMITS[name]
    pixels = np.random.default_rng(3).choice(alone, count, replace=False)
    points, normals = frame.point[pixels], frame.normal[pixels]
    truth, sure = judged(name, points, normals, paths)
    rho = scene.paint[frame.prim[pixels], 1] / np.pi
    one = np.ones((1, 3))
    refined, rough = (
        picture.luminance([lamp], one)[..., 1].ravel()[pixels] / rho
        for picture in (FinePicture(fine, frame, [lamp]), Picture(first, frame))
    )
    meters = gather(fine, [lamp], points, normals)[:, 0, 1]
    unknown = float((sure / truth).mean())
    for found, most in ((meters, of_meters), (refined, of_refined), (rough, of_first)):
        assert np.abs(found / truth - 1).mean() < most + unknown


def test_a_picture_that_begins_with_more_receivers_than_are_wanted_asks_for_no_more(monkeypatch):
    """A tall picture may: it went on to ask for nearly all of its pixels."""
    monkeypatch.setattr(fine_picture, "MOST", 100)
    monkeypatch.setattr(fine_picture, "RAYS", 64)
    scene, lamp = SCENES["box"]()
    first = prepare(scene, [lamp], rays=32)
    frame = look(scene, eye("box"), WIDTH)
    first_ones = len(range(0, frame.height, 4)) * len(range(0, frame.width, 4))
    assert 100 < len(FinePicture(first, frame, [lamp])._asked) <= first_ones + frame.width + frame.height


@pytest.mark.parametrize("name", GUIDES)
def test_the_judge_says_the_same_whether_it_is_told_where_to_look_or_not(name):
    scene, lamp = SCENES[name]()
    frame = look(scene, eye(name), WIDTH)
    seen = np.flatnonzero(frame.prim[: frame.width * frame.height] >= 0)
    pixels = np.random.default_rng(5).choice(seen, 12, replace=False)
    points, normals = frame.point[pixels], frame.normal[pixels]
    (plain, a), (told, b) = by_paths(scene, lamp, points, normals, 6_000, seed=1), judged(name, points, normals, 6_000)
    off = (told.sum() - plain.sum()) / np.sqrt((a**2 + b**2).sum())
    assert abs(off) < 4


@pytest.mark.parametrize("seed", range(6))
def test_nothing_leaks_by_any_seed(seed):
    """Behind a shut wall there is no light, however the rays fall."""
    from tests.core.light_scenes import _case, _wall

    scene, lamp = _case(_wall("w", 420, 210, 150)), SCENES["slot"]()[1]
    lit = prepare(scene, [lamp], seed=seed)
    fine = prepare(scene, [lamp], rays=FINE_RAYS, before=lit, seed=seed) if seed < 2 else lit
    points = np.random.default_rng(seed).uniform([10, 10, 0], [410, 140, 0], (40, 3))
    dark = gather(fine, [lamp], points, np.tile([0.0, 0.0, 1.0], (40, 1)), 512, seed)[:, 0, 1]
    assert dark.max() < 0.1 * 1e-2


def test_texels_hold_the_flux_of_a_lamp_close_to_a_wall():
    """A lamp of 1 cd and m = 1 sends pi lumen down; all of it falls on the box, whatever the texels."""
    for name in ("box", "near"):
        scene, lamp = SCENES[name]()
        texels = cut_texels(prepare(scene, rays=4).patches, [lamp], 4)
        front = 1.0  # the front is open
        flux = float((direct_on(texels, lamp).on * texels.area).sum()) * 1e-6
        assert 0.75 * np.pi < flux < front * np.pi * 1.01
    assert texels.side.max() > texels.side.min()  # finer beside the lamp


def test_every_hit_is_found_again_in_its_texel():
    scene, lamp = SCENES["kiosk"]()
    texels = cut_texels(prepare(scene, rays=4).patches, [lamp])
    rng = np.random.default_rng(1)
    every = np.arange(texels.n)
    points, normals = texels.points(every, 0.05 + 0.9 * rng.random((texels.n, 2)))
    flat = every < texels.flat
    assert (texels.of_hits(texels.prim[flat], points[flat]) == every[flat]).all()
    assert np.allclose(normals, scene.normal[texels.prim])
    assert texels.area[flat].sum() == pytest.approx(np.linalg.norm(np.cross(scene.rects[:, 1], scene.rects[:, 2]), axis=1).sum())


def test_bounces_end_though_a_patch_seems_to_see_more_than_all_round_it(empty):
    """White bodies that stand in each other, hardly seen by any ray: no share of light may grow from bounce to bounce."""
    white = (1.0, 1.0, 1.0)
    pieces = tuple(
        Piece(
            id=f"b{k}",
            name=f"B{k}",
            shape=Box(width=60, depth=60, height=60),
            place=Place(x=150 + 30.02 * k, y=130, z=0.02 * k),
            paint=white,
        )
        for k in range(4)
    )
    paints = {"floor_paint": white, "wall_paint": white, "ceiling_paint": white}
    case = Case(kind="closed box", width=420, depth=260, height=250, **paints)
    lamp = Point((210.0, 130.0, 240.0), (0.0, 0.0, -1.0), 1.0)
    for seed in range(4):
        lit = prepare(build_scene(empty.but(case=case, pieces=pieces)), [lamp], rays=8, seed=seed)
        sums = lit.exchange.toarray().sum(1)
        assert sums.max() <= ROW_MOST + 1e-5
        solve(lit, [lamp])
        assert np.isfinite(lit.bases[lamp].bounced).all()


def test_whoever_looks_round_in_a_closed_box_sees_all_of_it(empty):
    """Weights add up to one from anywhere, whichever way one faces, patches of that sector or none."""
    grey = dict.fromkeys(("floor_paint", "wall_paint", "ceiling_paint"), (0.5, 0.5, 0.5))
    lamp = Point((120.0, 90.0, 249.0), (0.0, 0.0, -1.0), 1.0)
    lit = prepare(build_scene(empty.but(case=Case(kind="closed box", width=420, depth=260, height=250, **grey), pieces=())), [lamp])
    solve(lit, [lamp])
    rng = np.random.default_rng(4)
    points = rng.uniform([5, 5, 5], [415, 255, 245], (96, 3))
    normals = np.tile(np.concatenate([np.eye(3), -np.eye(3)]), (16, 1))
    total = np.asarray(receivers(lit, points, normals, 4096).weights.sum(1)).ravel()
    assert total == pytest.approx(1.0, abs=0.05)
    assert total.mean() == pytest.approx(1.0, abs=0.004)
