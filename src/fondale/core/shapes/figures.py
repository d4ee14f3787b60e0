# SPDX-License-Identifier: MIT
"""Figures and animals: their size is what was measured, their form that of a posed and dressed person or an animal."""

from fondale.core.bodies.animals import animal, rest_share
from fondale.core.bodies.figure import figure
from fondale.core.bodies.kept import Body
from fondale.core.bodies.measures import measures
from fondale.core.bodies.outline import animal_outline, figure_outline
from fondale.core.model.shapes import Animal, Figure
from fondale.core.shapes.kind import ShapeKind
from fondale.core.shapes.solid import Outline, Solid, of_tris


def body_of(shape: Figure) -> Body:
    """The body of a figure, in shares of its stature. Raises PoseError."""
    return figure(shape.pose, shape.person, shape.extras, shape.heroic, shape.build)


def stature_mm(shape: Figure, height: float) -> float:
    """The stature of a figure that measures ``height``."""
    return height / measures(shape.pose, shape.person, shape.heroic).crown


class FigureKind(ShapeKind[Figure]):
    """A person."""

    model, words, caption, guess_mm, living = Figure, "Figure", "crown", 50.0, True

    def new(self) -> Figure:
        return Figure()

    def solid(self, shape: Figure, height: float) -> Solid:
        body = body_of(shape)
        return of_tris(body.tris * stature_mm(shape, height), body.part, body.normals)

    def outline(self, shape: Figure, height: float) -> Outline:
        factor = stature_mm(shape, height)
        return tuple(r * factor for r in figure_outline(shape.pose, shape.person, shape.extras, shape.heroic, shape.build))


def stood_mm(shape: Animal, height: float) -> float:
    """What an animal that measures ``height`` would measure if it stood."""
    return height / rest_share(shape.species) if shape.pose == "resting" else height


class AnimalKind(ShapeKind[Animal]):
    """An animal."""

    model, words, caption, guess_mm, living = Animal, "Animal", "height", 7.0, True

    def new(self) -> Animal:
        return Animal()

    def solid(self, shape: Animal, height: float) -> Solid:
        body = animal(shape.species, shape.pose == "resting")
        return of_tris(body.tris * stood_mm(shape, height), None, body.normals)

    def outline(self, shape: Animal, height: float) -> Outline:
        return tuple(r * stood_mm(shape, height) for r in animal_outline(shape.species, shape.pose == "resting"))
