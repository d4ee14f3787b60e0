# SPDX-License-Identifier: MIT
"""What is carried: a pack, an umbrella, a lantern."""

import numpy as np

from fondale.core.bodies.cloth import Wearer, skin_of
from fondale.core.bodies.garments.garment import Garment, Grips
from fondale.core.bodies.parts import EXTRA, Part
from fondale.core.bodies.volumes import Blend, Tube, ball, lathe, rod, unit


def _pack(w: Wearer, _grips: Grips) -> list[Part]:
    """A bag with a roll on top, a pocket, and a strap over each shoulder."""
    c = w.chain
    at = c.hip + c.spine * 0.185 + c.back * 0.108
    bag = Tube(
        at - c.spine * 0.085,
        c.spine,
        c.across_shoulders,
        [(0, 0.080, 0.040), (0.03, 0.085, 0.046), (0.12, 0.080, 0.044), (0.155, 0.066, 0.036)],
        (0.014, 0.02),
    )
    roll = rod(at + c.spine * 0.098 - c.across_shoulders * 0.092, at + c.spine * 0.098 + c.across_shoulders * 0.092, 0.026)
    pocket = ball(at - c.spine * 0.03 + c.back * 0.036, (0.05, 0.022, 0.036), tuple(c.spine), tuple(c.across_shoulders))
    blends = [Blend(bag), Blend(roll, 0.006), Blend(pocket, 0.006)]
    for s in (1, -1):
        over = c.hip + c.spine * (c.shoulder + 0.028) + c.across_shoulders * (s * 0.062)
        before = over - c.back * 0.062 - c.spine * 0.05
        ends = (
            (at + c.spine * 0.08 + c.across_shoulders * (s * 0.055), over),
            (over, before),
            (before, at - c.spine * 0.05 + c.across_shoulders * (s * 0.098) - c.back * 0.06),
        )
        blends += [Blend(rod(p, q, 0.010), 0.004) for p, q in ends]
    return [skin_of(EXTRA, blends, 340, 0.0085)]


def _umbrella(_w: Wearer, grips: Grips) -> list[Part]:
    """Open, in the right hand."""
    at, up = grips[1].at, unit(np.array([0.10, -0.04, 1.0]))
    stick = lathe(at, up, [(-0.12, 0.0), (-0.118, 0.0055), (0.50, 0.0045), (0.52, 0.0)], 6)
    rows = [
        (-0.012, 0.0),
        (-0.022, 0.06),
        (-0.066, 0.19),
        (-0.112, 0.262),
        (-0.108, 0.268),
        (-0.060, 0.200),
        (-0.014, 0.075),
        (0.0, 0.010),
        (0.012, 0.0),
    ]
    return [Part(EXTRA, *stick), Part(EXTRA, *lathe(at + up * 0.50, up, rows, 24, 0.07))]


def _lantern(_w: Wearer, grips: Grips) -> list[Part]:
    """Hanging from the left hand."""
    rows = [
        (-0.105, 0.0),
        (-0.104, 0.026),
        (-0.096, 0.026),
        (-0.094, 0.021),
        (-0.038, 0.021),
        (-0.036, 0.027),
        (-0.018, 0.012),
        (-0.012, 0.005),
        (0.0, 0.004),
        (0.002, 0.0),
    ]
    return [Part(EXTRA, *lathe(grips[0].at, np.array([0, 0, 1.0]), rows, 10))]


PACK = Garment("a pack", _pack)
UMBRELLA = Garment("an open umbrella", _umbrella, holds={1: {"swing": 26, "splay": 12, "elbow": 104, "hand": "grip"}})
LANTERN = Garment("a lantern", _lantern, holds={0: {"elbow_least": 24, "hand": "grip"}})
