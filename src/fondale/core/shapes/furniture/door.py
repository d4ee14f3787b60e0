# SPDX-License-Identifier: MIT
"""A panelled door in its frame."""

from fondale.core.shapes.furniture.parts import plank, solid_of_parts
from fondale.core.shapes.solid import Solid


def build(w: float, d: float, h: float) -> Solid:
    """Four raised panels on both faces, and a knob."""
    jamb, leaf = w * 0.055, d * 0.36
    planks = [plank((x, x + jamb), (-d / 2, d / 2), (0.0, h)) for x in (-w / 2, w / 2 - jamb)]
    planks.append(plank((-w / 2 + jamb, w / 2 - jamb), (-d / 2, d / 2), (h - jamb, h)))
    inner = w - 2 * jamb
    planks.append(plank((-inner / 2, inner / 2), (-leaf / 2, leaf / 2), (0.0, h - jamb)))
    for x in (-0.41, 0.07):
        for low, high in ((0.08, 0.42), (0.5, 0.9)):
            for face in (-1, 1):
                near, far = sorted((face * leaf / 2, face * leaf * 0.72))
                planks.append(plank((x * inner, (x + 0.34) * inner), (near, far), (low * h, high * h)))
    for face in (-1, 1):
        near, far = sorted((face * leaf / 2, face * leaf * 1.1))
        planks.append(plank((0.42 * inner, 0.46 * inner), (near, far), (0.44 * h, 0.47 * h)))
    return solid_of_parts(planks)
