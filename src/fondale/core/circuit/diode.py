# SPDX-License-Identifier: MIT
"""LEDs by the Shockley equation [shockley1949] with series resistance: V = N Vt ln(I/IS + 1) + I RS."""

from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model import Lamp
from fondale.knowledge import table

VT = 0.02569  # k T / q at 25 C, in volts


@dataclass(frozen=True)
class Diode:
    """Saturation current IS in ampere, emission coefficient N, series resistance RS in ohm."""

    saturation_a: float
    n: float
    series_ohm: float

    def current(self, volts: Floats) -> tuple[Floats, Floats]:
        """Current in A and its slope in A/V at ``volts``, explicit through the Wright omega function."""
        from scipy.special import wrightomega  # slow to load: only where a network is solved

        a = self.n * VT
        arg = np.log(self.saturation_a * self.series_ohm / a) + (volts + self.saturation_a * self.series_ohm) / a
        w = np.real(wrightomega(arg))
        return w * a / self.series_ohm - self.saturation_a, w / (self.series_ohm * (1 + w))

    def volts(self, amps: float) -> float:
        """Forward voltage at ``amps`` (0 or more)."""
        return float(self.n * VT * np.log(amps / self.saturation_a + 1) + amps * self.series_ohm)


def fit_diode(points: tuple[tuple[float, float], ...]) -> Diode:
    """IS, N and RS through two or three (V, A) points of a data sheet, in rising order.

    Three points are met exactly; where no positive RS would meet them, and for two points, RS is taken as
    2 ohm, and the outer two points are met. Raises ValueError for fewer than two points or falling values.
    """
    if len(points) < 2 or any(b[0] <= a[0] or b[1] <= a[1] for a, b in pairwise(points)):
        raise ValueError("two or three points with rising volts and amperes are needed")
    (v1, i1), (v3, i3) = points[0], points[-1]

    def slope(rs: float, v_a: float, i_a: float, v_b: float, i_b: float) -> float:
        return float(((v_b - i_b * rs) - (v_a - i_a * rs)) / np.log(i_b / i_a))

    series = 2.0
    if len(points) > 2:
        v2, i2 = points[1]

        def miss(rs: float) -> float:
            return slope(rs, v1, i1, v2, i2) - slope(rs, v2, i2, v3, i3)

        most = 0.9999 * min((v2 - v1) / (i2 - i1), (v3 - v2) / (i3 - i2))
        if most > 0.01 and miss(0.01) * miss(most) < 0:
            # Halving by hand: the library's root finders take most of a second to load, and the window would wait for it.
            low, high = 0.01, most
            for _ in range(60):
                series = (low + high) / 2
                low, high = (low, series) if miss(low) * miss(series) <= 0 else (series, high)
    a = slope(series, v1, i1, v3, i3)
    saturation = i1 / np.expm1((v1 - i1 * series) / a)
    return Diode(float(saturation), a / VT, series)


def most_ma(lamp: Lamp) -> float:
    """The most current that a lamp bears, in mA, by its kind and by what it is built as; 0 for one of an unknown kind."""
    tables = table("electric")
    row = tables["led"].get(lamp.led, {"max_ma": 0.0})
    built = {} if "body" in row else tables["package"].get(lamp.package, {})
    return min(float(row["max_ma"]), float(built.get("max_ma", row["max_ma"])))


@lru_cache(maxsize=64)
def diode_of(led: str) -> Diode:
    """The diode of a row of the LED table. Raises KeyError for an unknown row."""
    points = table("electric")["led"][led]["points"]
    return fit_diode(tuple((float(v), float(ma) / 1000.0) for v, ma in points))
