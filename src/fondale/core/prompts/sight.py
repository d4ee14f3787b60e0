# SPDX-License-Identifier: MIT
"""Stage: what touches, sticks out or cannot be seen."""

import math
from collections import defaultdict
from collections.abc import Iterator

from fondale.core.derived import BACKDROPS, CLASHES, OUTSIDE, SWINGS, VIEWS
from fondale.core.edits import put
from fondale.core.edits.moving import move
from fondale.core.limits import LARGEST_MM
from fondale.core.model import PIECES, SEATS, Project
from fondale.core.model.shapes import Backdrop
from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.reckoning import Derived
from fondale.core.words import digits, percent, show_mm

HEAD_LEAST = 0.5
PIECE_LEAST = 0.3


def touching(project: Project, derived: Derived) -> Iterator[Finding]:
    """STAGE-TOUCH: two pieces in the same room."""
    names = {p.id: p.name for p in project.pieces}
    for clash in derived[CLASHES]:
        yield Finding(
            "STAGE-TOUCH",
            "stop" if clash.overlap_mm > 3 else "mind",
            "stage",
            names[clash.first],
            f"It stands in “{names[clash.second]}”. Move one of them.",
            f"they share {show_mm(clash.overlap_mm)}",
            ((PIECES, clash.first), (PIECES, clash.second)),
        )


def swinging(project: Project, derived: Derived) -> Iterator[Finding]:
    """STAGE-SWING: a door or a crane that does not turn as far as it shall. The fix lets it turn so far and no further."""
    names = {p.id: p.name for p in project.pieces}
    for swing in derived[SWINGS]:
        piece = project.get(PIECES, swing.piece)
        free = max(0.0, float(int(swing.at_deg)) - 1.0)
        edit = put(
            PIECES.at(piece.id).then(lambda p: p.swing_deg),
            math.copysign(free, piece.swing_deg) if free else 0.0,
            f"{piece.name} turns by {digits(free, 0)}°",
        )
        subjects = ((PIECES, piece.id), *(((PIECES, swing.touches),) if swing.touches else ()))
        yield Finding(
            "STAGE-SWING", "mind", "stage", piece.name,
            f"It cannot turn as far as it shall: {f'“{names[swing.touches]}”' if swing.touches else 'the side of the case'} is in the way.",
            f"it touches after {digits(swing.at_deg, 0)}° of {digits(abs(piece.swing_deg), 0)}°", subjects,
            (Fix(f"Let it turn by {digits(free, 0)}°", (edit,)),) if free else (),
        )  # fmt: skip


def sticking_out(project: Project, derived: Derived) -> Iterator[Finding]:
    """STAGE-OUT: a piece that does not fit into the case."""
    for out in derived[OUTSIDE]:
        piece, fixes = project.get(PIECES, out.piece), []
        if out.move is not None and piece.place is not None and not piece.fixed:
            moved = piece.place.but(x=piece.place.x + out.move[0], y=piece.place.y + out.move[1])
            fixes.append(Fix("Move it inside", (move(project, piece.id, moved),)))
        yield Finding(
            "STAGE-OUT", "stop", "stage", piece.name, f"It sticks out of the case at the {out.side} by {show_mm(out.by_mm)}.",
            f"inside {digits(project.case.width, 0)} × {digits(project.case.depth, 0)} × {digits(project.case.height, 0)} mm",
            ((PIECES, piece.id),), tuple(fixes),
        )  # fmt: skip


def hidden(project: Project, derived: Derived) -> Iterator[Finding]:
    """STAGE-HIDDEN: a face, or most of a piece, that a seat does not see. One prompt a piece: the worst seat."""
    names = {p.id: p.name for p in project.pieces}
    seats = {s.id: s.name for s in project.seats}
    by_piece = defaultdict(list)
    for view in derived[VIEWS]:
        by_piece[view.piece].append(view)
    for piece in project.pieces:
        views = by_piece[piece.id]
        if not views:
            continue
        if all(v.seen < 0.02 for v in views):
            yield Finding(
                "STAGE-UNSEEN", "hint", "stage", piece.name, "Nobody sees it from any seat. It need not be finished, or wants another place.",
                f"seen from 0 of {len(views)} seats", ((PIECES, piece.id),),
            )  # fmt: skip
            continue
        worst = min(views, key=lambda v: (v.head_seen if v.head_seen is not None else 1.0, v.seen))
        by = f" “{names[worst.blocker]}” is in the way." if worst.blocker else " The edge of the case is in the way."
        if worst.head_seen is not None and worst.head_seen < HEAD_LEAST:
            yield Finding(
                "STAGE-FACE", "mind", "stage", piece.name, f"From {seats[worst.seat]} the head is hidden somewhere along the range.{by}",
                f"{percent(worst.head_seen)} of the head, {percent(worst.seen)} of the figure seen", ((PIECES, piece.id), (SEATS, worst.seat)),
            )  # fmt: skip
        elif min(v.seen for v in views) < PIECE_LEAST:
            worst = min(views, key=lambda v: v.seen)
            yield Finding(
                "STAGE-HIDDEN", "hint", "stage", piece.name, f"From {seats[worst.seat]} most of it is hidden.{by}",
                f"{percent(worst.seen)} seen", ((PIECES, piece.id), (SEATS, worst.seat)),
            )  # fmt: skip


def backdrop_edges(project: Project, derived: Derived) -> Iterator[Finding]:
    """STAGE-EDGE: a backdrop whose edge is seen. The fix makes it as large as is seen, with a margin."""
    seats = {s.id: s.name for s in project.seats}
    for view in derived[BACKDROPS]:
        piece = project.get(PIECES, view.piece)
        if not view.edges or view.wants is None or piece.place is None or not isinstance(piece.shape, Backdrop):
            continue
        width, height = 2 * max(-view.wants[0], view.wants[1]), view.wants[3]
        wide, high = (
            round(min(max(wanted, now), LARGEST_MM), 1) for wanted, now in ((width, piece.shape.width), (height, piece.shape.height))
        )
        larger = piece.shape.but(width=wide, height=high)
        edit = put(
            PIECES.at(piece.id).then(lambda p: p.shape),
            larger,
            f"Make {piece.name} {digits(larger.width, 0)} × {digits(larger.height, 0)} mm",
        )
        sides = " and ".join(view.edges)
        seat = next(iter(view.edges.values()))
        yield Finding(
            "STAGE-EDGE", "mind", "stage", piece.name, f"From {seats[seat]} its {sides} edge can be seen. Make it larger, or hide the edge behind a return.",
            f"{digits(piece.shape.width, 0)} × {digits(piece.shape.height, 0)} mm; seen are {digits(view.size[0], 0)} × {digits(view.size[1], 0)} mm",
            ((PIECES, piece.id), (SEATS, seat)), (Fix(f"Make it {digits(larger.width, 0)} × {digits(larger.height, 0)} mm", (edit,)),) if not piece.shape.cove else (),
        )  # fmt: skip


RULES = (Rule(backdrop_edges, BACKDROPS), Rule(touching, CLASHES), Rule(swinging, SWINGS), Rule(sticking_out, OUTSIDE), Rule(hidden, VIEWS))
