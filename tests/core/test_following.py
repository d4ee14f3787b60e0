# SPDX-License-Identifier: MIT
"""A solved scene follows what moves in it, and says what a fresh one says."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fondale.core.emitters.point import Point
from fondale.core.light.desk import LightDesk
from fondale.core.light.following import MOST_GONE, followed
from fondale.core.light.frames import look
from fondale.core.light.nodes import Nodes
from fondale.core.light.patches import trace
from fondale.core.light.picture import Picture
from fondale.core.light.receivers import METER_LIFT_MM, received, receivers, receivers_again
from fondale.core.light.solver import RAYS, prepare, solve
from fondale.core.model import Lamp, Piece, Place, Seat
from fondale.core.model.shapes import Cylinder, Glass, Opening
from fondale.core.progress import Cancelled, Quiet
from fondale.core.rays import FastRays
from fondale.core.stage.moved import Moved, moved_between
from fondale.core.stage.scene import build_scene
from tests.conftest import boxed, figure
from tests.core.light_scenes import _wall

DOWN = (0.0, 0.0, -1.0)
MIRROR = Piece(id="m", name="M", shape=Glass(width=120, height=120, made="glass mirror"), place=Place(x=60, y=190, z=10), role="scenery")
DOOR = _wall("w", 300, 150, 110, opening=Opening(x=120, width=60, height=90), height=200)
SIDE = MIRROR.but(id="n", name="N", shape=Glass(width=160, height=120, made="mirror acrylic"), place=Place(x=10, y=110, z=10, turn_deg=90))
KINDS = {"open": (), "mirrors": (MIRROR, SIDE), "door": (DOOR,)}
TUB = Cylinder(diameter=60, length=20)  # of what stands beneath it, it covers all
LAMP = Point((150.0, 60.0, 190.0), DOWN, 1.0)
LOW = Point((150.0, 8.0, 40.0), (0.0, 1.0, 0.0), 1.0)  # the figure goes between it and the mirror at the back


def at(empty, x, y, kind="open", **more):
    return build_scene(boxed(empty, figure("a", x, y, **more), *KINDS[kind]))


FEW = 32  # rays of a patch, where it does not matter how many


def walked(empty, kind, *places, seed=7, emitter=LAMP, rays=RAYS):
    """The light after a figure has gone from place to place."""
    lit = prepare(at(empty, *places[0], kind), [emitter], rays=rays, seed=seed)
    solve(lit, [emitter])
    for place in places[1:]:
        lit = followed(lit, at(empty, *place, kind), [emitter])
        assert lit is not None
    return lit


WAY = ((100.0, 60.0), (112.0, 64.0), (180.0, 70.0), (170.0, 40.0), (150.0, 75.0))


@pytest.mark.parametrize("kind", KINDS)
def test_after_a_walk_it_is_as_good_as_a_fresh_one(empty, kind):
    """Bounced light on every patch against that of many more rays: no worse than what a scene says that was solved where the figure stands at last."""
    true = prepare(at(empty, *WAY[-1], kind), [LAMP], rays=2048, again=0)
    solve(true, [LAMP])
    wanted = true.bases[LAMP].bounced[:, 1]

    def off(lit):
        solve(lit, [LAMP])
        lit_up = (wanted > 0.01 * wanted.max()) & ~true.covered
        found = lit.bases[LAMP].bounced[:, 1]
        return float((np.abs(found - wanted) * true.patches.area)[lit_up].sum() / (wanted * true.patches.area)[lit_up].sum()), found

    walks, fresh = [], []
    for seed in (1, 2):
        walks.append(off(walked(empty, kind, *WAY, seed=seed)))
        fresh.append(off(prepare(at(empty, *WAY[-1], kind), [LAMP], seed=seed)))
    assert np.mean([e for e, _f in walks]) < 1.25 * np.mean([e for e, _f in fresh]) + 0.002
    whole = float((wanted * true.patches.area).sum())
    for _error, found in walks:
        assert float((found * true.patches.area).sum()) == pytest.approx(whole, rel=0.01)


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("lamp", [LAMP, LOW], ids=["above", "behind"])
def test_what_comes_straight_and_what_mirrors_throw_is_that_of_a_fresh_one(empty, kind, lamp):
    moved, fresh = walked(empty, kind, *WAY, emitter=lamp, rays=FEW), prepare(at(empty, *WAY[-1], kind), [lamp], rays=FEW)
    solve(fresh, [lamp])
    one, other = moved.bases[lamp], fresh.bases[lamp]
    assert one.thrown == pytest.approx(other.thrown, rel=1e-4, abs=1e-6 * max(other.thrown.max(), 1.0))
    assert (moved.covered == fresh.covered).all()
    count, grid = fresh.patches.rect_patches, (np.indices((40, 40)).reshape(2, -1).T + 0.5) / 40
    points, normals = (x.reshape(-1, 3) for x in fresh.patches.samples_of(np.arange(count), np.repeat(grid[None], count, axis=0)))
    true = lamp.direct(fresh.scene, points, normals).reshape(count, -1).mean(1)
    true[fresh.covered[:count]] = 0.0
    off, as_ever = (float(np.abs(basis.direct[:count] - true).mean() / true.mean()) for basis in (one, other))
    assert off < 1.1 * as_ever + 0.0005
    on_it = other.direct[count:] > 0.02 * other.direct.max()
    assert one.direct[count:][on_it] == pytest.approx(other.direct[count:][on_it], rel=1e-3)


def test_only_what_met_it_is_sent_again(empty):
    """Most of what was found stays as it was, to the last digit, and what the figure itself sends is new."""
    before = prepare(at(empty, 40.0, 150.0), [LAMP])
    solve(before, [LAMP])
    after = followed(before, at(empty, 46.0, 150.0), [LAMP])
    assert after is not None
    same = [np.array_equal(before.weights[[i]].toarray(), after.weights[[i]].toarray()) for i in range(before.patches.rect_patches)]
    assert 0.2 < np.mean(same) < 0.95
    kept = sum(float(np.minimum(a.data.sum(), b.data.sum())) for a, b in zip(before.weights, after.weights, strict=True))
    assert kept > 0.9 * float(before.weights.sum())


@pytest.mark.parametrize("kind", KINDS)
def test_rays_that_were_left_would_have_come_to_the_same(empty, kind):
    """All rays that were ever sent, cast again where the figure stands at last: each brings what is told of it, and none is missing."""
    lit = walked(empty, kind, *WAY, rays=FEW)
    newest, told = np.full(lit.patches.n, -1), 0
    for number, cast in enumerate(lit.casts):
        newest[cast.which] = number
    for number, cast in enumerate(lit.casts):
        told += same_if_all_were_cast(lit, cast, newest[cast.which] == number)
    assert told > 0.9 * lit.weights.nnz


def same_if_all_were_cast(lit, cast, alive):
    """Compares what rays of receivers that are ``alive`` brought with what they bring when each of them is cast again; how many did."""
    goals = cast.goals
    assert goals is not None
    asked = np.flatnonzero((goals.texel < 0) | ~lit.since.gone[goals.texel])
    met = trace(lit.scene, cast.start, cast.facing, cast.ways)
    every = cast.found(met, np.arange(len(cast.start)), asked).entries

    def ordered(entries):
        mine = alive[entries.row]
        order = np.lexsort((entries.texel[mine], entries.ray[mine]))
        return [getattr(entries, name)[mine][order] for name in ("row", "texel", "ray", "value")]

    one, other = ordered(cast.entries), ordered(every)
    for a, b in zip(one[:3], other[:3], strict=True):
        assert np.array_equal(a, b)
    assert one[3] == pytest.approx(other[3], rel=1e-4, abs=1e-9)
    return len(one[0])


GRID = np.stack([*(x.ravel() for x in np.meshgrid(np.linspace(20, 280, 14), np.linspace(15, 185, 9))), np.zeros(126)], 1)
UP = np.tile([0.0, 0.0, 1.0], (126, 1))


@pytest.mark.parametrize("kind", KINDS)
def test_receivers_follow_as_patches_do(empty, kind):
    """A tub goes its way over a floor full of meters, of which some are taken away and come back. Rays that were left would have come to the same, and what
    is received is as near to the truth as what fresh meters say.
    """
    true = prepare(at(empty, *WAY[-1], kind, shape=TUB), [LAMP])
    solve(true, [LAMP])
    wanted = received(true, receivers(true, GRID, UP, 8192), LAMP)[:, 1]
    walks, fresh = [], []
    for seed in (1, 2):
        lit = prepare(at(empty, *WAY[0], kind, shape=TUB), [LAMP], seed=seed)
        solve(lit, [LAMP])
        stand, number = receivers(lit, GRID[::2], UP[::2], 256, parts=2, kept=True), np.arange(0, 126, 2)
        for k, place in enumerate(WAY[1:]):
            lit = followed(lit, at(empty, *place, kind, shape=TUB), [LAMP])
            moved = moved_between(stand.scene, lit.scene)
            number = np.arange(k % 2, 126, 2) if k == 1 else np.arange(126)
            stand = receivers_again(stand, lit, moved, GRID[number], UP[number], 256, parts=2)
        assert stand.points[:126] == pytest.approx(GRID + UP * METER_LIFT_MM)
        told = sum(same_if_all_were_cast(lit, cast, cast.which >= 0) for cast in stand.casts)
        assert told > 0.9 * stand.weights.nnz
        assert np.unique(np.concatenate([cast.which[cast.which >= 0] for cast in stand.casts])).tolist() == list(range(252))
        walks.append(np.abs(received(lit, stand, LAMP)[:, 1].reshape(2, -1).mean(0) - wanted))
        solve(true, [LAMP])
        fresh.append(np.abs(received(true, receivers(true, GRID, UP, 256, seed=seed, parts=2), LAMP)[:, 1].reshape(2, -1).mean(0) - wanted))
    free = wanted > 0.02 * wanted.max()
    assert np.mean(np.array(walks)[:, free] / wanted[free]) < 1.3 * np.mean(np.array(fresh)[:, free] / wanted[free]) + 0.003


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("eye", [(150.0, -400.0, 120.0), (60.0, -30.0, 180.0)], ids=["afar", "near"])
def test_a_picture_follows_and_is_that_of_a_fresh_look(empty, kind, eye):
    """Pixel by pixel, with its edges, its shadows and what mirrors show."""
    assert off_a_fresh_look(empty, kind, np.array(eye), {}) < 1e-4


@pytest.mark.parametrize("eye", [(150.0, -400.0, 120.0), (100.0, -60.0, 30.0)], ids=["afar", "low"])
def test_a_floor_is_bright_again_where_something_stood_on_it(empty, eye):
    assert off_a_fresh_look(empty, "open", np.array(eye), {"shape": TUB}) < 1e-4


def off_a_fresh_look(empty, kind, eye, more):
    """How far, as a share, a picture that has followed is off one that looks anew, at the worst pixel of all steps of the way."""
    worst = 0.0
    lit = prepare(at(empty, *WAY[0], kind, **more), [LAMP], rays=FEW)
    solve(lit, [LAMP, LOW])
    picture, power = Picture(lit, look(lit.scene, eye, 120)), np.ones((2, 3))
    picture.luminance([LAMP, LOW], power)
    for place in WAY[1:]:
        lit = followed(lit, at(empty, *place, kind, **more), [LAMP, LOW])
        moved = moved_between(picture.lit.scene, lit.scene)
        picture = picture.again(lit, moved)
        fresh = Picture(lit, look(lit.scene, eye, 120, picture.frame.window))
        assert np.array_equal(picture.frame.prim, fresh.frame.prim)
        assert np.array_equal(picture.frame.pixel, fresh.frame.pixel)
        assert picture.frame.share == pytest.approx(fresh.frame.share)
        assert picture.frame.point == pytest.approx(fresh.frame.point, abs=1e-3)
        assert picture.frame.normal == pytest.approx(fresh.frame.normal, abs=1e-5)
        told, true = picture.luminance([LAMP, LOW], power), fresh.luminance([LAMP, LOW], power)
        assert true.max() > 0
        worst = max(worst, float((np.abs(told - true) / np.maximum(true, 0.01 * true.max())).max()))
    return worst


def test_nodes_follow_and_are_those_of_what_is_covered_now(empty):
    """The fits that were best stay so but near where it stands or stood, and all weights are what they would be if they were made anew."""
    lit = prepare(at(empty, *WAY[0], "open", shape=TUB), [LAMP])
    solve(lit, [LAMP])
    lit.nodes()
    first = lit._at_nodes[1]
    assert len(np.unique(first)) > 1
    for place in WAY[1:]:
        lit = followed(lit, at(empty, *place, "open", shape=TUB), [LAMP])
        best = lit._at_nodes[1]
        assert np.array_equal(lit.nodes().adds, Nodes(lit.patches, lit.covered).bent(lit._fall(), best).adds)
        assert (best == first).mean() > 0.7
    lit.bases[LOW] = lit.bases[LAMP]  # with another lamp others may be best
    lit.nodes()
    assert lit._at_nodes[0] == (LAMP, LOW)


def test_where_a_case_has_no_walls_the_picture_shows_who_walks_out_of_it(empty):
    """What stands there decides how much is shown: a picture that followed must not go on showing what it did."""
    lamps = (Lamp(id="l", name="L", x=150, y=60, z=190),)

    def project(x):
        base = boxed(empty, figure("a", x, 100), figure("b", 60, 100), kind="open base")
        return base.but(lamps=lamps, seats=(Seat(id="s", name="S"),))

    desk = LightDesk()
    before = desk.picture(project(150), "s", 200).frame.window
    after = desk.picture(project(420), "s", 200)
    assert after.lit.since is not None
    assert after.frame.window == LightDesk().picture(project(420), "s", 200).frame.window
    assert after.frame.window != before


@pytest.mark.parametrize("step", [2.0, 60.0])
def test_a_picture_that_follows_casts_few_rays(empty, step):
    cast = []

    class Counted(FastRays):
        def hit(self, origins, ways):
            cast.append(len(origins))
            return super().hit(origins, ways)

        def blocked(self, origins, targets):
            cast.append(len(origins))
            return super().blocked(origins, targets)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("fondale.core.rays.FastRays", Counted)
        lit = walked(empty, "door", WAY[0])
        picture = Picture(lit, look(lit.scene, np.array([150.0, -400.0, 120.0]), 200))
        picture.luminance([LAMP], np.ones((1, 3)))
        lit = followed(lit, at(empty, WAY[0][0] + step, WAY[0][1], "door"), [LAMP])
        moved = moved_between(picture.lit.scene, lit.scene)
        cast.clear()
        picture.again(lit, moved)
        few = sum(cast)
        cast.clear()
        Picture(lit, look(lit.scene, picture.frame.eye, 200)).luminance([LAMP], np.ones((1, 3)))
        assert 0 < few < 0.3 * sum(cast)


def test_what_it_sees_of_the_figure_is_right_on_an_average(empty):
    """Rays that meet the figure count as if nothing had been asked for of it: over many seeds its share in what comes to the floor is that of a fresh scene."""

    def share(lit):
        on_it = lit.texels.patch >= lit.patches.rect_patches
        near = np.flatnonzero(~lit.covered[: lit.patches.rect_patches])
        return float(np.asarray(lit.weights[near][:, on_it].sum(1)).mean())

    walks = [share(walked(empty, "open", *WAY, seed=s)) for s in range(12)]
    fresh = []
    for s in range(12):
        lit = prepare(at(empty, *WAY[-1]), [LAMP], seed=100 + s)
        fresh.append(share(lit))
    spread = np.hypot(np.std(walks), np.std(fresh)) / np.sqrt(12)
    assert abs(np.mean(walks) - np.mean(fresh)) < 4 * spread + 1e-5
    assert np.mean(fresh) > 20 * spread


def test_what_moves_in_the_air_touches_no_face_and_is_followed(empty):
    """Nothing of the case lies near it: to ask what it covers there broke."""

    def hung(x):
        piece = figure("a", x, 70.0)
        return build_scene(boxed(empty, piece.but(place=piece.place.but(z=70.0))))

    lit = prepare(hung(120.0), [LAMP])
    solve(lit, [LAMP])
    after = followed(lit, hung(126.0), [LAMP])
    assert after is not None
    assert not after.covered.any()


def test_whatever_else_changes_begins_anew(empty):
    before = prepare(at(empty, 100.0, 100.0, "door"), [LAMP])
    solve(before, [LAMP])
    assert followed(before, at(empty, 110.0, 100.0, "open"), [LAMP]) is None  # the wall is gone
    assert followed(before, at(empty, 100.0, 100.0, "door", mm=60.0), [LAMP]) is None  # it has grown
    assert followed(before, at(empty, 110.0, 100.0, "door", paint=(0.9, 0.1, 0.1)), [LAMP]) is None  # it is painted
    assert followed(before, before.scene, [LAMP]) is None
    fine = prepare(before.scene, [LAMP], rays=64, before=before)
    assert followed(fine, at(empty, 110.0, 100.0, "door"), [LAMP]) is None  # its rays are not kept
    crowd = [figure(f"f{k}", 30 + 30 * k, 100) for k in range(MOST_GONE + 1)]
    lit = prepare(build_scene(boxed(empty, *crowd)), [LAMP])
    for k, one in enumerate(crowd):
        crowd[k] = one.but(place=one.place.but(y=130.0))
        lit = followed(lit, build_scene(boxed(empty, *crowd)), [LAMP])
        assert (lit is None) == (k == MOST_GONE)


def test_where_all_that_touches_it_looks_harder_it_is_followed_too(empty):
    """In the dark behind a doorway no patch about it may be of those that send few rays."""
    lit = prepare(at(empty, 100.0, 60.0, "door"), [Point((150.0, 180.0, 190.0), DOWN, 1.0)])
    lit.bearing[:] = 0.0
    lit.covered[:] = False
    assert any(cast.aim.seen is not None for cast in lit.casts)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("fondale.core.light.following.covered", lambda patches, some: np.zeros(patches.n, bool))
        assert followed(lit, at(empty, 104.0, 60.0, "door"), []) is not None


def test_a_desk_follows_a_figure_and_no_wall(empty):
    lamps = (Lamp(id="l", name="L", x=150, y=60, z=190),)

    def project(x, *more):
        return boxed(empty, figure("a", x, 100), *more).but(lamps=lamps)

    desk = LightDesk()
    desk.lit(project(100))
    assert desk.lit(project(110)).since is not None
    assert desk.lit(project(110)).since is not None
    assert desk.lit(project(110, DOOR)).since is None
    lit = desk.lit(project(120, DOOR))
    assert lit.since is not None
    assert desk.lit(project(120, DOOR).but(lamps=(*lamps, Lamp(id="k", name="K", x=60, y=60, z=190)))) is lit
    assert desk.lit(project(125, DOOR).but(lamps=(*lamps, Lamp(id="k", name="K", x=60, y=60, z=190)))).bases.keys() >= lit.bases.keys()


def test_a_step_that_is_broken_off_leaves_what_it_goes_on_from(empty):
    class Stopped(Quiet):
        def step(self, share, words):
            raise Cancelled

    lamps = (Lamp(id="l", name="L", x=150, y=60, z=190),)
    desk = LightDesk()
    desk.lit(boxed(empty, figure("a", 100, 100)).but(lamps=lamps))
    with pytest.raises(Cancelled):
        desk.lit(boxed(empty, figure("a", 104, 100)).but(lamps=lamps), Stopped())
    assert desk.lit(boxed(empty, figure("a", 108, 100)).but(lamps=lamps)).since is not None


def test_scenes_are_compared_body_by_body(empty):
    one, other = at(empty, 100.0, 100.0), at(empty, 120.0, 100.0)
    found = moved_between(one, other)
    assert found is not None
    assert found.tris.all()
    (low, high), (low_2, _high_2) = found.boxes
    near = moved_between(one, at(empty, 102.0, 100.0))
    assert near is not None
    assert near.boxes[0] == pytest.approx(np.stack([low, high + np.array([2, 0, 0])]))
    assert low_2 - low == pytest.approx([20, 0, 0], abs=1e-6)
    assert low[2] == pytest.approx(0.0, abs=0.1)
    assert (high - low)[2] == pytest.approx(50.0, rel=0.1)


numbers = st.floats(-200, 200)
vectors = st.tuples(numbers, numbers, numbers)


@given(low=vectors, size=st.tuples(*[st.floats(1, 150)] * 3), begin=vectors, end=vectors)
@settings(max_examples=200, deadline=None)
def test_a_way_crosses_a_box_where_points_of_it_lie_inside(low, size, begin, end):
    low, size, begin, end = (np.array(x, np.float32) for x in (low, size, begin, end))
    points = begin + np.linspace(0, 1, 4001)[:, None] * (end - begin)
    deep = ((points > low + 0.2) & (points < low + size - 0.2)).all(1).any()
    outside = ~((points > low - 0.2) & (points < low + size + 0.2)).all(1).any()
    moved = Moved(np.stack([low, low + size])[None], np.zeros(0, bool))
    found = bool(moved.crossed(begin[None], (end - begin)[None], np.ones(1))[0])
    if deep:
        assert found
    if outside:
        assert not found
    assert bool(moved.between(end, begin[None])[0]) == bool(moved.crossed(end[None], (begin - end)[None], np.ones(1))[0])
    grown = moved.between(end, begin[None], 5.0)[0]
    if ((points > low - 4.8) & (points < low + size + 4.8)).all(1).any():
        assert grown
