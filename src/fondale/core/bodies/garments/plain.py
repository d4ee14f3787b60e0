# SPDX-License-Identifier: MIT
"""What everybody wears who wears nothing else: a shirt, trousers, shoes; and shorts."""

import numpy as np

from fondale.core.bodies.chain import TOES_BENT, Leg
from fondale.core.bodies.cloth import CELL, Wearer, chest, seat, skin_of, sleeve, trouser_leg
from fondale.core.bodies.garments.garment import Garment, Grips
from fondale.core.bodies.hands import shoe
from fondale.core.bodies.parts import SHIRT, SHOES, SKIN, TROUSERS, Part
from fondale.core.bodies.volumes import Field, lathe, unit

SHIRT_TRIS, TROUSER_TRIS = 560, 520


def neck_line(w: Wearer) -> tuple[np.ndarray, np.ndarray]:
    """Root and top of the neck."""
    c = w.chain
    return c.hip + c.spine * 0.270 + c.back * 0.012, c.low + c.up * (c.head * 0.34) - c.ahead * (c.head * 0.055)


def shirt(w: Wearer, _grips: Grips) -> list[Part]:
    """Trunk and sleeves, with a low collar."""
    blends = [*chest(w, 0.0, 0.045), *(b for arm in w.chain.arms for b in sleeve(w, arm, 0.0035))]
    root, top = neck_line(w)
    base = root + w.chain.spine * 0.002
    rows = [(0, 0.0), (0.002, w.neck + 0.0105), (0.024, w.neck + 0.0070), (0.041, w.neck + 0.0040), (0.0415, 0.0)]
    collar = lathe(base, unit(unit(top - root) + w.chain.ahead * 0.06), rows, 16)
    return [skin_of(SHIRT, blends, SHIRT_TRIS), Part(SHIRT, *collar)]


def _on_the_ground(w: Wearer) -> bool:
    return w.chain.sits or any(leg.contact in ("tucked", "instep") for leg in w.chain.legs)


def legs_of(w: Wearer, code: int, most: int, until: float = 2.0) -> Part:
    """Pelvis and legs down to ``until``; what lies on the ground is flat there."""
    field = Field([*seat(w), *(b for leg in w.chain.legs for b in trouser_leg(w, leg, until))], CELL)
    if _on_the_ground(w):
        field.keep_above(np.zeros(3), np.array([0.0, 0, 1.0]))
    return Part(code, *field.skin(most))


def trousers(w: Wearer, _grips: Grips) -> list[Part]:
    """To the ankle."""
    return [legs_of(w, TROUSERS, TROUSER_TRIS)]


def shorts(w: Wearer, _grips: Grips) -> list[Part]:
    """To above the knee, with bare legs below."""
    out = [legs_of(w, TROUSERS, 420, 0.72)]
    for leg in w.chain.legs:
        field = Field(trouser_leg(w, leg, cloth=0.0), CELL)
        if _on_the_ground(w):
            field.keep_above(np.zeros(3), np.array([0.0, 0, 1.0]))
        out.append(Part(SKIN, *field.skin(220)))
    return out


def foot_axes(leg: Leg) -> np.ndarray:
    """The axes of a foot: to the left, back, up."""
    return np.column_stack([unit(np.cross(leg.rise, leg.toes)), -leg.toes, leg.rise])


def shoes(w: Wearer, _grips: Grips) -> list[Part]:
    """Low shoes with a collar at the ankle."""
    out = []
    size = w.seg["foot_length"] * (0.97 if w.woman else 1.0)
    for leg in w.chain.legs:
        out.append(shoe(TOES_BENT.get(leg.contact, 0.0)).placed(foot_axes(leg), leg.ankle, size))
        k = min(w.thick("shanks"), 1.0)  # a stout ankle goes into it as well, and one that lies is on the ground
        rows = [(-0.02, 0.0), (-0.018, 0.0205 * k), (0.010, 0.0245 * k), (0.013, 0.0)]
        out.append(Part(SHOES, *lathe(leg.ankle, -leg.shank, rows, 10)))
    return out


SHIRT_ON = Garment("a shirt", shirt)
TROUSERS_ON = Garment("trousers", trousers)
SHOES_ON = Garment("shoes", shoes)
SHORTS = Garment("shorts", shorts, frozenset({"trousers"}))
