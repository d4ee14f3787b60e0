# SPDX-License-Identifier: MIT
"""What the ticket of Stage shows of a seat and of a piece."""

import re
from collections.abc import Callable
from functools import partial
from operator import attrgetter
from typing import Any, get_args

from fondale.core.edits import put
from fondale.core.edits.measuring import sizes_of
from fondale.core.edits.moving import move
from fondale.core.lengths import LengthError
from fondale.core.model import PIECES, SEATS, Piece, Place, Seat, Spot
from fondale.core.model import shapes as sh
from fondale.core.shapes import kind_of
from fondale.core.stage.glass import see_through
from fondale.core.words import digits
from fondale.knowledge import table
from fondale.qt.furniture.fields import Choice, ColourField, Field, length_field, length_or_none, number, place_field, up_field, words
from fondale.qt.furniture.finder import Several
from fondale.qt.furniture.ticket import Row
from fondale.qt.session import Session
from fondale.qt.stations.stage.ground_lines import GroundLines
from fondale.qt.stations.stage.openings import CAPTION, CHOICE, WIDE, PieceOpenings

SHORT = {"thickness": "thick", "diameter": "across"}  # captions for sizes whose own words are too long


def parse_point(text: str) -> tuple[float, float, float]:
    """Three numbers in mm: ``150, 80, 20``. Raises LengthError."""
    clean = text.strip().removesuffix("mm").strip()
    parts = clean.split(",") if " " not in clean else [part for part in re.split(r"[;\s]+|,\s+", clean) if part]
    if len(parts) != 3:
        raise LengthError("Three numbers, please: from the left, from the front, and up.")
    x, y, z = (number(-100_000, 100_000, "mm")(part) for part in parts)
    return x, y, z


def parse_swing(text: str) -> float:
    """Degrees, or ``not`` for what does not turn. Raises LengthError."""
    return 0.0 if text.strip().lower() in ("", "not", "no", "0") else float(number(-360, 360, "°")(text))


