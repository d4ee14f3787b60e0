# SPDX-License-Identifier: MIT
"""Heads with faces and hair, by age and sex: chin at z = 0, crown at z = 1, the face towards -y.

Breadth and depth of a head are 0.69 and 0.86 of its height, eyes lie half way up, in a child's lower ([farkas1994], from memory).
"""

from functools import lru_cache

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.bodies.measures import cap, eye_level
from fondale.core.bodies.parts import FACE, HAIR, Part
from fondale.core.bodies.volumes import Blend, Field, Tube, ball, lathe, rod

CELL, HAIR_CELL = 0.028, 0.036
FACE_TRIS, HAIR_TRIS = 500, 240


def _at(side: float, ahead: float, up: float) -> Floats:
    return np.array([side, -ahead, up], float)


def _face(youth: float, woman: bool) -> list[Blend]:
    """The head without its hair. ``youth`` 0 grown up .. 1 six years."""
    jaw = (0.90 if woman else 1.0) * (1 - 0.04 * youth)
    eye = eye_level(youth)
    small = 1 - 0.45 * youth  # of nose, brow and chin
    out = [Blend(ball(_at(0, -0.07, 0.620 - 0.01 * youth), (0.328 + 0.022 * youth, 0.402, 0.336 + 0.02 * youth)))]
    rows = [
        (0.040, 0.140 * jaw, 0.130, 0.0, 0.205 - 0.05 * youth), (0.115, (0.205 + 0.02 * youth) * jaw, 0.205, 0.0, 0.145 - 0.04 * youth),
        (0.225, (0.252 + 0.03 * youth) * jaw, 0.262, 0.0, 0.085 - 0.02 * youth), (0.360, (0.285 + 0.02 * youth) * jaw, 0.295, 0.0, 0.052),
        (0.520, 0.298, 0.300, 0.0, 0.045), (0.660, 0.295, 0.295, 0.0, 0.030),
    ]  # fmt: skip
    out.append(Blend(Tube(_at(0, 0, 0), np.array([0, 0, 1.0]), np.array([-1.0, 0, 0]), rows, (0.048, 0.1)), 0.08))
    out.append(Blend(ball(_at(0, 0.275 - 0.055 * youth, 0.070), (0.080 * jaw, 0.062 * small + 0.01, 0.058)), 0.08))
    brow = 0.040 * (0.75 if woman else 1.0) * small
    for s in (1, -1):
        out.append(Blend(rod(_at(s * 0.03, 0.318 - 0.012 * youth, eye + 0.085), _at(s * 0.20, 0.245, eye + 0.090), brow, brow * 0.9), 0.07))
        out.append(Blend(ball(_at(s * 0.172, 0.222, eye - 0.125), (0.100 + 0.024 * youth, 0.094 + 0.012 * youth, 0.110)), 0.09))
    out.append(Blend(ball(_at(0, 0.288 - 0.035 * youth, 0.205), (0.172 * jaw, 0.074, 0.100)), 0.10))
    for s in (1, -1):
        out.append(Blend(ball(_at(s * 0.132, 0.425, eye + 0.006), (0.088, 0.120, 0.050)), 0.05, cut=True))
    for s in (1, -1):
        out.append(Blend(ball(_at(s * 0.132, 0.268, eye - 0.001), (0.066, 0.058, 0.042 + 0.006 * youth)), 0.012))
    top, end = _at(0, 0.312, eye + 0.055), _at(0, 0.312 + 0.105 * small, eye - 0.150 + 0.02 * youth)
    nose = [(0, 0.031, 0.029), (0.12, 0.036, 0.040 * small + 0.006), (0.20, 0.050 * (0.8 + 0.2 * small), 0.054 * small)]
    out.append(Blend(Tube(top, end - top, np.array([1.0, 0, 0]), nose), 0.035))
    for s in (1, -1):
        wing = (0.037 * (0.5 + 0.5 * small), 0.048, 0.033 * (0.5 + 0.5 * small))
        out.append(Blend(ball(_at(s * 0.052 * (0.6 + 0.4 * small), 0.343 - 0.035 * youth, eye - 0.152), wing), 0.02))
    out.append(Blend(ball(_at(0, 0.398 - 0.035 * youth, 0.206), ((0.084 - 0.02 * youth) * jaw, 0.046, 0.008)), 0.018, cut=True))
    out.append(Blend(ball(_at(0, 0.350 - 0.030 * youth, 0.230), (0.072 * jaw, 0.038, 0.016)), 0.02))
    out.append(Blend(ball(_at(0, 0.346 - 0.030 * youth, 0.184), (0.062 * jaw, 0.038, 0.018)), 0.02))
    for s in (1, -1):
        ear = _at(s * (0.330 + 0.015 * youth), -0.045, eye - 0.055)
        out.append(Blend(ball(ear, (0.034, 0.078, 0.130), (s * 0.18, 0.15, 1.0)), 0.02))
        out.append(Blend(ball(ear + _at(s * 0.035, 0.015, 0), (0.022, 0.040, 0.072)), 0.015, cut=True))
    return out


