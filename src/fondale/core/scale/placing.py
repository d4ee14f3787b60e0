# SPDX-License-Identifier: MIT
"""What to do with a piece that is not the right size, by where it will stand."""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from fondale.core.model import Piece, Project, Seat
from fondale.core.model.shapes import Box, Cylinder, Figure, Mesh
from fondale.core.scale.reading import Reading, passes
from fondale.core.words import digits, percent, show_mm, show_real, show_scale

Kind = Literal["use", "rescale", "swap", "move back", "bring forward", "cut down", "add a base", "stand alone"]


def apparent_depth(native_n: float, house_n: float, eye_mm: float, depth_mm: float) -> float:
    """How far behind the front, in model mm, a right-sized thing would stand that looks as large.

    ``eye_mm`` is the eye's distance before the front, ``depth_mm`` where it really stands behind it. From
    N' = N (D + R/N) / (D + d), forced perspective by similar triangles.
    """
    return (eye_mm + depth_mm) * native_n / house_n - eye_mm


def forced_scale(n: float, eye_mm: float, real_mm: float, depth_mm: float) -> float:
    """The scale 1:N' of a thing meant to stand ``real_mm`` behind the front, but placed ``depth_mm`` behind it, for an eye ``eye_mm`` before it.

    N' = N (D + R/N) / (D + d), by similar triangles. Raises ValueError for a thing at or before the eye.
    """
    if not (n > 0 and eye_mm > 0 and eye_mm + depth_mm > 0 and eye_mm + real_mm / n > 0):
        raise ValueError("it stands before the eye")
    return n * (eye_mm + real_mm / n) / (eye_mm + depth_mm)


def forced_error(n: float, built_n: float, eye_mm: float, real_mm: float, depth_mm: float) -> float:
    """How much too large (+) or too small (-) a thing built at 1:``built_n`` looks from an eye ``eye_mm`` before the front, as a share."""
    return forced_scale(n, eye_mm, real_mm, depth_mm) / built_n - 1


@dataclass(frozen=True)
class Forced:
    """How far further back (in model mm; negative: nearer) a piece seems to stand, from the first seat and over all."""

    further_mm: float
    least_mm: float
    most_mm: float


def forced(piece: Piece, reading: Reading, house_n: float, seats: Iterable[Seat]) -> Forced | None:
    """Forced perspective of a piece where it stands, or None without a seat. Distances follow the seats."""
    depth = piece.place.y if piece.place else 0.0
    gaps = [apparent_depth(reading.n, house_n, s.distance, depth) - depth for s in seats]
    return Forced(gaps[0], min(gaps), max(gaps)) if gaps else None


@dataclass(frozen=True)
class Advice:
    """One thing to do, in words; the best first."""

    kind: Kind
    words: str


def _forced_words(piece: Piece, reading: Reading, project: Project) -> str:
    found = forced(piece, reading, project.brief.house_n, project.seats)
    if found is None:
        return "Nothing of known size may stand near it."
    seat = project.seats[0].name
    way = "further back" if found.further_mm > 0 else "nearer"
    spread = f" (over all seats {digits(abs(found.least_mm), 0)} to {digits(abs(found.most_mm), 0)} mm)" if len(project.seats) > 1 else ""
    return (
        f"From {seat} it looks like a right one standing {show_mm(abs(found.further_mm))} {way}{spread}, "
        f"{show_real(abs(found.further_mm) * project.brief.house_n)} real: keep things of known size that far from it, and its feet out of sight."
    )


def _base_mm(piece: Piece, reading: Reading) -> float:
    """How much a figure must be lifted so that its crown comes to the right height."""
    return (reading.wanted_mm - reading.measured_mm) if isinstance(piece.shape, Figure) else 0.0


def advise(piece: Piece, reading: Reading, project: Project) -> tuple[Advice, ...]:
    """What can be done about the size of a piece, the best way first."""
    house, off = project.brief.house_n, reading.at(project.brief.house_n)
    file = piece.origin == "printed file" or isinstance(piece.shape, Mesh)
    out: list[Advice] = []
    good = passes(off, piece.stands)
    if abs(off) <= 0.03:
        out.append(Advice("use", "Right as it is: use it anywhere."))
    elif good:
        where = {"beside": "beside others of its kind", "alone": "alone", "behind": "behind its like", "front": "in front of its like"}
        out.append(Advice("use", f"{percent(abs(off))} {'large' if off > 0 else 'small'}: it passes {where[piece.stands]}."))
    if file and abs(off) > 0.005:
        f = reading.factor
        change = f"material to {percent(f**3)}, paint to {percent(f**2)}, every hole to {percent(f)}"
        out.append(Advice("rescale", f"Scale the file to {digits(f * 100, 1)} % of what it is now: {change}."))
    if good:
        return tuple(out)
    if abs(off) <= 0.10 and passes(off, "alone"):
        out.append(Advice("stand alone", "Let it stand alone, away from its like."))
    if -0.10 <= off < 0:
        out.append(Advice("move back", _forced_words(piece, reading, project)))
    if 0 < off <= 0.10 and piece.stands != "front":
        out.append(Advice("bring forward", "A little in front of its like it passes. " + _forced_words(piece, reading, project)))
    if off > 0 and isinstance(piece.shape, Box | Cylinder):
        out.append(
            Advice("cut down", f"Cut {show_mm(reading.measured_mm - reading.wanted_mm)} off: {show_mm(reading.wanted_mm)} are right.")
        )
    if -0.10 <= off < 0 and (lift := _base_mm(piece, reading)) > 0.2:
        out.append(
            Advice(
                "add a base",
                f"A base or kerb of {show_mm(lift)} under its feet brings the crown to the right height; its head stays small.",
            )
        )
    if not file:
        out.append(
            Advice("swap", f"Swap it for one of {show_mm(reading.wanted_mm)} ({show_scale(house)}); this one is {show_scale(reading.n)}.")
        )
    return tuple(out)


def factor_for_height(native_mm: float, wanted_mm: float) -> float:
    """Percent that brings a size of ``native_mm`` to ``wanted_mm``. Raises ValueError when a size is not above zero."""
    if not (native_mm > 0 and wanted_mm > 0 and math.isfinite(native_mm) and math.isfinite(wanted_mm)):
        raise ValueError("sizes are above zero")
    return wanted_mm / native_mm * 100
