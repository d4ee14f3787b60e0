# SPDX-License-Identifier: MIT
"""The parts of a body that take a colour each, and what one is made of."""

from typing import NamedTuple, get_args

import numpy as np

from fondale.core.arrays import Floats, Ints
from fondale.core.model.shapes import BodyPart

FACE, HAIR, SKIN, SHIRT, TROUSERS, SHOES, EXTRA = range(7)
NAMES: tuple[BodyPart, ...] = get_args(BodyPart)


class Part(NamedTuple):
    """A closed skin: vertices (v, 3), triangles (t, 3)."""

    code: int
    points: Floats
    tris: Ints

    def placed(self, axes: Floats, at: Floats, size: float) -> "Part":
        """Enlarged, turned so that its own axes become the columns of ``axes``, and moved; axes that mirror it turn the triangles too."""
        tris = self.tris if np.linalg.det(axes) > 0 else self.tris[:, ::-1]
        return Part(self.code, self.points * size @ axes.T + at, tris)
