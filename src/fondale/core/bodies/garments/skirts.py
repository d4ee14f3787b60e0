# SPDX-License-Identifier: MIT
"""A skirt to the ankles, and an apron over whatever else is worn."""

import numpy as np

from fondale.core.bodies.cloth import HANGING_CELL, Wearer, cloth_of, front, hanging
from fondale.core.bodies.garments.garment import Garment, Grips
from fondale.core.bodies.parts import EXTRA, Part
from fondale.core.bodies.volumes import Blend, Field, Tube, Volume

SKIRT_TRIS = 440


def _skirt_over(w: Wearer, over: float) -> list[Volume]:
    """The cloth of a skirt, or what lies ``over`` it."""
    return hanging(w, 1.72, 0.012 + over, 0.030, 0.0140, 9, 0.095)


def _skirt(w: Wearer, _grips: Grips) -> list[Part]:
    volumes = _skirt_over(w, 0.0)
    field = Field([Blend(volumes[0]), *(Blend(v, 0.05) for v in volumes[1:])], HANGING_CELL)
    if w.chain.lying is None:
        field.keep_above(np.array([0, 0, 0.003]), np.array([0.0, 0, 1.0]))
    return [Part(EXTRA, *field.skin(SKIRT_TRIS))]


def _apron(w: Wearer, _grips: Grips) -> list[Part]:
    """The front of hanging cloth, a bib, and the band about the waist."""
    c = w.chain
    stands = c.bent < 50
    volumes = _skirt_over(w, 0.010) if w.skirted and stands else hanging(w, 0.95 if stands else 0.80, 0.022, 0.014, 0.0040, 5, 0.10)
    field = Field([Blend(volumes[0]), *(Blend(v, 0.05) for v in volumes[1:])], HANGING_CELL)
    if w.skirted and stands:
        field.keep_above(c.hip - c.pelvis * (0.95 * w.seg["thigh"]), c.pelvis)
    side = c.hip - c.back * 0.035
    field.keep_above(side, -c.back)
    shell = Part(EXTRA, *field.skin(240))
    low, high = front(w, 0.055, 0.0), front(w, 0.195, 0.0)
    bib = Tube(low, high - low, c.across_shoulders, [(0, 0.066, 0.010), (float(np.linalg.norm(high - low)), 0.048, 0.010)], (0.006, 0.006))
    band = Tube(
        c.hip + c.spine * 0.086,
        c.spine,
        -c.across_hips,
        [
            (0, 0.096 * float(w.row["broad"]) * w.stout**0.8, 0.074 * float(w.row["broad"]) * w.stout**0.8),
            (0.012, 0.096 * float(w.row["broad"]) * w.stout**0.8, 0.074 * float(w.row["broad"]) * w.stout**0.8),
        ],
        (0.003, 0.003),
    )
    return [shell, cloth_of(EXTRA, [bib], 80), cloth_of(EXTRA, [band], 140)]


SKIRT = Garment("a skirt", _skirt, skirts=True)
APRON = Garment("an apron", _apron)
