# SPDX-License-Identifier: MIT
"""What every kind of shape can tell of itself. A new one is a model, a module beside these, and its line in ``KINDS``."""

from abc import ABC, abstractmethod
from typing import Generic, TypeVar

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model import Model
from fondale.core.shapes.solid import Outline, Solid, block_ring

S = TypeVar("S", bound=Model)


class ShapeKind(ABC, Generic[S]):
    """One kind of shape. Sizes in mm; ``height`` is the measured main size for shapes that are told by nothing else."""

    model: type[S]
    words: str  # in the list of things to add; empty: it comes by another way
    scenery = False  # what it is when it is new
    caption = "size"  # what its main size is called beside the field
    main = ""  # the field that takes the main size, if its shape is told by it
    axes: dict[str, int] = {}  # its sizes, and the axis that each lies along: 0 width, 1 depth, 2 height  # noqa: RUF012
    guess_mm = 50.0  # the main size until somebody measures it
    living = False  # people and animals: nobody can know their size without measuring
    stepped = False  # it carries on steps: its outline is in nobody's way who stands on one
    hollow = False  # only its faces are in the way, not what lies within its outline
    open_above = False  # things stand in it: its outline is in nobody's way
    sides = 0  # of the prism that a round thing is drawn as, with its corners on the circle; 0: it is drawn as it is
    ring_alone = False  # its outer ring tells its size: what lies within would only blur it

    @abstractmethod
    def new(self) -> S:
        """What a maker gets who adds one."""

    def at(self, house_n: float) -> S:
        """What a maker gets at a house scale of 1:``house_n``: the same for what has no size in life."""
        return self.new()

    @abstractmethod
    def solid(self, shape: S, height: float) -> Solid:
        """The shape as faces."""

    def outline(self, shape: S, height: float) -> Outline:
        """Rings (k, 2) as seen from the side of the bench, standing on y = 0; fill with the odd-even rule."""
        names = {axis: name for name, axis in self.axes.items()}
        return (block_ring(getattr(shape, names[0]), getattr(shape, names[2])),)

    def pierced(self, shape: S) -> tuple[Floats, Floats]:
        """Of walls: their middle planes (w, 3, 3), corner and edges, and those of what is open in them (h, 3, 3), in its own axes."""
        return np.zeros((0, 3, 3)), np.zeros((0, 3, 3))

    def top(self, shape: S, x: float, y: float) -> float | None:
        """Height over the base on which something can stand at (x, y) of its own axes, or None beside it."""
        return None

    def evens(self) -> bool:
        """Whether its top is one level face whose light can be called even or not."""
        return False
