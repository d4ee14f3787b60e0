# SPDX-License-Identifier: MIT
"""The body of a file of the print shop, by its simplified skin."""

from functools import lru_cache

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.bodies.outline import silhouette
from fondale.core.model.shapes import Mesh
from fondale.core.shapes.kind import ShapeKind
from fondale.core.shapes.solid import Outline, Solid, block_ring, of_tris
from fondale.core.troubles import Trouble


class NoBody(Trouble):
    """A body that no file was brought for."""


class MeshKind(ShapeKind[Mesh]):
    """What is printed: its size is that of its file."""

    model, words, caption = Mesh, "", "height"
    axes = {"width": 0, "depth": 1, "height": 2}  # noqa: RUF012

    def new(self) -> Mesh:
        raise NoBody("The body of a file comes with its file: bring one in on Bench, under Print shop.")

    def solid(self, shape: Mesh, height: float) -> Solid:
        return of_tris(mesh_tris(shape))

    def outline(self, shape: Mesh, height: float) -> Outline:
        return mesh_view(shape, 0.0)


def mesh_tris(shape: Mesh) -> Floats:
    """The simplified skin in mm (t, 3, 3), standing on z = 0."""
    out: Floats = (np.array(shape.points) * [shape.width, shape.depth, shape.height])[np.array(shape.faces)]
    return out


@lru_cache(maxsize=128)
def mesh_view(shape: Mesh, turn_deg: float) -> Outline:
    """The outline of a body's skin turned about the vertical: 0 from the front, 90 from its right side."""
    return silhouette(mesh_tris(shape), turn_deg) or (block_ring(shape.width, shape.height),)
