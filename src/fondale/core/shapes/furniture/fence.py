# SPDX-License-Identifier: MIT
"""A fence of pickets on two rails between posts."""

import numpy as np

from fondale.core.shapes.furniture.parts import plank, solid_of_parts
from fondale.core.shapes.solid import Solid


def build(w: float, d: float, h: float) -> Solid:
    """Posts every 1.4 heights or so, pickets as broad as the fence is thick."""
    post = min(d, 0.1 * h, 0.08 * w)
    count = max(2, round(w / (1.4 * h)) + 1)
    planks = [plank((x, x + post), (-d / 2, d / 2), (0.0, h)) for x in np.linspace(-w / 2, w / 2 - post, count).tolist()]
    for low in (0.22, 0.74):
        planks.append(plank((-w / 2, w / 2), (-0.15 * d, 0.2 * d), (h * low, h * (low + 0.08))))
    pickets = max(2, int(w / (1.6 * post)))
    for x in np.linspace(-w / 2 + post * 0.2, w / 2 - post, pickets).tolist():
        planks.append(plank((x, x + 0.8 * post), (-0.35 * d, -0.15 * d), (h * 0.06, h * 0.95)))
    return solid_of_parts(planks)
