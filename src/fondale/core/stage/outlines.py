"""The outline of any piece as it stands on the shelf, in mm."""

from dataclasses import dataclass

import numpy as np

from fondale.core.model import Piece, Project
from fondale.core.model.shapes import Mesh
from fondale.core.shapes import kind_of
from fondale.core.shapes.brought import mesh_view
from fondale.core.shapes.solid import Outline
from fondale.core.stage.solids import measured_height


@dataclass(frozen=True)
class Outlines:
    """Outlines of the pieces on the shelf by id, and of every file from the front and from its right side, in mm."""

    pieces: dict[str, Outline]
    files: dict[str, tuple[Outline, Outline]]


def outlines(project: Project) -> Outlines:
    """Every outline that the Bench draws. The first time a shape is seen it takes a tenth of a second."""
    files: dict[str, tuple[Outline, Outline]] = {}
    for piece in project.pieces:
        if isinstance(piece.shape, Mesh) and piece.shape.file and piece.shape.file not in files:
            files[piece.shape.file] = (mesh_view(piece.shape, 0.0), mesh_view(piece.shape, 90.0))
    return Outlines({p.id: piece_outline(p) for p in project.pieces if p.role == "piece"}, files)


def piece_outline(piece: Piece) -> Outline:
    """Rings (k, 2) of a piece in mm, its base on y = 0 and centred on x = 0; fill with the odd-even rule."""
    rings = kind_of(piece.shape).outline(piece.shape, measured_height(piece))
    points = np.concatenate(list(rings))
    middle = (points[:, 0].min() + points[:, 0].max()) / 2
    return tuple(r - [middle, 0] for r in rings)
