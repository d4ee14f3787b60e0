# SPDX-License-Identifier: MIT
"""Polynomials in the plane that are fitted to values nearby, the farther ones counting less [cleveland1979]."""

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Floats

_POWERS = [(a - b, b) for a in range(4) for b in range(a + 1)]
_STEADY = (0.0, 1e-5, 1e-3)  # for terms of each order: where values are too few for them the fit is of a lower one


def terms(at: Floats, power: int) -> Floats:
    """The terms (..., t) of a polynomial of this order at places (..., 2)."""
    u, v = at[..., 0], at[..., 1]
    return np.stack([u**a * v**b for a, b in _POWERS if a + b <= power], -1)


def falling(apart: Floats, reach: Floats) -> Floats:
    """How much values count that lie so far ``apart`` (k, m): to nothing at the ``reach`` (k, 1)."""
    return np.maximum(1 - (apart / reach) ** 2, 0.0)


def fitted(at: Floats, weight: Floats, power: int, others: float = 1.0) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Two factors, (k, m, t) and (k, t, t), of how values at places (k, m, 2) count in the terms of the fits of this order, by their ``weight`` (k, m), which of all but
    the first is of the size of ``others``. The first column of their product is how they count in the fit at 0.
    """
    form = terms(at, power)
    counts = form * weight[..., None]
    steady = np.diag([_STEADY[min(a + b, 2)] * others for a, b in _POWERS if a + b <= power])
    solved = np.linalg.inv(np.where(weight[..., None] > 0, form, 0.0).transpose(0, 2, 1) @ counts + steady)
    return counts.astype(np.float32), solved.astype(np.float32)
