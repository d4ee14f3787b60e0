# SPDX-License-Identifier: MIT
"""Lengths and scales the way makers write them, parsed to millimetres and written back with sensible digits."""

import math
import re
import unicodedata
from fractions import Fraction

from fondale.core.sayings import read_saying
from fondale.core.troubles import Trouble
from fondale.knowledge import table

INCH_MM = 25.4  # exact, international inch
FILE_UNITS = {"mm": 1.0, "cm": 10.0, "in": INCH_MM, "m": 1000.0}  # what one number of a file can be, in mm
_WORDS = {
    "in": ("in", "inch", "inches", '"'), "ft": ("ft", "foot", "feet", "'"), "mm": ("mm", "millimetre", "millimetres", "millimeter", "millimeters"),
    "cm": ("cm", "centimetre", "centimetres", "centimeter", "centimeters"), "m": ("m", "metre", "metres", "meter", "meters"),
}  # fmt: skip
_UNITS = {word: {**FILE_UNITS, "ft": 12 * INCH_MM}[unit] for unit, words in _WORDS.items() for word in words}
_ANY = "|".join(sorted(map(re.escape, _UNITS), key=len, reverse=True))
_SIGNS = str.maketrans({"″": '"', "“": '"', "”": '"', "„": '"', "′": "'", "‘": "'", "’": "'", "∶": ":", "⁄": "/", "−": "-"})
_SPACED = re.compile(r"(?<![\d.,])\d{1,3}(?:(?:'| )\d{3})+(?!\d)")
_GROUPED = re.compile(
    r"(?<![\d.,])(?:\d{1,3}(?:,\d{3}){2,}|\d{1,3}(?:,\d{3})+\.\d+|\d{1,3}(?:\.\d{3}){2,}|\d{1,3}(?:\.\d{3})+,\d+)(?![\d.,])"
)
_EITHER = re.compile(r"[1-9]\d{0,2}[.,]\d{3}")  # a thousand to some, a fraction to others
_NUMBER = r"\d+(?:[.,]\d+)?(?:\s*/\s*\d+)?|[.,]\d+"
_TERM = re.compile(
    rf"\s*(?P<whole>\d+)[\s-]+(?P<frac>\d+\s*/\s*\d+)\s*(?P<unit1>{_ANY})?\.?|\s*(?P<num>{_NUMBER})[\s-]*(?P<unit2>{_ANY})?\.?"
)
LONGEST_MM = 1e6
LARGEST_SCALE = 2000.0


class LengthError(Trouble):
    """A length or a scale that cannot be read; the text says what to type instead."""


def plain_signs(text: str) -> str:
    """A text in small letters with typographic signs as they are typed, fractions written out, and thousands closed up."""
    for sign in set(text):
        kind = unicodedata.decomposition(sign).partition(" ")[0]
        if kind in ("<fraction>", "<wide>"):  # no others: a small raised 2 is no 2
            text = text.replace(sign, " " * (kind == "<fraction>") + unicodedata.normalize("NFKC", sign))
    clean = " ".join(text.lower().translate(_SIGNS).split())
    clean = _SPACED.sub(lambda m: re.sub("[' ]", "", m[0]), clean)
    return _GROUPED.sub(_closed_up, clean)


def _closed_up(match: re.Match[str]) -> str:
    """A number whose thousands are set apart, without that."""
    number = match[0]
    last = max(number.rfind(","), number.rfind("."))
    whole = number.count(number[last]) > 1  # what comes once, and last, is where the fraction begins
    return re.sub("[.,]", "", number) if whole else f"{re.sub('[.,]', '', number[:last])}.{number[last + 1 :]}"


def _sure(number: str, unit: str) -> None:
    """Raises LengthError where a number can be a thousand or a fraction. Fractions of an inch or a foot are written with a point; no
    model is over a kilometre long.
    """
    if not _EITHER.fullmatch(number) or ("." in number and unit and unit in (*_WORDS["in"], *_WORDS["ft"])):
        return
    _ask(number, unit or "mm", 0.0, LONGEST_MM / _UNITS[unit or "mm"])


