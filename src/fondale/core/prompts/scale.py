# SPDX-License-Identifier: MIT
"""Bench: pieces out of scale, claims that do not hold, heights not measured."""

from collections.abc import Iterator

from fondale.core.derived import READINGS
from fondale.core.edits import put
from fondale.core.edits.printing import RescalePieces
from fondale.core.model import PIECES, Piece, Project
from fondale.core.model.bench import Stands
from fondale.core.model.shapes import Figure
from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.reckoning import Derived
from fondale.core.scale.pieces import claim_contradicted, main_size
from fondale.core.scale.placing import advise
from fondale.core.scale.reading import Reading, passes
from fondale.core.shapes import kind_of
from fondale.core.stage.solids import measured_height
from fondale.core.words import digits, percent, show_mm, show_scale


def family(project: Project, piece: Piece) -> tuple[str, ...]:
    """The printed files that came with this one: the same claim and origin, or only itself."""
    if not piece.claim:
        return (piece.id,)
    return tuple(p.id for p in project.pieces if p.origin == "printed file" and p.claim == piece.claim)


def rescale_fix(project: Project, piece: Piece, reading: Reading) -> Fix:
    """Print the file, and all of its family, at the factor to the house scale."""
    percent = reading.factor * 100
    ids = family(project, piece)
    label = f"Rescale to {digits(percent, 1)} %" if len(ids) == 1 else f"Rescale the family to {digits(percent, 1)} %"
    edit = RescalePieces(f"Rescale {piece.name} to {digits(percent, 1)} %", ids, percent)
    return Fix(label, (edit,))


def back_to_the_box(piece: Piece) -> Fix:
    """Take a piece out of the scene; it stays on the bench."""
    return Fix("Take it off the stage", (put(PIECES.at(piece.id).then(lambda p: p.place), None, f"Take {piece.name} off the stage"),))


OTHERWISE: tuple[tuple[Stands, str], ...] = (("alone", "alone"), ("behind", "behind its like"), ("front", "in front"))


def out_of_scale(project: Project, derived: Derived) -> Iterator[Finding]:
    """BENCH-SCALE: a piece that reads wrong where it stands."""
    house = project.brief.house_n
    for piece in project.pieces:
        reading = derived[READINGS].get(piece.id)
        if reading is None:
            continue
        if passes(reading.at(house), piece.stands):
            continue
        wrong = reading.verdict == "wrong"
        if wrong and piece.place is None:
            continue
        fixes = []
        if piece.origin == "printed file":
            fixes.append(rescale_fix(project, piece, reading))
        if wrong and piece.place is not None:
            fixes.append(back_to_the_box(piece))
        for stands, words in OTHERWISE:
            if len(fixes) < 2 and stands != piece.stands and passes(reading.at(house), stands):
                fixes.append(
                    Fix(
                        f"Let it stand {words}",
                        (put(PIECES.at(piece.id).then(lambda p: p.stands), stands, f"Let {piece.name} stand {words}"),),
                    )
                )
        side = "large" if reading.off > 0 else "small"
        what = f"At {show_scale(house)} it reads as {reading.words}, {percent(abs(reading.off))} too {side}."
        if wrong:
            what += f" It measures {show_scale(reading.n)}."
        what += "".join(
            f" {a.words}"
            for a in advise(piece, reading, project)[:1]
            if a.kind in ("move back", "bring forward", "cut down", "stand alone")
        )
        yield Finding(
            "BENCH-SCALE",
            "stop" if wrong else "mind",
            "bench",
            piece.name,
            what,
            f"measured {show_mm(reading.measured_mm)}; right at {show_scale(house)}: {show_mm(reading.wanted_mm)}",
            ((PIECES, piece.id),),
            tuple(fixes),
        )


def claims(project: Project, derived: Derived) -> Iterator[Finding]:
    """BENCH-CLAIM: the box says another scale than the measurement."""
    for piece in project.pieces:
        reading = derived[READINGS].get(piece.id)
        if reading is None or reading.verdict == "wrong" or piece.origin == "kitbash":
            continue
        words = claim_contradicted(piece, reading, project.brief.rules.sizes)
        if words:
            fits = "It still sits right beside its companions." if reading.verdict in ("right", "passes beside") else ""
            yield Finding(
                "BENCH-CLAIM", "hint", "bench", piece.name, f"{words} {fits}".strip(),
                f"{show_scale(reading.low)} to {show_scale(reading.high)} with 90 %", ((PIECES, piece.id),),
            )  # fmt: skip


def unmeasured(project: Project, derived: Derived) -> Iterator[Finding]:
    """BENCH-MEASURE: a figure on the stage that nobody has measured."""
    for piece in project.pieces:
        if kind_of(piece.shape).living and main_size(piece) is None and piece.place is not None:
            yield Finding(
                "BENCH-MEASURE", "mind", "bench", piece.name, "Nobody has measured it yet; it is shown as a guess. Take its height with the caliper.",
                f"shown as {show_mm(measured_height(piece))}", ((PIECES, piece.id),),
            )  # fmt: skip


def odd_bodies(project: Project, derived: Derived) -> Iterator[Finding]:
    """BENCH-BODY: several measurements of one figure disagree: heroic, a child, stretched, or a slip of the caliper."""
    for piece in project.pieces:
        reading = derived[READINGS].get(piece.id)
        if reading is None or reading.oddity is None:
            continue
        odd, fixes = reading.oddity, []
        if odd.kind == "heroic" and isinstance(piece.shape, Figure):
            fixes.append(
                Fix(
                    "Call it heroic",
                    (
                        put(
                            PIECES.at(piece.id).then(lambda p: p.shape).narrowed(Figure).then(lambda f: f.heroic),
                            True,
                            f"Call {piece.name} heroic",
                        ),
                    ),
                )
            )
        if odd.kind == "child" and isinstance(piece.shape, Figure):
            fixes.append(
                Fix(
                    "Call it a child",
                    (
                        put(
                            PIECES.at(piece.id).then(lambda p: p.shape).narrowed(Figure).then(lambda f: f.person),
                            "child_6",
                            f"Call {piece.name} a child",
                        ),
                    ),
                )
            )
        numbers = "; ".join(f"{p.name} {show_mm(p.mm)} gives {show_scale(p.n)}" for p in reading.parts)
        yield Finding(
            "BENCH-BODY", "mind" if odd.kind in ("slip", "stretched") else "hint", "bench", piece.name, odd.words, numbers,
            ((PIECES, piece.id),), tuple(fixes),
        )  # fmt: skip


RULES = (Rule(out_of_scale, READINGS), Rule(claims, READINGS), Rule(odd_bodies, READINGS), Rule(unmeasured))
