# SPDX-License-Identifier: MIT
"""Keys of the tables, checked at the door: what this version's tables do not hold is kept and told, and everything else is reckoned."""

from dataclasses import dataclass
from typing import Any

from fondale.core.model import LISTS, Listing, Piece, Project
from fondale.core.model.base import Row
from fondale.core.model.marks import Marked, changed, marks_of, reading
from fondale.core.model.references import tied_up
from fondale.core.model.shapes import Box, Figure, Mesh
from fondale.core.shapes import kind_of
from fondale.knowledge import table


@dataclass(frozen=True)
class Unknown:
    """One key that no table holds: the list and the thing that name it, the field and the key."""

    listing: Listing[Any]
    ident: str
    name: str
    field: str
    key: str


def is_known(found: Marked) -> bool:
    """Whether a table holds a row of this key."""
    assert isinstance(found.mark, Row)
    for name, section in found.mark.places:
        rows = table(name)
        part = section if isinstance(section, str) else section(found.owner)
        if found.value in (rows[part] if part else rows):
            return True
    return False


def unknown_keys(project: Project) -> tuple[Unknown, ...]:
    """Every key of the project that this version's tables do not hold."""
    out = []
    with reading(Row):
        for listing in LISTS:
            for thing in listing.members(project):
                out += [
                    Unknown(listing, thing.id, getattr(thing, "name", thing.id), m.field, m.value)
                    for m in marks_of(thing, Row)
                    if not is_known(m)
                ]
    return tuple(out)


def reckonable(project: Project) -> tuple[Project, tuple[Unknown, ...]]:
    """The project as it is reckoned with, and its unknown keys. It is the same where every key is known.

    Otherwise what cannot be reckoned is left out: lamps of unknown LEDs, supplies of unknown kinds with their strings, coats, things and
    sizes that mean nothing here; those of no kind at all too. A body in an unknown pose stands as a block of its height, and is read as nothing.
    """
    unknown = unknown_keys(project)
    if not unknown and not _lacks(project):
        return project, ()
    without = changed(project, Row, lambda found: found.value if is_known(found) else None)
    lamps = tuple(m for m in without.lamps if m.led)
    supplies = tuple(s for s in without.supplies if s.row)
    pieces = tuple(_standing(p) for p in without.pieces)
    return tied_up(without.but(lamps=lamps, supplies=supplies, pieces=pieces)), unknown


def _lacks(project: Project) -> bool:
    """Whether a key is empty that nothing can be reckoned without."""
    poses = (p.shape.pose for p in project.pieces if isinstance(p.shape, Figure | Mesh))
    return not all((*poses, *(m.led for m in project.lamps), *(s.row for s in project.supplies)))


def _standing(piece: Piece) -> Piece:
    shape = piece.shape
    if isinstance(shape, Figure) and not shape.pose:
        high = piece.measure.mm if piece.measure else piece.shown_mm or kind_of(shape).guess_mm
        return piece.but(shape=Box(width=high * 0.3, depth=high * 0.2, height=high), details=(), thing="")
    if isinstance(shape, Mesh) and not shape.pose:
        return piece.but(shape=shape.but(person="", pose="standing"), details=())
    return piece
