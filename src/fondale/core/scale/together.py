# SPDX-License-Identifier: MIT
"""Several lines of toys at once: the scale that suits them together, and what one size is on each figure at hand."""

import math
from dataclasses import dataclass

from fondale.core.how import PRACTICE, How, Told
from fondale.core.model import Piece, Project
from fondale.core.model.shapes import Figure, Mesh
from fondale.core.scale.people import Person
from fondale.core.scale.reading import Reading, named_scales, verdict_of
from fondale.core.words import clipped, percent, show_mm, show_real, show_scale
from fondale.knowledge import table

GIVEN = ("bought", "gaming", "kitbash")  # what cannot be made in another size
SNAP = 0.02  # how much worse the worst may read for the house scale or one with a name: common practice, no source


@dataclass(frozen=True)
class Together:
    """The scale 1:n at which most given things pass, and of those the worst is least off; each by name, with what it then reads off."""

    n: float
    rows: tuple[tuple[str, float], ...]

    @property
    def forced(self) -> bool:
        """Whether one thing alone dictates it."""
        return len(self.rows) == 1


def _judged(n: float, found: list[tuple[Piece, Reading]]) -> tuple[int, float, float]:
    """How many pass at 1:n, and how far the worst of these is off, beyond what such things differ in life and at all; less is better."""
    good = [r for _p, r in found if verdict_of(r.at(n)) != "wrong"]
    beyond, off = max((abs(r.at(n)) for r in good), default=math.inf), max((abs(n / r.n - 1) for r in good), default=math.inf)
    return len(good), -beyond, -off


def together(project: Project, readings: dict[str, Reading]) -> Together | None:
    """What the given things that were read ask for; None where there are none. The least worst error lies at the root of n times n' of two."""
    found = [(p, readings[p.id]) for p in project.pieces if p.role == "piece" and p.origin in GIVEN and p.id in readings]
    if not found:
        return None
    ns = sorted({r.n for _p, r in found})
    best = max((math.sqrt(a * b) for i, a in enumerate(ns) for b in ns[i:]), key=lambda n: _judged(n, found))
    count, worst, _off = _judged(best, found)
    named = min(named_scales(), key=lambda s: abs(math.log(s.n / best))).n
    for n in (project.brief.house_n, named):
        if _judged(n, found)[:2] >= (count, worst - SNAP):
            best = n
            break
    return Together(best, tuple((p.name, best / r.n - 1) for p, r in found))


def together_told(found: Together) -> Told:
    """The common scale, and how far each thing is off at it."""

    def off(share: float) -> str:
        return "right" if abs(share) < 0.005 else f"{percent(abs(share))} too {'large' if share > 0 else 'small'}"

    shown = f"{found.rows[0][0]} asks for {show_scale(found.n)}" if found.forced else f"{show_scale(found.n)} suits them together"
    rows = "\n".join(f"{clipped(name, 40)}: {off(share)}" for name, share in found.rows)
    formula = f"{rows}\nMost of them pass there, and the worst of those is off by as little as can be; the house scale or one with a name, where that costs less than {percent(SNAP)}."
    return Told(clipped(shown, 60), How("One scale for all", formula, show_scale(found.n), f"limits of passing: {PRACTICE}"))


def on_each(mm: float, project: Project, readings: dict[str, Reading]) -> str:
    """What a size in mm is on each figure at hand, in words: ``58 mm: hip high on the one, waist high on the other``."""
    heights = {name: float(row["share"]) for name, row in table("body")["sayings"].items() if name.endswith(" high")}
    said = []
    for piece in project.pieces:
        shape, reading = piece.shape, readings.get(piece.id)
        if reading is None or not isinstance(shape, Figure | Mesh) or not shape.person:
            continue
        share = mm * reading.n / Person(shape.person, piece.real_mm).stature[0]
        name, at = min(heights.items(), key=lambda h: abs(math.log(h[1] / share)))
        words = name if abs(share / at - 1) <= 0.12 else f"{share:.1f} times as high as" if share > 1 else show_real(mm * reading.n)
        said.append(f"{words}{' on' if words == name or share <= 1 else ''} {piece.name}")
    return f"{show_mm(mm)}: {', '.join(said)}" if said else "Measure a figure first."
