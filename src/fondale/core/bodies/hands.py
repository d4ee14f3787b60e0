# SPDX-License-Identifier: MIT
"""Hands by what they do, and shoes by how far the toes are bent. A hand: wrist at 0, along +z, thumb towards +x, palm towards +y, one long.
A shoe: ankle at 0, toes towards -y, up +z, the foot's length one.
"""

from functools import lru_cache

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.bodies.chain import BALL
from fondale.core.bodies.parts import SHOES, SKIN, Part
from fondale.core.bodies.volumes import Blend, Field, Tube, ball, rod
from fondale.knowledge import table

HAND_CELL, SHOE_CELL = 0.032, 0.042
HAND_TRIS, SHOE_TRIS = 140, 120
# Across, how far the tip reaches, half thickness of index, middle, ring and little finger.
_FINGERS = ((0.135, 0.90, 0.052), (0.045, 0.99, 0.055), (-0.048, 0.94, 0.053), (-0.135, 0.80, 0.046))
# Bends at knuckle, middle and end in degrees, how far the fingers spread, and the thumb's middle and tip.
_DOES: dict[str, tuple[tuple[float, float, float], float, tuple[tuple[float, float, float], ...]]] = {
    "relax": ((18, 30, 22), 1.05, ((0.19, 0.10, 0.40), (0.17, 0.16, 0.56))),
    "flat": ((4, 4, 4), 1.25, ((0.28, 0.03, 0.38), (0.34, 0.05, 0.54))),
    "ground": ((4, 6, 6), 1.30, ((0.28, 0.03, 0.38), (0.34, 0.05, 0.54))),
    "push": ((-6, 8, 6), 1.25, ((0.29, 0.05, 0.36), (0.34, 0.08, 0.52))),
    "reach": ((2, 10, 8), 1.35, ((0.30, 0.06, 0.36), (0.36, 0.10, 0.52))),
    "knee": ((6, 14, 10), 1.20, ((0.27, 0.06, 0.37), (0.31, 0.12, 0.52))),
    "grip": ((68, 88, 50), 1.00, ((0.21, 0.19, 0.40), (0.06, 0.32, 0.50))),
    "oar": ((68, 88, 50), 1.00, ((0.21, 0.19, 0.40), (0.06, 0.32, 0.50))),
    "point": ((70, 86, 50), 1.00, ((0.20, 0.18, 0.38), (0.06, 0.30, 0.46))),
    "carry": ((28, 36, 26), 1.10, ((0.26, 0.10, 0.36), (0.27, 0.20, 0.52))),
}


@lru_cache(maxsize=16)
def hand(does: str) -> Part:
    """A left hand."""
    bends, spread, thumb = _DOES[does]
    rows = [(-0.10, 0.135, 0.105), (0.02, 0.145, 0.105), (0.20, 0.185, 0.105), (0.38, 0.205, 0.095), (0.50, 0.195, 0.075)]
    blends = [Blend(Tube(np.zeros(3), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]), rows, (0.05, 0.05)))]
    blends.append(Blend(ball(np.array([0.10, 0.06, 0.20]), (0.09, 0.07, 0.15)), 0.05))
    for i, (across, tip, thick) in enumerate(_FINGERS):
        at, turn = np.array([across, 0.0, 0.47 + 0.03 * (tip > 0.9)]), 0.0
        bent = (4.0, 6.0, 4.0) if does == "point" and i == 0 else bends
        for share, bend, r in zip((0.50, 0.29, 0.21), bent, (1.05, 1.0, 0.92), strict=True):
            turn += np.radians(bend)
            end = at + (tip - 0.5) * share * np.array([(spread - 1) * across * 1.2, np.sin(turn), np.cos(turn)])
            blends.append(Blend(rod(at, end, thick * r, thick * r * 0.95), 0.018))
            at = end
    root: Floats = np.array([0.12, 0.045, 0.14])
    for point, thick in zip(thumb, (0.075, 0.062), strict=True):
        blends.append(Blend(rod(root, np.array(point), thick, thick * 0.88), 0.04))
        root = np.array(point)
    return Part(SKIN, *Field(blends, HAND_CELL).skin(HAND_TRIS))


@lru_cache(maxsize=16)
def shoe(toes_bent: float) -> Part:
    """A shoe with a flat sole; ``toes_bent`` degrees upwards at the ball."""
    seg = table("body")["segments"]
    low = -float(seg["ankle"] / seg["foot_length"])
    ahead = np.array([0, -1.0, 0])
    rows = [
        (-0.24, 0.125, 0.17, 0, 0.06), (-0.15, 0.155, 0.22, 0, 0.07), (0.02, 0.155, 0.23, 0, 0.07), (0.22, 0.168, 0.19, 0, 0.04),
        (0.42, 0.188, 0.145, 0, 0.01), (0.56, 0.175, 0.115, 0, 0.01), (0.66, 0.135, 0.095, 0, 0.01),
    ]  # fmt: skip
    upper = Tube(np.array([0, 0, low]), ahead, np.array([-1.0, 0, 0]), rows, (0.06, 0.075))
    collar = ball(np.array([0, 0.01, -0.01]), (0.150, 0.165, 0.17))
    field = Field([Blend(upper), Blend(collar), Blend(ball(np.array([0, -0.5, 0.12]), (0.22, 0.32, 0.34)))], SHOE_CELL)
    x, y, z = np.meshgrid(*field.axes, indexing="ij")
    # What lies before the ball is turned back down about the ball's line on the sole before it is asked how far away it is.
    ry, rz = y + np.float32(BALL), z - np.float32(low)
    bent = np.radians(toes_bent)
    share = np.clip(-(ry * np.cos(bent / 2) - rz * np.sin(bent / 2)) / 0.10 + 0.5, 0, 1) if toes_bent else np.zeros_like(y)
    turn = (bent * share).astype(np.float32)
    fy, fz = ry * np.cos(turn) - rz * np.sin(turn) - np.float32(BALL), ry * np.sin(turn) + rz * np.cos(turn) + np.float32(low)
    a, b = upper(x, fy, fz), collar(x, y, z)
    near = np.maximum(np.float32(0.12) - np.abs(a - b), 0) / np.float32(0.12)
    whole = np.minimum(a, b) - near * near * np.float32(0.03)
    welt = whole - np.float32(0.018) * np.clip((low + 0.075 - fz) / 0.03, 0, 1)
    arch = np.where((fz < low + 0.012) & (np.abs(fy + 0.02) < 0.10), np.float32(0.006), np.float32(-1.0))
    field.distance = np.maximum(np.maximum(welt, -(fz - np.float32(low))), arch).astype(np.float32)
    return Part(SHOES, *field.skin(SHOE_TRIS))
