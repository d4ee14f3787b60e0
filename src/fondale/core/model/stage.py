"""Stage: the case, where pieces stand, and the seats.

Axes: x to the right from the inside left corner, y away from the viewer from the front pane, z up from the floor.
"""

from typing import Annotated, Literal

from pydantic import Field

from fondale.core.model.base import Id, Mm, Model, Name, OrNone, PositiveMm, Rgb

CaseKind = Literal["glazed box", "open base", "dome", "closed box"]
FRONTED = ("glazed box", "closed box")  # cases that are looked into through their front alone


class Place(Model):
    """Centre of the footprint and turn about the vertical. ``z`` None: it stands on what is beneath it."""

    x: Mm
    y: Mm
    z: Mm | None = None
    turn_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0


class Case(Model):
    """What holds the scene; sizes are inside sizes. Side walls without a paint of their own have that of the back, ``wall_paint``."""

    kind: CaseKind = "glazed box"
    width: PositiveMm = 300.0
    depth: PositiveMm = 200.0
    height: PositiveMm = 200.0
    lip_top: Annotated[float, Field(ge=0, le=1000)] = 0.0
    lip_sides: Annotated[float, Field(ge=0, le=1000)] = 0.0
    floor_paint: Rgb = (0.25, 0.24, 0.22)
    wall_paint: Rgb = (0.12, 0.14, 0.18)
    left_paint: Rgb | None = None
    right_paint: Rgb | None = None
    ceiling_paint: Rgb = (0.10, 0.10, 0.11)


class Seat(Model):
    """A viewer's eyes: stature, standing or sitting and how high (``chair`` 0: as usual for the stature), distance before the front, and how
    far the head moves: ``range`` sideways, ``rise`` up and down, over all.
    """

    id: Id
    name: Name
    stature_mm: Annotated[float, Field(ge=600, le=2300)] = 1700.0
    sitting: bool = False
    distance: Annotated[float, Field(ge=50, le=20_000)] = 700.0
    offset: Mm = 0.0
    range: Annotated[float, Field(ge=0, le=5000)] = 300.0
    rise: Annotated[float, Field(ge=0, le=2000), OrNone] = 0.0
    chair: Annotated[float, Field(ge=0, le=1500), OrNone] = 0.0
