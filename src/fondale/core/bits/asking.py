# SPDX-License-Identifier: MIT
"""A need in one line of plain words: "drum, 300 mm real across, 420 long, at 1:35"."""

import re
from dataclasses import dataclass

from fondale.core.bits.search import OUTLINES, ROUND_ONES
from fondale.core.lengths import LengthError, parse_real, parse_scale
from fondale.core.model.bench import Outline
from fondale.core.sayings import read_saying
from fondale.core.words import as_name
from fondale.knowledge import table

_ACROSS = ("across", "diameter", "wide", "width", "thick")
_ALONG = ("long", "length", "high", "height", "tall", "deep", "depth")
_THIN = 6  # a block this many times thinner than it is wide is a plate
_SCALE = re.compile(r"\s*(?:at\s+)?(1\s*[:/]\s*\d+(?:[.,]\d+)?)\s*")
_SIZE = re.compile(r"(?P<name>[^\d.,]*?)\s*(?P<size>[.,]?\d.*)")
_NEXT = re.compile(rf"\b({'|'.join(_ACROSS + _ALONG)})\s+(?=\d)")
_BY = re.compile(r"(?<=[\dm\"'])\s*[x×]\s*(?=\d)")


@dataclass(frozen=True)
class Asked:
    """What was asked for: real sizes in mm in the order of the outline, and the scale 1:n (None: the house scale)."""

    name: str
    outline: Outline
    real: tuple[float, ...]
    n: float | None


def outline_of(name: str) -> Outline:
    """The outline that a name stands for, by its last word that is known (a stove pipe is a pipe); a box when none is."""
    words = [form for w in reversed(re.findall(r"[a-z]+", name.lower())) for form in (w, w.removesuffix("s"))]
    known: dict[str, Outline] = {o: o for o in OUTLINES}
    said = next((known[w] for w in words if w in known), None)
    if said is not None:
        return said
    for outline, names in table("things")["words"].items():
        known |= dict.fromkeys(names, outline)
    return next((known[w] for w in words if w in known), "box")


def _thing(name: str) -> tuple[Outline, tuple[float, ...]] | None:
    wanted = name.strip().lower()
    row = next((r for r in table("things")["thing"].values() if r["name"] == wanted), None)
    return (row["outline"], tuple(float(s) for s in row["real"])) if row else None


def _label(text: str) -> tuple[str, str]:
    """A size and the word that says which one it is: across, along, or an empty text."""
    for words, kind in ((_ACROSS, "across"), (_ALONG, "along")):
        for word in words:
            if f" {word} " in f" {text} ":
                return f" {text} ".replace(f" {word} ", " ").strip(), kind
    return text, ""


def _said_within(text: str) -> str:
    """The saying at the end of a text that begins with a name, or an empty text."""
    words = text.split()
    return next((said for k in range(1, len(words)) if read_saying(said := " ".join(words[k:]))), "")


def parse_need(text: str, house_n: float) -> Asked:
    """Read a need. Sizes are real unless marked ``model``; a thing of the table needs none. Raises LengthError, in words for the maker."""
    name, n = "", None
    across: list[float] = []
    along: list[float] = []
    plain: list[float] = []
    for part in (p.strip() for chunk in _NEXT.sub(r"\1, ", text).split(",") for p in _BY.split(chunk)):
        if not part:
            continue
        if match := _SCALE.fullmatch(part):
            n = parse_scale(match[1])
            continue
        bare, kind = (part, "") if read_saying(part) or _said_within(part) else _label(part)
        if read_saying(bare) is None and not any(c.isdigit() for c in bare):
            name = f"{name} {part}".strip()
            continue
        if read_saying(bare) is None and (said := _said_within(bare)):
            name, bare = f"{name} {bare.removesuffix(said)}".strip(), said
        if read_saying(bare) is None and (match := _SIZE.fullmatch(bare)) and match["name"].strip():
            if match["name"].strip().endswith(("-", "\u2212")):
                raise LengthError("A length is above zero.")
            name, bare = f"{name} {match['name'].strip()}".strip(), match["size"]
        bare = re.sub(r"\breal\b", "", bare).strip()
        (across if kind == "across" else along if kind == "along" else plain).append(parse_real(bare, n or house_n))
    if not name and not (across or along or plain):
        raise LengthError("Name it and its sizes, for example: drum, 300 mm across, 420 long.")
    if not (across or along or plain):
        known = _thing(name)
        if known is None:
            raise LengthError("How large is it? For example: drum, 300 mm across, 420 long.")
        return Asked(as_name(name), known[0], known[1], n)
    outline = outline_of(name)
    if outline in ROUND_ONES:
        if not across:
            if not plain:
                raise LengthError("Say how far across it is, too.")
            across.append(plain.pop(0))
        real = (across[0], *(along or plain)[:1])
    else:
        real = tuple([*across, *along, *plain][:3])
        thin, middle = sorted(real)[:2] if len(real) == 3 else (1.0, 1.0)
        if outline == "box" and "box" not in name.lower() and thin * _THIN <= middle:
            outline, real = "plate", tuple(sorted(real, reverse=True))
    return Asked(as_name(name or "need"), outline, real, n)
