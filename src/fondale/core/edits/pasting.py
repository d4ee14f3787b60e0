# SPDX-License-Identifier: MIT
"""Pieces taken along, with what is part of them or hangs on them and the lamps built into them: to another project, or to the same once more."""

from typing import Any

from fondale.core.edits.edit import Add, Edit, EditError, maker
from fondale.core.edits.ids import named_anew
from fondale.core.edits.places import free_place
from fondale.core.model import LAMPS, PIECES, Project
from fondale.core.model.base import Names
from fondale.core.model.marks import Marked, changed
from fondale.core.model.references import tied_up
from fondale.core.model.shapes import Mesh
from fondale.core.stage.together import going_along

NOTHING = "There is no piece to paste: choose one and copy it first."


@maker
def copied(project: Project, ident: str) -> Project:
    """A project of one piece, of what is part of it or hangs on it, of its lamps and of the files that they are printed from; nothing else is in it."""
    pieces = (project.get(PIECES, ident), *going_along(project, ident))
    inside = {p.id for p in pieces}
    files = {p.shape.file for p in pieces if isinstance(p.shape, Mesh)}
    return tied_up(
        Project(
            id=project.id,
            name=project.name,
            brief=project.brief,
            case=project.case,
            pieces=pieces,
            lamps=tuple(m for m in project.lamps if m.piece in inside),
            prints=tuple(f.but(beside="") for f in project.prints if f.id in files),
        )
    )


@maker
def pasted(project: Project, taken: Project) -> tuple[tuple[Edit, ...], str]:
    """The edits that bring pieces of another project in, and the id of the first: it goes to a free place, and the others keep theirs beside it.

    What is named and is not here is let go; a file that is here too, the same by name and sizes, is the same. Raises EditError where there is none.
    """
    if not taken.pieces:
        raise EditError(NOTHING)
    here = {f.id: f for f in project.prints}
    known = {("prints", f.id): f.id for f in taken.prints if f.id in here and (here[f.id].name, here[f.id].size) == (f.name, f.size)}
    if taken.id == project.id:
        known |= {("rooms", r.id): r.id for r in project.case.rooms}
    edits: list[Edit] = []
    shift = (0.0, 0.0)
    for k, old in enumerate(taken.pieces):
        ident, name = named_anew(project.pieces, old.name)
        known["pieces", old.id] = ident
        piece = _at_home(old, known).but(id=ident, name=name, thread=old.thread if taken.id == project.id else "")
        if piece.place is not None:
            if k == 0:
                place = free_place(project, piece, piece.place.room).but(turn_deg=piece.place.turn_deg, tilt_deg=piece.place.tilt_deg)
                shift = place.x - piece.place.x, place.y - piece.place.y
            else:
                place = piece.place.but(x=piece.place.x + shift[0], y=piece.place.y + shift[1])
            hooks = tuple(s.but(x=s.x + shift[0], y=s.y + shift[1]) for s in piece.slings)
            piece = piece.but(place=place, slings=hooks, fixed=False)
        edits.append(Add(f"Paste {name}", PIECES, piece))
        project = edits[-1].apply(project)
    for lamp in taken.lamps:
        ident, name = named_anew(project.lamps, lamp.name)
        seed = max((m.seed for m in project.lamps), default=0) + 1
        new = _at_home(lamp, known).but(id=ident, name=name, x=lamp.x + shift[0], y=lamp.y + shift[1], seed=seed)
        edits.append(Add(f"Paste {name}", LAMPS, new))
        project = edits[-1].apply(project)
    return tuple(edits), known["pieces", taken.pieces[0].id]


def _at_home(thing: Any, known: dict[tuple[str, str], str]) -> Any:
    """A thing that names what is here: pieces by their new ids, files that are the same; the rest is let go."""

    def there(found: Marked) -> str | None:
        assert isinstance(found.mark, Names)
        return known.get((found.mark.listing, found.value))

    return changed(thing, Names, there)
