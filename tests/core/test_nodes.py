# SPDX-License-Identifier: MIT
"""Bounced light between the middles of patches: as it falls, never across a wall, and with less noise."""

import numpy as np
import pytest

from fondale.core.light.blending import blending
from fondale.core.light.casts import halves_of
from fondale.core.light.nodes import FITS, Nodes
from fondale.core.light.solver import FINE_RAYS, covered, prepare, solve
from tests.core.light_scenes import SCENES, _case, _wall


def bare(scene):
    """Patches of a scene, their middles, and which are covered, without any light."""
    patches = prepare(scene, rays=4).patches
    return patches, patches.samples(np.full((patches.n, 1, 2), 0.5))[0][:, 0], covered(patches)


def flat(patches):
    """Light that falls nowhere, so that nothing is held back."""
    return np.ones(patches.n)


def shown(patches, nodes, rect, points):
    """The weights of patches in the light at points of a rectangle."""
    prim = np.full(len(points), 2 * rect, np.int32)
    return blending(patches, prim, points, patches.scene.normal[prim]) @ nodes


def on(scene, rect, count, seed):
    x = np.random.default_rng(seed).random((count, 2))
    return scene.rects[rect, 0] + x[:, :1] * scene.rects[rect, 1] + x[:, 1:] * scene.rects[rect, 2]


def large(patches, most=4):
    return [r for r in range(len(patches.base)) if min(patches.s_count[r], patches.t_count[r]) >= most]


def test_light_goes_on_to_the_edges_of_a_face_as_it_falls():
    """Light that changes evenly over a face is shown so up to its edges, whatever fit is best."""
    scene, _lamp = SCENES["box"]()
    patches, middles, shut = bare(scene)
    nodes, fall = Nodes(patches, shut), np.array([0.3, -0.2, 0.1])
    for number in range(len(FITS)):
        weights = nodes.bent(flat(patches), np.full(patches.rect_patches, number)).matrix()
        for r in large(patches, 2):
            points = on(scene, r, 50, r)
            assert shown(patches, weights, r, points) @ (100 + middles @ fall) == pytest.approx(100 + points @ fall, rel=1e-4)


def test_light_that_bends_is_shown_bent():
    """Between nodes it follows a chord over half a patch, which is off by a quarter of what one over a patch is."""
    scene, _lamp = SCENES["box"]()
    patches, middles, shut = bare(scene)
    weights = Nodes(patches, shut).bent(flat(patches)).matrix()

    def light(at):
        return 100 + 0.002 * ((at - [200, 130, 120]) ** 2).sum(1)

    chord = 2 * (0.002 * 2) * 24**2 / 8  # in two directions, at its worst
    for r in large(patches):
        points = on(scene, r, 200, r)
        off = shown(patches, weights, r, points) @ light(middles) - light(points)
        assert np.abs(off).max() < 0.3 * chord


def test_no_light_is_told_across_a_wall_or_by_what_is_covered():
    """A wall stands on the floor: what lies behind it says nothing of what lies before it, and what it covers nothing of either."""
    scene = _case(_wall("w", 420, 210, 150))
    patches, middles, shut = bare(scene)
    assert shut.any()
    light = np.where(shut, 1e9, np.where(middles[:, 1] < 150, 1.0, 1e6))
    nodes = Nodes(patches, shut)
    tried = 0
    for number in range(len(FITS)):
        weights = nodes.bent(flat(patches), np.full(patches.rect_patches, number)).matrix()
        for r in large(patches):
            points = on(scene, r, 300, r)
            points = points[(np.abs(points[:, 1] - 150) > 2.01)]
            before = points[points[:, 1] < 150]
            if len(before) and np.ptp(points[:, 1]) > 100:
                tried += 1
                assert shown(patches, weights, r, before) @ light == pytest.approx(np.ones(len(before)), abs=1e-3)
    assert tried >= 2 * len(FITS)


def test_beside_a_steep_rise_it_is_no_darker_than_before_it():
    """A polynomial through a steep rise swings below what lies before it: beside a doorway there was a dark spot on the floor."""
    scene, _lamp = SCENES["box"]()
    patches, middles, shut = bare(scene)
    light = np.where(middles[:, 0] < 200, 1.0, 100.0)
    weights = Nodes(patches, shut).bent(light).matrix()
    for r in large(patches):
        points = on(scene, r, 300, r)
        if np.ptp(points[:, 0]) > 200:
            seen = shown(patches, weights, r, points) @ light
            inner = (points > [30, 30, 30]) | (scene.normal[2 * r] != 0)
            inner &= (points < [390, 230, 220]) | (scene.normal[2 * r] != 0)
            assert seen[inner.all(1)].min() > 0.99
            assert seen[inner.all(1)].max() < 101
            assert seen.min() > 0.49
            assert seen.max() < 201


