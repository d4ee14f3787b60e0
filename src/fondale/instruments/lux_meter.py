# SPDX-License-Identifier: MIT
"""A lux meter: the port, and a simulated one that rounds and errs as a hand-held one does."""

import random
from typing import Protocol

ERROR = 0.03  # relative standard deviation of a hand-held meter, common practice


class LuxMeter(Protocol):
    """What a lux meter on a wire offers."""

    def read_lx(self, true_lx: float) -> float:
        """What it shows under ``true_lx`` (a real one ignores the argument and measures)."""
        ...


class SimulatedLuxMeter:
    """Three digits, 3 % error, a floor of 0.1 lx."""

    def __init__(self, seed: int = 0) -> None:
        self._random = random.Random(seed)

    def read_lx(self, true_lx: float) -> float:
        shown = max(0.0, true_lx * (1 + self._random.gauss(0, ERROR)))
        if shown < 100:
            return round(shown, 1)
        return float(f"{shown:.3g}")
