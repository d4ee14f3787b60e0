# SPDX-License-Identifier: MIT
"""Kinds of shape, one module a family: what each is as a solid and as an outline, what it carries and which sizes it has."""

from typing import Any

from fondale.core.model.shapes import Shape
from fondale.core.shapes.backdrops import BackdropKind
from fondale.core.shapes.blocks import BoxKind, StairsKind
from fondale.core.shapes.boats import HullKind
from fondale.core.shapes.brought import MeshKind
from fondale.core.shapes.figures import AnimalKind, FigureKind
from fondale.core.shapes.furniture import BUILDERS, FurnitureKind
from fondale.core.shapes.grounds import GroundKind
from fondale.core.shapes.kind import ShapeKind
from fondale.core.shapes.panes import GlassKind, WaterKind
from fondale.core.shapes.round_things import CylinderKind, WheelKind
from fondale.core.shapes.walls import RoomKind, WallKind

# In the order in which they are offered.
KINDS: tuple[ShapeKind[Any], ...] = (
    FigureKind(), AnimalKind(), WheelKind(), CylinderKind(), BoxKind(), WallKind(), RoomKind(), StairsKind(), HullKind(), GroundKind(), BackdropKind(), GlassKind(), WaterKind(), MeshKind(),
)  # fmt: skip
FURNITURE: tuple[ShapeKind[Any], ...] = tuple(FurnitureKind(what) for what in BUILDERS)
_BY_MODEL = {kind.model: kind for kind in (*FURNITURE, *KINDS)}


def kind_of(shape: Shape) -> ShapeKind[Any]:
    """What a shape's kind tells."""
    return _BY_MODEL[type(shape)]


__all__ = ["FURNITURE", "KINDS", "ShapeKind", "kind_of"]
