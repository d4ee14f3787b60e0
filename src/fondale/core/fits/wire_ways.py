# SPDX-License-Identifier: MIT
"""Wires through a figure: the drill, the wall that it leaves of the thinnest limb on its way, the length; and a cavity with what goes in."""

import math
from dataclasses import dataclass
from typing import Any

from fondale.core.fits.drills import Drill, drill_for
from fondale.core.how import How, Told
from fondale.core.troubles import Trouble
from fondale.core.words import digits, show_mm
from fondale.knowledge import table

# Diameter of the smallest circle round n equal circles, in their diameters: 1 to 7 proven, the others best known; more, by area.
BUNDLES = (1.0, 2.0, 1 + 2 / math.sqrt(3), 1 + math.sqrt(2), 1 + math.sqrt(2 * (1 + 1 / math.sqrt(5))), 3.0, 3.0, 3.3048, 3.6131, 3.8130)
FILL = 0.68  # how much of a larger bundle is wire


class NoDrill(Trouble):
    """No drill is so thick."""


def bundle_mm(wires: int, wire_mm: float, sleeve_mm: float = 0.0) -> float:
    """Diameter of a bundle of equal wires with a sleeve of this wall round it. Raises ValueError for none."""
    if wires < 1 or not wire_mm > 0:
        raise ValueError("at least one wire, thicker than nothing")
    times = BUNDLES[wires - 1] if wires <= len(BUNDLES) else math.sqrt(wires / FILL)
    return wire_mm * times + 2 * sleeve_mm


@dataclass(frozen=True)
class Way:
    """All in mm: the ``bundle``, the ``drill`` for it, the thinnest ``limb`` on the way and the ``wall`` left of it, the wire's ``length``."""

    bundle: float
    drill: Drill
    limb: float
    least: str
    wall: float
    length: float
    goes: bool
    words: str
    formula: str


def way_of(stature_mm: float, route: str, wires: int, kind: str, sleeve: str, own_limb_mm: float = 0.0) -> Way:
    """A way through a figure of this stature (at model size). ``own_limb_mm`` is the thinnest limb as the maker measured it.

    Raises NoDrill where no drill is thick enough, ValueError for sizes not above zero.
    """
    if not stature_mm > 0:
        raise ValueError("sizes are above zero")
    facts, limbs = table("fits")["wires"], [table("body")["limbs"][k] for k in table("body")["routes"][route]["through"]]
    bundle = bundle_mm(wires, facts["kind"][kind]["mm"], facts["sleeve"][sleeve]["mm"])
    drill = drill_for(bundle + facts["air"])
    if drill is None:
        raise NoDrill(f"A bundle of {show_mm(bundle)} is thicker than any drill.")
    thin = min(limbs, key=lambda row: row["thick"])
    limb, least = (own_limb_mm, "what you measured") if own_limb_mm else (thin["thick"] * stature_mm, f"the {thin['least']}")
    wall = (limb - drill.mm) / 2
    run = sum(row["length"] for row in limbs) * stature_mm
    goes = wall >= facts["least_wall"]
    words = f"Drill {digits(drill.mm, 1)} mm: {digits(limb, 1)} mm of {least} leaves a wall of {digits(max(wall, 0), 2)} mm." if wall > 0 else (
        f"The drill of {digits(drill.mm, 1)} mm is thicker than {least}, {digits(limb, 1)} mm."
    )  # fmt: skip
    if not goes:
        finer = next(
            (k for k in facts["kind"] if (limb - bundle_mm(wires, facts["kind"][k]["mm"]) - facts["air"]) / 2 >= facts["least_wall"]), None
        )
        other = f"take {facts['kind'][finer]['name']} without a sleeve, or " if finer and (finer, "none") != (kind, sleeve) else ""
        words += f" It will break through: {other}lay the wires in a groove at the back and fill it, or show them as a hose."
    words += f" Cut wires of {digits(run + facts['slack'], 0)} mm: {digits(run, 0)} through the figure and {digits(facts['slack'], 0)} below the base. Drill before paint, from both ends."
    dressed = f" with {facts['sleeve'][sleeve]['name']}" if sleeve != "none" else ""
    formula = (
        f"{wires} × {facts['kind'][kind]['name']}: bundle {digits(bundle, 2)} mm{dressed}, {digits(facts['air'], 1)} mm of air\n"
        f"wall = ({digits(limb, 2)} − drill {digits(drill.mm, 2)}) ÷ 2 = {digits(wall, 2)} mm; at least {digits(facts['least_wall'], 1)}"
    )
    return Way(bundle, drill, limb, least, wall, run + facts["slack"], goes, words, formula)


