# SPDX-License-Identifier: MIT
"""What can be measured on a posed person without building the body."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.bodies.chain import HEEL, TIP, Chain, posed, segments
from fondale.core.bodies.volumes import unit
from fondale.knowledge import table


def eye_level(youth: float) -> float:
    """The height of the eyes, in heads. ``youth`` 0 grown up .. 1 six years."""
    return 0.510 - 0.045 * youth


def cap(youth: float) -> tuple[Floats, Floats]:
    """Middle and half axes of the ellipsoid of the hair, in heads: what the crown's height is taken of."""
    return np.array([0.0, 0.082, 0.630]), np.array([0.366 + 0.022 * youth, 0.438, 0.370])


@dataclass(frozen=True)
class Measures:
    """What can be measured on a posed person, in shares of stature: ``crown`` the height of the head's highest point, or the length of one
    that lies; the heights of the eyes and of the shoulders.
    """

    crown: float
    eye: float
    shoulder: float


def head_axes(c: Chain) -> Floats:
    """Columns: to the head's left, backwards and up."""
    return np.column_stack([unit(np.cross(c.up, c.ahead)), -c.ahead, c.up])


def _furthest(c: Chain, youth: float, way: Floats) -> float:
    """How far the head reaches along a way."""
    own, (middle, half) = head_axes(c).T @ way, cap(youth)
    return float(c.low @ way) + c.head * float(middle @ own + np.sqrt(((half * own) ** 2).sum()))


def _ends(c: Chain, seg: dict[str, float]) -> list[tuple[Floats, float]]:
    """Points with half thicknesses that bound the body below the head."""
    long = seg["foot_length"]
    out = [(c.hip, 0.066), (c.hip + c.spine * c.shoulder * 0.75, 0.078)]
    for leg in c.legs:
        sole = leg.ankle - leg.rise * seg["ankle"]
        out += [
            (leg.knee, seg["knee_half"]),
            (sole + leg.toes * (HEEL * long), 0.0),
            (sole + leg.toes * (TIP * long) + leg.rise * 0.012, 0.012),
        ]
    for arm in c.arms:
        out += [(arm.shoulder, 0.035), (arm.elbow, 0.030), (arm.wrist, 0.02)]
    return out


@lru_cache(maxsize=256)
def measures(pose: str, person: str = "man", heroic: bool = False) -> Measures:
    """Sizes of a person in a pose, without building the body. Raises PoseError."""
    c, seg, youth = posed(pose, person, heroic), segments(person), float(table("body")["people"][person]["youth"])
    eye = c.low + c.up * (c.head * eye_level(youth)) + c.ahead * (c.head * 0.32)
    shoulder = c.hip + c.spine * (c.shoulder + 0.012)
    along = np.array([0, 0, 1.0])
    if c.lying is None:
        return Measures(_furthest(c, youth, along), float(eye[2]), float(shoulder[2]))
    down = c.lying.T @ -along
    ends = _ends(c, seg)
    floor = max(_furthest(c, youth, down), *(float(p @ down) + r for p, r in ends))
    feet = max(float(-p @ along) + r for p, r in ends)
    return Measures(_furthest(c, youth, along) + feet, floor - float(eye @ down), floor - float(shoulder @ down))
