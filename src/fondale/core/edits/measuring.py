# SPDX-License-Identifier: MIT
"""What a size taken on a piece changes, and the sizes that its shape has."""

from dataclasses import dataclass
from operator import attrgetter

from fondale.core.edits.edit import Edit, Put, maker, put
from fondale.core.fits.air import Mend
from fondale.core.model import FITS, PIECES, PROJECT, Fit, Measure, Piece, Project, Spot
from fondale.core.model.shapes import Mesh
from fondale.core.shapes import kind_of
from fondale.core.words import show_scale


def sizes_of(piece: Piece) -> dict[str, Spot[float]]:
    """The sizes of a piece's shape by their words, as spots."""
    shape = PIECES.at(piece.id).then(lambda p: p.shape).narrowed(type(piece.shape))
    return {name: shape.then(attrgetter(name)) for name in kind_of(piece.shape).axes}


@maker
def set_house(n: float) -> Put[float]:
    """The edit that makes 1:n the house scale."""
    return put(PROJECT.then(lambda p: p.brief.house_n), n, f"House scale {show_scale(n)}")


@maker
def mend_fit(fit: Fit, mend: Mend) -> Put[float]:
    """One face of a fit at the size that makes it go."""
    return put(FITS.at(fit.id).then(attrgetter(mend.face)), mend.mm, f"{mend.label}: {fit.name}")


@dataclass(frozen=True)
class TakeSize(Edit):
    """The main size of a piece as the caliper shows it; a thing that is told by that size gets it. Pieces of one file are of one size."""

    piece: str
    mm: float

    def done(self, project: Project) -> Project:
        taken = project.get(PIECES, self.piece)
        file = taken.shape.file if isinstance(taken.shape, Mesh) else ""
        alike = [p for p in project.pieces if p is taken or (file and isinstance(p.shape, Mesh) and p.shape.file == file)]
        for piece in alike:
            project = PIECES.at(piece.id).set(project, self._taken(piece))
        return project

    def _taken(self, piece: Piece) -> Piece:
        measure = piece.measure.but(mm=self.mm) if piece.measure is not None else Measure(mm=self.mm)
        main = kind_of(piece.shape).main
        shape = piece.shape.but(**{main: self.mm}) if main else piece.shape
        return piece.but(measure=measure, shape=shape)
