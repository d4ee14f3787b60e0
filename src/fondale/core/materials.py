# SPDX-License-Identifier: MIT
"""What things are made of: each material is itself and what its table says it is."""

from collections.abc import Iterable
from typing import Any

from fondale.knowledge import table


def material_rows() -> dict[str, dict[str, Any]]:
    """Every material by its key."""
    rows: dict[str, dict[str, Any]] = table("materials")["material"]
    return rows


def materials_by_name(solid: bool = False) -> list[tuple[str, str]]:
    """Key and name of every material, or only of those that a glue could hold."""
    return [(k, str(r["name"])) for k, r in material_rows().items() if not (solid and "liquid" in r["is"])]


def material_name(key: str) -> str:
    """What a material is called; what no table holds by its key."""
    return str(material_rows().get(key, {"name": key})["name"])


def traits(key: str) -> frozenset[str]:
    """The key of a material and what it is besides: hard, porous, clear... Nothing for no material or an unknown one."""
    row = material_rows().get(key)
    return frozenset((key, *row["is"])) if row is not None else frozenset()


def is_any(key: str, wanted: Iterable[str]) -> bool:
    """Whether a material is one of these, by its name or by what it is."""
    return not traits(key).isdisjoint(wanted)


def density(key: str) -> float:
    """g/cm3 of a material. Raises KeyError for one that no table holds."""
    return float(material_rows()[key]["density"])
