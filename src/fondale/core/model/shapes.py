# SPDX-License-Identifier: MIT
"""The outlines that pieces can have, sizes in millimetres at model scale."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from fondale.core.limits import LARGEST_MM
from fondale.core.model.base import Mm, Model, Names, OrNone, PoseKey, PositiveMm, key_of

Of = Annotated[float, Field(ge=-10, le=10)]  # a share of a size, from the middle or from the ground
Extra = Literal["coat", "long coat", "skirt", "shorts", "apron", "boots", "cap", "hat", "helmet", "pack", "umbrella", "lantern"]
BodyPart = Literal["face", "hair", "skin", "shirt", "trousers", "shoes", "extra"]
Person = Literal["man", "woman", "boy_12", "child_6"]
Build = Literal["plain", "stocky"]
Species = Literal[
    "cat", "dog", "sheepdog", "terrier", "horse", "cow", "sheep", "gull", "heron", "hen", "pig", "goat", "donkey", "fox", "rat", "duck", "pigeon", "crow"
]  # fmt: skip
Rest = Literal["standing", "resting"]


class Figure(Model):
    """A person in a pose, with what is worn and carried; the size comes from the measured crown height."""

    kind: Literal["figure"] = "figure"
    person: Person = "man"
    pose: PoseKey = "standing"
    extras: tuple[Extra, ...] = ()
    build: Build = "plain"
    heroic: bool = False


class Animal(Model):
    """An animal of a known kind; its size comes from the measured height."""

    kind: Literal["animal"] = "animal"
    species: Species = "cat"
    pose: Rest = "standing"


class Box(Model):
    """A solid block."""

    kind: Literal["box"] = "box"
    width: PositiveMm
    depth: PositiveMm
    height: PositiveMm


Form = Literal["lintel", "arch", "round", "broken"]


class Opening(Model):
    """A hole in a wall: left edge and sill from the wall's lower left corner. It ends in a straight lintel or in half a circle, is round, or
    has broken edges; a slit is a narrow one.
    """

    x: Mm
    z: Annotated[float, Field(ge=0, le=LARGEST_MM)] = 0.0
    width: PositiveMm
    height: PositiveMm
    form: Form = "lintel"


class Wall(Model):
    """A standing wall with openings, running along its own x."""

    kind: Literal["wall"] = "wall"
    length: PositiveMm
    height: PositiveMm
    thickness: PositiveMm = 4.0
    openings: tuple[Opening, ...] = ()


class Room(Model):
    """A hollow box with a roof and openings in its front."""

    kind: Literal["room"] = "room"
    width: PositiveMm
    depth: PositiveMm
    height: PositiveMm
    thickness: PositiveMm = 2.0
    openings: tuple[Opening, ...] = ()


class Stairs(Model):
    """Solid stairs that rise away from the front."""

    kind: Literal["stairs"] = "stairs"
    width: PositiveMm
    depth: PositiveMm
    height: PositiveMm
    steps: Annotated[int, Field(ge=1, le=60)] = 6


class Cylinder(Model):
    """A post, drum or pipe along an axis."""

    kind: Literal["cylinder"] = "cylinder"
    diameter: PositiveMm
    length: PositiveMm
    axis: Literal["x", "y", "z"] = "z"


class Wheel(Model):
    """A spoked wheel standing on its rim, axle along x."""

    kind: Literal["wheel"] = "wheel"
    diameter: PositiveMm
    width: PositiveMm = 4.0
    spokes: Annotated[int, Field(ge=0, le=40)] = 12


class Hull(Model):
    """An open boat, bow towards +x."""

    kind: Literal["hull"] = "hull"
    length: PositiveMm
    beam: PositiveMm
    depth: PositiveMm


class Furniture(Model):
    """Furniture of a scene: which, and its sizes."""

    kind: Literal["furniture"] = "furniture"
    what: Annotated[str, key_of("furniture")] = "crate"
    width: PositiveMm
    depth: PositiveMm
    height: PositiveMm


class Backdrop(Model):
    """A painted or printed sheet; ``cove`` is how far its middle lies behind its ends (0: it is flat)."""

    kind: Literal["backdrop"] = "backdrop"
    width: PositiveMm
    height: PositiveMm
    cove: Annotated[float, Field(ge=0, le=LARGEST_MM), OrNone] = 0.0


Mirror = Literal["glass mirror", "mirror acrylic", "front-silvered", "half mirror", "dark half mirror"]
Clear = Literal["glass", "acrylic"]


class Glass(Model):
    """A flat pane or mirror that stands on its edge; a mirror throws back what is before it, half mirrors on both sides."""

    kind: Literal["glass"] = "glass"
    width: PositiveMm
    height: PositiveMm
    thickness: PositiveMm = 2.0
    made: Clear | Mirror = "glass"


class Water(Model):
    """Water of clear resin, poured: one sees what stands and lies in it, and its surface shows a little of what is above."""

    kind: Literal["water"] = "water"
    width: PositiveMm
    depth: PositiveMm
    height: PositiveMm


LineKind = Literal["contour", "stroke"]


class GroundLine(Model):
    """A line on a ground, ``points`` in shares of its sizes from its middle. A contour lies ``height`` mm over the base; a stroke raises the ground
    along it by ``height``, or digs where that is below 0, and fades out ``reach`` mm away.
    """

    kind: LineKind = "contour"
    height: Mm = 15.0
    reach: PositiveMm = 20.0
    closed: bool = False
    points: Annotated[tuple[tuple[Of, Of], ...], Field(min_length=1, max_length=400)]


class Ground(Model):
    """Ground in relief: a plate ``height`` mm thick with what its lines make of it. At its rim it keeps that height, unless ``rim`` is free and
    follows the contours.
    """

    kind: Literal["ground"] = "ground"
    width: PositiveMm
    depth: PositiveMm
    height: PositiveMm = 4.0
    rim: Literal["held", "free"] = "held"
    lines: Annotated[tuple[GroundLine, ...], Field(max_length=60)] = ()


class Mesh(Model):
    """The body of a file of the print shop. ``points`` are shares of the sizes (x and y from -0.5 to 0.5, z from 0 to 1),
    a simplified skin that is drawn and lit; the file itself is cut and printed. ``person`` and ``pose`` where it is a figure.
    """

    kind: Literal["mesh"] = "mesh"
    file: Annotated[str, Names("prints")] = ""
    width: PositiveMm
    depth: PositiveMm
    height: PositiveMm
    points: Annotated[tuple[tuple[Of, Of, Of], ...], Field(min_length=3, max_length=4000)]
    faces: Annotated[tuple[tuple[int, int, int], ...], Field(min_length=1, max_length=4000)]
    person: Literal["", "man", "woman", "boy_12", "child_6"] = ""
    pose: PoseKey = "standing"

    @model_validator(mode="after")
    def _faces_name_points(self) -> Self:
        if min(map(min, self.faces)) < 0 or max(map(max, self.faces)) >= len(self.points):
            raise ValueError("a face names a point that is not there")
        return self


Shape = Annotated[
    Figure | Animal | Box | Wall | Room | Stairs | Cylinder | Wheel | Hull | Backdrop | Glass | Water | Ground | Furniture | Mesh,
    Field(discriminator="kind"),
]