def _ask(number: str, unit: str, least: float, most: float) -> None:
    """Raises LengthError where a number can be a thousand or a fraction, and both lie within the bounds."""
    thousand = re.sub("[.,]", "", number)
    if _EITHER.fullmatch(number) and least <= _number(number) <= float(thousand) <= most:
        after = f" {unit}" if unit else ""
        raise LengthError(f"“{number}” can be {thousand}{after} or {_number(number):g}{after}. Type the one that is meant.")


def parse_number(text: str, unit: str = "", least: float = -math.inf, most: float = math.inf) -> float:
    """Read a plain number, with a comma or a point and thousands set apart; ``unit`` and the bounds tell what it can mean.

    Raises LengthError, also where it can be a thousand or a fraction; ValueError where it is no number.
    """
    clean = plain_signs(text)
    _ask(clean, unit, least, most)
    return float(clean.replace(",", "."))


def _number(text: str) -> float:
    text = text.replace(",", ".").replace(" ", "")
    if "/" in text:
        top, bottom = text.split("/")
        if float(bottom) == 0:
            raise LengthError("A fraction cannot have 0 below the line.")
        return float(Fraction(top) / Fraction(bottom))
    return float(text)


def parse_length(text: str, house_n: float | None = None) -> float:
    """Read a length, for example ``37``, ``1.46in``, ``1 7/16"``, ``1½ inch``, ``6ft 2in``, ``1.3 m real`` or ``hip high``.

    Returns millimetres at model size. A length marked ``real``, or said by people, is divided by ``house_n``.
    Raises LengthError, in words for the maker, when it cannot be read, is not above zero, or is absurd.
    """
    clean = plain_signs(text).removeprefix("+").strip()
    if not clean:
        raise LengthError("Type a length, for example 37 mm.")
    said = read_saying(clean)
    if said is not None and house_n:
        return said.real_mm / house_n
    real = clean.endswith("real")
    if real:
        clean = clean[:-4].strip()
        if not house_n:
            raise LengthError("A real size needs the house scale: set it on Brief.")
    if clean.startswith("-"):
        raise LengthError("A length is above zero.")
    total, pos, terms, last_unit = 0.0, 0, 0, ""
    while pos < len(clean):
        match = _TERM.match(clean, pos)
        if not match or match.end() == pos:
            raise LengthError(f"“{text.strip()}” is not a length. Write it like 37 mm, 1.46in, 6ft 2in or 1.3 m real.")
        unit = match["unit1"] or match["unit2"] or ""
        if terms and (not unit or not last_unit):
            raise LengthError(f"“{text.strip()}” has two numbers and not two units. Write it like 6ft 2in.")
        if match["num"]:
            _sure(match["num"], unit)
        value = _number(match["num"]) if match["num"] else float(match["whole"]) + _number(match["frac"])
        total += value * _UNITS[unit or "mm"]
        pos, terms, last_unit = match.end(), terms + 1, unit
        while pos < len(clean) and clean[pos].isspace():
            pos += 1
    if real and house_n:
        total /= house_n
    if not math.isfinite(total) or total <= 0:
        raise LengthError("A length is above zero.")
    if total > LONGEST_MM:
        raise LengthError("That is more than a kilometre. Check the unit.")
    return total


def parse_real(text: str, house_n: float) -> float:
    """Read a real length, for example ``1.3 m``, ``2030`` or ``hip high``; ``30 mm model`` is multiplied by ``house_n``.

    Returns real millimetres. Raises LengthError.
    """
    clean = plain_signs(text)
    if clean.endswith("model"):
        return parse_length(clean[:-5].strip()) * house_n
    said = read_saying(clean)
    return said.real_mm if said is not None else parse_length(clean.removesuffix("real").strip())


