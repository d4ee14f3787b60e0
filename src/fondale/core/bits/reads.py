# SPDX-License-Identifier: MIT
"""What a bit reads as at the house scale: the nearest thing of the same outline."""

import math
import re
from dataclasses import dataclass

from fondale.core.bits.search import sides_of
from fondale.core.model import Bit
from fondale.core.words import show_real, show_scale, with_article
from fondale.knowledge import table

NEAR = 0.35  # mean distance in the logarithm beyond which nothing is named


@dataclass(frozen=True)
class Likeness:
    """A thing that a bit could be: its name, and how far off its sizes are (mean of the logarithms)."""

    name: str
    distance: float


def likenesses(outline: str, sizes: tuple[float, ...], n: float, most: int = 3) -> tuple[Likeness, ...]:
    """Things of the same outline that a bit of ``sizes`` mm reads as at 1:n, the nearest first."""
    here = sorted(math.log(s * n) for s in sides_of(outline, sizes))
    family = {"cylinder": ("cylinder",), "rod": ("rod", "cylinder"), "plate": ("plate", "box")}.get(outline, (outline,))
    found = []
    for row in table("things")["thing"].values():
        if row["outline"] in family:
            there = sorted(math.log(s) for s in sides_of(row["outline"], tuple(map(float, row["real"]))))
            found.append(Likeness(row["name"], sum(abs(a - b) for a, b in zip(here, there, strict=True)) / 3))
    return tuple(sorted((f for f in found if f.distance <= NEAR), key=lambda f: (f.distance, f.name))[:most])


def named(bit: Bit) -> str:
    """The thing that a bit is named after, where its name says so; otherwise an empty text."""
    words = set(re.findall(r"[a-z]+", bit.name.lower()))
    return next((row["name"] for row in table("things")["thing"].values() if set(row["name"].split()) <= words), "")


def reads_as(bit: Bit, house_n: float) -> str:
    """For example ``In the 1:24 kit this was a lorry wheel of 1.00 m; here it reads as a cart wheel of 1.46 m.``"""
    size = max(sides_of(bit.outline, bit.sizes)) if bit.outline in ("box", "plate", "rod") else bit.sizes[0]
    now = likenesses(bit.outline, bit.sizes, house_n, 1)
    what = f"{with_article(now[0].name)} of" if now else "something of"
    if bit.native_n <= 0:
        return f"At {show_scale(house_n)} it reads as {what} {show_real(size * house_n)}."
    was = named(bit) or next((k.name for k in likenesses(bit.outline, bit.sizes, bit.native_n, 1)), "")
    then = f"{with_article(was)} of {show_real(size * bit.native_n)}" if was else show_real(size * bit.native_n)
    if abs(bit.native_n / house_n - 1) < 0.02:
        return f"It is of the house scale: {then}."
    return f"In the {show_scale(bit.native_n)} kit this was {then}; here it reads as {what} {show_real(size * house_n)}."
