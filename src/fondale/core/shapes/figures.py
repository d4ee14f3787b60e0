"""Figures and animals: their size is what was measured, their form that of a jointed mannequin or a lofted animal."""

import numpy as np

from fondale.core.bodies.animals import animal
from fondale.core.bodies.mannequin import Mannequin, mannequin
from fondale.core.bodies.outline import animal_outline, figure_outline
from fondale.core.model.shapes import Animal, Figure
from fondale.core.shapes.kind import ShapeKind
from fondale.core.shapes.solid import Outline, Solid, of_tris

# Upper arms and trunk share their bounced light: head, trunk and arms, legs, what is worn.
COARSE = np.array([0, 1, 1, 2, 3])


def body_of(shape: Figure) -> Mannequin:
    """The mannequin of a figure. Raises PoseError."""
    return mannequin(shape.pose, shape.person, shape.extras, shape.heroic, shape.build)


class FigureKind(ShapeKind[Figure]):
    """A person."""

    model, words, caption, guess_mm, living = Figure, "Figure", "crown", 50.0, True

    def new(self) -> Figure:
        return Figure()

    def solid(self, shape: Figure, height: float) -> Solid:
        body = body_of(shape)
        return of_tris(body.tris * (height / body.crown), COARSE[body.part])

    def outline(self, shape: Figure, height: float) -> Outline:
        factor = height / body_of(shape).crown
        return tuple(r * factor for r in figure_outline(shape.pose, shape.person, shape.extras, shape.heroic, shape.build))


class AnimalKind(ShapeKind[Animal]):
    """An animal."""

    model, words, caption, guess_mm, living = Animal, "Animal", "height", 7.0, True

    def new(self) -> Animal:
        return Animal()

    def solid(self, shape: Animal, height: float) -> Solid:
        return of_tris(animal(shape.species) * height)

    def outline(self, shape: Animal, height: float) -> Outline:
        return tuple(r * height for r in animal_outline(shape.species))