class StageRows:
    """Builds rows; every field sets the spot that it shows."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.openings = PieceOpenings(session)
        self.lines = GroundLines(session)

    def _house(self) -> float:
        return self.session.project.brief.house_n

    def _length(self, caption: str, spot: Spot[float], label: str) -> Row:
        return length_field(caption, self.session.setter(spot, label), self._house, WIDE).caption_width(CAPTION), spot.find

    def _spot(self, caption: str, spot: Spot[float], label: str) -> Row:
        return place_field(caption, self.session.setter(spot, label), WIDE).caption_width(CAPTION), spot.find

    def _or_none(self, caption: str, spot: Spot[float], nothing: str, label: str) -> Row:
        return length_or_none(caption, self.session.setter(spot, label), nothing, WIDE).caption_width(CAPTION), spot.find

    def _name(self, spot: Spot[str]) -> Row:
        return Field("name", words(1, 120), str, self.session.setter(spot, "Rename")).caption_width(CAPTION), spot.find

    def _colour(self, caption: str, spot: Spot[Any], label: str) -> Row:
        return ColourField(caption, self.session.setter(spot, label), WIDE).caption_width(CAPTION), spot.find

    def _choice(self, caption: str, options: list[tuple[Any, str]], spot: Spot[Any], label: str) -> Row:
        return Choice(caption, options, self.session.setter(spot, label), CHOICE).caption_width(CAPTION), spot.find

    def _count(self, caption: str, spot: Spot[int], least: int, most: int, label: str) -> Row:
        put_in = self.session.setter(spot, label)
        field = Field(caption, number(least, most), lambda v: digits(v, 0), lambda v: put_in(round(v)), WIDE)
        return field.caption_width(CAPTION), spot.find

    def seat(self, seat: Seat) -> list[Row]:
        """Whose eyes, and where they are."""
        at, name = SEATS.at(seat.id), seat.name
        return [
            self._name(at.then(lambda s: s.name)),
            self._length("stature", at.then(lambda s: s.stature_mm), f"Stature at {name}"),
            self._choice("eyes", [(False, "standing"), (True, "sitting")], at.then(lambda s: s.sitting), f"Posture at {name}"),
            self._or_none("chair", at.then(lambda s: s.chair), "as usual", f"Chair at {name}"),
            self._or_none("eyes at", at.then(lambda s: s.eyes_mm), "reckoned", f"Height of the eyes at {name}"),
            self._length("distance", at.then(lambda s: s.distance), f"Distance of {name}"),
            self._spot("aside", at.then(lambda s: s.offset), f"Place of {name}"),
            self._spot("range", at.then(lambda s: s.range), f"Range of {name}"),
            self._or_none("rise", at.then(lambda s: s.rise), "", f"Rise of {name}"),
            self._or_none("lens", at.then(lambda s: s.lens_mm), "an eye", f"Lens at {name}"),
            *([self._length("sensor", at.then(lambda s: s.sensor_mm), f"Sensor at {name}")] if seat.lens_mm else []),
        ]

    def piece(self, piece: Piece) -> list[Row]:
        """Where it stands, its sizes, what its kind has besides, its paint and what it is part of."""
        at, name, rows = PIECES.at(piece.id), piece.name, []
        if piece.place is not None:
            place = at.then(lambda p: p.place).narrowed(Place)
            up = place.then(lambda p: p.z)
            turn = place.then(lambda p: p.turn_deg)
            rows += [
                (place_field("x", self._mover(piece.id, "x"), WIDE).caption_width(CAPTION), place.then(lambda p: p.x).find),
                (place_field("y", self._mover(piece.id, "y"), WIDE).caption_width(CAPTION), place.then(lambda p: p.y).find),
                (up_field("up", "stands", self._mover(piece.id, "z"), WIDE).caption_width(CAPTION), up.find),
                *self._room(piece, place),
                (Field("turn", number(-360, 360, "°"), lambda v: f"{digits(v, 1)}°", self._mover(piece.id, "turn_deg"), 84).caption_width(CAPTION), turn.find),
            ]  # fmt: skip
            tilt = place.then(lambda p: p.tilt_deg)
            rows.append(
                (
                    Field(
                        "tilt", number(-90, 90, "°"), lambda v: f"{digits(v or 0, 1)}°", self.session.setter(tilt, f"Tilt {name}"), 84
                    ).caption_width(CAPTION),
                    tilt.find,
                )
            )
        rows += [self._length(SHORT.get(size, size), spot, f"Size of {name}") for size, spot in sizes_of(piece).items()]
        rows += self._kind(piece)
        if piece.place is not None and not kind_of(piece.shape).living:
            rows += self._swing(piece)
        others = [("", "nothing"), *((p.id, p.name) for p in self.session.project.pieces if p.id != piece.id)]
        roles = [("piece", "a piece"), ("scenery", "scenery")]
        if not see_through(piece.shape):
            rows.append(self._colour("paint", at.then(lambda p: p.paint), f"Paint of {name}"))
        rows += [
            self._choice("part of", others, at.then(lambda p: p.part_of), f"What {name} is part of"),
            self._choice("held", [(False, "free"), (True, "fixed")], at.then(lambda p: p.fixed), f"Hold {name}"),
            self._choice("it is", roles, at.then(lambda p: p.role), f"Role of {name}"),
            self._name(at.then(lambda p: p.name)),
        ]
        return rows

    def _swing(self, piece: Piece) -> list[Row]:
        """How far it turns, as doors and cranes do, and about which end."""
        at, name = PIECES.at(piece.id), piece.name
        swing = at.then(lambda p: p.swing_deg)
        field = Field(
            "turns", parse_swing, lambda v: f"{digits(v, 0)}°" if v else "not", self.session.setter(swing, f"Swing of {name}"), 84
        )
        field.setToolTip("How far it turns as a door or a crane does, seen from above against the clock; below 0 with it")
        rows: list[Row] = [(field.caption_width(CAPTION), swing.find)]
        if piece.swing_deg:
            ends = [("left", "its left end"), ("middle", "its middle"), ("right", "its right end")]
            rows.append(self._choice("about", ends, at.then(lambda p: p.pivot), f"Pivot of {name}"))
        return rows

    def _mover(self, ident: str, name: str) -> Callable[[Any], object]:
        """What a field calls to move a piece, and all that goes with it."""

        def moved(value: Any) -> None:
            piece = self.session.project.find(PIECES, ident)
            if piece is not None and piece.place is not None:
                edit = self.session.make(move, ident, piece.place.but(**{name: value}))
                if edit is not None:
                    self.session.do(edit)

        return moved

    def _room(self, piece: Piece, place: Spot[Place]) -> list[Row]:
        """On the floor of which room it stands, where the case has several."""
        rooms = self.session.project.case.rooms
        if not rooms:
            return []
        options = [("", "the case"), *((r.id, r.name) for r in rooms)]
        return [self._choice("room", options, place.then(lambda p: p.room), f"Room of {piece.name}")]

    def _kind(self, piece: Piece) -> list[Row]:
        """What one kind of shape has and others have not."""
        shape, name = PIECES.at(piece.id).then(lambda p: p.shape), piece.name
        own: Spot[Any] = shape.narrowed(type(piece.shape))
        match piece.shape:
            case sh.Stairs():
                return [self._count("steps", own.then(attrgetter("steps")), 1, 60, f"Steps of {name}")]
            case sh.Wheel():
                return [self._count("spokes", own.then(attrgetter("spokes")), 0, 40, f"Spokes of {name}")]
            case sh.Cylinder():
                axes = [("z", "upright"), ("x", "lying across"), ("y", "lying in depth")]
                return [self._choice("stands", axes, own.then(attrgetter("axis")), f"How {name} stands")]
            case sh.Furniture():
                kinds: list[tuple[Any, str]] = [(what, str(row["words"])) for what, row in table("furniture").items()]
                return [self._choice("is a", kinds, own.then(attrgetter("what")), f"What {name} is")]
            case sh.Backdrop():
                return [self._or_none("cove", own.then(attrgetter("cove")), "flat", f"Cove of {name}")]
            case sh.Glass():
                made: list[tuple[Any, str]] = [(what, what) for part in (sh.Clear, sh.Mirror) for what in get_args(part)]
                return [self._choice("made of", made, own.then(attrgetter("made")), f"What {name} is made of")]
            case sh.Ground():
                return self.lines.rows()
            case sh.Wall() | sh.Room():
                return self.openings.rows()
            case sh.Figure():
                builds: list[tuple[Any, str]] = [("plain", "plain"), ("stocky", "stocky")]
                heads = [(False, "true heads"), (True, "heroic")]
                return [
                    (Several("wears", lambda: [(e, e) for e in get_args(sh.Extra)], lambda: self._extras(piece.id), partial(self._wear, piece.id)), lambda _p: None),
                    self._choice("build", builds, own.then(attrgetter("build")), f"Build of {name}"),
                    self._choice("heads", heads, own.then(attrgetter("heroic")), f"Heads of {name}"),
                ]  # fmt: skip
        return []

    def _extras(self, ident: str) -> tuple[str, ...]:
        piece = self.session.project.find(PIECES, ident)
        return piece.shape.extras if piece is not None and isinstance(piece.shape, sh.Figure) else ()

    def _wear(self, ident: str, extra: str) -> None:
        now = self._extras(ident)
        spot: Spot[Any] = PIECES.at(ident).then(lambda p: p.shape).narrowed(sh.Figure).then(attrgetter("extras"))
        self.session.do(put(spot, tuple(e for e in now if e != extra) if extra in now else (*now, extra), "What it wears"))
