# SPDX-License-Identifier: MIT
"""Brief: for whom, by when, at which scale, within what."""

from typing import Annotated, Literal

from pydantic import Field

from fondale.core.limits import LARGEST_MM
from fondale.core.model.base import Day, Id, Model, Name, OrNone, PositiveMm, Text, key_of

Minutes = Annotated[int, Field(ge=0, le=720)]


class HouseRules(Model):
    """The maker's own way where schools differ."""

    resistors: Literal["always", "cells without"] = "always"
    order: Literal["whole", "pieces"] = "pieces"
    ageing: Literal["nice first", "aged at once"] = "nice first"
    weathering: Literal["layers", "less"] = "layers"
    sizes: Literal["crown", "eyes"] = "crown"
    prints: Literal["resin", "filament"] = "resin"
    tolerance: Literal["measured", "mock-up"] = "measured"
    paint: Literal["spray", "brush"] = "spray"


class OwnPrinter(Model):
    """What a printer of one's own has otherwise than its row of the table: the room for prints in mm, the layer in mm, seconds a layer (resin)
    or mm³ a second (filament), how many hours its screen or nozzle lives, what a kilogram costs, and an hour of wear. 0: as the table says.
    """

    wide_mm: Annotated[float, Field(ge=0, le=LARGEST_MM), OrNone] = 0.0
    deep_mm: Annotated[float, Field(ge=0, le=LARGEST_MM), OrNone] = 0.0
    high_mm: Annotated[float, Field(ge=0, le=LARGEST_MM), OrNone] = 0.0
    layer_mm: Annotated[float, Field(ge=0, le=2), OrNone] = 0.0
    layer_s: Annotated[float, Field(ge=0, le=600)] = 0.0
    flow: Annotated[float, Field(ge=0, le=200)] = 0.0
    life_h: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    price_kg: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    wear_h: Annotated[float, Field(ge=0, le=100)] = 0.0


class Machine(Model):
    """A machine at hand: a row of the table of machines, what the maker's ``own`` has otherwise, how its real hours compare with the reckoned
    ones, and for how many hours its screen or nozzle has run.
    """

    id: Id
    name: Name
    row: Annotated[str, key_of("machines", "machine")]
    pace: Annotated[float, Field(ge=0.01, le=20)] = 1.0
    run_h: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    own: OwnPrinter = OwnPrinter()


MOST_SETUP_MIN = 60
SetupMin = Annotated[int, Field(ge=0, le=MOST_SETUP_MIN)]


class Setup(Model):
    """Minutes at a tool besides the work: to bring it out, to clean it at the end of an evening, and to change its colour after a step."""

    out: SetupMin = 0
    clean: SetupMin = 0
    rinse: SetupMin = 0


class Brief(Model):
    """What the piece must be, and the bench it is made on."""

    occasion: Text = ""
    place: Text = ""
    start: Day
    deadline: Day | None = None
    evenings: tuple[Minutes, Minutes, Minutes, Minutes, Minutes, Minutes, Minutes] = (90, 90, 90, 90, 0, 180, 0)
    evening_from: Annotated[int, Field(ge=0, le=23 * 60)] = 19 * 60
    days_off: tuple[Day, ...] = ()
    cap: Annotated[float, Field(ge=0, le=1e7)] = 0.0
    currency: Annotated[str, Field(max_length=4)] = "€"
    house_n: Annotated[float, Field(ge=1, le=2000)] = 35.0
    shelf_height_mm: PositiveMm = 1100.0
    shelf_bears_kg: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    bench_c: Annotated[float, Field(ge=-10, le=45)] = 20.0
    bench_rh: Annotated[float, Field(ge=5, le=100)] = 50.0
    machines: tuple[Machine, ...] = ()
    airbrush: Setup = Setup(out=8, clean=10, rinse=3)
    spray_can: Setup = Setup(out=5, clean=2)
    show_hours: Annotated[float, Field(ge=0, le=100)] = 8.0
    rules: HouseRules = HouseRules()

    @property
    def setups(self) -> dict[str, Setup]:
        """What tools take besides the work, by the tool of a step."""
        return {"airbrush": self.airbrush, "spray can": self.spray_can}
