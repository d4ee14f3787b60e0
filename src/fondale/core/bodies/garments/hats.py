# SPDX-License-Identifier: MIT
"""What is worn on the head."""

import numpy as np

from fondale.core.bodies.cloth import Wearer, skin_of
from fondale.core.bodies.garments.garment import Garment, Grips
from fondale.core.bodies.parts import EXTRA, Part
from fondale.core.bodies.volumes import Blend, Tube, ball, unit


def _seat_of(w: Wearer, up: float) -> np.ndarray:
    c = w.chain
    return c.low + c.up * (c.head * up) - c.ahead * (c.head * 0.06)


def _left(w: Wearer) -> np.ndarray:
    return unit(np.cross(w.chain.up, w.chain.ahead))


def _cap(w: Wearer, _grips: Grips) -> list[Part]:
    """A flat top on a band, with a peak."""
    c, h, at = w.chain, w.chain.head, _seat_of(w, 0.72)
    top = ball(at + c.up * (h * 0.22), (h * 0.47, h * 0.55, h * 0.13), tuple(unit(c.up + c.ahead * 0.14)), tuple(_left(w)))
    band = Tube(at - c.up * (h * 0.02), c.up, _left(w), [(0, h * 0.395, h * 0.46), (h * 0.2, h * 0.40, h * 0.47)], (0.003, 0.01))
    peak = ball(
        at + c.ahead * (h * 0.44) + c.up * (h * 0.01), (h * 0.28, h * 0.24, h * 0.035), tuple(unit(c.up + c.ahead * 0.35)), tuple(_left(w))
    )
    return [skin_of(EXTRA, [Blend(top), Blend(band, 0.010), Blend(peak, 0.006)], 200, 0.0055)]


def _hat(w: Wearer, _grips: Grips) -> list[Part]:
    """A brim all around, a dented crown, a band between them."""
    c, h, at = w.chain, w.chain.head, _seat_of(w, 0.70)
    brim = Tube(at, unit(c.up + c.ahead * 0.10), _left(w), [(0, h * 0.66, h * 0.74), (h * 0.05, h * 0.64, h * 0.72)], (0.002, 0.002))
    crown = Tube(
        at, c.up, _left(w), [(0, h * 0.41, h * 0.47), (h * 0.25, h * 0.39, h * 0.45), (h * 0.46, h * 0.33, h * 0.40)], (0.003, h * 0.06)
    )
    dent = ball(at + c.up * (h * 0.60), (h * 0.09, h * 0.34, h * 0.12), tuple(c.up), tuple(_left(w)))
    return [skin_of(EXTRA, [Blend(brim), Blend(crown, 0.008), Blend(dent, 0.010, cut=True)], 240, 0.0055)]


def _helmet(w: Wearer, _grips: Grips) -> list[Part]:
    """A round shell with a narrow rim, deeper behind."""
    c, h, at = w.chain, w.chain.head, _seat_of(w, 0.64)
    shell = ball(at + c.up * (h * 0.04), (h * 0.44, h * 0.51, h * 0.44), tuple(c.up), tuple(_left(w)))
    rim = Tube(
        at - c.up * (h * 0.02),
        unit(c.up + c.ahead * 0.10),
        _left(w),
        [(0, h * 0.52, h * 0.60), (h * 0.05, h * 0.46, h * 0.53)],
        (0.002, 0.004),
    )
    hollow = ball(at - c.up * (h * 0.36), (h * 0.50, h * 0.58, h * 0.34), tuple(unit(c.up + c.ahead * 0.10)), tuple(_left(w)))
    return [skin_of(EXTRA, [Blend(shell), Blend(rim, 0.010), Blend(hollow, cut=True)], 240, 0.0055)]


CAP = Garment("a cap", _cap)
HAT = Garment("a brimmed hat", _hat)
HELMET = Garment("a helmet", _helmet)
