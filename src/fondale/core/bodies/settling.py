# SPDX-License-Identifier: MIT
"""Angles that give way as little as it takes: a small least-squares problem, solved by Gauss-Newton steps."""

from collections.abc import Callable

import numpy as np

from fondale.core.arrays import Floats

STEPS, ENOUGH = 60, 1e-12  # steps at most, and the share of the misses below which a step gains nothing


def settled(misses: Callable[[Floats], Floats], start: Floats, sizes: Floats) -> Floats:
    """Where the sum of the squares of ``misses`` is smallest near ``start``; ``sizes`` are what each value is of the order of.

    Gauss-Newton with Levenberg's damping [levenberg1944]; it needs more misses than values. The general solver of SciPy finds the same
    (a test) and takes longer to load than a scale to be read.
    """
    x, damping = start.astype(float), 1e-6
    miss = misses(x)
    worth = float(miss @ miss)
    for _ in range(STEPS):
        slope = np.column_stack([misses(x + h) - misses(x - h) for h in np.diag(sizes * 1e-5)]) / 2e-5  # per size
        square = slope.T @ slope
        while damping < 1e9:
            step = np.linalg.solve(square + damping * np.diag(np.diag(square)), -slope.T @ miss)
            there = x + step * sizes
            left = misses(there)
            if (found := float(left @ left)) <= worth:
                break
            damping *= 10
        else:
            return x
        gained, x, miss, worth, damping = worth - found, there, left, found, max(damping / 10, 1e-9)
        if gained <= ENOUGH * worth:
            break
    return x
