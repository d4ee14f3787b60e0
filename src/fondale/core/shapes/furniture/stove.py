# SPDX-License-Identifier: MIT
"""A round cast stove on three feet, with a door, a lid and a pipe."""

import numpy as np

from fondale.core.shapes.furniture.parts import plank, rod, solid_of_parts, turned
from fondale.core.shapes.solid import Solid

BODY = 0.46  # of its height; the rest is pipe


def build(w: float, d: float, h: float) -> Solid:
    """Its body is as wide as told; a depth of its own makes it oval."""
    r, top = w / 2, h * BODY
    rim = [0.16, 0.20, 0.22, 0.90, 0.92, 1.0]
    body = turned([top * z for z in rim], [r * x for x in (0.80, 0.96, 0.88, 0.88, 0.98, 0.94)])
    pipe = turned([top, h], [r * 0.24, r * 0.24], 12)
    collar = turned([top, top * 1.04], [r * 0.34, r * 0.30], 12)
    feet = [
        rod((x, y, top * 0.18), (x, y, 0.0), r * 0.10, r * 0.07, 6)
        for a in (0.5, 2.6, 4.7)
        for x, y in [(r * 0.7 * np.cos(a), r * 0.7 * np.sin(a))]
    ]
    door = plank((-r * 0.35, r * 0.35), (-d * 0.485, -d * 0.40), (top * 0.36, top * 0.66))
    oval = np.array([1.0, d / w, 1.0])
    return solid_of_parts([door], [t * oval for t in (body, pipe, collar, *feet)])
