# SPDX-License-Identifier: MIT
"""Resin water poured into a basin, a bowl or a dome: how much, in how many pours of which thickness, and when each may follow."""

import math
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from fondale.core.coats.drying import drying_factor
from fondale.core.how import PRACTICE, How, Told
from fondale.core.words import day_words, digits
from fondale.knowledge import table

COAT = "water_resin"
DENSITY = 1.1  # g/ml, from memory
SPARE = 0.05  # what stays in the cup: common practice, no source
Form = Literal["basin", "round basin", "bowl", "dome"]
FORMS: dict[Form, str] = {"basin": "a basin", "round basin": "a round basin", "bowl": "a bowl", "dome": "a dome, upside down"}


@dataclass(frozen=True)
class Pour:
    """One pour: from which height to which in mm, its volume in ml, what to mix in g, and the hours after the first when it goes in."""

    low: float
    high: float
    ml: float
    grams: float
    after_h: float


@dataclass(frozen=True)
class Pours:
    """All pours, the volume in ml, hours until the next may follow one and until the last is hard, and all of it in words."""

    each: tuple[Pour, ...]
    ml: float
    hard_h: float
    words: str
    formula: str


def volume_below(form: Form, a: float, b: float, depth: float) -> float:
    """mm3 below ``depth`` mm: a basin ``a`` by ``b``, a round one of diameter ``a``, a bowl of ``a`` across its rim and ``b`` deep (a cap of a
    ball, deeper than half of it too), a dome: the same, ``b`` deep, or a half ball of diameter ``a`` where ``b`` is 0.
    """
    if form == "basin":
        return a * b * depth
    if form == "round basin":
        return math.pi / 4 * a * a * depth
    deep = _deepest(form, a, b)
    radius = ((a / 2) ** 2 + deep**2) / (2 * deep)  # of the ball that the cap is cut from
    return math.pi * depth**2 * (3 * radius - depth) / 3


def _deepest(form: Form, a: float, b: float) -> float:
    """How deep a form can be filled, in mm."""
    return {"bowl": b, "dome": b or a / 2}.get(form, math.inf)


def pours_of(form: Form, a: float, b: float, depth: float, thick: float, bench_c: float, bench_rh: float) -> Pours:
    """Pours of at most ``thick`` mm until it stands ``depth`` mm deep. Raises ValueError for sizes not above zero, or deeper than the form."""
    most = _deepest(form, a, b)
    if not (a > 0 and (b > 0 or form in ("round basin", "dome")) and 0 < depth <= most + 1e-9 and thick > 0):
        raise ValueError("sizes are above zero, and the water no deeper than what holds it")
    count = math.ceil(depth / thick - 1e-9)
    if count > 100:
        raise ValueError("more than a hundred pours: take a thicker one")
    row, factor = table("coats")["coat"][COAT], drying_factor(COAT, bench_c, bench_rh)
    wait, hard = (row["dry_h"][k] * factor for k in (1, 2))
    each = []
    for k in range(count):
        low, high = depth * k / count, depth * (k + 1) / count
        ml = (volume_below(form, a, b, high) - volume_below(form, a, b, low)) / 1000
        each.append(Pour(low, high, ml, ml * DENSITY * (1 + SPARE), k * wait))
    whole = volume_below(form, a, b, depth) / 1000
    first = f"{digits(depth / count, 1)} mm thick" + (f", {digits(wait, 0)} h apart" if count > 1 else "")
    words = f"{first[0].upper()}{first[1:]}; hard {digits((count - 1) * wait + hard, 0)} h after the first."
    formula = (
        f"volume below {digits(depth, 1)} mm of {FORMS[form]}, {digits(a, 1)} mm{f' × {digits(b, 1)}' if form in ('basin', 'bowl', 'dome') and b else ''}\n"
        f"{digits(depth, 1)} mm ÷ at most {digits(thick, 1)} mm a pour = {count}; {digits(row['dry_h'][1], 0)} h at 20 °C × {digits(factor, 2)} on this bench"
    )
    return Pours(tuple(each), whole, (count - 1) * wait + hard, words, formula)


def pour_lines(pours: Pours, start: datetime) -> list[str]:
    """Each pour with its day and hour: ``1: 2.7 mm, 12 ml, mix 14 g, Tue 24 Nov 19:00``."""
    return [
        f"{k}: {digits(p.high - p.low, 1)} mm, {digits(p.ml, 1)} ml, mix {digits(p.grams, 1)} g, {day_words((at := start + timedelta(hours=p.after_h)).date())} {at:%H:%M}"
        for k, p in enumerate(pours.each, 1)
    ]


def pours_told(pours: Pours) -> Told:
    """What is poured."""
    said = f"{digits(pours.ml, 1)} ml"
    count = len(pours.each)
    return Told(
        f"{said} in {count} {'pour' if count == 1 else 'pours'}",
        How("The pours", pours.formula, said, f"volumes of basins and caps of balls; times: {PRACTICE}"),
    )
