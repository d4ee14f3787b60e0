"""Migrations of raw JSON, one step a version: MIGRATIONS[n] takes version n to n + 1. The chain has no gaps."""

from collections.abc import Callable
from typing import Any

Raw = dict[str, Any]


def _from_0(raw: Raw) -> Raw:
    """Version 0 (before the first release) named the sides of a lip ``lip`` only."""
    case = dict(raw.get("case", {}))
    if "lip" in case:
        case["lip_top"] = case.pop("lip")
    return {**raw, "case": case, "schema_version": 1}


def _from_1(raw: Raw) -> Raw:
    """Version 1 knew two ways to stand: beside its like, or apart; apart is now called alone."""
    pieces = [{**p, "stands": "alone"} if p.get("stands") == "apart" else p for p in raw.get("pieces", [])]
    return {**raw, "pieces": pieces, "schema_version": 2}


MIGRATIONS: dict[int, Callable[[Raw], Raw]] = {0: _from_0, 1: _from_1}


def migrate(raw: Raw, target: int) -> Raw:
    """Bring raw JSON to ``target``. Raises KeyError where a step is missing."""
    version = int(raw.get("schema_version", 0))
    while version < target:
        raw = MIGRATIONS[version](raw)
        version = int(raw["schema_version"])
    return raw
