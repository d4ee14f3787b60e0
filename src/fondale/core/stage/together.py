# SPDX-License-Identifier: MIT
"""What is of one body with a piece, what goes where it goes, and what it can hang on."""

from collections.abc import Callable

import numpy as np

from fondale.core.model import PIECES, Piece, Project
from fondale.core.rays import PlainRays
from fondale.core.stage.scene import placed_solid, rest_places

LINE_LEAST = 1.0  # mm: nothing hangs on less


def with_parts(project: Project, ident: str) -> tuple[Piece, ...]:
    """The pieces that are part of a piece, and of those again."""
    return _following(project, ident, lambda p, found: p.part_of in found)


def going_along(project: Project, ident: str) -> tuple[Piece, ...]:
    """The pieces that are part of a piece or hang on it with all their lines, and on those again."""
    return _following(project, ident, lambda p, found: p.part_of in found or (bool(p.slings) and all(s.on in found for s in p.slings)))


def of_one_body(project: Project, ident: str) -> tuple[Piece, ...]:
    """The piece and its parts, without those that hang on lines of their own and what is part of these."""
    return (project.get(PIECES, ident), *_following(project, ident, lambda p, found: p.part_of in found and not p.slings))


def can_bear(project: Project, ident: str) -> tuple[Piece, ...]:
    """The placed pieces that a piece can hang on: not those that are part of it or hang on it."""
    below = {ident, *(p.id for p in going_along(project, ident))}
    return tuple(p for p in project.pieces if p.id not in below and p.place is not None)


def over(project: Project, ident: str, x: float, y: float, z: float) -> tuple[str, float] | None:
    """The first piece straight over a point that another can hang on, and how high its underside is there; None where there is none."""
    places = rest_places(project)
    start, up = np.array([[x, y, z + LINE_LEAST]]), np.array([[0.0, 0.0, 1.0]])
    found = []
    for piece in can_bear(project, ident):
        prim, far = PlainRays(placed_solid(piece, places[piece.id]).triangles()).hit(start, up)
        if prim[0] >= 0:
            found.append((z + LINE_LEAST + float(far[0]), piece.id))
    return (min(found)[1], min(found)[0]) if found else None


def _following(project: Project, ident: str, follows: Callable[[Piece, set[str]], bool]) -> tuple[Piece, ...]:
    out: dict[str, Piece] = {}
    while more := {p.id: p for p in project.pieces if p.id != ident and p.id not in out and follows(p, {ident, *out})}:
        out |= more
    return tuple(out.values())
