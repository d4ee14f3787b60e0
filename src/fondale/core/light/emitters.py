"""LEDs as light: where they are, how they spread, how strong and of which colour."""

import math
from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model import Lamp
from fondale.knowledge import table

LUMINOUS = np.array([0.2126, 0.7152, 0.0722])  # weights of linear sRGB [iec61966]
ALL_ROUND_DEG = 300.0


@dataclass(frozen=True)
class Emitter:
    """A point source: intensity cos(theta)^m about ``axis``; ``m`` None: the same in all directions."""

    at: tuple[float, float, float]
    axis: tuple[float, float, float]
    m: float | None

    def shape(self, cos_theta: Floats) -> Floats:
        """Relative intensity at these cosines off the axis."""
        if self.m is None:
            return np.ones_like(cos_theta)
        out: Floats = np.where(cos_theta > 0, np.maximum(cos_theta, 1e-12) ** self.m, 0.0)
        return out


def exponent(angle_deg: float) -> float | None:
    """m of cos^m for the full angle between half intensities: m = ln 0.5 / ln cos(half). None: all round."""
    if angle_deg >= ALL_ROUND_DEG:
        return None
    if angle_deg >= 179.9:
        return 0.0
    return math.log(0.5) / math.log(math.cos(math.radians(angle_deg / 2)))


def flux_lm(candela: float, m: float | None) -> float:
    """Flux of a source with ``candela`` on its axis: 2 pi I0 / (m + 1), or 4 pi I0 all round."""
    return 4 * math.pi * candela if m is None else 2 * math.pi * candela / (m + 1)


def emitter_of(lamp: Lamp) -> Emitter:
    """The emitter of a lamp; a lamp without a direction looks down."""
    axis = np.array([lamp.ax, lamp.ay, lamp.az])
    length = float(np.linalg.norm(axis))
    axis = axis / length if length > 1e-9 else np.array([0.0, 0.0, -1.0])
    return Emitter((lamp.x, lamp.y, lamp.z), (float(axis[0]), float(axis[1]), float(axis[2])), exponent(lamp.angle_deg))


def bands_at_rated(lamp: Lamp) -> Floats:
    """Axial intensity (3,) in the three bands at the row's rated current, in candela.

    The row's flux is kept when the lamp's angle differs from the row's 120 degrees.
    """
    row = table("electric")["led"][lamp.led]
    m = exponent(lamp.angle_deg)
    axial = row["candela"] * flux_lm(1.0, 1.0) / flux_lm(1.0, m)
    rgb = np.array(row["rgb"], float)
    out: Floats = rgb / float(LUMINOUS @ rgb) * axial
    return out


def rated_a(lamp: Lamp) -> float:
    """The current in ampere that the row's candela belong to: its last point."""
    return float(table("electric")["led"][lamp.led]["points"][-1][1]) / 1000.0


def lux(bands: Floats) -> Floats:
    """Photometric value of three-band values (..., 3)."""
    out: Floats = bands @ LUMINOUS
    return out
