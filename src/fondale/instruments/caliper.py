# SPDX-License-Identifier: MIT
"""A caliper: the port, and a simulated one with jitter and a zero error that the maker must notice."""

import random
from typing import Protocol

RESOLUTION_MM = 0.01
JITTER_MM = 0.02


class Caliper(Protocol):
    """What a caliper on a wire offers."""

    def zero(self) -> None:
        """Make what it shows with closed jaws the new zero."""
        ...

    def closed_mm(self) -> float:
        """What it shows with closed jaws."""
        ...

    def read_mm(self, true_mm: float) -> float:
        """What it shows on a thing of ``true_mm`` (a real one ignores the argument and measures)."""
        ...


class SimulatedCaliper:
    """Steps of 0.01 mm, hand jitter of 0.02 mm (standard deviation), and a zero error until it is zeroed."""

    def __init__(self, seed: int = 0, offset_mm: float = 0.35) -> None:
        self._random = random.Random(seed)
        self._offset_mm = offset_mm

    def zero(self) -> None:
        self._offset_mm = 0.0

    def closed_mm(self) -> float:
        return self._step(self._offset_mm)

    def read_mm(self, true_mm: float) -> float:
        return self._step(max(0.0, true_mm + self._random.gauss(0, JITTER_MM)) + self._offset_mm)

    @staticmethod
    def _step(mm: float) -> float:
        return round(mm / RESOLUTION_MM) * RESOLUTION_MM
