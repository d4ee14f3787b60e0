# SPDX-License-Identifier: MIT
"""The own small solver of poses against the general one of SciPy."""

import numpy as np
import pytest
from scipy.optimize import least_squares

from fondale.core.bodies import chain
from fondale.core.bodies.settling import settled
from fondale.knowledge import table


def test_all_poses_settle_as_the_general_solver_settles_them(monkeypatch):
    """Every pose of every person: each value within a ten-thousandth of what it is of the order of."""
    met = []

    def both(misses, start, sizes):
        ours = settled(misses, start, sizes)
        met.append(ours / sizes)
        assert met[-1] == pytest.approx(least_squares(misses, start, x_scale=sizes, xtol=1e-14, ftol=1e-14, gtol=1e-14).x / sizes, abs=1e-4)
        return ours

    chain._stands.cache_clear()
    monkeypatch.setattr(chain, "settled", both)
    for pose in table("body")["poses"]:
        for person in table("body")["people"]:
            chain.posed(pose, person)
    assert len(met) > 60


def test_a_valley_that_bends_is_walked_to_its_end():
    """Rosenbrock's function, 1960: its least is at (1, 1)."""
    found = settled(lambda v: np.array([10 * (v[1] - v[0] ** 2), 1 - v[0], 0.0]), np.array([-1.2, 1.0]), np.ones(2))
    assert found == pytest.approx([1.0, 1.0], abs=1e-6)
