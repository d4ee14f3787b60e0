# SPDX-License-Identifier: MIT
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


THICK_OF_LONG = 0.1739  # how thick one that lies was drawn, against its length


def _from_2(raw: Raw) -> Raw:
    """Version 2 measured one that lies by its height over the ground; now it is measured by its length."""

    def longer(piece: Any) -> Any:
        shape, measure = piece.get("shape"), piece.get("measure")
        lies = isinstance(shape, dict) and shape.get("kind") == "figure" and shape.get("pose") == "lying"
        if not lies or not isinstance(measure, dict) or not isinstance(measure.get("mm"), int | float):
            return piece
        return {**piece, "measure": {**measure, "mm": measure["mm"] / THICK_OF_LONG}}

    pieces = raw.get("pieces")
    if isinstance(pieces, list):
        raw = {**raw, "pieces": [longer(p) if isinstance(p, dict) else p for p in pieces]}
    return {**raw, "schema_version": 3}


def _from_3(raw: Raw) -> Raw:
    """Version 3 knew of an opening only whether it ends in an arch; now it has a form."""

    def formed(opening: Any) -> Any:
        if not isinstance(opening, dict) or "arch" not in opening:
            return opening
        rest = {k: v for k, v in opening.items() if k != "arch"}
        return {**rest, "form": "arch" if opening["arch"] is True else "lintel"}

    def with_forms(piece: Any) -> Any:
        shape = piece.get("shape") if isinstance(piece, dict) else None
        if not isinstance(shape, dict) or not isinstance(shape.get("openings"), list):
            return piece
        return {**piece, "shape": {**shape, "openings": [formed(o) for o in shape["openings"]]}}

    pieces = raw.get("pieces")
    if isinstance(pieces, list):
        raw = {**raw, "pieces": [with_forms(p) for p in pieces]}
    return {**raw, "schema_version": 4}


def _from_4(raw: Raw) -> Raw:
    """Version 4 had typed minutes in every step, and keeps them; now they may be left to be proposed."""

    def typed(step: Any) -> Any:
        return {"minutes": [10.0, 15.0, 25.0], **step} if isinstance(step, dict) else step

    steps = raw.get("steps")
    if isinstance(steps, list):
        raw = {**raw, "steps": [typed(s) for s in steps]}
    return {**raw, "schema_version": 5}


def _from_5(raw: Raw) -> Raw:
    """Version 5 had one caution typed on a step; now all follow from what the work is."""
    steps = raw.get("steps")
    if isinstance(steps, list):
        raw = {**raw, "steps": [{k: v for k, v in s.items() if k != "caution"} if isinstance(s, dict) else s for s in steps]}
    return {**raw, "schema_version": 6}


MIGRATIONS: dict[int, Callable[[Raw], Raw]] = {0: _from_0, 1: _from_1, 2: _from_2, 3: _from_3, 4: _from_4, 5: _from_5}


def migrate(raw: Raw, target: int) -> Raw:
    """Bring raw JSON to ``target``. Raises KeyError where a step is missing."""
    version = int(raw.get("schema_version", 0))
    while version < target:
        raw = MIGRATIONS[version](raw)
        version = int(raw["schema_version"])
    return raw
