# SPDX-License-Identifier: MIT
"""A desk with drawers on one side and a panel on the other."""

from fondale.core.shapes.furniture.parts import plank, solid_of_parts
from fondale.core.shapes.solid import Solid

DRAWERS = 4


def build(w: float, d: float, h: float) -> Solid:
    """The drawers are on the right, three tenths of its width."""
    top, t, front = h * 0.035, w * 0.018, -d / 2 + d * 0.04
    left = w / 2 - 0.30 * w
    planks = [
        plank((-w / 2, w / 2), (-d / 2, d / 2), (h - top, h)),
        plank((-w / 2 + t, -w / 2 + 2 * t), (front, d / 2 - t), (0.0, h - top)),
        plank((-w / 2 + 2 * t, left), (d / 2 - 3 * t, d / 2 - 2 * t), (h * 0.30, h - top)),
        plank((left, w / 2 - t), (front + t, d / 2 - t), (0.0, h - top)),
    ]
    pitch = (h - top) * 0.94 / DRAWERS
    for k in range(DRAWERS):
        low = (h - top) * 0.06 + k * pitch
        planks.append(plank((left + t * 0.3, w / 2 - 1.3 * t), (front, front + t), (low, low + pitch * 0.92)))
        planks.append(plank((left + w * 0.10, left + w * 0.18), (front - d * 0.02, front), (low + pitch * 0.52, low + pitch * 0.60)))
    return solid_of_parts(planks)
