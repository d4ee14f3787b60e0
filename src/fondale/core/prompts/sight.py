"""Stage: what touches, sticks out or cannot be seen."""

from collections.abc import Iterator

from fondale.core.derived import CLASHES, OUTSIDE, VIEWS
from fondale.core.edits import put
from fondale.core.model import PIECES, SEATS, Project
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
            f"It stands in the {names[clash.second].lower()}. Move one of them.",
            f"they share {show_mm(clash.overlap_mm)}",
            ((PIECES, clash.first), (PIECES, clash.second)),
        )


def sticking_out(project: Project, derived: Derived) -> Iterator[Finding]:
    """STAGE-OUT: a piece that does not fit into the case."""
    for out in derived[OUTSIDE]:
        piece, fixes = project.get(PIECES, out.piece), []
        if out.move is not None and piece.place is not None:
            moved = piece.place.but(x=piece.place.x + out.move[0], y=piece.place.y + out.move[1])
            label = f"Move {piece.name} into the case"
            fixes.append(Fix("Move it inside", (put(PIECES.at(piece.id).then(lambda p: p.place), moved, label),)))
        yield Finding(
            "STAGE-OUT", "stop", "stage", piece.name, f"It sticks out of the case at the {out.side} by {show_mm(out.by_mm)}.",
            f"inside {digits(project.case.width, 0)} × {digits(project.case.depth, 0)} × {digits(project.case.height, 0)} mm",
            ((PIECES, piece.id),), tuple(fixes),
        )  # fmt: skip


def hidden(project: Project, derived: Derived) -> Iterator[Finding]:
    """STAGE-HIDDEN: a face, or most of a piece, that a seat does not see. One prompt a piece: the worst seat."""
    names = {p.id: p.name for p in project.pieces}
    seats = {s.id: s.name for s in project.seats}
    for piece in project.pieces:
        views = [v for v in derived[VIEWS] if v.piece == piece.id]
        if not views:
            continue
        if all(v.seen < 0.02 for v in views):
            yield Finding(
                "STAGE-UNSEEN", "hint", "stage", piece.name, "Nobody sees it from any seat. It need not be finished, or wants another place.",
                f"seen from 0 of {len(views)} seats", ((PIECES, piece.id),),
            )  # fmt: skip
            continue
        worst = min(views, key=lambda v: (v.head_seen if v.head_seen is not None else 1.0, v.seen))
        by = f" The {names[worst.blocker].lower()} is in the way." if worst.blocker else " The edge of the case is in the way."
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


RULES = (Rule(touching, CLASHES), Rule(sticking_out, OUTSIDE), Rule(hidden, VIEWS))
