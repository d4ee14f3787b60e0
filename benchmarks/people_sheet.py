# SPDX-License-Identifier: MIT
"""All poses, people, clothes and animals on three steps, in one picture: ``python benchmarks/people_sheet.py PATH``."""

import sys
from datetime import date
from typing import Any, get_args

from PIL import Image

from fondale.core.bodies.animals import rest_share
from fondale.core.bodies.measures import measures
from fondale.core.bodies.poses import lies, poses
from fondale.core.edits import new_project
from fondale.core.light.views import stage_view
from fondale.core.model import Case, Measure, Piece, Place, Project, Seat, Step, Surface
from fondale.core.model.shapes import Animal, Box, Figure, Species
from fondale.core.stage.solids import part_areas
from fondale.knowledge import table

HOUSE_N = 35.0
_CLOTHES: tuple[tuple[str, ...], ...] = (
    (), ("coat", "cap"), ("skirt",), ("shorts", "cap"), ("boots", "hat"), ("apron",), ("long coat", "hat"), ("skirt", "apron"), ("helmet", "boots"), ("pack",),
)  # fmt: skip
_PEOPLE = ("man", "woman", "man", "boy_12", "woman", "child_6")
_COATS = ((0.10, 0.09, 0.08), (0.30, 0.20, 0.10), (0.16, 0.14, 0.13), (0.42, 0.36, 0.28), (0.22, 0.11, 0.05), (0.40, 0.37, 0.33))
_COLOURS = ((0.30, 0.10, 0.09), (0.12, 0.20, 0.30), (0.34, 0.28, 0.16), (0.14, 0.24, 0.16), (0.36, 0.33, 0.30), (0.26, 0.14, 0.24))


def _persons() -> list[Piece]:
    out = []
    body = table("body")["people"]
    for k, pose in enumerate(poses()):
        person, extras = _PEOPLE[k % len(_PEOPLE)], _CLOTHES[k % len(_CLOTHES)]
        if lies(pose) or pose in ("climbing", "reaching"):
            extras = tuple(e for e in extras if e not in ("hat", "pack", "helmet"))
        mm = body[person]["mean_mm"] * measures(pose, person).crown / HOUSE_N
        shape: Any = Figure(person=person, pose=pose, extras=extras)
        out.append(Piece(id=pose, name=pose, shape=shape, measure=Measure(mm=round(mm, 1)), paint=_COLOURS[k % len(_COLOURS)]))
    return out


def _animals() -> list[Piece]:
    out = []
    for k, species in enumerate(get_args(Species)):
        pose = "resting" if k % 3 == 2 else "standing"
        mm = table("scales")["things"][species]["real_mm"] * (rest_share(species) if pose == "resting" else 1.0) / HOUSE_N
        shape: Any = Animal(species=species, pose=pose)
        out.append(Piece(id=species, name=species, shape=shape, measure=Measure(mm=round(mm, 1)), paint=_COATS[k % len(_COATS)]))
    return out


def people(today: date) -> Project:
    """The sheet as a project: animals in front, people on two steps behind them."""
    persons, wide = _persons(), 560.0
    rows = [(_animals(), 60.0, 0.0), (persons[::2], 150.0, 26.0), (persons[1::2], 240.0, 70.0)]
    pieces = [
        Piece(id="low", name="low", shape=Box(width=wide - 2, depth=180, height=26), role="scenery", place=Place(x=wide / 2, y=200, z=0), paint=(0.30, 0.28, 0.25)),
        Piece(id="high", name="high", shape=Box(width=wide - 2, depth=90, height=44), role="scenery", place=Place(x=wide / 2, y=245, z=26), paint=(0.30, 0.28, 0.25)),
    ]  # fmt: skip
    for row, y, z in rows:
        for k, piece in enumerate(row):
            x = wide * (k + 0.5) / len(row)
            turn = 62.0 if isinstance(piece.shape, Animal) else 32.0
            pieces.append(piece.but(place=Place(x=x, y=y, z=z, turn_deg=turn)))
    trousers = [p for p in persons if part_areas(p.shape).get("trousers")]
    surfaces = tuple(Surface(id=f"{p.id}-legs", name=f"{p.name}, legs", piece=p.id, part="trousers") for p in trousers)
    steps = tuple(
        Step(
            id=f"{p.id}-legs", name=f"{p.name}, legs", coat="acrylic", colour=_COLOURS[(k + 3) % len(_COLOURS)], surfaces=(f"{p.id}-legs",)
        )
        for k, p in enumerate(trousers)
    )
    case = Case(width=wide, depth=292, height=186, floor_paint=(0.34, 0.32, 0.28), wall_paint=(0.40, 0.38, 0.33))
    seat = Seat(id="visitor", name="Visitor", distance=1500)
    return new_project("People", today).but(pieces=tuple(pieces), case=case, seats=(seat,), surfaces=surfaces, steps=steps)


if __name__ == "__main__":
    view = stage_view(people(date(2026, 11, 24)), "visitor", 3840)
    assert view is not None
    sheet = Image.fromarray(view.image)
    sheet.resize((sheet.width // 3, sheet.height // 3), Image.Resampling.BOX).save(sys.argv[1])
