# SPDX-License-Identifier: MIT
import numpy as np
import pytest

from fondale.core.model import Lamp
from fondale.core.motion.generators import level, mean_level, most_flashes

MOTIONS = ("steady", "candle", "breathing", "failing tube", "beacon")


def lamp(motion: str, **more: object) -> Lamp:
    return Lamp(id="a", name="A", x=0, y=0, z=0, motion=motion, **more)


@pytest.mark.parametrize("motion", MOTIONS)
def test_levels_stay_between_nothing_and_full(motion):
    values = level(lamp(motion), np.linspace(0, 100, 5000))
    assert values.min() >= 0
    assert values.max() <= 1
    assert values.shape == (5000,)


@pytest.mark.parametrize("motion", MOTIONS)
def test_the_same_seed_gives_the_same_motion(motion):
    t = np.linspace(0, 20, 400)
    assert (level(lamp(motion, seed=3), t) == level(lamp(motion, seed=3), t)).all()


def test_other_seeds_flicker_otherwise():
    t = np.linspace(0, 20, 400)
    assert (level(lamp("candle", seed=3), t) != level(lamp("candle", seed=4), t)).any()


def test_mean_levels():
    assert mean_level(lamp("steady")) == 1.0
    assert mean_level(lamp("beacon")) == pytest.approx(0.25 + 0.75 * 0.05, abs=0.01)
    assert 0.5 < mean_level(lamp("candle")) < 0.95


@pytest.mark.parametrize(("rate", "flashes"), [(0.5, 1), (2.0, 2), (3.0, 3), (8.0, 8)])
def test_flashes_are_counted(rate, flashes):
    assert most_flashes(lamp("beacon", flashes_per_s=rate)) == pytest.approx(flashes, abs=1)


@pytest.mark.parametrize("seed", range(6))
def test_our_own_motions_keep_the_limit_of_three_a_second(seed):
    # [wcag22], 2.3.1: no more than three flashes in any one second.
    for motion in ("steady", "candle", "breathing", "failing tube"):
        assert most_flashes(lamp(motion, seed=seed)) <= 3
