# SPDX-License-Identifier: MIT
"""Lamps: emitters, what feeds them, the moments and the meters."""

from typing import Annotated, Literal

from pydantic import Field

from fondale.core.model.base import Id, Mm, Model, Name, Names, OrNone, PositiveMm, Share, key_of

Motion = Literal["steady", "candle", "breathing", "failing tube", "beacon"]
Wiring = Literal["series", "group"]
LampId = Annotated[Id, Names("lamps")]
Along = Annotated[float, Field(ge=-1e6, le=1e6)]  # one coordinate of a direction


class Lamp(Model):
    """A point LED at a spot of the case, aimed along (ax, ay, az); ``piece`` is what it is built into."""

    id: Id
    name: Name
    led: Annotated[str, key_of("electric", "led")] = "warm_white"
    package: Annotated[str, key_of("electric", "package")] = "five"
    piece: Annotated[str, Names("pieces")] = ""
    x: Mm
    y: Mm
    z: Mm
    ax: Along = 0.0
    ay: Along = 0.0
    az: Along = -1.0
    angle_deg: Annotated[float, Field(ge=5, le=360)] = 120.0
    level: Share = 1.0
    meant_to_be_seen: bool = False
    motion: Motion = "steady"
    seed: Annotated[int, Field(ge=0, le=2**31)] = 1
    flashes_per_s: Annotated[float, Field(ge=0, le=50)] = 0.5


class String(Model):
    """Lamps wired one after the other (series) or side by side (group), behind one resistor (0: none)."""

    id: Id
    name: Name
    supply: Annotated[Id, Names("supplies", needed=True)]
    lamps: tuple[LampId, ...] = ()
    wiring: Wiring = "series"
    resistor_ohm: Annotated[float, Field(ge=0, le=1e7), OrNone] = 0.0
    wire_mm: Annotated[float, Field(ge=0, le=100_000)] = 300.0
    awg: Annotated[int, Field(ge=10, le=46)] = 30
    reversed: tuple[LampId, ...] = ()


class Supply(Model):
    """A plug from the table of plugs, or ``count`` cells in series from the table of cells."""

    id: Id
    name: Name
    kind: Literal["plug", "cells"] = "plug"
    row: Annotated[str, key_of("electric", lambda supply: supply.section)] = "usb_5v_1a"
    count: Annotated[int, Field(ge=1, le=24)] = 1

    @property
    def section(self) -> str:
        """The section of the table that its row stands in."""
        return "plug" if self.kind == "plug" else "cell"


class Moment(Model):
    """A named state of the light: the level of each lamp, 0 to 1 (lamps not named keep their own)."""

    id: Id
    name: Name
    levels: dict[Annotated[str, Names("lamps")], Share] = Field(default_factory=dict)


class Meter(Model):
    """A simulated lux meter: a small flat cell that faces (nx, ny, nz)."""

    id: Id
    name: Name
    x: Mm
    y: Mm
    z: Mm
    nx: Along = 0.0
    ny: Along = 0.0
    nz: Along = 1.0
    wanted_lx: Annotated[float, Field(ge=0, le=1e6)] = 0.0


class Area(Model):
    """A level rectangle whose light is to be even, by its front left corner: measured by a grid of meters where nothing stands. Without ``z`` it
    lies on what is beneath its middle, as far as that is level.

    ``wanted_u0`` is how even it shall be, least over mean (0: only told).
    """

    id: Id
    name: Name
    x: Mm
    y: Mm
    z: Mm | None = None
    width: PositiveMm
    depth: PositiveMm
    wanted_u0: Share = 0.0
