"""Brief: reference photographs and the threads stretched over them. Places are pixels of the upright picture."""

from typing import Annotated, Literal

from pydantic import Field

from fondale.core.model.base import SMALLEST, Id, Key, Model, Name

Pixel = Annotated[float, Field(ge=-100_000, le=200_000)]
Point = tuple[Pixel, Pixel]
RealMm = Annotated[float, Field(ge=SMALLEST, le=1e7)]


class Thread(Model):
    """A stretched line. ``on`` says what it lies on; ``known_mm`` is its real length where that is known."""

    id: Id
    name: Name
    a: Point
    b: Point
    on: Literal["plane", "wall", "ground"] = "plane"
    known_mm: RealMm | None = None
    known_give_mm: Annotated[float, Field(ge=0, le=1e6)] = 0.0


class Frame(Model):
    """Four corners of a rectangle of known sides on a wall: top left, top right, bottom right, bottom left."""

    corners: tuple[Point, Point, Point, Point]
    width_mm: RealMm
    height_mm: RealMm


class Horizon(Model):
    """The eye-level line, as its height at the left and at the right edge of the picture."""

    left: Pixel
    right: Pixel


class Photo(Model):
    """One reference picture, kept as it came among the assets."""

    id: Id
    name: Name
    asset: Key
    width: Annotated[int, Field(ge=1, le=100_000)]
    height: Annotated[int, Field(ge=1, le=100_000)]
    frame: Frame | None = None
    horizon: Horizon | None = None
    threads: tuple[Thread, ...] = ()
