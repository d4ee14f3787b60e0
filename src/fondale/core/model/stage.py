# SPDX-License-Identifier: MIT
"""Stage: the case, where pieces stand, and the seats.

Axes: x to the right from the inside left corner, y away from the viewer from the front, z up from the floor.
"""

from typing import Annotated, Literal

from pydantic import Field

from fondale.core.model.base import Id, Mm, Model, Name, Names, OrNone, PositiveMm, Rgb, Share
from fondale.core.model.shapes import Clear, Mirror, Opening

CaseKind = Literal["glazed box", "open box", "shelf niche", "closed box", "corner", "open base", "frame base", "dome", "game board"]
Side = Literal["front", "back", "left", "right", "top"]
Thin = Annotated[float, Field(ge=0.1, le=200)]
Some = Annotated[float, Field(ge=0, le=1000), OrNone]  # 0: there is none


class Place(Model):
    """Centre of the footprint and turn about the vertical. ``z`` None: it stands on what is beneath it. ``tilt_deg`` leans its top away from
    its front, and it rests on its lowest point.

    ``room``: the room of the case on whose floor it stands; none is the case's own.
    """

    x: Mm
    y: Mm
    z: Mm | None = None
    turn_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    tilt_deg: Annotated[float, Field(ge=-90, le=90)] = 0.0
    room: Annotated[str, Names("rooms")] = ""


class Stood(Model):
    """Where a piece stands in a layout."""

    piece: Annotated[Id, Names("pieces", needed=True)]
    place: Place


class Layout(Model):
    """A way in which everything stood, kept to be compared or gone back to."""

    id: Id
    name: Name
    stands: tuple[Stood, ...] = ()


class CaseOpening(Opening):
    """A hole in one side of a case or of a room of it, seen from outside; of the top, from above with the front below.

    To look in by, or a hatch or door that comes off or swings: for hands, the battery and the switch.
    """

    side: Side = "front"
    use: Literal["look in", "hatch", "door"] = "look in"


class Hollow(Model):
    """A hollow of boards and panes, by its inside sizes. Sides without a paint of their own have that of the back, ``wall_paint``.

    ``panes`` are the sides that are glazed instead of boarded; ``frame`` is the breadth of the posts and rails round each pane.
    """

    width: PositiveMm = 300.0
    depth: PositiveMm = 200.0
    height: PositiveMm = 200.0
    panes: tuple[Side, ...] = ()
    frame: Some = 0.0
    openings: Annotated[tuple[CaseOpening, ...], Field(max_length=60)] = ()
    floor_paint: Rgb = (0.25, 0.24, 0.22)
    wall_paint: Rgb = (0.12, 0.14, 0.18)
    left_paint: Rgb | None = None
    right_paint: Rgb | None = None
    ceiling_paint: Rgb = (0.10, 0.10, 0.11)


class CaseRoom(Hollow):
    """One more room of a case: its inside lower left front corner, and what closes its front."""

    id: Id
    name: Name
    x: Mm = 0.0
    y: Mm = 0.0
    z: Mm = 0.0
    front: Literal["pane", "board", "open"] = "pane"


class Boards(Model):
    """What a case is built of. ``sheet`` is the thickness that boards are glued up from (0: one sheet is a board); sheets are bought
    ``sheet_long`` by ``sheet_wide``; ``kerf`` is what the saw takes.

    Under the floor may be a ``box`` of this inside height, for battery, switch and magnets, and below it ``fingers`` of room to lift it by.
    """

    board: Thin = 6.0
    base: Thin = 12.0
    sheet: Annotated[float, Field(ge=0, le=200), OrNone] = 0.0
    sheet_long: PositiveMm = 1220.0
    sheet_wide: PositiveMm = 610.0
    kerf: Annotated[float, Field(ge=0, le=20)] = 2.5
    pane: Thin = 2.0
    pane_kind: Clear = "glass"
    box: Some = 0.0
    fingers: Some = 0.0


class Case(Hollow):
    """What holds the scene. ``rooms`` are those beside or upon the first, which has the case's own sizes."""

    kind: CaseKind = "glazed box"
    lip_top: Annotated[float, Field(ge=0, le=1000)] = 0.0
    lip_sides: Annotated[float, Field(ge=0, le=1000)] = 0.0
    rooms: Annotated[tuple[CaseRoom, ...], Field(max_length=40)] = ()
    boards: Boards = Boards()


Lux = Annotated[float, Field(ge=0, le=100_000)]


class Depth(Model):
    """What is planned to look deeper than it is.

    Forced perspective: what stands ``stands`` mm behind the front looks as if it were ``meant`` mm behind it in life, in ``zones``. Two facing
    mirrors ``apart`` mm, a figure ``wide`` mm between them. The pane: light in the room and on the scene (0: as the meters on Lamps say), and
    the shares of it that viewers and scene throw back.
    """

    meant: Annotated[float, Field(gt=0, le=1e7)] = 10_000.0
    stands: PositiveMm = 150.0
    zones: Annotated[int, Field(ge=1, le=12)] = 3
    apart: PositiveMm = 60.0
    wide: PositiveMm = 100.0
    front: Mirror = "half mirror"
    back: Mirror = "glass mirror"
    room_lx: Lux = 300.0
    clothes: Share = 0.3
    scene_lx: Lux = 0.0
    paint: Share = 0.25


class Seat(Model):
    """A viewer's eyes: stature, standing or sitting and how high (``chair`` 0: as usual for the stature), distance before the front, and how
    far the head moves: ``range`` sideways, ``rise`` up and down, over all. ``eyes_mm`` is how high the eyes are over the floor of the room where
    that is known (0: as stature and chair have it). A camera has a lens of ``lens_mm`` (0: it is no camera) before a sensor ``sensor_mm`` wide.
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
    eyes_mm: Annotated[float, Field(ge=0, le=4000), OrNone] = 0.0
    lens_mm: Annotated[float, Field(ge=0, le=2000), OrNone] = 0.0
    sensor_mm: Annotated[float, Field(ge=1, le=100)] = 36.0
