# SPDX-License-Identifier: MIT
"""What every kind of lamp can tell of itself as light."""

from abc import ABC, abstractmethod
from typing import TYPE_CHECKING, Any

from numpy.typing import NDArray

from fondale.core.arrays import Floats

if TYPE_CHECKING:
    from fondale.core.stage.scene import Scene

M2_PER_MM2 = 1e-6


class Emitter(ABC):
    """One source of light. Equal emitters give equal light: they are frozen, and kept by value."""

    @abstractmethod
    def direct(self, scene: "Scene", points: NDArray[Any], normals: NDArray[Any]) -> Floats:
        """Illuminance (k,) in lux, shadowed, at ``points`` (k, 3) with unit ``normals``, for one candela on the axis: what comes straight.

        It is worked out in the precision of ``points``.
        """

    @abstractmethod
    def thrown(self, scene: "Scene", points: NDArray[Any], normals: NDArray[Any]) -> Floats:
        """The same of what comes by way of panes and mirrors."""

    @property
    @abstractmethod
    def flux_lm(self) -> float:
        """Lumen for one candela on the axis."""

    @abstractmethod
    def seen(self) -> Floats:
        """Points (k, 3) in mm on the part that dazzles whoever sees it."""

    @abstractmethod
    def outline(self) -> Floats:
        """Its outline (k, 3) in mm for plan and section; one point alone is drawn as a dot."""
