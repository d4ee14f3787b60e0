# SPDX-License-Identifier: MIT
"""Layouts: keeping how everything stands, and going back to it."""

from fondale.core.edits.edit import Add, Edit, Together, maker, put
from fondale.core.edits.ids import named_anew
from fondale.core.model import LAYOUTS, PIECES, Layout, Project, Stood


@maker
def keep_layout(project: Project) -> tuple[Add[Layout], str]:
    """The edit that keeps the present layout, and its id."""
    ident, name = named_anew(project.layouts, "Layout")
    stands = tuple(Stood(piece=p.id, place=p.place) for p in project.pieces if p.place is not None)
    return Add(f"Keep {name}", LAYOUTS, Layout(id=ident, name=name, stands=stands)), ident


@maker
def lay_out(project: Project, layout: Layout) -> Together:
    """The edit that lets every piece stand as a layout has it; what that does not know stays where it is."""
    label, edits = f"Lay out as {layout.name}", list[Edit]()
    rooms = {r.id for r in project.case.rooms}
    for stood in layout.stands:
        piece = project.find(PIECES, stood.piece)
        place = stood.place if stood.place.room in rooms else stood.place.but(room="")
        if piece is not None and piece.place != place:
            edits.append(put(PIECES.at(piece.id).then(lambda p: p.place), place, label))
    return Together(label, tuple(edits))


def is_present(project: Project, layout: Layout) -> bool:
    """Whether everything that a layout knows stands so now."""
    return not lay_out(project, layout).edits