_RANGE = re.compile(r"(?P<low>.*?\d)(?P<unit>\s*[a-z'\"]*)\s*(?:-|–|to)\s*(?P<high>\d.*)")
_GIVE = re.compile(r"(?P<mid>.+?)\s*(?:±|\+\s*/?\s*-)\s*(?P<give>.+)")
NINE_IN_TEN = 1.6449  # standard deviations: so much a ± and a range mean wherever they are typed or told


def parse_known(text: str, house_n: float) -> tuple[float, float]:
    """Read a real length that may be off, for example ``2.03 m``, ``2.03 ± 0.05 m``, ``2 m ± 3 %``, ``1.7-1.8 m``, ``hip high`` or ``a man``.

    Returns real millimetres and one standard deviation; what is typed as a ± or a range holds nine in ten. Raises LengthError.
    """
    clean = plain_signs(text).strip().lower()
    person = _person(clean)
    if person is not None:
        return person
    if (said := read_saying(clean)) is not None:
        return said.real_mm, said.give_mm
    if (match := _GIVE.fullmatch(clean)) is not None:
        mid, give = match["mid"].strip(), match["give"].strip()
        if give.endswith("%"):
            real = parse_real(mid, house_n)
            return real, real * parse_number(give[:-1].strip()) / 100 / NINE_IN_TEN
        unit = re.sub(r"^[\d.,\s/]+", "", give)
        real = parse_real(mid if re.search(r"[a-z'\"]", mid) else f"{mid} {unit}".strip(), house_n)
        return real, parse_real(give, house_n) / NINE_IN_TEN
    try:
        return parse_real(clean, house_n), 0.0
    except LengthError:
        match = _RANGE.fullmatch(clean)
        if match is None:
            raise
        unit = match["unit"].strip() or re.sub(r"^[\d.,\s/]+", "", match["high"])
        low, high = parse_real(f"{match['low']} {unit}".strip(), house_n), parse_real(match["high"], house_n)
        if low >= high:
            raise LengthError("A range goes from the less to the more, like 1.7-1.8 m.") from None
        return (low + high) / 2, (high - low) / 2 / NINE_IN_TEN


def _person(text: str) -> tuple[float, float] | None:
    """Stature and standard deviation of ``a man``, ``woman``, ``boy of twelve``; None for anything else."""
    name = text.removeprefix("an ").removeprefix("a ").strip()
    return next(((float(r["mean_mm"]), float(r["sd_mm"])) for r in table("body")["people"].values() if r["name"] == name), None)


def parse_scale(text: str) -> float:
    """Read ``1:35``, ``1/35``, ``1/35th``, ``1:72 scale``, ``35``, or a name such as ``H0`` as N of 1:N. Raises LengthError."""
    named = named_scale(text)
    if named is not None:
        return named
    match = re.fullmatch(r"\s*(?:1\s*[:/]\s*)?(\d+(?:[.,]\d+)?)\s*(?:th|nd|rd|st)?\.?\s*(?:scale)?\s*", plain_signs(text))
    if not match:
        raise LengthError(f"“{text.strip()}” is not a scale. Write it like 1:35.")
    n = _number(match[1])
    if not 1 <= n <= LARGEST_SCALE:
        raise LengthError("A scale lies between 1:1 and 1:2000.")
    return n


def named_scale(text: str) -> float | None:
    """N of a scale called by its name: ``H0``, ``ho``, ``O gauge``, ``N``; None for any other text.

    ``0 gauge`` and ``O`` are two scales, as their standards have it; where a standard writes 0 and no other writes O, both are read.
    A bare 0 is a number, and no scale; 00 is none but a name.
    """
    clean = re.sub(r"\s*(?:SCALE|GAUGE)$", "", text.strip().upper())
    if text.strip().isdigit() and clean != "00":
        return None
    rows = {row["name"].upper(): float(row["n"]) for row in table("scales")["scale"] if row.get("name")}
    return rows.get(clean, rows.get(clean.replace("O", "0")))
