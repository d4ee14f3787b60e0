# SPDX-License-Identifier: MIT
"""The air left in a fit, bare and after paint, and what to drill, sand or mask."""

import math
import re
from dataclasses import dataclass
from typing import Any, Literal

from fondale.core.fits.drills import drill_for, drill_words
from fondale.core.how import PRACTICE, How, Told
from fondale.core.lengths import LengthError
from fondale.core.limits import SMALLEST
from fondale.core.model import SURFACES, Fit, Project
from fondale.core.strata import core_sample, film_um, films_um
from fondale.core.words import digits, percent
from fondale.knowledge import table

Verdict = Literal["fits", "tight", "loose", "will not go in"]


@dataclass(frozen=True)
class Film:
    """The dry coats on one wall: mm, and in words which they are."""

    mm: float
    words: str


@dataclass(frozen=True)
class Mend:
    """A size that makes a fit go: of which face, in mm, said as a way (``drill the hole to 5.3 mm``) and on a button."""

    face: Literal["hole", "peg"]
    mm: float
    way: str
    label: str


@dataclass(frozen=True)
class Air:
    """All in mm. ``bare`` and ``painted`` are the air on each side; ``least`` what the process and the kind need.

    ``hole_film`` and ``peg_film`` are the dry coats on one wall of each; ``open_to`` the hole that would do, ``sand_to`` the peg.
    ``mends`` are sizes that make it go, ``ways`` they and all else that helps, in words.
    """

    bare: float
    painted: float
    least: float
    most: float
    hole_film: float
    peg_film: float
    verdict: Verdict
    open_to: float
    sand_to: float
    mends: tuple[Mend, ...]
    ways: tuple[str, ...]
    words: str
    formula: str


def film_mm(coats: tuple[str, ...], brushed: bool = False) -> float:
    """Dry film of these coats on one wall in mm; coats that are not in the table count nothing."""
    return sum(films_um((c, brushed) for c in coats)) / 1000


def films_of(fit: Fit, project: Project | None = None) -> tuple[Film, Film]:
    """What lies on the hole's wall and on the peg's: the coats of the surfaces that they are on, or those typed, unless masked."""

    def film(face: str, surface: str, coats: tuple[str, ...]) -> Film:
        on = project.find(SURFACES, surface) if project is not None and surface else None
        if fit.masked in (face, "both"):
            return Film(0.0, f"{f'{on.name}, ' if on else ''}masked")
        if on is None or project is None:
            return Film(film_mm(coats, fit.brushed), coat_names(coats) + (", brushed" if fit.brushed and coats else ""))
        layers = core_sample(project, on.id)
        return Film(film_um(layers) / 1000, f"{on.name}: {coat_names(tuple(x.coat for x in layers))}")

    return film("hole", fit.hole_on, fit.hole_coats), film("peg", fit.peg_on, fit.peg_coats)


def coat_names(coats: tuple[str, ...]) -> str:
    """``spray primer, 3 × water acrylic``, or ``bare``."""
    rows = table("coats")["coat"]
    counts: dict[str, int] = {}
    for c in coats:
        if c in rows:
            counts[rows[c]["name"]] = counts.get(rows[c]["name"], 0) + 1
    return ", ".join(f"{n} × {name}" if n > 1 else name for name, n in counts.items()) or "bare"


def parse_coats(text: str) -> tuple[str, ...]:
    """Coats written as ``spray primer, 3 × water acrylic`` or ``2x enamel, oil``; nothing, or ``bare``, is none. Raises LengthError, in words for the maker."""
    rows = table("coats")["coat"]
    names = {r["name"].lower(): k for k, r in rows.items()}
    # Names hold commas themselves ("oil, thin"): as much as is the beginning of one is taken.
    rest, out = " ".join(text.replace("×", "x").lower().split()).strip(" ,"), []
    while rest and rest != "bare":
        many = re.match(r"(\d+) ?x ?", rest)
        times = int(many[1]) if many else 1
        rest = rest[many.end() :] if many else rest
        parts = [p.strip() for p in rest.split(",")]
        called = (", ".join(parts[:k]) for k in range(len(parts), 0, -1))
        said, name = next(((c, n) for c in called if c for n in sorted(names, key=len) if n.startswith(c)), ("", ""))
        if not name:
            raise LengthError(f"“{parts[0]}” is not a coat that is known: {', '.join(sorted(names))}.")
        if not 1 <= times <= 30:
            raise LengthError("Between 1 and 30 coats of a kind.")
        out.extend([names[name]] * times)
        rest = ", ".join(parts[said.count(",") + 1 :]).strip(" ,")
    return tuple(out)


