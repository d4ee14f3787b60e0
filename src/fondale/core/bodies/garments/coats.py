# SPDX-License-Identifier: MIT
"""Coats: sleeves and trunk of thicker cloth, a collar, an edge with buttons down the front, tails that open before the legs."""

from itertools import pairwise

import numpy as np

from fondale.core.bodies.cloth import HANGING_CELL, Wearer, chest, front, hanging, skin_of, sleeve
from fondale.core.bodies.garments.garment import Garment
from fondale.core.bodies.garments.plain import neck_line
from fondale.core.bodies.parts import EXTRA, Part
from fondale.core.bodies.volumes import Blend, Field, Sheet, lathe, rod, unit

BODY_TRIS, TAIL_TRIS = 560, 340


def _coat(w: Wearer, hem: float, lap: float) -> list[Part]:
    c = w.chain
    body = skin_of(EXTRA, [*chest(w, 0.008, 0.0), *(b for arm in c.arms for b in sleeve(w, arm, 0.0115))], BODY_TRIS)
    cloth = hanging(w, hem if c.bent < 50 else lap, 0.014, 0.020, 0.0095, 8, 0.10, 0.010)
    blends = [Blend(cloth[0]), *(Blend(v, 0.05) for v in cloth[1:])]
    if c.bent < 50:  # the tails part before the legs
        low = min(hem, 1.0) * w.seg["thigh"] + max(hem - 1.0, 0.0) * w.seg["shank"] + 0.03
        top = front(w, 0.02, -0.02)
        ahead = np.array([0.0, -0.16, 0.0])
        for s in (1, -1):
            foot = top + np.array([s * 0.016, -0.03, -low])
            blends.append(Blend(Sheet(top, foot, foot + ahead, 0.004), cut=True))
        blends.append(
            Blend(
                Sheet(
                    top + np.array([0, 0, -0.3 * low]), top + np.array([0.016, -0.03, -low]), top + np.array([-0.016, -0.03, -low]), 0.012
                ),
                cut=True,
            )
        )
    field = Field(blends, HANGING_CELL)
    if c.sits or any(leg.contact in ("tucked", "instep") for leg in c.legs):
        field.keep_above(np.zeros(3), np.array([0.0, 0, 1.0]))
    parts = [body, Part(EXTRA, *field.skin(TAIL_TRIS))]
    root, top = neck_line(w)
    rows = [
        (0, 0.0),
        (0.002, w.neck + 0.020),
        (0.020, w.neck + 0.015),
        (0.040, w.neck + 0.013),
        (0.0405, w.neck + 0.006),
        (0.028, w.neck + 0.004),
        (0.026, 0.0),
    ]
    parts.append(Part(EXTRA, *lathe(c.hip + c.spine * 0.288 + c.back * 0.010, unit(unit(top - root) + c.ahead * 0.28), rows, 12)))
    across = c.across_hips
    line = [front(w, z, 0.004) + across * 0.010 for z in (0.03, 0.10, 0.16, 0.21, 0.255)]
    edge = [Blend(rod(a, b, 0.0055), 0.004) for a, b in pairwise(line)]
    parts.append(skin_of(EXTRA, edge, 90, 0.006))
    for z in (0.055, 0.11, 0.165, 0.215):
        at = front(w, z, 0.0045) - across * 0.006
        parts.append(Part(EXTRA, *lathe(at, -c.back, [(-0.004, 0.0), (0.001, 0.0052), (0.0045, 0.0)], 7)))
    return parts


COAT = Garment("a coat", lambda w, _g: _coat(w, 0.92, 0.72), frozenset({"shirt"}))
LONG_COAT = Garment("a long coat", lambda w, _g: _coat(w, 1.55, 0.96), frozenset({"shirt"}))
