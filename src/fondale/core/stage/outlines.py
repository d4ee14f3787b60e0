# SPDX-License-Identifier: MIT
"""The outline of any piece as it stands on the shelf, in mm."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.bodies.outline import figure_outline, silhouette
from fondale.core.model import Piece, Project
from fondale.core.model.shapes import BodyPart, Figure, Mesh, Shape
from fondale.core.prints.supports import turned
from fondale.core.shapes import kind_of
from fondale.core.shapes.brought import mesh_tris, mesh_view
from fondale.core.shapes.solid import Outline
from fondale.core.stage.solids import measured_height, part_areas


@dataclass(frozen=True)
class Outlines:
    """Outlines of the pieces on the shelf by id, and of every file from the front and from its right side, in mm; ``lying`` from the front as it
    lies on its machine, where it does not stand.

    ``hulls`` are the corners (k, 3) of the convex hull of every placed piece that lives, for its measured height 1; ``man`` is the outline of
    a man who stands, for a stature of 1. ``areas`` are those of the parts of every figure, in squares of its measured height.
    """

    pieces: dict[str, Outline]
    files: dict[str, tuple[Outline, Outline]]
    lying: dict[str, Outline]
    hulls: dict[str, Floats]
    man: Outline
    areas: dict[str, dict[BodyPart, float]]


def outlines(project: Project) -> Outlines:
    """Every outline that the Bench draws. The first time a shape is seen it takes a tenth of a second."""
    files: dict[str, tuple[Outline, Outline]] = {}
    lies = {f.id: (f.up, f.tilt_deg) for f in project.prints if f.up != "z" or f.tilt_deg}
    lying: dict[str, Outline] = {}
    for piece in project.pieces:
        if isinstance(piece.shape, Mesh) and piece.shape.file and piece.shape.file not in files:
            files[piece.shape.file] = (mesh_view(piece.shape, 0.0), mesh_view(piece.shape, 90.0))
            if piece.shape.file in lies:
                lying[piece.shape.file] = mesh_lying(piece.shape, *lies[piece.shape.file])
    hulls = {p.id: _hull(p.shape) for p in project.pieces if p.place is not None and kind_of(p.shape).living}
    areas = {p.id: part_areas(p.shape) for p in project.pieces if isinstance(p.shape, Figure)}
    return Outlines(
        {p.id: piece_outline(p) for p in project.pieces if p.role == "piece"}, files, lying, hulls, figure_outline("standing"), areas
    )


@lru_cache(maxsize=64)
def mesh_lying(shape: Mesh, up: str, tilt_deg: float) -> Outline:
    """The outline of a body's skin from the front as it lies, ``up`` upwards and tilted, in mm."""
    return silhouette(mesh_tris(shape) @ turned(up, tilt_deg).T, 0.0) or mesh_view(shape, 0.0)


@lru_cache(maxsize=256)
def _hull(shape: Shape) -> Floats:
    from scipy.spatial import ConvexHull

    corners = kind_of(shape).solid(shape, 1.0).corners()
    return corners[ConvexHull(corners).vertices]


def piece_outline(piece: Piece) -> Outline:
    """Rings (k, 2) of a piece in mm, its base on y = 0 and centred on x = 0; fill with the odd-even rule."""
    rings = kind_of(piece.shape).outline(piece.shape, measured_height(piece))
    points = np.concatenate(list(rings))
    middle = (points[:, 0].min() + points[:, 0].max()) / 2
    return tuple(r - [middle, 0] for r in rings)