TINY_MM = 1e-6  # what sums of decimals may be out by: no verdict hangs on less
MOCK_UP_MM = 0.15  # how far a size taken off a card mock-up may be out on each side: common practice, no source


def air_of(fit: Fit, tolerance: str = "measured", project: Project | None = None) -> Air:
    """Air after paint = (hole - peg) / 2 - (coats on the hole's wall + coats on the peg's wall), against what the fit needs.

    ``tolerance`` is the house rule: sizes measured on the parts, or taken off a mock-up, which needs more air. ``project`` is where the
    surfaces are that the faces are on.
    """
    kind = table("fits")["kind"][fit.kind]
    films = films_of(fit, project)
    if "stretch" in kind:
        return _stretched(fit, kind, films[1])
    made = _made(fit)
    hole_film, peg_film = films[0].mm, films[1].mm
    bare = (fit.hole - fit.peg) / 2
    painted = bare - hole_film - peg_film
    rough = MOCK_UP_MM if tolerance == "mock-up" else 0.0
    least, most = (sum(p[end] for p in made) / 2 + kind["extra"] + rough for end in ("least", "most"))
    verdict: Verdict = (
        "will not go in"
        if (painted <= TINY_MM if least > 0 else painted < least - TINY_MM)
        else "tight"
        if painted < least - TINY_MM
        else "loose"
        if painted > most + 0.15 + TINY_MM
        else "fits"
    )
    film = hole_film + peg_film
    open_to, sand_to = fit.peg + 2 * (least + film), fit.hole - 2 * (least + film)
    peg, short = kind["peg"], verdict in ("tight", "will not go in")
    mends: list[Mend] = []
    if short:
        mends.append(_opened(fit, kind, open_to))
        mends += _printed_again(kind, made, fit, sand_to, open_to)
    elif verdict == "loose":
        mends += _printed_again(kind, made, fit, fit.hole - 2 * (most + film), fit.peg + 2 * (most + film))
    ways = [m.way for m in mends]
    if short:
        if fit.masked != "both" and bare >= least - TINY_MM:
            ways.insert(1, "mask both faces")
        if sand_to > 0.3 and not kind.get("never_worked"):
            ways.insert(2, f"sand the {peg} to {digits(sand_to, 2)} mm")
    bare_words = f"{digits(2 * bare, 2)} mm to spare" if bare >= 0 else f"{digits(-2 * bare, 2)} mm too much"
    larger = "" if kind.get("never_worked") else f", or make the {peg} {digits(2 * (painted - most), 2)} mm larger"
    words = {
        "fits": f"It goes in: {digits(painted, 2)} mm of air a side after paint.",
        "tight": f"It will bind: {digits(max(painted, 0), 2)} mm of air a side after paint, and it needs {digits(least, 2)}.",
        "loose": f"It will be loose: {digits(painted, 2)} mm of air a side after paint. Pack it{larger}.",
        "will not go in": f"The {peg} will not go in. Bare, it has {bare_words}; the coats on both faces take {digits(2 * film, 2)}.",
    }[verdict]
    rougher = f", {digits(MOCK_UP_MM, 2)} of it because sizes are taken off a mock-up" if rough else ""
    formula = (
        f"{' and '.join(dict.fromkeys(p['name'] for p in made))}, {kind['name']}: needs {digits(least, 2)} to {digits(most, 2)} mm a side{rougher}\n"
        f"{kind['hole']}: {films[0].words}; {peg}: {films[1].words}\n"
        f"air a side = ({kind['hole']} {digits(fit.hole, 2)} − {peg} {digits(fit.peg, 2)}) ÷ 2 − coats {digits(hole_film, 3)} − coats {digits(peg_film, 3)}"
    )
    return Air(bare, painted, least, most, hole_film, peg_film, verdict, open_to, sand_to, tuple(mends), tuple(ways), words, formula)


