"""Core samples: what lies on each surface, bottom to top, in the maker's order of steps."""

from dataclasses import dataclass

from fondale.core.model import Project, Step
from fondale.knowledge import table


@dataclass(frozen=True)
class Layer:
    """One coat: the step that applies it and its dry film in micrometres."""

    step: str
    coat: str
    name: str
    film_um: float
    hatch: str
    colour: tuple[float, float, float]
    done: bool


def layer_of(step: Step) -> Layer | None:
    """The layer that a step leaves, or None when it applies nothing known."""
    row = table("coats")["coat"].get(step.coat)
    if row is None:
        return None
    return Layer(step.id, step.coat, step.name, float(row["film_um"]), row["hatch"], step.colour, step.done)


def core_sample(project: Project, surface: str) -> tuple[Layer, ...]:
    """The layers on a surface, bottom first."""
    layers = (layer_of(s) for s in project.steps if surface in s.surfaces)
    return tuple(layer for layer in layers if layer is not None)


def film_um(layers: tuple[Layer, ...]) -> float:
    """Total dry film in micrometres."""
    return sum(layer.film_um for layer in layers)
