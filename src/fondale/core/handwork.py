# SPDX-License-Identifier: MIT
"""Minutes of hands that a step takes: as the maker typed them, or proposed from what it does, on how much, with what.

Proposed: set-up + rate x area + so much for each part that is taken into the hand. Rates are from memory, no source; the pace of the Diary
corrects them.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from math import sqrt

from fondale.core.coat_kinds import coat_row
from fondale.core.how import How, Told
from fondale.core.model import JOINS, PIECES, STRINGS, Piece, Project, Step
from fondale.core.model.coats import Estimate
from fondale.core.model.shapes import Animal, Figure
from fondale.core.words import count_words, digits
from fondale.knowledge import table

RATES = "rates from memory, no source; what you type replaces them, and the pace of the Diary corrects them"


@dataclass(frozen=True)
class Handwork:
    """What the proposed minutes of a step are made of: ``set_up`` min, ``rate`` min for each 100 cm² of ``area_cm2``, and ``each`` min for
    the parts, of which ``small`` go into one hand and ``large`` do not.
    """

    set_up: float
    rate: float
    area_cm2: float
    each: float
    small: int
    large: int

    @property
    def likely(self) -> float:
        """Minutes, whole ones."""
        return float(max(1, round(self.set_up + self.rate * self.area_cm2 / 100 + self.each)))


def minutes_of(project: Project, step: Step) -> Estimate:
    """The least, the likely and the most minutes that a step takes: those typed, or else those proposed."""
    if step.minutes is not None:
        return step.minutes
    facts, likely = table("coats")["minutes"], handwork(project, step).likely
    return likely * float(facts["least"]), likely, likely * float(facts["most"])


def handwork(project: Project, step: Step) -> Handwork:
    """What the proposed minutes of a step are made of."""
    facts, row = table("coats")["minutes"], coat_row(step.coat)
    parts = list(_parts(project, step))
    large = sum(long_mm > facts["hand_mm"] for long_mm, _cm2 in parts)
    small, area = len(parts) - large, sum(cm2 for _mm, cm2 in parts)
    each = small * facts["small"] + large * facts["large"]
    tools = table("tools")["tool"]
    tool = tools.get(step.tool, tools["hand"])
    if row is not None:
        each += row.get("each_min", 0.0) * max(1, len(parts))
        return Handwork(row.get("set_up_min", tool["set_up"]), row.get("per_100cm2_min", tool["per_100cm2"]), area, each, small, large)
    if step.duty == "mask":
        edge_cm = sum(4 * sqrt(cm2) for _mm, cm2 in parts)  # as if each face were a square
        return Handwork(tool["set_up"], 0.0, area, each + facts["mask_10cm"] * edge_cm / 10, small, large)
    if step.work in ("paint", "weather"):
        return Handwork(tool["set_up"], tool["per_100cm2"], area, each, small, large)
    lamps = len(step.wires) + sum(len(s.lamps) for i in step.strings if (s := project.find(STRINGS, i)) is not None)
    return Handwork(facts["work"][step.work], 0.0, area, each + lamps * facts["lamp"], small, large)


def _parts(project: Project, step: Step) -> Iterator[tuple[float, float]]:
    """The longest side in mm and the area in cm² of every part that a step works on."""
    joined = [p for i in step.joints if (join := project.find(JOINS, i)) is not None for p in join.pieces]
    whole = dict.fromkeys((*step.pieces, *joined))
    faces = [s for s in project.surfaces if s.id in step.surfaces and s.piece not in whole]
    for piece in (p for i in whole if (p := project.find(PIECES, i)) is not None):
        known = sum(s.area_cm2 for s in project.surfaces if s.piece == piece.id)
        long_mm, cm2 = _size(piece)
        yield long_mm, known or cm2
    for ident in dict.fromkeys(s.piece for s in faces if s.piece):
        owner = project.find(PIECES, ident)
        area = sum(s.area_cm2 for s in faces if s.piece == ident)
        yield (_size(owner)[0] if owner is not None else 10 * sqrt(area)), area
    for face in (s for s in faces if not s.piece):
        yield 10 * sqrt(face.area_cm2), face.area_cm2


def _size(piece: Piece) -> tuple[float, float]:
    """The longest side in mm and about the area in cm² of a piece, as its sizes tell them. A person has some 0.6 of their height squared
    in skin, 1.85 m² at 1.75 m.
    """
    sides = [float(getattr(piece.shape, n, 0.0) or 0.0) for n in ("width", "depth", "height")]
    tall = piece.measure.mm if piece.measure is not None else 0.0
    if isinstance(piece.shape, Figure | Animal) or max(sides) == 0:
        return tall, 0.6 * tall**2 / 100
    w, d, h = (x or 1.0 for x in sides)
    return max(*sides, tall), 2 * (w * d + d * h + h * w) / 100


def minutes_told(project: Project, step: Step) -> Told:
    """The likely minutes of a step, and where they come from."""
    likely = minutes_of(project, step)[1]
    said = f"{digits(likely, 0)} min"
    if step.minutes is not None:
        low, _likely, most = step.minutes
        formula = f"typed: {digits(low, 0)} at least, {digits(likely, 0)} likely, {digits(most, 0)} at most. Empty the field to have them proposed."
        return Told(said, How("Minutes", formula, said, "as you gave it"))
    work, facts = handwork(project, step), table("coats")["minutes"]
    lines = [f"{digits(work.set_up, 1)} min to set up"]
    if work.rate:
        lines.append(
            f"+ {digits(work.rate, 1)} min for each 100 cm² × {digits(work.area_cm2, 0)} cm² = {digits(work.rate * work.area_cm2 / 100, 1)} min"
        )
    if work.each:
        lines.append(
            f"+ {digits(work.each, 1)} min to handle {count_words(work.small + work.large, 'part')}, {work.large} of them larger than a hand"
        )
    lines.append(f"between {digits(facts['least'] * 100, 0)} and {digits(facts['most'] * 100, 0)} % of it")
    return Told(f"about {said}", How("Minutes", "\n".join(lines), said, RATES))
