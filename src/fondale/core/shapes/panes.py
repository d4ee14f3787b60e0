# SPDX-License-Identifier: MIT
"""What one sees through: panes and mirrors that stand in a scene, and water."""

from fondale.core.model.shapes import Glass, Water
from fondale.core.shapes.kind import ShapeKind
from fondale.core.shapes.solid import Solid, box_faces, centred, of_rects


class GlassKind(ShapeKind[Glass]):
    """A flat sheet on its edge, whose face looks to the front."""

    model, words, scenery = Glass, "Pane or mirror", True
    axes = {"width": 0, "thickness": 1, "height": 2}  # noqa: RUF012

    def new(self) -> Glass:
        return Glass(width=80, height=120)

    def solid(self, shape: Glass, height: float) -> Solid:
        return centred(of_rects(box_faces((0, 0, 0, shape.width, shape.thickness, shape.height))), shape.width, shape.thickness)


class WaterKind(ShapeKind[Water]):
    """A block that carries nothing: what is put on it stands in it, on the ground."""

    model, words, scenery, open_above = Water, "Water", True, True
    axes = {"width": 0, "depth": 1, "height": 2}  # noqa: RUF012

    def new(self) -> Water:
        return Water(width=120, depth=80, height=6)

    def solid(self, shape: Water, height: float) -> Solid:
        return centred(of_rects(box_faces((0, 0, 0, shape.width, shape.depth, shape.height))), shape.width, shape.depth)
