# SPDX-License-Identifier: MIT
"""Animals from the same volumes as people, from a table of their forms; facing -y."""

from functools import lru_cache
from typing import Any

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.bodies.kept import Body, kept
from fondale.core.bodies.volumes import Blend, Tube, corner_normals, joined, rod
from fondale.knowledge import table

CELL, MOST = 0.026, 1500
BIRD_CELL = 0.020
_Y, _X = np.array([0.0, 1.0, 0.0]), np.array([1.0, 0.0, 0.0])


def _trunk(rows: list[list[float]], drop: float, x: float = 0.0) -> Tube:
    """Ellipses along the back; the shift across the tube is against the height."""
    return Tube(np.array([x, 0.0, 0.0]), _Y, _X, [(y, wide, high, 0.0, drop - z) for y, z, wide, high in rows])


def _chain(points: list[Floats], thick: list[float], soft: float) -> list[Blend]:
    """Rods from point to point."""
    return [
        Blend(rod(a, b, ra, rb), soft)
        for a, b, ra, rb in zip(points[:-1], points[1:], thick[:-1], thick[1:], strict=True)
        if np.linalg.norm(b - a) > 1e-6
    ]


def _middle(rows: list[list[float]], drop: float, soft: float) -> list[Blend]:
    """What lies in the middle plane: neck, head, tail."""
    return _chain([np.array([0.0, y, z - drop]) for y, z, _r in rows], [r for _y, _z, r in rows], soft)


def _pair(rows: list[list[float]], drop: float, soft: float) -> list[Blend]:
    """The left one and its mirror image."""
    return [
        b for side in (1, -1) for b in _chain([np.array([side * x, y, z - drop]) for x, y, z, _r in rows], [r for *_p, r in rows], soft)
    ]


def _beast(row: dict[str, Any], rests: bool) -> list[Blend]:
    drop = float(row["drop"]) if rests else 0.0
    legs = row["fold"] if rests else row
    out = [Blend(_trunk(row["trunk"], drop)), *_middle(row["neck"], drop, 0.10), *_middle(row["head"], drop, 0.05)]
    out += [*_pair(legs["fore"], 0.0, 0.05), *_pair(legs["hind"], 0.0, 0.06)]
    if "udder" in row and not rests:
        y, z, r = row["udder"]
        out.append(Blend(rod(np.array([0.0, y - 0.04, z]), np.array([0.0, y + 0.04, z]), r), 0.08))
    tail = [[y, max(z - drop, r), r] for y, z, r in row["tail"]]
    out += [*_middle(tail, 0.0, 0.03), *_pair(row["ears"], drop, 0.012)]
    return out + (_pair(row["horns"], drop, 0.010) if "horns" in row else [])


def _bird(row: dict[str, Any], rests: bool) -> list[Blend]:
    drop = float(row.get("drop", 0.0)) if rests else 0.0
    neck, sink = row["neck"], drop
    if rests and "hunch" in row:
        neck = row["hunch"]
        sink = _drawn_in(row)
    out = [
        Blend(_trunk(row["trunk"], drop)),
        *_middle(neck, drop, 0.05),
        *_middle(row["head"], sink, 0.02),
        *_middle(row["beak"], sink, 0.008),
    ]
    out += [Blend(_trunk(row["wing"], drop, side * float(row["side"])), 0.015) for side in (1, -1)]
    if "comb" in row:
        out += _middle(row["comb"], sink, 0.010)
    if drop:  # it sits on its legs
        return out
    foot = row["leg"][-1]
    toes = [[foot[0], foot[1], foot[3], foot[3]], [foot[0], foot[1] - float(row["toes"]), foot[3], foot[3] * 0.7]]
    return [*out, *_pair(row["leg"], 0.0, 0.012), *_pair(toes, 0.0, 0.006)]


def form_of(species: str) -> dict[str, Any]:
    """The row of a kind, with what it has from the kind that it is like."""
    forms = table("beasts")
    row = forms["bird"].get(species) or forms["beast"][species]
    return {**form_of(row["like"]), **row} if "like" in row else row


def rest_share(species: str) -> float:
    """The measure of an animal that rests, as a share of that of the same one standing."""
    row = form_of(species)
    return 1.0 - (_drawn_in(row) if "hunch" in row else float(row["drop"]))


def _drawn_in(row: dict[str, Any]) -> float:
    return float(row["neck"][-1][1] - row["hunch"][-1][1])


@lru_cache(maxsize=32)
def animal(species: str, rests: bool = False) -> Body:
    """The body with the kind's own measure (shoulder for beasts, whole for birds, standing) as 1."""
    return kept(("animal", species, rests), lambda: _built(species, rests))


def _built(species: str, rests: bool) -> Body:
    row, bird = form_of(species), species in table("beasts")["bird"]
    points, tris = joined(_bird(row, rests) if bird else _beast(row, rests), float(row.get("cell", BIRD_CELL if bird else CELL)), MOST)
    normals = corner_normals(points, tris).astype(np.float32).astype(float)  # as they are kept
    points = (points - [0.0, 0.0, points[:, 2].min()]).astype(np.float32).astype(float)
    return Body(points[tris], normals[tris], np.zeros(len(tris), np.int64))
