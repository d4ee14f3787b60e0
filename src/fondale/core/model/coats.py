# SPDX-License-Identifier: MIT
"""Coats: surfaces and the steps that work on them."""

from typing import Annotated, Literal

from pydantic import Field

from fondale.core.model.base import CoatKey, Day, Id, Instant, MaterialKey, Model, Name, Names, OrNone, Rgb, Text, ToolKey
from fondale.core.model.shapes import BodyPart

MOST_MINUTES, MOST_WAIT_H = 10_000.0, 10_000.0
Minutes = Annotated[float, Field(ge=0.01, le=MOST_MINUTES)]
Estimate = tuple[Minutes, Minutes, Minutes]  # least, likely, most
Dryness = Literal["wet", "touch", "next", "handle"]
TieKind = Literal["at once", "within", "not before", "together"]
Work = Literal["build", "print", "paint", "weather", "wire", "test"]
SurfaceId = Annotated[Id, Names("surfaces")]


class Surface(Model):
    """A face that gets coats; ``inside`` faces can be closed off. ``material`` is what lies bare under them; empty: not said.

    ``part``: which part of a figure it is; empty: all of the piece.
    """

    id: Id
    name: Name
    piece: Annotated[str, Names("pieces")] = ""
    area_cm2: Annotated[float, Field(ge=0, le=1e6)] = 10.0
    inside: bool = False
    material: MaterialKey = ""
    part: BodyPart | Literal[""] = ""


class Tie(Model):
    """How a step hangs on another one, ``step``, beyond coming after it.

    ``at once``: it begins when that one ends. ``within`` and ``not before``: that many hours after that one ended, at the latest or at
    the earliest. ``together``: on the same evening, in either order.
    """

    step: Annotated[Id, Names("steps", needed=True)]
    kind: TieKind = "within"
    hours: Annotated[float, Field(ge=0, le=MOST_WAIT_H)] = 0.0


class Step(Model):
    """One piece of work. Its place in the project's list is the maker's intended order.

    It works on ``surfaces`` and on whole ``pieces``, closes ``joints``, makes ``fits`` go, wires lamps (``wires``) and ``strings``, and
    tests lamps. ``dryness`` is what the coats below need: ``wet`` goes into paint that is wet. It is never done on the days ``not_on``.

    ``minutes``: None until they are typed; they are proposed then, by area and method. ``film_um``: the dry film that its coat leaves, where that is another one than usual; 0: as the coat leaves it.
    ``wait_h``: hours that go on by themselves afterwards (a printer, a cure), before the next step may follow.
    ``finished``: when a step that is done was done, by the clock of the bench; what dries or cures goes on from there.
    ``duty``: what it does for the file, joint, fit or rig that handed it over: by that it is known again, whatever it is called.
    ``file``: the file of the print shop that it belongs to. ``machine``: it runs for ``wait_h`` once the hands have started it, and is
    taken until the next step of that file has cleared it; ``any_machine``: another one of its kind does as well.
    """

    id: Id
    name: Name
    work: Work = "paint"
    coat: CoatKey = ""
    colour: Rgb = (0.5, 0.5, 0.5)
    surfaces: tuple[SurfaceId, ...] = ()
    closes: tuple[SurfaceId, ...] = ()
    pieces: tuple[Annotated[Id, Names("pieces")], ...] = ()
    joints: tuple[Annotated[Id, Names("joins")], ...] = ()
    fits: tuple[Annotated[Id, Names("fits")], ...] = ()
    wires: tuple[Annotated[Id, Names("lamps")], ...] = ()
    strings: tuple[Annotated[Id, Names("strings")], ...] = ()
    tests: tuple[Annotated[Id, Names("lamps")], ...] = ()
    after: tuple[Annotated[Id, Names("steps")], ...] = ()
    ties: tuple[Tie, ...] = ()
    not_on: tuple[Day, ...] = ()
    minutes: Estimate | None = None
    film_um: Annotated[float, Field(ge=0, le=100_000), OrNone] = 0.0
    tool: ToolKey = "brush"
    dryness: Dryness = "next"
    splittable: bool = False
    wait_h: Annotated[float, Field(ge=0, le=MOST_WAIT_H)] = 0.0
    done: bool = False
    finished: Instant | None = None
    file: Annotated[str, Names("prints", needed=True)] = ""
    machine: Annotated[str, Names("machines")] = ""
    any_machine: bool = False
    duty: Annotated[str, Field(max_length=60)] = ""
    note: Text = ""
