# SPDX-License-Identifier: MIT
"""Sizes said by people: "hip high", "a person fits between", "2 x shoulder wide"."""

import re
from dataclasses import dataclass

from fondale.knowledge import table

_TIMES = re.compile(r"\s*(?P<n>\d+(?:[.,]\d+)?)\s*[x×]\s*(?P<rest>.+)")


@dataclass(frozen=True)
class Said:
    """A real size in mm and its standard deviation."""

    real_mm: float
    give_mm: float


def sayings() -> tuple[str, ...]:
    """Every saying that is understood."""
    return tuple(table("body")["sayings"])


def read_saying(text: str, person: str = "man") -> Said | None:
    """The real size of a saying held against a person of mean stature; None for anything else.

    A number before it multiplies: ``3 x a pace long``.
    """
    clean = " ".join(text.strip().lower().replace("\u2019", "'").split())
    times = 1.0
    if match := _TIMES.fullmatch(clean):
        times, clean = float(match["n"].replace(",", ".")), match["rest"]
    row = table("body")["sayings"].get(clean)
    if row is None or times <= 0:
        return None
    who = table("body")["people"][person]
    real = float(row["share"]) * float(who["mean_mm"]) * times
    spread = (float(row["spread"]) ** 2 + (float(who["sd_mm"]) / float(who["mean_mm"])) ** 2) ** 0.5
    return Said(real, real * spread)
