# SPDX-License-Identifier: MIT
"""Brief: reference photographs and the threads stretched over them. Places are pixels of the upright picture."""

from typing import Annotated, Literal

from pydantic import Field

from fondale.core.limits import SMALLEST
from fondale.core.model.base import Id, Key, Model, Name, OrNone

Pixel = Annotated[float, Field(ge=-100_000, le=200_000)]
Point = tuple[Pixel, Pixel]
Side = Annotated[float, Field(ge=0, le=1e7), OrNone]
Hand = Annotated[float, Field(ge=0, le=10_000)]
RealMm = Annotated[float, Field(ge=SMALLEST, le=1e7)]


class Thread(Model):
    """A stretched line. ``on`` says what it lies on, or that it stands upright; ``known_mm`` is its real length where that is known. ``hand_px``: how
    well its ends were set, in pixels of the file (0: not told).
    """

    id: Id
    name: Name
    a: Point
    b: Point
    on: Literal["plane", "wall", "ground", "upright"] = "plane"
    known_mm: RealMm | None = None
    known_give_mm: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    hand_px: Hand = 0.0


class Frame(Model):
    """Four corners of a rectangle on a wall: top left, top right, bottom right, bottom left, and its sides (0: not told yet)."""

    corners: tuple[Point, Point, Point, Point]
    width_mm: Side = 0.0
    height_mm: Side = 0.0
    width_give_mm: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    height_give_mm: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    hand_px: Hand = 0.0


class Horizon(Model):
    """The eye-level line, as its height at the left and at the right edge of the picture."""

    left: Pixel
    right: Pixel
    hand_px: Hand = 0.0


class Photo(Model):
    """One reference picture, kept as it came among the assets. ``f35_mm`` is the focal length of its lens as a 35 mm equivalent (0: not known)."""

    id: Id
    name: Name
    asset: Key
    width: Annotated[int, Field(ge=1, le=100_000)]
    height: Annotated[int, Field(ge=1, le=100_000)]
    frame: Frame | None = None
    horizon: Horizon | None = None
    threads: tuple[Thread, ...] = ()
    f35_mm: Annotated[float, Field(ge=0, le=2000)] = 0.0
