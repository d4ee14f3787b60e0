# SPDX-License-Identifier: MIT
"""Stage: whether the case can be built, looked into and carried."""

from collections.abc import Iterator

from fondale.core.derived import CUTS, SHUT
from fondale.core.edits import put
from fondale.core.model import PIECES, PROJECT, ROOMS, CaseOpening, Project
from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.reckoning import Derived
from fondale.core.stage.cases import KINDS, SIDES, cells, openings_of, overlaps, upheld
from fondale.core.words import digits, percent, show_mm

UPHELD_LEAST = 0.95  # of a floor; the rest may hang over
FINGERS_MM = 18.0  # room to get the fingers under a board: 15 to 20 mm (common practice, no source)
HEAVY_MM = 300.0  # what is as broad as this is carried with both hands


def rooms_in_rooms(project: Project, _derived: Derived) -> Iterator[Finding]:
    """CASE-ROOMS: two rooms of the case share room."""
    for a, b, deep in overlaps(project.case):
        subjects = tuple((ROOMS, c.ident) for c in (a, b) if c.ident)
        yield Finding(
            "CASE-ROOMS", "stop", "stage", b.name, f"It stands in {_said(a.ident, a.name)}. Move one of them, or make one smaller.",
            f"they share {show_mm(deep)}", subjects,
        )  # fmt: skip


def _said(ident: str, name: str) -> str:
    return name if ident else "the case’s own room"


def upheld_rooms(project: Project, _derived: Derived) -> Iterator[Finding]:
    """CASE-HANGS: a room that stands on nothing, or not on enough."""
    for cell in cells(project.case)[1:]:
        share = upheld(project.case, cell)
        if share < UPHELD_LEAST:
            text = "Nothing is under it" if share <= 0 else "Part of its floor hangs over"
            yield Finding(
                "CASE-HANGS", "mind", "stage", cell.name, f"{text}: set it on a room below, or give it brackets or posts.",
                f"{percent(share)} of its floor is held up", ((ROOMS, cell.ident),),
            )  # fmt: skip


def nothing_to_look_in_by(project: Project, _derived: Derived) -> Iterator[Finding]:
    """CASE-BLIND: a room of boards all round without an opening."""
    case = project.case
    for cell in cells(case):
        if any(cell.sides[side] != "board" or openings_of(case, cell, side) for side in SIDES):
            continue
        spot = ROOMS.at(cell.ident).then(lambda r: r.openings) if cell.ident else PROJECT.then(lambda p: p.case).then(lambda c: c.openings)
        w, _d, h = cell.size.tolist()
        hole = CaseOpening(x=round(w * 0.3, 1), z=round(h * 0.35, 1), width=round(w * 0.4, 1), height=round(h * 0.3, 1))
        cut = put(spot, (*cell.hollow.openings, hole), "Cut an opening to look in by")
        yield Finding(
            "CASE-BLIND", "mind", "stage", cell.name, "Nobody can look in: boards close it all round.", "no pane, no opening",
            ((ROOMS, cell.ident),) if cell.ident else (), (Fix("Cut an opening in front", (cut,)),),
        )  # fmt: skip


def shut_in(project: Project, derived: Derived) -> Iterator[Finding]:
    """CASE-SHUT: a piece that no opening of its closed room lets out again."""
    for found in derived[SHUT]:
        piece = project.get(PIECES, found.piece)
        yield Finding(
            "CASE-SHUT", "mind", "stage", piece.name,
            "Once the boards are closed it does not come out again. Give the room a hatch that lets it through, or a lid that comes off.",
            f"it needs {digits(found.sizes[0], 0)} × {digits(found.sizes[1], 0)} mm; the largest opening is {digits(found.opening[0], 0)} × {digits(found.opening[1], 0)} mm",
            ((PIECES, piece.id),),
        )  # fmt: skip


def sheets_too_small(project: Project, derived: Derived) -> Iterator[Finding]:
    """CASE-SHEET: a board that no sheet holds."""
    boards = project.case.boards
    for name in dict.fromkeys(derived[CUTS].too_large):
        panel = next(p for p in derived[CUTS].panels if p.name == name)
        yield Finding(
            "CASE-SHEET", "mind", "stage", f"Board “{name}”", "No sheet is large enough for it. Join it of two, or buy larger sheets.",
            f"{digits(panel.long, 0)} × {digits(panel.wide, 0)} mm of sheets {digits(boards.sheet_long, 0)} × {digits(boards.sheet_wide, 0)} mm",
            within=(name,),
        )  # fmt: skip


def room_for_fingers(project: Project, derived: Derived) -> Iterator[Finding]:
    """CASE-FINGERS: a broad case that lies flat where it is to be lifted."""
    case, out = project.case, derived[CUTS].outer
    if all(p.place is None for p in project.pieces):
        return  # nobody has begun
    if KINDS[case.kind].cut and case.boards.fingers < FINGERS_MM - 3 and max(out.width, out.depth) >= HEAVY_MM:
        spot = PROJECT.then(lambda p: p.case).then(lambda c: c.boards).then(lambda b: b.fingers)
        yield Finding(
            "CASE-FINGERS", "hint", "stage", "The case", "Nobody gets the fingers under it. Feet of 15 to 20 mm let it be lifted.",
            f"{digits(out.width, 0)} × {digits(out.depth, 0)} mm outside, {show_mm(case.boards.fingers)} of room below", (),
            (Fix(f"Give it feet of {digits(FINGERS_MM, 0)} mm", (put(spot, FINGERS_MM, "Feet under the case"),)),),
        )  # fmt: skip


RULES = (
    Rule(rooms_in_rooms), Rule(upheld_rooms), Rule(nothing_to_look_in_by), Rule(shut_in, SHUT), Rule(sheets_too_small, CUTS), Rule(room_for_fingers, CUTS),
)  # fmt: skip
