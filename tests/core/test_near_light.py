# SPDX-License-Identifier: MIT
"""Light in narrow gaps, a millimetre from walls and right before openings, against plain paths: meters, first and refined."""

from functools import cache

import numpy as np
import pytest

from fondale.core.emitters.point import Point
from fondale.core.light.following import followed
from fondale.core.light.patches import cut_patches
from fondale.core.light.receivers import METER_LIFT_MM, gather, received, receivers, receivers_again
from fondale.core.light.solver import FINE_RAYS, prepare, solve
from fondale.core.stage.moved import moved_between
from fondale.core.stage.scene import MOST_CUT, build_scene
from tests.conftest import boxed, figure
from tests.core.light_scenes import GUIDES, SCENES, _block, _case
from tests.core.paths import by_paths

UP, BACK, FRONT = (0.0, 0.0, 1.0), (0.0, 1.0, 0.0), (0.0, -1.0, 0.0)


@cache
def behind(gap):
    """A block so far before the back wall, and places on the wall behind it."""
    rng = np.random.default_rng(3)
    points = np.stack([rng.uniform(163, 257, 16), np.full(16, 260.0), rng.uniform(2, 118, 16)], 1)
    return (
        _case(_block("b", 100, 40, 120, 210, 240 - gap)),
        Point((300.0, 150.0, 240.0), (0, 0, -1.0), 1.0),
        points,
        np.tile(FRONT, (16, 1)),
    )


@cache
def under(gap):
    """A slab so far over the floor, and places under it."""
    rng = np.random.default_rng(3)
    points = np.stack([rng.uniform(162, 258, 16), rng.uniform(102, 158, 16), np.zeros(16)], 1)
    return _case(_block("b", 100, 60, 40, 210, 130, gap)), Point((300.0, 60.0, 240.0), (0, 0, -1.0), 1.0), points, np.tile(UP, (16, 1))


def first(scene, lamp):
    lit = prepare(scene, [lamp])
    solve(lit, [lamp])
    return lit


def finer(scene, lamp):
    lit = prepare(scene, [lamp], rays=FINE_RAYS, before=first(scene, lamp))
    solve(lit, [lamp])
    return lit


def off(found, truth, sure):
    """How far off each is that the judge is sure of, less what the judge may be: errors of both add up by their squares."""
    good = sure < 0.15 * truth
    assert good.mean() > 0.6
    return np.sqrt(np.maximum(((found - truth)[good] / truth[good]) ** 2 - (sure[good] / truth[good]) ** 2, 0.0))


@pytest.mark.parametrize(("make", "gap"), [(behind, 1.0), (under, 2.0)])
def test_it_is_as_dark_in_a_gap_as_it_is(make, gap):
    scene, lamp, points, normals = make(gap)
    truth, sure = by_paths(scene, lamp, points + normals * METER_LIFT_MM, normals, 80_000)
    early, late = (gather(solved(scene, lamp), [lamp], points, normals)[:, 0, 1] for solved in (first, finer))
    assert early.mean() == pytest.approx(truth.mean(), rel=0.15)  # patches that reach under it give ten times as much
    assert late.mean() == pytest.approx(truth.mean(), rel=0.12)
    assert off(late, truth, sure).mean() < (0.06 if gap > 1 else 0.1)


# A millimetre from a wall, or right before an opening: what patches as wide as 24 mm had 14 to 138 % too bright.
PLACES = {
    "slot": (((200, 147, 0), UP), ((200, 144, 0), UP), ((1, 100, 0), UP), ((200, 100, 0), UP)),
    "kiosk": (((210, 84, 0), UP), ((200, 98, 20), UP), ((149, 130, 0), UP), ((174, 104, 20), UP)),
    "doorway": (((170, 147, 0), UP), ((210, 147, 0), UP), ((185, 147, 0), UP), ((210, 148, 92), FRONT)),
}


@pytest.mark.parametrize("name", PLACES)
def test_a_millimetre_from_walls_it_is_as_light_as_it_is(name):
    scene, lamp = SCENES[name]()
    points, normals = (np.array([place[k] for place in PLACES[name]], float) for k in (0, 1))
    truth, sure = by_paths(scene, lamp, points + normals * METER_LIFT_MM, normals, 100_000, guides=GUIDES[name])
    for solved in (first, finer):
        found = gather(solved(scene, lamp), [lamp], points, normals)[:, 0, 1]
        assert off(found, truth, sure).mean() < 0.06
        assert off(found, truth, sure).max() < 0.12


def test_what_is_near_is_looked_at_there_alone_and_lights_by_every_lamp_alike():
    """Lamps one by one or together, and the parts of a receiver, add up to the same; far from everything nothing is near."""
    scene, lamp = SCENES["slot"]()
    other = Point((100.0, 60.0, 200.0), (0, 0, -1.0), 1.0)
    lit = first(scene, lamp)
    points, normals = np.array([[200.0, 147, 0], [200.0, 60, 0]]), np.array([UP, UP])
    at = receivers(lit, points, normals, 1024, parts=2)
    (close,) = at.near
    assert np.diff(close.share.indptr).astype(bool).tolist() == [True, False, True, False]
    apart = received(lit, at, lamp) + received(lit, at, other)
    both = gather(lit, [lamp, other], points, normals, 1024).sum(1)
    assert apart.reshape(2, 2, 3).mean(0) == pytest.approx(both, rel=0.08)


def test_patches_stay_few_where_much_stands_near_the_floor():
    blocks = [_block(f"b{k}", 20, 20, 20, 30 + 40 * (k % 9), 30 + 40 * (k // 9), 2.0) for k in range(36)]
    scene = _case(*blocks)
    floors = [len(s) * len(t) for s, t in scene.cuts]
    assert max(floors) <= MOST_CUT
    assert cut_patches(scene, 24.0).n < 20_000


def test_what_is_near_a_meter_follows_what_moves(empty):
    """A figure walks past a meter at a wall, and right up to it: no further off than few looks are."""
    scene = lambda x, y: build_scene(boxed(empty, figure("a", x, y)))  # noqa: E731
    lamp, ways = Point((150.0, 60.0, 190.0), (0, 0, -1.0), 1.0), [(100.0, 60.0), (112.0, 64.0), (40.0, 75.0), (16.0, 75.0)]
    lit = first(scene(*ways[0]), lamp)
    point, normal = np.array([[1.0, 75.0, 0.0], [200.0, 60.0, 0.0]]), np.array([UP, UP])
    stand = receivers(lit, point, normal, parts=2, kept=True)
    for way in ways[1:]:
        lit = followed(lit, scene(*way), [lamp])
        stand = receivers_again(stand, lit, moved_between(stand.scene, lit.scene), point, normal, parts=2)
        fresh = gather(first(scene(*way), lamp), [lamp], point, normal, 16_384)[:, 0, 1]
        found = received(lit, stand, lamp)[:, 1].reshape(2, 2).mean(0)
        assert stand.near
        assert found == pytest.approx(fresh, rel=0.06)


def test_no_light_is_less_than_none():
    """Deep in a gap, where nearly nothing comes, whatever rays find."""
    scene, lamp, points, normals = under(1.0)
    for seed in (11, 111):
        assert gather(first(scene, lamp), [lamp], points, normals, 256, seed=seed).min() >= 0.0