@dataclass(frozen=True)
class Cavity:
    """What a cavity must be, across and deep in mm, and whether the one that is there does."""

    across: float
    deep: float
    putty_ml: float
    goes: bool
    words: str
    formula: str


def cavity_lamps() -> dict[str, dict[str, Any]]:
    """What can go into a cavity: lamps by what they are built as, and kinds with a body of their own."""
    tables = table("electric")
    own = {key: row for key, row in tables["led"].items() if "across" in row and "long" in row}
    return {**{key: {**row, "name": f"LED, {row['name']}"} for key, row in tables["package"].items()}, **own}


def cavity_of(lamp: str, resistor: str, across_mm: float, deep_mm: float, wires: int = 2, wire: str = "enamelled") -> Cavity:
    """A round cavity ``across_mm`` wide and ``deep_mm`` deep against the lamp, its resistor behind it, the bend of the wires and the putty."""
    facts = table("fits")["cavity"]
    first, second = cavity_lamps()[lamp], facts["resistor"][resistor]
    thick = bundle_mm(wires, table("fits")["wires"]["kind"][wire]["mm"])
    # A resistor lies behind the lamp, with a wire past it.
    beside = second["across"] + (table("fits")["wires"]["kind"][wire]["mm"] if second["across"] else 0.0)
    across = max(first["across"], beside, thick) + 2 * facts["air"]
    deep = first["long"] + second["long"] + facts["bend"] + facts["cover"]
    room = math.pi / 4 * across_mm**2 * deep_mm
    held = math.pi / 4 * (first["across"] ** 2 * first["long"] + second["across"] ** 2 * second["long"])
    narrow, shallow = across - across_mm, deep - deep_mm
    said = [f"{digits(narrow, 1)} mm too narrow"] if narrow > 1e-6 else []
    said += [f"{digits(shallow, 1)} mm too shallow"] if shallow > 1e-6 else []
    goes, putty = not said, max(0.0, room - held) / 1000
    words = f"It wants {digits(across, 1)} mm across and {digits(deep, 1)} mm deep. "
    words += f"It goes in; {digits(putty, 2)} ml of putty close it." if goes else f"The cavity is {' and '.join(said)}."
    words += " Test the lamp before it is closed."
    formula = (
        f"across: the widest of {first['name']} {digits(first['across'], 1)}, resistor and wire {digits(beside, 1)}, wires {digits(thick, 1)}, and air\n"
        f"deep: {digits(first['long'], 1)} + {digits(second['long'], 1)} + {digits(facts['bend'], 1)} for the bend + {digits(facts['cover'], 1)} of putty over it"
    )
    return Cavity(across, deep, putty, goes, words, formula)


def way_told(way: Way) -> Told:
    """The wall that a drill leaves."""
    said = f"{digits(way.wall, 2)} mm"
    return Told(f"{said} of wall left", How("The way of the wires", way.formula, said, table("fits")["wires"]["source"]))


def cavity_told(cavity: Cavity) -> Told:
    """The cavity that is wanted."""
    said = f"{digits(cavity.across, 1)} × {digits(cavity.deep, 1)} mm"
    return Told(f"{said} wanted", How("The cavity", cavity.formula, said, table("fits")["cavity"]["source"]))