def _made(fit: Fit) -> list[dict[str, Any]]:
    """The processes of the hole and of what goes in."""
    return [table("fits")["process"][p] for p in (fit.process, fit.peg_process or fit.process)]


def _opened(fit: Fit, kind: dict[str, Any], open_to: float) -> Mend:
    """The hole opened: the next drill up for round ones, else to the next twentieth of a millimetre."""
    hole = kind["hole"]
    drill = drill_for(open_to) if kind["round"] else None
    if drill is not None:
        return Mend("hole", drill.mm, f"drill the {hole} to {drill_words(open_to)}", f"Drill the {hole} to {digits(drill.mm, 2)} mm")
    mm = math.ceil(round(open_to / 0.05, 6)) * 0.05
    label = f"Open the {hole} to {digits(mm, 2)} mm"
    return Mend("hole", mm, f"open the {hole} to {digits(mm, 2)} mm{', with a file' if kind['round'] else ''}", label)


def _printed_again(kind: dict[str, Any], made: list[dict[str, Any]], fit: Fit, peg: float, hole: float) -> list[Mend]:
    """What came off a printer, printed again at the size that goes; in hundredths, on the side where it still goes."""
    out = []
    faces: tuple[tuple[Literal["hole", "peg"], float, float], ...] = (("peg", peg, fit.peg), ("hole", hole, fit.hole))
    for face, mm, was in faces:
        row = made[0 if face == "hole" else 1]
        mm = (math.ceil if face == "hole" else math.floor)(round(mm * 100, 6)) / 100
        if row.get("printed") and mm > SMALLEST and not (face == "peg" and kind.get("never_worked")):
            said = f"rint the {kind[face]} again at {digits(mm, 2)} mm"
            out.append(Mend(face, mm, f"p{said} ({percent(mm / was, 1)} of its size)", f"P{said}"))
    return out


def _stretched(fit: Fit, kind: dict[str, Any], film: Film) -> Air:
    """Something soft over something hard: it is stretched by its own share, and neither drilled nor filed. Common practice, no source."""
    rim, (low, high) = fit.peg + 2 * film.mm, kind["stretch"]
    by = 1 - fit.hole / rim
    verdict: Verdict = "tight" if by > high + TINY_MM else "loose" if by < low - TINY_MM else "fits"
    hole, peg, right = kind["hole"], kind["peg"], rim * (1 - (low + high) / 2)
    other = max(0.001, fit.hole / (1 - (low + high) / 2) - 2 * film.mm)
    want = f"one of {digits(rim * (1 - high), 2)} to {digits(rim * (1 - low), 2)} mm inside"
    words = {
        "fits": f"It grips: {percent(by)} smaller than the {peg} it goes over.",
        "tight": f"It is {percent(by)} smaller than the {peg}, and tears or creeps off.",
        "loose": f"It slips: {f'{percent(by)} smaller than' if by > 0 else 'it is no smaller than'} the {peg}.",
    }[verdict]
    mends = () if verdict == "fits" else (
        Mend("hole", right, f"take {want}", f"Take one of {digits(right, 2)} mm"),
        Mend("peg", other, f"make the {peg} {digits(other, 2)} mm", f"Make the {peg} {digits(other, 2)} mm"),
    )  # fmt: skip
    formula = (
        f"{kind['name']}: wants to be {percent(low)} to {percent(high)} smaller\n{hole} {digits(fit.hole, 2)} mm; {peg} {digits(fit.peg, 2)} mm, "
        f"{film.words}: {digits(rim, 2)} mm\nsmaller by 1 − {digits(fit.hole, 2)} ÷ {digits(rim, 2)} = {digits(by * 100, 1)} %"
    )
    return Air(
        (fit.hole - fit.peg) / 2,
        (fit.hole - rim) / 2,
        -high * rim / 2,
        -low * rim / 2,
        0.0,
        film.mm,
        verdict,
        right,
        other,
        mends,
        tuple(m.way for m in mends),
        words,
        formula,
    )


def air_told(air: Air) -> Told:
    """The air left in a fit."""
    said = f"{digits(air.painted, 2)} mm"
    source = f"process and kind: {PRACTICE}; films: the table of coats"
    return Told(f"{said} of air a side, {air.verdict}", How("The air left after paint", air.formula, said, source))
