# SPDX-License-Identifier: MIT
"""What colour the parts of figures have: what their coats say, and before that what people are like."""

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.bodies.parts import NAMES
from fondale.core.coat_kinds import is_colour
from fondale.core.model import Piece, Project
from fondale.core.model.base import Rgb
from fondale.core.model.shapes import Figure
from fondale.knowledge import table

Paints = tuple[Rgb, ...]


def figure_paints(project: Project) -> dict[str, Paints]:
    """For every placed figure the reflectance of each of its parts, in the order of ``NAMES``.

    Skin, hair and shoes are as the table has them, clothes in the colour of the piece, until a step gives a surface that is that part a
    colour; the last such step counts.
    """
    out = {p.id: _bare(p) for p in project.pieces if p.place is not None and isinstance(p.shape, Figure)}
    of = {s.id: (s.piece, NAMES.index(s.part)) for s in project.surfaces if s.part and s.piece in out}
    for step in project.steps:
        if is_colour(step):
            for piece, part in (of[s] for s in step.surfaces if s in of):
                out[piece] = (*out[piece][:part], step.colour, *out[piece][part + 1 :])
    return out


def _bare(piece: Piece) -> Paints:
    natural = table("body")["colours"]
    return tuple(tuple(natural[name]) if name in natural else piece.paint for name in NAMES)


def paints_of(piece: Piece, groups: "np.ndarray[tuple[int, ...], np.dtype[np.int64]]", figures: dict[str, Paints]) -> Floats:
    """The reflectance (t, 3) of a piece's triangles, from the groups that they are in."""
    if piece.id in figures:
        return np.array(figures[piece.id])[groups // 6]
    return np.tile(np.array(piece.paint), (len(groups), 1))