@pytest.mark.parametrize("share", [0.1, 0.4, 0.8])
def test_whatever_is_covered_all_tell_together_as_much_as_there_is(share):
    scene, _lamp = SCENES["box"]()
    patches, _middles, _shut = bare(scene)
    shut = np.random.default_rng(1).random(patches.n) < share
    weights = Nodes(patches, shut).bent(flat(patches)).matrix()
    assert np.asarray(weights.sum(1)).ravel() == pytest.approx(np.ones(weights.shape[0]), abs=1e-4)
    lit = weights @ np.where(shut, 0.0, 1.0)
    free = np.unique(patches.nodes_of[~shut[: patches.rect_patches]])
    assert lit[free] == pytest.approx(np.ones(len(free)), abs=1e-4)


def test_what_is_covered_anew_is_found_out_where_it_is():
    """Only the fits near it are made anew, and all are what they would be from the beginning."""
    scene, _lamp = SCENES["box"]()
    patches, _middles, shut = bare(scene)
    more = shut.copy()
    more[[40, 41, 57]] = True
    best = np.random.default_rng(2).integers(0, len(FITS), patches.rect_patches)
    found, near = Nodes(patches, shut).again(patches, more)
    assert {40, 41, 57} <= set(near.tolist())
    assert len(near) < 100
    fresh = Nodes(patches, more)
    assert np.array_equal(found.bent(flat(patches), best).adds, fresh.bent(flat(patches), best).adds)


def test_light_at_nodes_is_that_of_their_weights():
    """Free triangles have their own."""
    scene, _lamp = SCENES["figures"]()
    patches, _middles, shut = bare(scene)
    assert patches.n > patches.rect_patches
    light = np.random.default_rng(5).random((patches.n, 3)) + 0.1
    bent = Nodes(patches, shut).bent(light.mean(1), np.arange(patches.rect_patches) % len(FITS))
    assert bent.of(light) == pytest.approx(bent.matrix() @ light, abs=1e-5)


def test_noise_is_taken_out_of_smooth_light_and_edges_stay():
    scene, _lamp = SCENES["box"]()
    patches, middles, shut = bare(scene)
    nodes, k, rng = Nodes(patches, shut), patches.rect_patches, np.random.default_rng(3)
    own = nodes.patches.nodes_of[:, 4]
    for light, most in ((100 + 20 * np.sin(middles @ [0.01, 0.013, 0.009]), 0.7), (np.where(middles[:, 0] < 200, 100.0, 10.0), 1.0)):
        halves = light * (1 + 0.03 * rng.standard_normal((2, patches.n)))
        found = nodes.bent(halves.mean(0), nodes.best(halves)).of(halves.mean(0)[:, None])[:, 0]
        before, after = (np.sqrt(np.mean((x - light[:k]) ** 2)) for x in (halves.mean(0)[:k], found[own]))
        assert after < most * before


def test_two_halves_of_the_rays_are_the_whole_and_know_nothing_of_each_other():
    """Their mean is what all rays tell; how far they are apart is twice the error of the whole, which is what another seed is off by."""
    scene, lamp = SCENES["doorway"]()
    told, found = [], []
    for seed in (7, 107):
        lit = prepare(scene, [lamp], seed=seed)
        solve(lit, [lamp])
        shine = lit.alike([lamp])
        halves, whole = (halves_of(lit.casts, lit.patches.n, lit.texels.n) @ shine).reshape(2, -1), lit.weights @ shine
        there = whole > 0
        assert np.median(np.abs(halves.mean(0)[there] / whole[there] - 1)) < 1e-5  # but where a few rays would see more than all round them
        told.append(np.abs(halves[0] - halves[1]) / 2)
        found.append(whole)
    (a, b), mean = found, np.mean(found, 0)
    seen = np.minimum(a, b) > 0
    apart = np.abs(a - b)[seen] / np.sqrt(2) / mean[seen]
    assert 0.6 < np.median(np.mean(told, 0)[seen] / mean[seen]) / np.median(apart) < 1.6


def test_texels_share_in_what_bounces_and_the_mean_stays():
    """Whatever shape light has over a patch, its texels have the light of the patch on an average, and none gets less than none."""
    scene, lamp = SCENES["kiosk"]()
    first = prepare(scene, [lamp])
    fine = prepare(scene, [lamp], rays=FINE_RAYS, before=first)
    texels, patches = fine.texels, fine.patches
    light = first.bases[lamp].bounced.mean(1)
    share = fine.spread @ light
    mean = np.bincount(texels.patch, share * texels.area, patches.n) / patches.area
    assert mean == pytest.approx(light, rel=1e-4, abs=1e-6 * light.max())
    assert share.min() > -1e-6 * light.max()
    flat = fine.spread[: texels.flat]
    assert (np.diff(flat.indptr) > 1).mean() > 0.9  # it does bend
