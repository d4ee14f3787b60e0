# SPDX-License-Identifier: MIT
"""A table on four legs."""

from fondale.core.shapes.furniture.parts import plank, solid_of_parts
from fondale.core.shapes.solid import Solid


def build(w: float, d: float, h: float) -> Solid:
    """A top with an apron."""
    top, leg, apron = h * 0.04, min(w, d) * 0.08, h * 0.12
    planks = [plank((-w / 2, w / 2), (-d / 2, d / 2), (h - top, h))]
    inset = leg * 0.6
    for x in (-w / 2 + inset, w / 2 - inset - leg):
        for y in (-d / 2 + inset, d / 2 - inset - leg):
            planks.append(plank((x, x + leg), (y, y + leg), (0.0, h - top)))
    for y in (-d / 2 + inset + leg * 0.2, d / 2 - inset - leg * 0.5):
        planks.append(plank((-w / 2 + inset + leg, w / 2 - inset - leg), (y, y + leg * 0.3), (h - top - apron, h - top)))
    for x in (-w / 2 + inset + leg * 0.2, w / 2 - inset - leg * 0.5):
        planks.append(plank((x, x + leg * 0.3), (-d / 2 + inset + leg, d / 2 - inset - leg), (h - top - apron, h - top)))
    return solid_of_parts(planks)
