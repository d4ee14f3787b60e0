# SPDX-License-Identifier: MIT
"""Where rays towards light go, and what each of them counts for."""

from dataclasses import replace

import numpy as np
import pytest

from fondale.core.light import loops
from fondale.core.light.aim import Aim
from fondale.core.light.desk import LightDesk
from fondale.core.light.frames import look
from fondale.core.light.gates import Gates
from fondale.core.light.matrices import bearing, lit_by, replaced, sparse_of
from fondale.core.light.odds import arrived, chosen, odds_of
from fondale.core.light.picture import Picture
from fondale.core.light.receivers import received, receivers
from fondale.core.light.solver import prepare, solve
from fondale.core.light.texels import cut_texels, direct_on
from fondale.core.light.weights import FEW, GROUP, weights
from fondale.core.model import Case, Lamp
from fondale.core.model.shapes import Opening, Room
from fondale.core.stage.scene import build_scene
from tests.core.light_scenes import GREY, SCENES, _wall, eye


def solved(name):
    scene, lamp = SCENES[name]()
    lit = prepare(scene, [lamp])
    solve(lit, [lamp])
    return lit, lamp


def test_points_are_drawn_as_often_as_is_told():
    """Wherever they go, their density over all texels is as many as are drawn; each patch gets its number but for one, as they are spread evenly."""
    lit, _lamp = solved("doorway")
    aim, lit_up = lit.aim()
    assert lit_up
    patches, texels = lit.patches, lit.texels
    points, normals = (x[:, 0] for x in patches.samples(np.full((patches.n, 1, 2), 0.5)))
    for low in range(0, patches.n - 2 * GROUP, 8 * GROUP):
        mine = slice(low, low + 2 * GROUP)
        known = aim.known(points[mine], normals[mine])
        drawn = aim.drawn(aim.shares(2, known), 2048, np.random.default_rng(low))
        assert aim.gates is not None
        assert float((aim.gates.each(drawn.gate.shape[1] // 2) * aim.gates.area).sum()) == pytest.approx(drawn.gate.shape[1] / 2)
        assert (drawn.patch == texels.patch[drawn.texel]).all()
        for each, texel, there in zip(drawn.each, drawn.texel, drawn.points, strict=True):
            assert float((each[texels.patch] * aim.dense * texels.area).sum()) == pytest.approx(2048, rel=1e-4)
            found = np.bincount(texels.patch[texel], minlength=patches.n)
            assert (np.abs(found - each) < 2).all()
            flat = texel < texels.flat
            prim = 2 * patches.rect_of[texels.patch[texel[flat]]].astype(np.int32)
            assert (texels.of_hits(prim, there[: len(texel)][flat]) == texel[flat]).mean() > 0.999


def shut(empty, *pieces):
    paints = dict.fromkeys(("floor_paint", "wall_paint", "ceiling_paint"), GREY)
    return build_scene(empty.but(case=Case(kind="closed box", width=420, depth=260, height=250, **paints), pieces=pieces))


PIERCED = {
    "slot": (_wall("w", 420, 210, 150, opening=Opening(x=150, z=80, width=100, height=10)),),
    "arch": (_wall("w", 420, 210, 150, opening=Opening(x=180, width=60, height=90, form="arch")),),
    "gap": (_wall("w", 340, 250, 150),),
    "two": (_wall("a", 340, 170, 110), _wall("b", 340, 250, 170, opening=Opening(x=20, z=20, width=40, height=60))),
    "none": (),
}


@pytest.mark.parametrize("name", PIERCED)
def test_rays_of_all_kinds_find_what_those_by_the_cosine_find(empty, name):
    """Sum by sum: on this side of a wall and beyond it, over many seeds, as nothing but rays by the cosine has it. Each kind must know how often the others go there."""
    scene, lamp = shut(empty, *PIERCED[name]), SCENES["slot"]()[1]
    assert len(scene.gates) == {"slot": 1, "arch": 1, "gap": 1, "two": 3, "none": 0}[name]
    lit = prepare(scene, [lamp])
    solve(lit, [lamp])
    aim, _lit_up = lit.aim()
    assert (aim.gates is None) == (name == "none")
    middles, _normals = lit.texels.points(np.arange(lit.texels.n), np.full((lit.texels.n, 2), 0.5))
    beyond = middles[:, 1] > 150
    rng, k = np.random.default_rng(3), 8
    for _ in range(3):
        point, up = rng.uniform([5, 5, 5], [415, 100, 245]), np.array([[0.0, 1, 0], [1, 0, 0], [0, 0, 1]])[rng.integers(3)]

        def at(which, x, point=point, up=up):
            shape = (len(which), x.shape[1], 3)
            return np.broadcast_to(point, shape), np.broadcast_to(up, shape)

        def sums(around, towards, side, at=at):
            return np.array([weights(aim, k, at, around, towards, seed)[:, side].sum() / k for seed in range(40)])

        for side in (beyond, ~beyond):
            plain, mixed = sums(1024, 0, side), sums(32, 64, side)
            spread = np.hypot(plain.std(), mixed.std()) / np.sqrt(40) + 2e-4
            assert abs(mixed.mean() - plain.mean()) < 4 * spread
            assert spread < 0.02


def test_gates_are_openings_and_gaps_where_they_stand(empty):
    """A turned wall's door in the middle of its thickness, a room's window in its front, and the way past a wall's end; not a wall that shuts."""
    door = _wall("w", 100, 200, 120, turn=90, opening=Opening(x=10, z=5, width=20, height=30), height=80)
    scene = shut(empty, door)
    at = {tuple(np.round(corner + (u + v) / 2, 3)): np.linalg.norm(np.cross(u, v)) for corner, u, v in scene.gates}
    assert at[200.0, 90.0, 20.0] == pytest.approx(20 * 30)  # from its left end at y 70, ten to twenty on
    assert len(at) == 3  # past either end; the ceiling is too far
    room = door.but(
        shape=Room(width=60, depth=40, height=50, openings=(Opening(x=10, z=10, width=20, height=15),)), place=door.place.but(turn_deg=0)
    )
    (corner, u, v) = shut(empty, room).gates[0]
    assert corner + (u + v) / 2 == pytest.approx([190, 101, 17.5])
    assert len(shut(empty, _wall("w", 420, 210, 150)).gates) == 0


def test_points_in_gates_lie_as_evenly_as_they_can():
    """Each 64th, 16th and quarter of a gate has its share of them but for one at either end, and of every other one and every fourth: a patch looks from
    sixteen places, and takes a part of all that are drawn. By chance there would be eight more or less.
    """
    gates = Gates(np.array([[[0.0, 0, 0], [40, 0, 0], [0, 0, 10]], [[100.0, 0, 0], [0, 90, 0], [0, 0, 40]]]), np.ones((2, 2)))
    count, cells = 1536, 8
    gate, points, out, side = gates.drawn(3, count, np.random.default_rng(4))
    want = gates.each(count) * gates.area
    for of_gate, there, facing, of_side in zip(gate, points, out, side, strict=True):
        for k, (corner, u, v) in enumerate(gates.rects):
            for s, sign in enumerate((1.0, -1.0)):
                on = there[(of_gate == k) & (of_side == s)]
                assert abs(len(on) - want[k]) < 2
                assert np.allclose(facing[(of_gate == k) & (of_side == s)], sign * np.cross(u, v) / gates.area[k])
                at = np.stack([(on - corner) @ w / (w @ w) for w in (u, v)], 1)
                assert ((at > 0) & (at < 1)).all()
                for every in (1, 2, 4, 16):
                    for across in (2, 4, cells):
                        cell = (at[::every] * across).astype(int) @ [across, 1]
                        found = np.bincount(cell, minlength=across**2)
                        assert np.abs(found - want[k] / every / across**2).max() < 2


def test_of_many_gates_those_from_dark_to_bright_are_made_use_of(empty):
    """Each costs time with every ray."""
    open_walls = [
        _wall(f"w{k}", 200, 150, 30 + 6 * k, opening=Opening(x=10, width=150, height=120), height=150, thick=2) for k in range(12)
    ]
    scene = shut(empty, *open_walls, *PIERCED["slot"])
    lit = prepare(scene, [SCENES["slot"]()[1]], rays=8)
    solve(lit, [SCENES["slot"]()[1]])
    gates = lit.aim()[0].gates
    assert gates is not None
    assert len(scene.gates) > 12 >= gates.n
    assert any(np.allclose(rect[0], [150, 150, 80]) for rect in gates.rects)


def test_strips_of_light_are_measured_at_their_edges():
    """What a slot of 10 mm lets through is a strip on the floor; by four looks at each texel, 5 mm wide, it was 7 % too bright."""
    scene, lamp = SCENES["slot"]()
    lit = prepare(scene, [lamp], rays=8)
    x, y = np.arange(80, 310) + 0.5, np.arange(85, 115, 0.02) + 0.01
    points = np.stack([*np.meshgrid(x, y, indexing="ij"), np.zeros((len(x), len(y)))], -1).reshape(-1, 3)
    truth = lamp.direct(scene, points, np.tile([0.0, 0.0, 1.0], (len(points), 1))).sum() * 0.02
    for fine, most in ((False, 0.04), (True, 0.015)):
        texels = cut_texels(lit.patches, [lamp], fine)
        middles, normals = texels.points(np.arange(texels.n), np.full((texels.n, 2), 0.5))
        strip = (normals[:, 2] > 0.5) & (middles[:, 2] < 1) & (middles[:, 1] < 145)
        assert float((direct_on(texels, lamp).on * texels.area)[strip].sum()) == pytest.approx(truth, rel=most)


def test_forms_are_cosines_over_the_square_of_the_way():
    rng = np.random.default_rng(4)
    k, looks, r = 6, 4, 5
    points, goals = rng.uniform(0, 200, (k, looks, 3)), rng.uniform(0, 200, (r, looks, 3))
    up, out = (x / np.linalg.norm(x, axis=-1, keepdims=True) for x in (rng.normal(size=(k, looks, 3)), rng.normal(size=(r, looks, 3))))
    to = loops.by_look(*(x.reshape(-1, 3).astype(np.float32) for x in (goals, out)), looks)
    found = np.empty((k, looks * r), np.float32)
    for mine, at, way in zip(found, points.astype(np.float32), up.astype(np.float32), strict=True):
        loops.forms(to, at, way, mine)
    found = found.reshape(k, looks, r).transpose(0, 2, 1)
    for i in range(k):
        for j in range(r):
            for spot in range(looks):
                way = goals[j, spot] - points[i, spot]
                d = np.linalg.norm(way)
                cos = max(0.0, way @ up[i, spot] / d) * max(0.0, -way @ out[j, spot] / d)
                assert found[i, j, spot] == pytest.approx(cos / (np.pi * d**2), rel=1e-3, abs=1e-9)


def test_receivers_that_a_few_rays_light_are_told_from_those_that_many_do():
    """Of n alike rays the light is known as by n; of one bright one among dark ones as by one."""
    even, one = np.full(100, 0.01), np.full(100, 1e-6)
    one[3] = 1.0
    found = sparse_of(
        (np.concatenate([even, one]).astype(np.float32), np.tile(np.arange(100), 2).astype(np.int32), np.array([0, 100, 200])), (2, 100)
    )
    assert bearing(found, np.ones(100, np.float32), 100) == pytest.approx([1.0, 0.01], rel=1e-3)
    assert np.isnan(bearing(found, np.zeros(100, np.float32), 100)).all()  # no light: nothing to ask for
    assert lit_by(found, np.full(100, 2.0)).data == pytest.approx(2 * found.data)
    assert replaced(found, np.array([0]), found[[1]]).toarray() == pytest.approx(np.stack([one, one]), rel=1e-5)


def test_where_a_few_rays_bring_light_more_go_and_most_of_them_arrive():
    """Behind a doorway patches ask again, in the open none does; what is hidden from them is then seldom asked for."""
    scene, lamp = SCENES["doorway"]()
    once, lit = (prepare(scene, [lamp], again=times) for times in (0, 2))
    middles = lit.patches.samples(np.full((lit.patches.n, 1, 2), 0.5))[0][:, 0]
    behind, before = (middles[:, 1] < 140) & ~lit.covered, (middles[:, 1] > 170) & ~lit.covered
    changed = np.array([not np.array_equal(once.weights[[i]].data, lit.weights[[i]].data) for i in range(lit.patches.n)])
    assert changed[behind].mean() > 0.5
    assert changed[before].mean() < 0.1


def test_more_rays_go_the_fewer_bear_the_light_and_nobody_falls_off_an_edge(monkeypatch):
    """The error of so many rays falls as they bear the light. Those just above a bound had one part in eight of the rays of those just below, and so two thirds of all
    noise behind a doorway.
    """
    lit, _lamp = solved("doorway")
    bears = np.array([0.9, 0.5, 0.44, 0.36, 0.3, 0.27, 0.22, 0.18, 0.05])
    monkeypatch.setattr(Aim, "at", lambda _self, _share, points, _normals: bears[: len(points)])
    stand = receivers(lit, np.tile([210.0, 220, 60], (len(bears), 1)), np.tile([0.0, -1, 0], (len(bears), 1)), 64, kept=True)
    times = np.zeros(len(bears))
    for cast in stand.casts:
        times[cast.which] = cast.towards / cast.around
    assert times[0] == 1
    assert times[-1] == 8
    assert (np.diff(times) >= 0).all()
    assert (times[1:] <= 2 * times[:-1]).all()
    wanted = (bears / 0.55) ** -2
    free = (wanted > 1) & (wanted < 8)
    assert (np.abs(np.log2(times / wanted))[free] <= 0.51).all()


def test_where_nothing_is_free_nothing_is_received():
    """An area all of whose floor lies under things has no point of its own."""
    lit, lamp = solved("box")
    for parts in (1, 2):
        assert received(lit, receivers(lit, np.zeros((0, 3)), np.zeros((0, 3)), parts=parts), lamp).shape == (0, 3)


def test_a_first_lamp_is_what_rays_are_aimed_by(empty):
    """A scene that was solved before it had a lamp: its first picture was 20 % off behind a doorway, until it was refined."""
    walls = _wall("w", 420, 210, 150, opening=Opening(x=180, width=60, height=90))
    project, desk = empty.but(case=Case(kind="open box", width=420, depth=260, height=250), pieces=(walls,), lamps=()), LightDesk()
    assert desk.lit(project).aimed == ()
    lamps = tuple(Lamp(id=name, name=name, x=210, y=220, z=z) for name, z in (("a", 240.0), ("b", 200.0)))
    lit = desk.lit(project.but(lamps=lamps[:1]))
    assert len(lit.aimed) == 1
    assert desk.lit(project.but(lamps=lamps)) is lit  # one more is added to what is there


def test_nobody_decides_by_his_own_luck_whether_to_look_again():
    """Who sees that few rays brought him light looks again, who missed the bright spot does not: light fell short by a tenth behind a slot."""
    lit, _lamp = solved("slot")
    aim, _lit_up = lit.aim()
    share = np.full(lit.patches.n, 0.5)
    share[100] = 0.01
    found = aim.around(share)
    assert found[100] == pytest.approx(0.5)
    assert 0 < (found < 0.5).sum() < 30
    share[:] = np.nan
    assert (aim.around(share) == 1.0).all()  # nobody nearby has any light: nothing to look for
    assert (lit.bearing < FEW).mean() > 0.2
    assert (solved("box")[0].bearing >= FEW).all()


def test_hidden_points_are_seldom_asked_for():
    lit, _lamp = solved("doorway")
    aim, _lit_up = lit.aim()
    points, normals = np.array([[60.0, 40.0, 0.1], [70.0, 40.0, 0.1]]), np.tile([0.0, 0.0, 1.0], (2, 1))
    rng = np.random.default_rng(1)
    shares, blind = aim.known(points, normals), replace(aim, gates=None)
    drawn, told = (blind.drawn(blind.shares(1, shares), count, rng) for count in (4096, 2048))
    at, up = points[:, None].astype(np.float32), normals[:, None].astype(np.float32)
    came = []
    for known in (shares, None):
        odds = odds_of(told, known, drawn, at, up, 64, 1024)
        goals = chosen(drawn, odds, at, up, 64, 2, rng)
        came.append(sum(len(number) for _found, number in arrived(lit.texels, goals, np.arange(len(goals.row)))))
    assert came[0] > 2 * came[1]


def test_no_picture_shows_less_than_nothing():
    """Where light falls steeply towards an edge, going on as it falls led below zero."""
    scene, lamp = SCENES["box"]()
    lit = prepare(scene, [lamp], rays=8)
    solve(lit, [lamp])
    light = lit.bases[lamp].bounced
    light[:] = np.random.default_rng(0).random(light.shape) ** 8 * 1000
    picture = Picture(lit, look(scene, eye("box"), 120))
    assert (picture._blending() @ lit.at_nodes({lamp: np.ones(3)})).min() < -1
    assert picture.luminance([lamp], np.ones((1, 3))).min() >= 0


def test_one_bad_neighbour_is_enough_to_look_again():
    """Errors add up by their squares: among seven places whose light many rays bear, one whose light hangs on a single ray decides; and nobody decides by his own."""
    lit, _lamp = solved("box")
    aim, _lit_up = lit.aim()
    share = np.full(lit.patches.n, 0.8)
    share[100] = 0.01
    near = lit.patches.beside
    beside = np.flatnonzero((near == 100).any(1) & (np.arange(len(near)) != 100))
    told = aim.around(share)
    assert (told[beside] < FEW).all()
    assert told[100] == pytest.approx(0.8)
    assert told[np.setdiff1d(np.arange(len(near)), beside)].min() == pytest.approx(0.8)
    assert aim.around(np.full(len(near), np.nan)).min() == 1.0  # where there is no light nothing is lacking


def test_corners_behind_a_doorway_do_not_hang_on_luck():
    """Half of their light comes from a strip on the floor that few rays find: a corner had half or twice its light, by the seed."""
    scene, lamp = SCENES["doorway"]()
    found = []
    for seed in range(3):
        lit = prepare(scene, [lamp], seed=7 + 100 * seed)
        solve(lit, [lamp])
        middles = lit.patches.samples(np.full((lit.patches.n, 1, 2), 0.5))[0][:, 0]
        corners = [np.argmin(np.abs(middles - place).sum(1)) for place in ((0, 137, 11), (420, 137, 11), (420, 137, 239), (0, 137, 239))]
        found.append(lit.bases[lamp].bounced[corners, 1])
    apart = np.std(found, axis=0, ddof=1) / np.mean(found, axis=0)
    assert apart.mean() < 0.15


def test_parts_of_a_meter_know_nothing_of_each_other():
    """How far four parts agree is told as the error: it must be what other seeds show."""
    lit, lamp = solved("doorway")

    point, up = np.array([[300.0, 60.0, 0.0]]), np.array([[0.0, 0.0, 1.0]])
    told, means = [], []
    for seed in range(12):
        parts = received(lit, receivers(lit, point, up, 512, seed=100 + 50 * seed, parts=4), lamp)[:, 1]
        told.append(parts.std(ddof=1) / 2)
        means.append(parts.mean())
    assert 0.5 < np.mean(told) / np.std(means, ddof=1) < 2.0
