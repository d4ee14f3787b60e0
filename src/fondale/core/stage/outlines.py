"""The outline of any piece as it stands on the shelf, in mm."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model import Piece, Project
from fondale.core.model import shapes as sh
from fondale.core.scale.mannequin import mannequin
from fondale.core.scale.outline import Outline, animal_outline, figure_outline, silhouette
from fondale.core.stage.solids import measured_height, mesh_tris


@dataclass(frozen=True)
class Outlines:
    """Outlines of the pieces on the shelf by id, and of every file from the front and from its right side, in mm."""

    pieces: dict[str, Outline]
    files: dict[str, tuple[Outline, Outline]]


def outlines(project: Project) -> Outlines:
    """Every outline that the Bench draws. The first time a shape is seen it takes a tenth of a second."""
    files: dict[str, tuple[Outline, Outline]] = {}
    for piece in project.pieces:
        if isinstance(piece.shape, sh.Mesh) and piece.shape.file and piece.shape.file not in files:
            files[piece.shape.file] = (mesh_view(piece.shape, 0.0), mesh_view(piece.shape, 90.0))
    return Outlines({p.id: piece_outline(p) for p in project.pieces if p.role == "piece"}, files)


@lru_cache(maxsize=128)
def mesh_view(shape: sh.Mesh, turn_deg: float) -> Outline:
    """The outline of a body's skin turned about the vertical: 0 from the front, 90 from its right side."""
    return silhouette(mesh_tris(shape), turn_deg) or (_block(shape.width, shape.height),)


def piece_outline(piece: Piece) -> Outline:
    """Rings (k, 2) of a piece in mm, its base on y = 0 and centred on x = 0; fill with the odd-even rule."""
    shape = piece.shape
    rings: Outline
    match shape:
        case sh.Figure():
            body = mannequin(shape.pose, shape.person, shape.extras, shape.heroic, shape.build)
            factor = measured_height(piece) / body.crown
            rings = tuple(r * factor for r in figure_outline(shape.pose, shape.person, shape.extras, shape.heroic, shape.build))
        case sh.Animal():
            rings = tuple(r * measured_height(piece) for r in animal_outline(shape.species))
        case sh.Mesh():
            rings = mesh_view(shape, 0.0)
        case sh.Wheel():
            rings = _wheel(shape)
        case sh.Cylinder():
            wide, high = (shape.diameter, shape.length) if shape.axis == "z" else (shape.length, shape.diameter)
            rings = (_block(wide, high),)
        case sh.Hull():
            frame = np.array([[-0.5, 0.75], [-0.46, 0.1], [-0.3, 0.0], [0.3, 0.0], [0.5, 1.0], [0.1, 0.8]])
            rings = (frame * [shape.length, shape.depth],)
        case sh.Wall():
            holes = (_block(o.width, o.height, o.x + o.width / 2 - shape.length / 2, o.z) for o in shape.openings)
            rings = (_block(shape.length, shape.height), *holes)
        case _:
            rings = (_block(shape.width, shape.height),)
    points = np.concatenate(list(rings))
    middle = (points[:, 0].min() + points[:, 0].max()) / 2
    return tuple(r - [middle, 0] for r in rings)


def _block(width: float, height: float, x: float = 0.0, y: float = 0.0) -> Floats:
    return np.array([[x - width / 2, y], [x + width / 2, y], [x + width / 2, y + height], [x - width / 2, y + height]])


def _wheel(shape: sh.Wheel) -> Outline:
    r, a = shape.diameter / 2, np.linspace(0, 2 * np.pi, 49)[:-1]
    circle = np.stack([np.cos(a), np.sin(a)], 1)
    rings = [circle * r + [0, r]]
    n = max(shape.spokes, 3)
    for k in range(n):
        b = np.linspace(2 * np.pi * k / n + 0.5 / n, 2 * np.pi * (k + 1) / n - 0.5 / n, 6)
        arc = np.stack([np.cos(b), np.sin(b)], 1)
        rings.append(np.concatenate((arc * r * 0.88, arc[::-1] * r * 0.2)) + np.array([0.0, r]))
    return tuple(rings)
