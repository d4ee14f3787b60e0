# SPDX-License-Identifier: MIT
"""The same thing once more, several times in a row, or in rows."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from fondale.core.edits.edit import Add, Edit, EditError, maker
from fondale.core.edits.ids import named_anew
from fondale.core.edits.places import free_place
from fondale.core.edits.wiring import wired_alike
from fondale.core.lengths import LengthError
from fondale.core.limits import LARGEST_MM
from fondale.core.model import LAMPS, Listing, Place, Project

MOST = 500
Vector = tuple[float, float, float]
NOWHERE: Vector = (0.0, 0.0, 0.0)
WAYS: dict[str, Vector] = {
    "right": (1, 0, 0), "left": (-1, 0, 0), "back": (0, 1, 0), "front": (0, -1, 0), "up": (0, 0, 1), "down": (0, 0, -1),
}  # fmt: skip
RUN_HELP = "How many in all, how far apart in mm, and which way: 5, every 40 right; or rows: 7 every 20 right, 12 rows every 30 back"


@dataclass(frozen=True)
class Run:
    """``count`` things in all, ``step`` mm from each to the next; ``rows`` of them, ``between`` mm from row to row."""

    count: int
    step: Vector
    rows: int = 1
    between: Vector = NOWHERE


def _way(found: tuple[str, ...]) -> Vector:
    far = float(found[2].replace(",", "."))
    x, y, z = WAYS[found[3]]
    return x * far, y * far, z * far


def parse_run(text: str, placed: bool = True) -> Run:
    """``5, every 40 right``; ``7 every 20 right, 12 rows every 30 back``; a number for what lies nowhere. Raises LengthError."""
    if not placed:
        if not text.strip().isdecimal() or not 1 <= int(text) <= MOST:
            raise LengthError(f"A number between 1 and {MOST}, please.")
        return Run(int(text), NOWHERE)
    found = re.findall(
        r"(\d+)\s*(rows?)?\s*,?\s*(?:times|in a row)?\s*,?\s*(?:every|each)?\s*(\d+(?:[.,]\d+)?)\s*(?:mm)?\s*(?:to the\s+)?([a-z]+)",
        text.lower(),
    )
    along = [f for f in found if not f[1] and f[3] in WAYS]
    rows = [f for f in found if f[1] and f[3] in WAYS]
    if len(along) != 1 or len(rows) > 1 or len(along) + len(rows) != len(found):
        raise LengthError(f"{RUN_HELP}.")
    run = Run(int(along[0][0]), _way(along[0]), int(rows[0][0]) if rows else 1, _way(rows[0]) if rows else NOWHERE)
    if not 1 <= run.count * run.rows <= MOST:
        raise LengthError(f"Between 1 and {MOST} in all, please.")
    return run


@maker
def again(project: Project, listing: Listing[Any], ident: str, run: Run) -> tuple[tuple[Edit, ...], tuple[str, ...]]:
    """The edits that add a thing so often in all, itself counted, and the ids of the new ones.

    What stands in the case is set apart by the step, or to a free place where that is nothing; lamps and meters likewise; what lies
    nowhere is only named anew. Raises EditError for what would lie outside all limits.
    """
    thing = listing.at(ident).read(project)
    if "name" not in type(thing).model_fields:
        raise EditError("A page is written once, at the end of its evening.")
    edits: list[Edit] = []
    idents: list[str] = []
    for row in range(run.rows):
        for k in range(run.count):
            if row == k == 0:
                continue
            way = tuple(k * a + row * b for a, b in zip(run.step, run.between, strict=True))
            new, name = named_anew(listing.members(project), thing.name)
            made = _moved(project, thing.but(id=new, name=name), way)
            edits.append(Add(f"Add {name}", listing, made))
            idents.append(new)
            project = edits[-1].apply(project)
    if listing == LAMPS:
        edits += wired_alike(project, ident, tuple(idents))
    return tuple(edits), tuple(idents)


def _moved(project: Project, thing: Any, way: Iterable[float]) -> Any:
    """A thing at another place, and what must differ from its like."""
    dx, dy, dz = way
    fields = type(thing).model_fields
    if max(abs(dx), abs(dy), abs(dz)) > LARGEST_MM:
        raise EditError("That would lie far outside everything; take a smaller step.")
    if "duty" in fields:  # a step that is done once more is the maker's own, and is not done yet
        thing = thing.but(file="", duty="", done=False, finished=None)
    if "seed" in fields:
        thing = thing.but(seed=max((m.seed for m in project.lamps), default=0) + 1)
    if "place" in fields and thing.place is not None:
        place: Place = thing.place
        if dx == dy == dz == 0:
            return thing.but(place=free_place(project, thing).but(turn_deg=place.turn_deg))
        z = place.z + dz if place.z is not None else (dz or None)
        return thing.but(place=place.but(x=place.x + dx, y=place.y + dy, z=z))
    if {"x", "y", "z"} <= fields.keys():
        if dx == dy == dz == 0:
            dx = 15.0
        return thing.but(x=thing.x + dx, y=thing.y + dy, z=thing.z + dz)
    return thing
