"""Drying at the bench: t = t20 x 2^((20 - T) / 10), and a factor for damp air on water-borne coats (common practice)."""

import numpy as np

from fondale.core.model import Brief, Step
from fondale.knowledge import table

DRYNESS = {"touch": 0, "next": 1, "handle": 2}


def drying_factor(coat: str, bench_c: float, bench_rh: float) -> float:
    """How many times the usual drying time a coat needs at this temperature (C) and humidity (%)."""
    row, damp = table("coats")["coat"][coat], table("coats")["humidity"]
    factor = 2.0 ** ((20.0 - bench_c) / 10.0)
    if row["humidity"]:
        factor *= float(np.interp(bench_rh, damp["rh"], damp["factor"]))
    return float(factor)


def wait_h(step: Step, dryness: str, brief: Brief) -> float:
    """Hours that a step's coat needs at the bench until ``touch``, ``next`` or ``handle``, or what it waits for by itself; else 0."""
    row = table("coats")["coat"].get(step.coat)
    if row is None:
        return step.wait_h
    return max(step.wait_h, float(row["dry_h"][DRYNESS[dryness]]) * drying_factor(step.coat, brief.bench_c, brief.bench_rh))


def too_cold(step: Step, brief: Brief) -> float | None:
    """The least temperature of the step's coat where the bench is colder, else None."""
    row = table("coats")["coat"].get(step.coat)
    if row is None or brief.bench_c >= row["min_c"]:
        return None
    return float(row["min_c"])
