# SPDX-License-Identifier: MIT
"""Bench: pieces, what was measured on them and what they claim to be; bits, needs, fits and joins."""

from typing import Annotated, Literal

from pydantic import Field

from fondale.core.limits import LARGEST_MM, NAME_MOST, SMALLEST
from fondale.core.model.base import CoatKey, Id, MaterialKey, Mm, Model, Name, Names, OrNone, PositiveMm, Rgb, Row, Share, Text, key_of
from fondale.core.model.shapes import Shape
from fondale.core.model.stage import Place

LARGEST_REAL_MM = 1e7
Claim = Annotated[str, Field(max_length=40)]
Error = Annotated[float, Field(ge=0, le=100)]
Outline = Literal["cylinder", "rod", "dome", "box", "plate"]
Origin = Literal["bought", "printed file", "gaming", "kitbash", "scratch"]
Stands = Literal["beside", "alone", "behind", "front"]
State = Literal["in the box", "used", "lost"]
Masked = Literal["", "hole", "peg", "both"]
Wish = Literal["hold", "adjust", "fast", "take apart", "see through"]
Process = Literal["resin", "filament", "hand-cut sheet", "laser-cut sheet", "metal", "bought part", "drilled", "reamed", "sanded"]


class Measure(Model):
    """The main size taken with the caliper: crown of a figure, or the named size of a thing."""

    mm: PositiveMm
    error_mm: Error = 0.1


class Detail(Model):
    """One more size taken on a piece: a part of the body, or a known thing on it (a key of the things)."""

    id: Id
    part: Annotated[str, Field(max_length=40), Row((("body", "details"), ("scales", "things")))]
    mm: PositiveMm
    error_mm: Error = 0.1


class Sling(Model):
    """A line that a piece hangs on: its hook in the case's axes, and where it is tied, in the piece's own axes from the middle of its foot.
    The hook is ``on`` a piece, and moves with it; on none, it is in the case.

    ``bears_g`` is what line and hook bear as their labels say (0: not told).
    """

    name: Annotated[str, Field(max_length=NAME_MOST)] = ""
    x: Mm
    y: Mm
    z: Mm
    at_x: Mm = 0.0
    at_y: Mm = 0.0
    at_z: Mm = 0.0
    on: Annotated[str, Names("pieces")] = ""
    bears_g: Annotated[float, Field(ge=0, le=1e6)] = 0.0


class Piece(Model):
    """Anything placed in the scene, or waiting on the bench for it (``place`` is None). ``part_of``: the piece that it is put on.

    ``real_mm`` is how large the thing is in life, as the maker knows it: what was measured of a thing, the shoulder of an animal, the stature of
    a person; 0: as the tables have it. ``worn`` is what of its dress lies within the measured height. A figure that nobody
    has measured is shown ``shown_mm`` high. ``weight_g`` is what the scales say; without
    it ``material`` tells, and ``filled``, the solid share of its volume. It hangs on its ``slings``. What is ``fixed`` is not moved by hand.

    It can turn by ``swing_deg`` about its ``pivot``, as a door or a crane does: seen from above against the clock, below 0 with it.
    """

    id: Id
    name: Name
    shape: Shape
    origin: Origin = "scratch"
    claim: Claim = ""
    measure: Measure | None = None
    details: tuple[Detail, ...] = ()
    thing: Annotated[str, key_of("scales", "things")] = ""
    real_mm: Annotated[float, Field(ge=0, le=LARGEST_REAL_MM), OrNone] = 0.0
    worn: tuple[Annotated[str, key_of("body", "worn")], ...] = ()
    shown_mm: Annotated[float, Field(ge=0, le=LARGEST_MM), OrNone] = 0.0
    printed_percent: Annotated[float, Field(ge=SMALLEST, le=100_000)] = 100.0
    part_of: Annotated[str, Names("pieces")] = ""
    role: Literal["piece", "scenery"] = "piece"
    lost: bool = False
    stands: Stands = "beside"
    place: Place | None = None
    fixed: bool = False
    swing_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    pivot: Literal["left", "middle", "right"] = "left"
    paint: Rgb = (0.35, 0.33, 0.30)
    weight_g: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    material: MaterialKey = ""
    filled: Share = 1.0
    slings: Annotated[tuple[Sling, ...], Field(max_length=24)] = ()
    cost: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    thread: Text = ""
    note: Text = ""


