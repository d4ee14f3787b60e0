# SPDX-License-Identifier: MIT
"""Noise is taken out where light is smooth, and nothing else is: judged by values that are known."""

import numpy as np
import pytest

from fondale.core.light.smoothing import smoothing

UP = np.array([0.0, 0.0, 1.0])


def floor(rng, count=600, size=200.0):
    points = np.column_stack([rng.uniform(0, size, (count, 2)), np.zeros(count)])
    return points, np.tile(UP, (count, 1)), np.zeros(count, int)


def off(truth, noise, seed, where=None, place=floor):
    """Mean error of the mean of two halves, and of what is smoothed."""
    rng = np.random.default_rng(seed)
    points, normals, owner = place(rng)
    true = truth(points)
    halves = true + rng.normal(0, noise * np.sqrt(2), (2, len(points)))
    plain = halves.mean(0)
    smooth = smoothing(points, normals, owner, halves) @ plain
    some = np.ones(len(points), bool) if where is None else where(points)
    return np.abs(plain - true)[some].mean(), np.abs(smooth - true)[some].mean()


def hill(points):
    return 1.0 + 2.0 * np.exp(-((points[:, 0] - 90) ** 2 + (points[:, 1] - 60) ** 2) / 60**2)


def edge(points):
    return np.where(points[:, 0] + 0.3 * points[:, 1] < 120, 0.1, 1.0)


@pytest.mark.parametrize("seed", range(8))
def test_noise_on_smooth_light_is_halved(seed):
    plain, smooth = off(hill, 0.05, seed)
    assert smooth < 0.55 * plain


@pytest.mark.parametrize("seed", range(8))
def test_an_edge_of_light_stays_sharp(seed):
    plain, smooth = off(edge, 0.01, seed, lambda p: np.abs(p[:, 0] + 0.3 * p[:, 1] - 120) < 12)
    assert smooth < 1.5 * plain
    plain, smooth = off(edge, 0.01, seed)
    assert smooth < plain


@pytest.mark.parametrize("seed", range(4))
def test_without_noise_nothing_changes_that_can_be_told(seed):
    _plain, smooth = off(hill, 1e-9, seed)
    assert smooth < 1e-6


def test_surfaces_keep_to_themselves():
    """A thin wall that is lit on one side, the floor before it, and a body that stands there."""
    rng = np.random.default_rng(1)
    wall, (ground, up, _owner) = rng.uniform(0, 60, (80, 2)), floor(rng, 80, 60.0)
    front = np.column_stack([wall[:, 0], np.full(80, 30.0), wall[:, 1]])
    points = np.concatenate([front, front + np.array([0, 0.5, 0]), ground, ground])
    normals = np.concatenate([np.tile([0.0, -1.0, 0.0], (80, 1)), np.tile([0.0, 1.0, 0.0], (80, 1)), up, up])
    owner = np.repeat([0, 0, 0, 1], 80)
    light = np.repeat([1.0, 0.0, 0.5, 0.2], 80)
    halves = light + rng.normal(0, 1.0, (2, 320))
    weights = smoothing(points, normals, owner, halves)
    assert np.asarray(weights.sum(1)).ravel() == pytest.approx(np.ones(320), abs=1e-4)
    assert weights @ light == pytest.approx(light, abs=1e-4)
    assert abs(weights @ halves.mean(0) - light).mean() < 0.6 * abs(halves.mean(0) - light).mean()


@pytest.mark.parametrize("count", [1, 2, 3, 5])
def test_few_points_are_left_or_averaged(count):
    points, normals, owner = floor(np.random.default_rng(count), count)
    weights = smoothing(points, normals, owner, np.ones((2, count)))
    assert weights @ np.ones(count) == pytest.approx(np.ones(count), abs=1e-5)


def test_points_at_one_place_do_not_break_it():
    points, normals, owner = (np.repeat(x, 100, axis=0) for x in (np.ones((1, 3)), UP[None], np.zeros(1, int)))
    weights = smoothing(points, normals, owner, np.random.default_rng(1).normal(1, 0.1, (2, 100)))
    assert np.isfinite(weights.data).all()
