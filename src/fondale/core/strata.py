# SPDX-License-Identifier: MIT
"""Core samples: what lies on each surface, bottom to top, in the maker's order of steps."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

from fondale.core.model import Project, Step
from fondale.knowledge import table


@dataclass(frozen=True)
class Layer:
    """One coat: the step that applies it, its dry film in micrometres, and how often it was sanded back."""

    step: str
    coat: str
    name: str
    film_um: float
    hatch: str
    colour: tuple[float, float, float]
    done: bool
    sanded: int = 0


def one_film_um(row: dict[str, Any], brushed: bool) -> float:
    """The dry film in micrometres that one coat of a row of the table leaves; a brush leaves more than a spray."""
    return float(row.get("brushed_um", row["film_um"]) if brushed else row["film_um"])


def films_um(coats: Iterable[tuple[str, bool]]) -> tuple[float, ...]:
    """What each coat, given with whether it is brushed, leaves when all are on: sanding takes its share of the film that lies on top."""
    rows, films = table("coats")["coat"], list[float]()
    for coat, brushed in coats:
        row = rows.get(coat)
        if row is not None and "takes" in row and films:
            films[-1] *= 1 - row["takes"]
        elif row is not None:
            films.append(one_film_um(row, brushed))
    return tuple(films)


def layer_of(step: Step) -> Layer | None:
    """The layer that a step leaves, or None when it applies nothing known."""
    row = table("coats")["coat"].get(step.coat)
    if row is None or "takes" in row:
        return None
    return Layer(
        step.id, step.coat, step.name, step.film_um or one_film_um(row, step.tool == "brush"), row["hatch"], step.colour, step.done
    )


def core_sample(project: Project, surface: str) -> tuple[Layer, ...]:
    """The layers on a surface, bottom first. What is sanded back is the thinner for it."""
    rows, out = table("coats")["coat"], list[Layer]()
    for step in project.steps:
        if surface not in step.surfaces:
            continue
        layer = layer_of(step)
        if layer is not None:
            out.append(layer)
        elif out and "takes" in rows.get(step.coat, {}):
            out[-1] = replace(out[-1], film_um=out[-1].film_um * (1 - rows[step.coat]["takes"]), sanded=out[-1].sanded + 1)
    return tuple(out)


def film_um(layers: tuple[Layer, ...]) -> float:
    """Total dry film in micrometres."""
    return sum(layer.film_um for layer in layers)
