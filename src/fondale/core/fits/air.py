"""The air left in a fit, bare and after paint, and what to drill, sand or mask."""

import math
from dataclasses import dataclass
from typing import Any, Literal

from fondale.core.fits.drills import drill_for, drill_words
from fondale.core.how import PRACTICE, How, Told
from fondale.core.lengths import LengthError
from fondale.core.model import Fit
from fondale.core.words import digits, percent
from fondale.knowledge import table

Verdict = Literal["fits", "tight", "loose", "will not go in"]


@dataclass(frozen=True)
class Air:
    """All in mm. ``bare`` and ``painted`` are the air on each side; ``least`` what the process and the kind need.

    ``hole_film`` and ``peg_film`` are the dry coats on one wall of each; ``open_to`` the hole that would do, ``sand_to`` the peg.
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
    ways: tuple[str, ...]
    words: str
    formula: str


def film_mm(coats: tuple[str, ...]) -> float:
    """Dry film of these coats on one wall in mm; coats that are not in the table count nothing."""
    rows = table("coats")["coat"]
    return sum(float(rows[c]["film_um"]) for c in coats if c in rows) / 1000


def coat_names(coats: tuple[str, ...]) -> str:
    """``spray primer, 3 × water acrylic``, or ``bare``."""
    rows = table("coats")["coat"]
    counts: dict[str, int] = {}
    for c in coats:
        if c in rows:
            counts[rows[c]["name"]] = counts.get(rows[c]["name"], 0) + 1
    return ", ".join(f"{n} × {name}" if n > 1 else name for name, n in counts.items()) or "bare"


def parse_coats(text: str) -> tuple[str, ...]:
    """Coats written as ``spray primer, 3 × water acrylic``; nothing, or ``bare``, is none. Raises LengthError, in words for the maker."""
    rows = table("coats")["coat"]
    names = {r["name"].lower(): k for k, r in rows.items()}
    # Names hold commas themselves ("oil, thin"): the longest name that begins here is taken.
    rest, out = " ".join(text.replace("×", "x").lower().split()).strip(" ,"), []
    while rest and rest != "bare":
        count, _x, after = rest.partition(" x ")
        times = int(count) if count.isdigit() else 1
        rest = after if count.isdigit() else rest
        name = max((n for n in names if rest.startswith(n)), key=len, default="")
        name = name or next((n for n in names if n.startswith(rest.split(",")[0].strip()) and rest.split(",")[0].strip()), "")
        if not name:
            raise LengthError(f"“{rest.split(',')[0]}” is not a coat that is known: {', '.join(sorted(names))}.")
        if not 1 <= times <= 30:
            raise LengthError("Between 1 and 30 coats of a kind.")
        out.extend([names[name]] * times)
        rest = (rest[len(name) :] if rest.startswith(name) else rest.partition(",")[2]).strip(" ,")
    return tuple(out)


TINY_MM = 1e-6  # what sums of decimals may be out by: no verdict hangs on less
MOCK_UP_MM = 0.15  # how far a size taken off a card mock-up may be out on each side: common practice, no source


def air_of(fit: Fit, tolerance: str = "measured") -> Air:
    """Air after paint = (hole - peg) / 2 - (coats on the hole's wall + coats on the peg's wall), against what the fit needs.

    ``tolerance`` is the house rule: sizes measured on the parts, or taken off a mock-up, which needs more air.
    """
    kind = table("fits")["kind"][fit.kind]
    if "stretch" in kind:
        return _stretched(fit, kind)
    made = [table("fits")["process"][p] for p in (fit.process, fit.peg_process or fit.process)]
    hole_film = 0.0 if fit.masked in ("hole", "both") else film_mm(fit.hole_coats)
    peg_film = 0.0 if fit.masked in ("peg", "both") else film_mm(fit.peg_coats)
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
    need = 2 * (least + hole_film + peg_film)
    open_to, sand_to = fit.peg + need, fit.hole - need
    hole, peg = kind["hole"], kind["peg"]
    ways: list[str] = []
    if verdict in ("tight", "will not go in"):
        if kind["round"] and drill_for(open_to) is not None:
            ways.append(f"drill the {hole} to {drill_words(open_to)}")
        else:
            ways.append(f"open the {hole} to {digits(_opened(fit, open_to), 2)} mm{', with a file' if kind['round'] else ''}")
        if sand_to > 0.3:
            ways.append(f"sand the {peg} to {digits(sand_to, 2)} mm")
        if fit.masked != "both" and bare >= least - TINY_MM:
            ways.append("mask both faces")
    film = hole_film + peg_film
    bare_words = f"{digits(2 * bare, 2)} mm to spare" if bare >= 0 else f"{digits(-2 * bare, 2)} mm too much"
    words = {
        "fits": f"It goes in: {digits(painted, 2)} mm of air a side after paint.",
        "tight": f"It will bind: {digits(max(painted, 0), 2)} mm of air a side after paint, and it needs {digits(least, 2)}.",
        "loose": f"It will be loose: {digits(painted, 2)} mm of air a side after paint. Pack it, or make the {peg} {digits(2 * (painted - most), 2)} mm larger.",
        "will not go in": f"The {peg} will not go in. Bare, it has {bare_words}; the coats on both faces take {digits(2 * film, 2)}.",
    }[verdict]
    masked = f"; masked: {fit.masked}" if fit.masked else ""
    rougher = f", {digits(MOCK_UP_MM, 2)} of it because sizes are taken off a mock-up" if rough else ""
    formula = (
        f"{' and '.join(dict.fromkeys(p['name'] for p in made))}, {kind['name']}: needs {digits(least, 2)} to {digits(most, 2)} mm a side{rougher}\n"
        f"{hole}: {coat_names(fit.hole_coats)}; {peg}: {coat_names(fit.peg_coats)}{masked}\n"
        f"air a side = ({hole} {digits(fit.hole, 2)} − {peg} {digits(fit.peg, 2)}) ÷ 2 − coats {digits(hole_film, 3)} − coats {digits(peg_film, 3)}"
    )
    return Air(bare, painted, least, most, hole_film, peg_film, verdict, open_to, sand_to, tuple(ways), words, formula)


def _stretched(fit: Fit, kind: dict[str, Any]) -> Air:
    """Something soft over something hard: it is stretched by its own share, and neither drilled nor filed. Common practice, no source."""
    film = 0.0 if fit.masked in ("peg", "both") else film_mm(fit.peg_coats)
    rim, (low, high) = fit.peg + 2 * film, kind["stretch"]
    by = 1 - fit.hole / rim
    verdict: Verdict = "tight" if by > high + TINY_MM else "loose" if by < low - TINY_MM else "fits"
    hole, peg, right = kind["hole"], kind["peg"], rim * (1 - (low + high) / 2)
    other = max(0.001, fit.hole / (1 - (low + high) / 2) - 2 * film)
    want = f"one of {digits(rim * (1 - high), 2)} to {digits(rim * (1 - low), 2)} mm inside"
    words = {
        "fits": f"It grips: {percent(by)} smaller than the {peg} it goes over.",
        "tight": f"It is {percent(by)} smaller than the {peg}, and tears or creeps off.",
        "loose": f"It slips: {f'{percent(by)} smaller than' if by > 0 else 'it is no smaller than'} the {peg}.",
    }[verdict]
    ways = () if verdict == "fits" else (f"take {want}", f"make the {peg} {digits(other, 2)} mm")
    formula = (
        f"{kind['name']}: wants to be {percent(low)} to {percent(high)} smaller\n{hole} {digits(fit.hole, 2)} mm; {peg} {digits(fit.peg, 2)} mm, "
        f"{coat_names(fit.peg_coats)}: {digits(rim, 2)} mm\nsmaller by 1 − {digits(fit.hole, 2)} ÷ {digits(rim, 2)} = {digits(by * 100, 1)} %"
    )
    return Air(
        (fit.hole - fit.peg) / 2,
        (fit.hole - rim) / 2,
        -high * rim / 2,
        -low * rim / 2,
        0.0,
        film,
        verdict,
        right,
        other,
        ways,
        words,
        formula,
    )


def drilled(fit: Fit, tolerance: str = "measured") -> float:
    """The hole in mm that mends the fit: the next drill up for round ones, else the size itself in twentieths."""
    return _opened(fit, air_of(fit, tolerance).open_to)


def _opened(fit: Fit, open_to: float) -> float:
    kind = table("fits")["kind"][fit.kind]
    if "stretch" in kind:
        return open_to
    if kind["round"] and (drill := drill_for(open_to)) is not None:
        return drill.mm
    return math.ceil(round(open_to / 0.05, 6)) * 0.05


def mend_words(fit: Fit, mm: float) -> str:
    """What brings the hole to a size, in words: ``Drill the hole to 5.3 mm``; what is soft is taken in another size."""
    kind = table("fits")["kind"][fit.kind]
    if "stretch" in kind:
        return f"Take one of {digits(mm, 2)} mm"
    return f"{'Drill' if kind['round'] and drill_for(mm) is not None else 'Open'} the {kind['hole']} to {digits(mm, 2)} mm"


def air_told(air: Air) -> Told:
    """The air left in a fit."""
    said = f"{digits(air.painted, 2)} mm"
    source = f"process and kind: {PRACTICE}; films: the table of coats"
    return Told(f"{said} of air a side, {air.verdict}", How("The air left after paint", air.formula, said, source))
