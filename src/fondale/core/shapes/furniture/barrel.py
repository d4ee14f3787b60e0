# SPDX-License-Identifier: MIT
"""A barrel with two pairs of hoops."""

import numpy as np

from fondale.core.shapes.furniture.parts import solid_of_parts, turned
from fondale.core.shapes.solid import Solid


def build(w: float, d: float, h: float) -> Solid:
    """Its belly is as wide as told; a depth of its own makes it oval."""
    z = np.linspace(0, h, 9)
    r = w / 2 * (1 - 0.17 * (2 * z / h - 1) ** 2)
    body = turned(z, r)
    hoops = [turned([h * low, h * (low + 0.04)], np.interp([h * low, h * (low + 0.04)], z, r) * 1.015) for low in (0.06, 0.24, 0.72, 0.90)]
    oval = np.array([1.0, d / w, 1.0])
    return solid_of_parts([], [t * oval for t in (body, *hoops)])
