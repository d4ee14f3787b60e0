# SPDX-License-Identifier: MIT
"""Stage: what hangs, what falls, and what is too heavy."""

from collections.abc import Iterator

from fondale.core.derived import WEIGHTS
from fondale.core.edits import put
from fondale.core.model import PIECES, Project
from fondale.core.prints.balance import SAFE_DEG
from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.reckoning import Derived
from fondale.core.stage.weights import pulls_words, tied_anew
from fondale.core.words import digits, show_mm

HALF = 0.5  # of what a line bears is what one hangs on it: a case is carried and set down (common practice, no source)
ARM_GMM = 2_000.0  # what a glued joint is left to bear without a pin: 20 g at 100 mm (common practice, no source)


def hooks(project: Project, derived: Derived) -> Iterator[Finding]:
    """WEIGHT-HOOK: a line or a hook that bears more than its label says. One prompt a piece: the worst line."""
    for piece in project.pieces:
        weight = derived[WEIGHTS].pieces.get(piece.id)
        if weight is None or weight.hang is None or not weight.known:
            continue
        told = [(float(g) / s.bears_g, s, float(g)) for s, g in zip(piece.slings, weight.hang.pulls, strict=True) if s.bears_g]
        share, sling, grams = max(told, key=lambda t: t[0], default=(0.0, None, 0.0))
        if sling is None or share <= HALF:
            continue
        text = "It bears too little. Take a stronger line, or hang the load on one more." if share > 1 else (
            "It bears the load, but not the jerk when the case is set down. Take one of twice the strength."
        )  # fmt: skip
        yield Finding(
            "WEIGHT-HOOK", "stop" if share > 1 else "mind", "stage", piece.name, text,
            f"{sling.name or 'a line'}: {digits(grams, 1)} g on what bears {digits(sling.bears_g, 0)} g", ((PIECES, piece.id),),
        )  # fmt: skip


def swinging(project: Project, derived: Derived) -> Iterator[Finding]:
    """WEIGHT-SWINGS: what hangs and will turn or swing until it hangs otherwise than placed."""
    for piece in project.pieces:
        weight = derived[WEIGHTS].pieces.get(piece.id)
        if weight is None or weight.hang is None or weight.hang.still or not weight.known or piece.place is None:
            continue
        tied = tied_anew(piece, weight)
        edit = put(PIECES.at(piece.id).then(lambda p: p.slings), tied, f"Tie {piece.name} over its weight")
        fixes = (Fix("Tie it so", (edit,)),) if tied != piece.slings else ()
        numbers = f"{len(piece.slings)} {'line' if len(piece.slings) == 1 else 'lines'}, {digits(weight.grams, 1)} g"
        yield Finding("WEIGHT-SWINGS", "mind", "stage", piece.name, pulls_words(piece, weight), numbers, ((PIECES, piece.id),), fixes)


def falling(project: Project, derived: Derived) -> Iterator[Finding]:
    """WEIGHT-FALLS: a piece whose weight is not over its foot."""
    for piece in project.pieces:
        weight = derived[WEIGHTS].pieces.get(piece.id)
        if weight is not None and weight.tip_deg == 0.0 and weight.known and piece.role == "piece":
            more = f", {digits(weight.carried_g, 1)} g hang on it" if weight.carried_g else ""
            text = "With what hangs on it its" if weight.carried_g else "Its"
            yield Finding(
                "WEIGHT-FALLS", "hint", "stage", piece.name, f"{text} weight is not over its foot: it falls until it is held. Pin it, or glue it to what stands firm.",
                f"{digits(weight.grams, 1)} g{more}: the weight lies beyond the foot", ((PIECES, piece.id),),
            )  # fmt: skip


def overhanging(project: Project, derived: Derived) -> Iterator[Finding]:
    """WEIGHT-ARM: a part whose weight hangs out beyond what carries it."""
    names = {p.id: p.name for p in project.pieces}
    for piece in project.pieces:
        weight = derived[WEIGHTS].pieces.get(piece.id)
        if weight is not None and weight.arm_gmm > ARM_GMM:
            yield Finding(
                "WEIGHT-ARM", "mind", "stage", piece.name, f"It hangs out from “{names[piece.part_of]}”: glue alone will let go. Pin the joint, or give it a line or a strut.",
                f"{digits(weight.grams + weight.carried_g, 1)} g at {show_mm(weight.overhang_mm)}: {digits(weight.arm_gmm / 10, 0)} g cm at the joint", ((PIECES, piece.id),),
            )  # fmt: skip


def tipping(project: Project, derived: Derived) -> Iterator[Finding]:
    """WEIGHT-TIPS: the whole tips before it leans 15 degrees."""
    whole = derived[WEIGHTS].whole
    if whole.grams > 0 and whole.tip_deg < SAFE_DEG and any(p.place is not None for p in project.pieces):
        yield Finding(
            "WEIGHT-TIPS", "stop" if whole.tip_deg <= 0 else "mind", "stage", "The whole",
            f"It tips over its {whole.edge} edge before it leans {digits(SAFE_DEG, 0)} degrees. Make the base {show_mm(whole.widen_mm)} wider there, set heavy things back, or put weight below.",
            f"tips at {digits(whole.tip_deg, 1)}°, {digits(whole.grams, 0)} g",
        )  # fmt: skip


def shelf(project: Project, derived: Derived) -> Iterator[Finding]:
    """WEIGHT-SHELF: heavier than the shelf bears."""
    whole, bears = derived[WEIGHTS].whole, project.brief.shelf_bears_kg * 1000
    if bears and whole.grams > bears:
        more = f", and {len(whole.unknown)} pieces that nobody has weighed" if whole.unknown else ""
        yield Finding(
            "WEIGHT-SHELF", "stop", "stage", "The shelf", "The piece is heavier than the shelf bears. Build it lighter, or set it elsewhere.",
            f"{digits(whole.grams / 1000, 2)} kg{more} on a shelf for {digits(project.brief.shelf_bears_kg, 1)} kg",
        )  # fmt: skip


RULES = (
    Rule(hooks, WEIGHTS), Rule(swinging, WEIGHTS), Rule(falling, WEIGHTS), Rule(overhanging, WEIGHTS), Rule(tipping, WEIGHTS), Rule(shelf, WEIGHTS),
)  # fmt: skip
