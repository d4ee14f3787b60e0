# SPDX-License-Identifier: MIT
"""Edits of lamps, strings and supplies."""

import re
from dataclasses import dataclass
from itertools import count

from fondale.core.circuit.supply import most_in_series, with_resistor
from fondale.core.edits.edit import Add, Edit, Put, maker, put
from fondale.core.edits.ids import named_anew
from fondale.core.edits.places import free_point
from fondale.core.model import AREAS, LAMPS, METERS, MOMENTS, STRINGS, SUPPLIES, Area, Lamp, Meter, Moment, Project, String, Supply
from fondale.knowledge import table


@dataclass(frozen=True)
class ReplaceString(Edit):
    """Wire one string anew as these strings."""

    ident: str
    strings: tuple[String, ...]

    def done(self, project: Project) -> Project:
        at = next((i for i, s in enumerate(project.strings) if s.id == self.ident), None)
        if at is None:
            raise LookupError("the string is gone")
        return project.but(strings=(*project.strings[:at], *self.strings, *project.strings[at + 1 :]))


@maker
def add_lamp(project: Project) -> tuple[Add[Lamp], str]:
    """A warm white LED under the ceiling, looking down; its flicker is in step with no other's."""
    ident, name = named_anew(project.lamps, "Lamp")
    x, y = free_point(project)
    used = {m.seed for m in project.lamps}
    seed = next(k for k in count(1) if k not in used)
    lamp = Lamp(id=ident, name=name, x=x, y=y, z=project.case.height - 3, seed=seed)
    return Add(f"Add {name.lower()}", LAMPS, lamp), ident


COUNTS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


def supply_name(kind: str, row: str, cells: int) -> str:
    """What a supply is called after what it is: ``Two AA alkaline cells``, ``USB plug, 5 V 1 A``."""
    if kind == "plug":
        return str(table("electric")["plug"][row]["name"])
    what = str(table("electric")["cell"][row]["name"])
    many = COUNTS[cells].capitalize() if cells < len(COUNTS) else str(cells)
    return f"{many} {what if cells == 1 else what.replace('cell', 'cells', 1)}"


@maker
def set_supply(project: Project, supply: Supply, row: str, cells: int) -> Put[Supply]:
    """Another kind or number of cells; a supply that is called after what it is is called anew."""
    was = supply_name(supply.kind, supply.row, supply.count) if supply.row in table("electric")[supply.section] else supply.name
    name = supply.name
    if re.fullmatch(re.escape(was) + r"( \d+)?", name):
        _ident, name = named_anew([s for s in project.supplies if s.id != supply.id], supply_name(supply.kind, row, cells))
    return put(SUPPLIES.at(supply.id), supply.but(name=name, row=row, count=cells), f"Kind of {supply.name}")


@maker
def wired_alike(project: Project, lamp: str, copies: tuple[str, ...]) -> tuple[Edit, ...]:
    """The edits that wire copies of a wired lamp: into its string where that is a group, else in strings like it, each as long as the
    supply bears and with its resistor. None where the tables do not hold its supply or its LED.
    """
    string = next((s for s in project.strings if lamp in s.lamps), None)
    if string is None or not copies:
        return ()
    supply, rows = project.get(SUPPLIES, string.supply), table("electric")
    if supply.row not in rows[supply.section] or project.get(LAMPS, lamp).led not in rows["led"]:
        return ()
    if string.wiring == "group":
        longer = string.but(lamps=(*string.lamps, *copies))
        return (ReplaceString(f"Wire copies of {project.get(LAMPS, lamp).name}", string.id, (with_resistor(project, longer),)),)
    length = max(1, most_in_series(project, supply, project.get(LAMPS, lamp).led))
    edits: list[Edit] = []
    for at in range(0, len(copies), length):
        ident, name = named_anew(project.strings, string.name)
        one = with_resistor(project, string.but(id=ident, name=name, lamps=copies[at : at + length], reversed=()))
        edits.append(Add(f"Add {name.lower()}", STRINGS, one))
        project = edits[-1].apply(project)
    return tuple(edits)


@maker
def add_supply(project: Project, kind: str) -> tuple[Add[Supply], str]:
    """A USB plug, or two AA cells."""
    plug = kind == "plug"
    row, count = ("usb_5v_1a", 1) if plug else ("aa", 2)
    ident, name = named_anew(project.supplies, supply_name("plug" if plug else "cells", row, count))
    return Add(f"Add {name}", SUPPLIES, Supply(id=ident, name=name, kind="plug" if plug else "cells", row=row, count=count)), ident


@maker
def wire_lamp(project: Project, lamp: str, string: str) -> tuple[Put[tuple[str, ...]], ...]:
    """Take a lamp out of its string and hang it on another (empty text: none)."""
    found = project.find(LAMPS, lamp)
    name = found.name if found is not None else lamp
    edits = []
    for s in project.strings:
        hangs = STRINGS.at(s.id).then(lambda s: s.lamps)
        if lamp in s.lamps and s.id != string:
            edits.append(put(hangs, tuple(x for x in s.lamps if x != lamp), f"Rewire {name}"))
        if s.id == string and lamp not in s.lamps:
            edits.append(put(hangs, (*s.lamps, lamp), f"Wire {name}"))
    return tuple(edits)


@maker
def add_string(project: Project, supply: str, lamps: tuple[str, ...] = ()) -> tuple[Add[String], str]:
    """An empty string on a supply, or one with these lamps."""
    ident, name = named_anew(project.strings, "String")
    string = String(id=ident, name=name, supply=supply, lamps=lamps, resistor_ohm=150)
    return Add(f"Add {name.lower()}", STRINGS, string), ident


@maker
def add_meter(project: Project) -> tuple[Add[Meter], str]:
    """A lux meter on the floor, looking up."""
    ident, name = named_anew(project.meters, "Meter")
    meter = Meter(id=ident, name=name, x=project.case.width / 2, y=project.case.depth / 2, z=1.0)
    return Add(f"Add {name.lower()}", METERS, meter), ident


@maker
def add_area(project: Project) -> tuple[Add[Area], str]:
    """An area to be lit evenly, about the middle, on what is there."""
    ident, name = named_anew(project.areas, "Area")
    wide, deep = project.case.width, project.case.depth
    return Add(f"Add {name.lower()}", AREAS, Area(id=ident, name=name, x=wide / 4, y=deep / 4, width=wide / 2, depth=deep / 2)), ident


@maker
def add_moment(project: Project) -> tuple[Add[Moment], str]:
    """A moment with the lamps' levels as they are."""
    ident, name = named_anew(project.moments, "Moment")
    moment = Moment(id=ident, name=name, levels={m.id: m.level for m in project.lamps})
    return Add(f"Add {name.lower()}", MOMENTS, moment), ident


@maker
def set_level(project: Project, lamp: str, level: float, moment: str = "", gesture: str = "") -> Put[float]:
    """The edit that sets a lamp's level in a moment (or its own level, where there is no moment)."""
    found, chosen = project.find(LAMPS, lamp), project.find(MOMENTS, moment or project.moment)
    name = found.name if found is not None else lamp
    if chosen is None:
        return put(LAMPS.at(lamp).then(lambda m: m.level), level, f"Level of {name}", gesture)
    return put(MOMENTS.at(chosen.id).then(lambda m: m.levels).value_of(lamp), level, f"Level of {name} in {chosen.name}", gesture)
