# SPDX-License-Identifier: MIT
"""Bench: the files of the print shop."""

from typing import Annotated, Literal

from pydantic import Field

from fondale.core.limits import LARGEST_MM, SMALLEST
from fondale.core.model.base import Id, Key, Mm, Model, Name, Names, OrNone, PositiveMm, Share, Text

Axis = Literal["x", "y", "z"]
Side = Literal["front", "back", "left", "right", "top", "bottom"]
Up = Literal["z", "-z", "x", "-x", "y", "-y"]
Vector = tuple[Mm, Mm, Mm]
Times = Annotated[float, Field(ge=SMALLEST, le=100)]
Percent = Annotated[float, Field(ge=SMALLEST, le=100_000)]


class Cut(Model):
    """A flat cut square to an axis, at a share of the size along it."""

    id: Id
    axis: Axis = "z"
    at: Annotated[float, Field(ge=SMALLEST, le=1 - SMALLEST)] = 0.5


class Panel(Model):
    """A part that lifts off: its outline on one side, in shares of that side's width and height (or depth), and how deep it goes in mm (0:
    right through).
    """

    id: Id
    side: Side = "front"
    outline: Annotated[tuple[tuple[Share, Share], ...], Field(min_length=3, max_length=60)]
    deep_mm: Annotated[float, Field(ge=0, le=LARGEST_MM), OrNone] = 0.0


class Thin(Model):
    """A thin place of a body: where, in shares of its sizes, and how many mm are there at 100 %."""

    at: Vector
    mm: Annotated[float, Field(ge=0, le=LARGEST_MM)]


class Ordered(Model):
    """A quote that was taken: the money for all copies with postage, the working days until it is here, and that a share of parcels comes up
    to so many days later. It was for so many ml, copies and parts (0 ml: nobody told).
    """

    service: Name
    price: Annotated[float, Field(ge=0, le=1e7)] = 0.0
    days: Annotated[int, Field(ge=0, le=365)] = 7
    late_days: Annotated[int, Field(ge=0, le=365)] = 0
    late_share: Share = 0.0
    for_ml: Annotated[float, Field(ge=0, le=1e9)] = 0.0
    for_copies: Annotated[int, Field(ge=1, le=1000)] = 1
    for_parts: Annotated[int, Field(ge=1, le=10_000)] = 1


class PrintFile(Model):
    """A file with its body measured at 100 % (mm, mm2, mm3), how large it is printed, and how.

    ``centre`` is the centre of mass and ``base`` the outline of what it stands on, both from the lower corner of the
    bounding box; ``stretch`` multiplies single axes. ``layer_mm`` 0 leaves the layer to the machine. ``beside`` is the file on whose
    plates it is printed, with that one's machine and layer; ``any_machine``: another machine of the same kind does as well.
    ``hollow_mm`` is the wall of one that is hollowed, 0 for solid, ``drain_mm`` how wide its drain holes are; ``seen`` is the side that will
    be looked at; ``thin`` are the thinnest places that were found on it. What is ``ordered`` is printed on no machine here.
    """

    id: Id
    name: Name
    asset: Key
    unit: Literal["mm", "cm", "m", "in"] = "mm"
    size: tuple[PositiveMm, PositiveMm, PositiveMm]
    volume: Annotated[float, Field(ge=0, le=LARGEST_MM**3)]
    area: Annotated[float, Field(ge=0, le=1000 * LARGEST_MM**2)]
    centre: Vector
    base: Annotated[tuple[tuple[Mm, Mm], ...], Field(max_length=200)] = ()
    triangles: Annotated[int, Field(ge=1, le=10**9)]
    bodies: Annotated[int, Field(ge=1, le=10**9)] = 1
    watertight: bool = True
    repairs: tuple[Text, ...] = ()
    percent: Percent = 100.0
    stretch: tuple[Times, Times, Times] = (1.0, 1.0, 1.0)
    family: Annotated[str, Field(max_length=60)] = ""
    machine: Annotated[str, Names("machines")] = ""
    any_machine: bool = False
    beside: Annotated[str, Names("prints")] = ""
    layer_mm: Annotated[float, Field(ge=0, le=2), OrNone] = 0.0
    up: Up = "z"
    tilt_deg: Annotated[float, Field(ge=0, le=80)] = 0.0
    hollow_mm: Annotated[float, Field(ge=0, le=100), OrNone] = 0.0
    drain_mm: Annotated[float, Field(ge=0, le=100), OrNone] = 0.0
    seen: Side | Literal[""] = ""
    thin: Annotated[tuple[Thin, ...], Field(max_length=40)] = ()
    difficulty: Literal["easy", "fair", "hard"] = "fair"
    count: Annotated[int, Field(ge=1, le=1000)] = 1
    cuts: tuple[Cut, ...] = ()
    keyed: bool = True
    panels: Annotated[tuple[Panel, ...], Field(max_length=20)] = ()
    ordered: Ordered | None = None

    @property
    def times(self) -> Vector:
        """What each axis of the file is multiplied by."""
        f = self.percent / 100
        return f * self.stretch[0], f * self.stretch[1], f * self.stretch[2]

    @property
    def printed(self) -> Vector:
        """Width, depth and height in mm as printed."""
        t = self.times
        return self.size[0] * t[0], self.size[1] * t[1], self.size[2] * t[2]
