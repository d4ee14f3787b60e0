"""Where rays towards light go, and what each of them counts for."""

from dataclasses import replace

import numpy as np
import pytest

from fondale.core.light.blending import blending
from fondale.core.light.picture import Picture, look
from fondale.core.light.solver import prepare, receivers, solve
from fondale.core.light.weights import GROUP, Drawn, _asked, _forms, _matrix, _some, few, lit_by, replaced
from tests.core.light_scenes import SCENES, eye


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
    for low in range(0, patches.n - GROUP, 4 * GROUP):
        drawn = aim.drawn(points[low : low + GROUP], normals[low : low + GROUP], 2048, np.random.default_rng(low))
        assert float((drawn.each[texels.patch] * aim.dense * texels.area).sum()) == pytest.approx(2048, rel=1e-4)
        found = np.bincount(texels.patch[drawn.texel], minlength=patches.n)
        assert (np.abs(found - drawn.each) < 2).all()
        flat = drawn.texel < texels.flat
        prim = 2 * patches.rect_of[texels.patch[drawn.texel[flat]]].astype(np.int32)
        assert (texels.of_hits(prim, drawn.points[flat]) == drawn.texel[flat]).mean() > 0.999


def test_those_asked_for_stand_for_all_of_them():
    """Whichever some are chosen: on the mean of many choices their values add up to what all have, light or none."""
    rng = np.random.default_rng(2)
    value = (rng.random((5, 400)) ** 6).astype(np.float32)
    value[:, ::3] = 0
    shine = (rng.random(400) > 0.4).astype(np.float32) * 3
    total, count = np.zeros((5, 400)), 3000
    for _ in range(count):
        live, stands_for = _some(value, shine, 40, rng)
        assert abs(len(live) - 200) <= 90  # values that are sure to be asked take none of the others' places
        np.add.at(total.reshape(-1), live, stands_for)
    assert total.sum(1) / count == pytest.approx(value.sum(1), rel=0.01)
    for some in (shine > 0, shine == 0):
        assert total[:, some].sum(1) / count == pytest.approx(value[:, some].sum(1), rel=0.05)


def test_forms_are_cosines_over_the_square_of_the_way():
    rng = np.random.default_rng(4)
    k, looks, r = 6, 4, 5
    points, goals = rng.uniform(0, 200, (k, looks, 3)), rng.uniform(0, 200, (r, looks, 3))
    up, out = (x / np.linalg.norm(x, axis=-1, keepdims=True) for x in (rng.normal(size=(k, looks, 3)), rng.normal(size=(r, looks, 3))))
    drawn = Drawn(None, np.zeros(3), None, np.zeros(0, np.float32), np.zeros(r * looks, int), goals.reshape(-1, 3), out.reshape(-1, 3))
    found = _forms(points, up, *drawn.by_look(looks))
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
    found = _matrix(
        (np.concatenate([even, one]).astype(np.float32), np.tile(np.arange(100), 2).astype(np.int32), np.array([0, 100, 200])), (2, 100)
    )
    assert few(found, np.ones(100, np.float32), 100).tolist() == [1]
    dark = np.zeros(100, np.float32)
    assert few(found, dark, 100).tolist() == []  # no light: nothing to ask for
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


def test_hidden_points_are_seldom_asked_for():
    lit, _lamp = solved("doorway")
    aim, _lit_up = lit.aim()
    points, normals = np.array([[60.0, 40.0, 0.1], [70.0, 40.0, 0.1]]), np.tile([0.0, 0.0, 1.0], (2, 1))
    rng = np.random.default_rng(1)
    drawn = aim.drawn(points, normals, 4096, rng)
    arrived = []
    for known in (drawn.known, None):
        row, _texel, _value = _asked(replace(drawn, known=known), drawn.by_look(1), points[:, None], normals[:, None], 64, 1024, rng)
        arrived.append(len(row))
    assert arrived[0] > 2 * arrived[1]


def test_light_goes_on_to_the_edges_of_a_face_as_it_falls():
    """Light that changes evenly over a face is shown so up to its edges; it was level from the outermost middles on."""
    scene, _lamp = SCENES["box"]()
    lit = prepare(scene, rays=8)
    patches = lit.patches
    middles = patches.samples(np.full((patches.n, 1, 2), 0.5))[0][:, 0]
    light = 100 + middles @ np.array([0.3, -0.2, 0.1])
    for r in range(len(scene.rects)):
        if patches.s_count[r] < 2 or patches.t_count[r] < 2:
            continue
        x = np.random.default_rng(r).random((50, 2))
        points = scene.rects[r, 0] + x[:, :1] * scene.rects[r, 1] + x[:, 1:] * scene.rects[r, 2]
        blend = blending(patches, np.zeros(patches.n, bool), np.full(50, 2 * r, np.int32), points, scene.normal[np.full(50, 2 * r)])
        assert blend @ light == pytest.approx(100 + points @ np.array([0.3, -0.2, 0.1]), rel=1e-4)
    # Where a neighbour is shut in, there is no slope, and nothing is ever told by a share below none.
    shut = np.random.default_rng(0).random(patches.n) < 0.4
    points = scene.rects[0, 0] + 0.001 * (scene.rects[0, 1] + scene.rects[0, 2])
    some = blending(patches, shut, np.zeros(1, np.int32), points[None], scene.normal[:1])
    assert some.sum() == pytest.approx(1.0, abs=1e-5)


def test_no_picture_shows_less_than_nothing():
    """Where light falls steeply towards an edge, going on as it falls led below zero."""
    scene, lamp = SCENES["box"]()
    lit = prepare(scene, [lamp], rays=8)
    solve(lit, [lamp])
    light = lit.bases[lamp].bounced
    light[:] = np.random.default_rng(0).random(light.shape) ** 8 * 1000
    picture = Picture(lit, look(scene, eye("box"), 120))
    assert (picture._blending() @ light).min() < -1
    assert picture.luminance([lamp], np.ones((1, 3))).min() >= 0


def test_parts_of_a_meter_know_nothing_of_each_other():
    """How far four parts agree is told as the error: it must be what other seeds show."""
    lit, lamp = solved("doorway")
    from fondale.core.light.solver import received

    point, up = np.array([[300.0, 60.0, 0.0]]), np.array([[0.0, 0.0, 1.0]])
    told, means = [], []
    for seed in range(12):
        parts = received(lit, receivers(lit, point, up, 512, seed=100 + 50 * seed, parts=4), lamp)[:, 1]
        told.append(parts.std(ddof=1) / 2)
        means.append(parts.mean())
    assert 0.5 < np.mean(told) / np.std(means, ddof=1) < 2.0


def test_what_is_asked_for_agrees_with_all_of_it():
    """A receiver that asks for a few of its points gets what it would get of all of them."""
    lit, _lamp = solved("kiosk")
    aim, _lit_up = lit.aim()
    points, normals = np.array([[60.0, 60.0, 0.1], [330.0, 40.0, 0.1]]), np.tile([0.0, 0.0, 1.0], (2, 1))
    drawn = aim.drawn(points, normals, 4096, np.random.default_rng(1))
    light = []
    for towards, times in ((128, 60), (4096, 1)):
        found = np.zeros(2)
        for seed in range(times):
            row, texel, value = _asked(drawn, drawn.by_look(1), points[:, None], normals[:, None], 64, towards, np.random.default_rng(seed))
            found += np.bincount(row, value * aim.shine[texel], 2) / times
        light.append(found)
    assert light[0] == pytest.approx(light[1], rel=0.08)