class Bit(Model):
    """A donor part in the bits box. ``sizes``: cylinder and rod (diameter, length), dome (diameter, height), box and plate three sides."""

    id: Id
    name: Name
    outline: Outline = "box"
    sizes: Annotated[tuple[PositiveMm, ...], Field(min_length=2, max_length=3)]
    native_n: Annotated[float, Field(ge=0, le=2000), OrNone] = 0.0
    material: MaterialKey = "styrene"
    source: Annotated[str, Field(max_length=120)] = ""
    drawer: Annotated[str, Field(max_length=40)] = ""
    count: Annotated[int, Field(ge=0, le=100_000)] = 1
    state: State = "in the box"
    note: Text = ""


class Need(Model):
    """A part that the scene wants, in real millimetres: read off a photograph, or typed."""

    id: Id
    name: Name
    outline: Outline = "box"
    real: Annotated[tuple[Annotated[float, Field(ge=SMALLEST, le=LARGEST_REAL_MM)], ...], Field(min_length=1, max_length=3)]
    give_mm: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    count: Annotated[int, Field(ge=1, le=1000)] = 1
    photo: Annotated[str, Names("photos")] = ""
    thread: Text = ""
    bit: Annotated[str, Names("bits")] = ""
    made: bool = False


class Magnet(Model):
    """A round magnet and the seat drilled for it, in mm: how thick it is (0: not told), how deep the seat (0: as deep as it needs), the hole of
    a ring (0: a disc).

    ``between`` is what else lies between it and what it pulls: a wall, card, air. ``other`` is that: its like, or steel.
    """

    thick: Annotated[float, Field(ge=0, le=LARGEST_MM), OrNone] = 0.0
    deep: Annotated[float, Field(ge=0, le=LARGEST_MM), OrNone] = 0.0
    ring: Annotated[float, Field(ge=0, le=LARGEST_MM), OrNone] = 0.0
    between: Annotated[float, Field(ge=0, le=LARGEST_MM)] = 0.0
    grade: Annotated[str, key_of("fits", "grade")] = "N42"
    other: Literal["its like", "steel"] = "its like"


class Fit(Model):
    """Two parts that go into each other, bare sizes in mm, and how often each face gets coated.

    ``process`` is how the hole was made; ``peg_process`` how what goes in was, empty: the same way. ``hole_on`` and ``peg_on`` are the
    surfaces whose coats the faces get; where none is named, the coats are those typed here, ``brushed`` or sprayed.
    """

    id: Id
    name: Name
    kind: Literal["peg", "push", "plate", "hinge", "magnet", "seat", "tyre", "hose", "insert"] = "peg"
    hole: PositiveMm
    peg: PositiveMm
    process: Process = "resin"
    peg_process: Process | Literal[""] = ""
    hole_coats: tuple[CoatKey, ...] = ()
    peg_coats: tuple[CoatKey, ...] = ()
    brushed: bool = False
    hole_on: Annotated[str, Names("surfaces")] = ""
    peg_on: Annotated[str, Names("surfaces")] = ""
    masked: Masked = ""
    magnet: Magnet = Magnet()


class Join(Model):
    """Two things to be stuck together, which ``pieces`` they are, and what the joint must do."""

    id: Id
    name: Name
    a: MaterialKey = "resin"
    b: MaterialKey = "resin"
    need: Wish = "hold"
    pieces: tuple[Annotated[Id, Names("pieces")], ...] = ()
