"""Lengths and scales the way makers write them, parsed to millimetres and written back with sensible digits."""

import math
import re
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
_FRACTIONS = {"½": "1/2", "¼": "1/4", "¾": "3/4", "⅓": "1/3", "⅔": "2/3", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8"}
_NUMBER = r"\d+(?:[.,]\d+)?(?:\s*/\s*\d+)?|[.,]\d+"
_TERM = re.compile(
    rf"\s*(?P<whole>\d+)[\s-]+(?P<frac>\d+\s*/\s*\d+)\s*(?P<unit1>{_ANY})?\.?|\s*(?P<num>{_NUMBER})[\s-]*(?P<unit2>{_ANY})?\.?"
)
LONGEST_MM = 1e6
LARGEST_SCALE = 2000.0


class LengthError(Trouble):
    """A length or a scale that cannot be read; the text says what to type instead."""


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
    clean = text.strip().lower().replace("\u2033", '"').replace("\u2032", "'").replace("\u201d", '"')
    for sign, written in _FRACTIONS.items():
        clean = clean.replace(sign, f" {written}")
    clean = clean.strip()
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
    clean = text.strip().lower()
    if clean.endswith("model"):
        return parse_length(clean[:-5].strip()) * house_n
    said = read_saying(clean)
    return said.real_mm if said is not None else parse_length(clean.removesuffix("real").strip())


def parse_scale(text: str) -> float:
    """Read ``1:35``, ``1/35``, ``1/35th``, ``35``, or a name such as ``H0`` as N of 1:N. Raises LengthError."""
    named = named_scale(text)
    if named is not None:
        return named
    match = re.fullmatch(r"\s*(?:1\s*[:/]\s*)?(\d+(?:[.,]\d+)?)\s*(?:th|nd|rd|st)?\.?\s*", text.lower())
    if not match:
        raise LengthError(f"“{text.strip()}” is not a scale. Write it like 1:35.")
    n = _number(match[1])
    if not 1 <= n <= LARGEST_SCALE:
        raise LengthError("A scale lies between 1:1 and 1:2000.")
    return n


def named_scale(text: str) -> float | None:
    """N of a scale called by its name: ``H0``, ``ho``, ``O gauge``, ``N``; None for any other text.

    ``0 gauge`` and ``O`` are two scales, as their standards have it; where a standard writes 0 and no other writes O, both are read.
    A bare 0 is a number, and no scale.
    """
    clean = re.sub(r"\s*(?:SCALE|GAUGE)$", "", text.strip().upper())
    if text.strip().isdigit():
        return None
    rows = {row["name"].upper(): float(row["n"]) for row in table("scales")["scale"] if row.get("name")}
    return rows.get(clean, rows.get(clean.replace("O", "0")))