def _hair(youth: float, style: str) -> list[Blend]:
    """A cap of hair less the opening of the face, the temples and the ears."""
    middle, half = cap(youth)
    more = {
        "bun": [ball(_at(0, -0.560, 0.620), (0.165, 0.130, 0.160)), ball(_at(0, -0.170, 0.400), (0.345, 0.300, 0.280))],
        "short": [ball(_at(0, -0.220, 0.430), (0.300, 0.250, 0.220)), ball(_at(-0.05, 0.160, 0.860), (0.240, 0.170, 0.120))],
        "mop": [ball(_at(0, -0.150, 0.480), (0.370, 0.330, 0.300)), ball(_at(0, 0.100, 0.860), (0.250, 0.220, 0.120))],
    }[style]
    line = {"bun": 0.800, "short": 0.785, "mop": 0.735}[style]
    out = [Blend(ball(middle, (half[0], half[1], half[2]))), *(Blend(m, 0.03 if style == "bun" else 0.06) for m in more)]
    out.append(Blend(ball(_at(0, 0.360, line - 0.40), (0.300, 0.360, 0.400)), 0.05, cut=True))
    temple = {"bun": (0.06, 0.32, 0.20, 0.20), "short": (0.02, 0.36, 0.17, 0.21), "mop": (0.06, 0.34, 0.17, 0.21)}[style]
    for s in (1, -1):
        out.append(Blend(ball(_at(s * 0.360, temple[0], temple[1]), (0.140, temple[2], temple[3])), 0.04, cut=True))
    return out


@lru_cache(maxsize=16)
def head(youth: float, woman: bool, style: str) -> tuple[Part, ...]:
    """The parts of a head; ``style`` of the hair: short, bun or mop."""
    face = Field(_face(youth, woman), CELL)
    parts = [Part(FACE, *face.skin(FACE_TRIS))]
    locks = Field(_hair(youth, style), HAIR_CELL)
    x, y, z = locks.axes[0][:, None, None], locks.axes[1][None, :, None], locks.axes[2][None, None, :]
    wave = 0.010 * np.sin(26 * x + 9 * z) * np.cos(17 * y) + 0.008 * np.sin(40 * x + 22 * y)
    locks.distance -= wave.astype(np.float32) * np.float32(1.0 if style == "short" else 0.5)
    points, tris = locks.skin(HAIR_TRIS)
    points = points * np.array([1, 1, 1 / points[:, 2].max()])
    parts.append(Part(HAIR, points, tris))
    eye = eye_level(youth)
    for s in (1, -1):
        for at, half, thick, way in (
            (_at(s * 0.130, 0.331, eye - 0.003), 0.036, 0.021 + 0.006 * youth, _at(s, 0.30, 0)),
            (_at(s * 0.134, 0.337 - 0.012 * youth, eye + 0.080 - 0.005 * youth), 0.060, 0.014 - 0.004 * youth, _at(s, -0.42, -0.03)),
        ):
            rows = [(-half, 0.0), (-0.6 * half, thick), (0.6 * half, thick), (half, 0.0)]
            parts.append(Part(HAIR, *lathe(at, way, rows, 6)))
    chin = parts[0].points[:, 2].min()  # the grid leaves it a hair too low
    return tuple(p._replace(points=(p.points - [0, 0, chin]) / [1, 1, 1 - chin]) for p in parts)
