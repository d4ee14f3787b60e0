"""Coats: surfaces and the steps that work on them."""

from typing import Annotated, Literal

from pydantic import Field

from fondale.core.model.base import Id, Model, Name, Rgb, Text

Minutes = Annotated[float, Field(gt=0, le=10_000)]
Dryness = Literal["touch", "next", "handle"]


class Surface(Model):
    """A face that gets coats; ``inside`` faces can be closed off."""

    id: Id
    name: Name
    piece: str = ""
    area_cm2: Annotated[float, Field(ge=0, le=1e6)] = 10.0
    inside: bool = False


class Step(Model):
    """One piece of work. Its place in the project's list is the maker's intended order.

    ``wait_h``: hours that go on by themselves afterwards (a printer, a cure), before the next step may follow.
    """

    id: Id
    name: Name
    work: Literal["build", "print", "paint", "weather", "wire", "test"] = "paint"
    coat: str = ""
    colour: Rgb = (0.5, 0.5, 0.5)
    surfaces: tuple[Id, ...] = ()
    closes: tuple[Id, ...] = ()
    tests: tuple[Id, ...] = ()
    after: tuple[Id, ...] = ()
    minutes: tuple[Minutes, Minutes, Minutes] = (10.0, 15.0, 25.0)
    tool: Literal["hand", "brush", "airbrush", "spray can", "iron"] = "brush"
    dryness: Dryness = "next"
    splittable: bool = False
    wait_h: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    caution: str = ""
    done: bool = False
    note: Text = ""
