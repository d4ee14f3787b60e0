# SPDX-License-Identifier: MIT
"""Drying at the bench: t = t20 x 2^((20 - T) / 10), and a factor for damp air on water-borne coats (common practice)."""

import numpy as np

from fondale.core.how import PRACTICE, How, Told
from fondale.core.model import Brief, Step
from fondale.core.words import digits
from fondale.knowledge import table

DRYNESS = {"touch": 0, "next": 1, "handle": 2}
WATER_BORNE = "acrylic"  # stands for all coats that dry by giving off water
SPRAYS = ("airbrush", "spray can")
USUAL = 0.05  # a change of drying times that nobody notices


def drying_factor(coat: str, bench_c: float, bench_rh: float) -> float:
    """How many times the usual drying time a coat needs at this temperature (C) and humidity (%)."""
    row, damp = table("coats")["coat"][coat], table("coats")["humidity"]
    factor = 2.0 ** ((20.0 - bench_c) / 10.0)
    if row["humidity"]:
        factor *= float(np.interp(bench_rh, damp["rh"], damp["factor"]))
    return float(factor)


def wait_h(step: Step, dryness: str, brief: Brief, sealed: bool = False) -> float:
    """Hours that a step's coat needs at the bench until ``touch``, ``next`` or ``handle``, or what it waits for by itself; else 0.

    ``wet``: what goes into wet paint waits for no coat. ``sealed``: what comes is varnish, which some washes want longer for.
    """
    row = table("coats")["coat"].get(step.coat)
    if row is None or dryness == "wet":
        return step.wait_h
    usual = max(float(row["dry_h"][DRYNESS[dryness]]), float(row.get("seal_h", 0.0)) if sealed else 0.0)
    return max(step.wait_h, usual * drying_factor(step.coat, brief.bench_c, brief.bench_rh))


def too_cold(step: Step, brief: Brief) -> float | None:
    """The least temperature of the step's coat where the bench is colder, else None."""
    row = table("coats")["coat"].get(step.coat)
    if row is None or brief.bench_c >= row["min_c"]:
        return None
    return float(row["min_c"])


def too_damp(step: Step, brief: Brief) -> float | None:
    """The highest humidity in % at which the step's coat can be sprayed, where the air of the bench is damper, else None."""
    row = table("coats")["coat"].get(step.coat)
    most = row.get("most_rh") if row is not None and step.tool in SPRAYS else None
    return float(most) if most is not None and brief.bench_rh > most else None


def bench_told(brief: Brief) -> Told:
    """How the bench makes coats dry."""
    factor = drying_factor(WATER_BORNE, brief.bench_c, brief.bench_rh)
    heat = 2.0 ** ((20.0 - brief.bench_c) / 10.0)
    formula = (
        f"2^((20 − {digits(brief.bench_c, 1)}) / 10) = {digits(heat, 2)} for the temperature\n"
        f"× {digits(factor / heat, 2)} for air of {digits(brief.bench_rh, 0)} % (1 at 50 %, 1.5 at 75 %, 2 at 85 %)"
    )
    if abs(factor - 1) < USUAL:
        said, speed = "", "dries as usual"
    else:
        said = digits(factor, 1)
        speed = f"takes {said} times as long to dry"
    return Told(
        f"Bench at {digits(brief.bench_c, 0)} °C: everything water-borne {speed}", How("Drying at the bench", formula, said, PRACTICE)
    )


def dries_told(step: Step, brief: Brief) -> Told:
    """When a step's coat may be touched, coated and handled."""
    row = table("coats")["coat"].get(step.coat)
    if row is None:
        return Told("nothing dries", How("Drying", "This step puts on no coat.", "", "Coats"))
    touch, coat, hard = (wait_h(step, d, brief) for d in DRYNESS)
    usual = ", ".join(f"{digits(h, 2)} h" for h in row["dry_h"])
    factor = drying_factor(step.coat, brief.bench_c, brief.bench_rh)
    waits = f"\nIt waits {digits(step.wait_h, 1)} h at least." if step.wait_h else ""
    formula = f"usual times at 20 °C and 50 %: {usual}\n× {digits(factor, 2)} at this bench{waits}"
    said = f"touch {digits(touch, 1)} h, next coat {digits(coat, 1)} h, hard {digits(hard, 0)} h"
    return Told(f"dries: {said}", How(f"Drying of {row['name']}", formula, said, f"{PRACTICE}; the label comes first"))
