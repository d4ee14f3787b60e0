"""What the ticket of Stage shows of a seat, of the case, and of a piece."""

from collections.abc import Callable
from functools import partial
from operator import attrgetter
from typing import Any, get_args

from fondale.core.edits import Put, put
from fondale.core.edits.measuring import sizes_of
from fondale.core.lengths import LengthError, parse_length
from fondale.core.model import PIECES, PROJECT, SEATS, Piece, Place, Seat, Spot
from fondale.core.model import shapes as sh
from fondale.core.model.stage import CaseKind
from fondale.core.words import digits
from fondale.qt.furniture.fields import Choice, ColourField, Field, length_field, length_or_none, number, place_field, words
from fondale.qt.furniture.finder import Several
from fondale.qt.furniture.ticket import Row
from fondale.qt.session import Session

CAPTION, WIDE, CHOICE = 50, 76, 100
STANDS = "stands"
Walled = sh.Wall | sh.Room  # what has openings
WALLED = (sh.Wall, sh.Room)
SHORT = {"thickness": "thick", "diameter": "across"}  # captions for sizes whose own words are too long


def parse_up(text: str) -> float | None:
    """A height over the floor, or ``stands`` for what stands on whatever is beneath it. Raises LengthError."""
    if text.strip().lower() in ("", STANDS, "stands on what is beneath"):
        return None
    try:
        return number(-100_000, 100_000, "mm")(text)  # type: ignore[no-any-return]
    except LengthError:
        raise LengthError("Write the height over the floor in mm, or “stands”.") from None


class StageRows:
    """Builds rows; every field sets the spot that it shows."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.opening = 0

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
            self._length("distance", at.then(lambda s: s.distance), f"Distance of {name}"),
            self._spot("aside", at.then(lambda s: s.offset), f"Place of {name}"),
            self._spot("range", at.then(lambda s: s.range), f"Range of {name}"),
            self._or_none("rise", at.then(lambda s: s.rise), "", f"Rise of {name}"),
        ]

    def case(self) -> list[Row]:
        """Kind, inside sizes, lips and the paint of every side."""
        case = PROJECT.then(lambda p: p.case)
        kinds: list[tuple[CaseKind, str]] = [(k, k) for k in get_args(CaseKind)]
        return [
            self._choice("kind", list(kinds), case.then(lambda c: c.kind), "Kind of case"),
            self._length("width", case.then(lambda c: c.width), "Inside width of the case"),
            self._length("depth", case.then(lambda c: c.depth), "Inside depth of the case"),
            self._length("height", case.then(lambda c: c.height), "Inside height of the case"),
            self._spot("top lip", case.then(lambda c: c.lip_top), "Lip at the top"),
            self._spot("side lips", case.then(lambda c: c.lip_sides), "Lips at the sides"),
            self._colour("floor", case.then(lambda c: c.floor_paint), "Paint of the floor"),
            self._colour("back", case.then(lambda c: c.wall_paint), "Paint of the back"),
            self._side("left", case.then(lambda c: c.left_paint), case.then(lambda c: c.wall_paint)),
            self._side("right", case.then(lambda c: c.right_paint), case.then(lambda c: c.wall_paint)),
            self._colour("ceiling", case.then(lambda c: c.ceiling_paint), "Paint of the ceiling"),
        ]

    def _side(self, caption: str, spot: Spot[Any], back: Spot[Any]) -> Row:
        """A side wall: its own colour, or that of the back."""
        field = ColourField(caption, self.session.setter(spot, f"Paint of the {caption} wall"), WIDE).caption_width(CAPTION)
        return field, lambda p: spot.find(p) or back.find(p)

    def piece(self, piece: Piece) -> list[Row]:
        """Where it stands, its sizes, what its kind has besides, its paint and what it is part of."""
        at, name, rows = PIECES.at(piece.id), piece.name, []
        if piece.place is not None:
            place = at.then(lambda p: p.place).narrowed(Place)
            up = place.then(lambda p: p.z)
            show_up = lambda v: STANDS if v is None else f"{digits(v, 1)} mm"  # noqa: E731
            turn = place.then(lambda p: p.turn_deg)
            rows += [
                self._spot("x", place.then(lambda p: p.x), f"Move {name}"),
                self._spot("y", place.then(lambda p: p.y), f"Move {name}"),
                (Field("up", parse_up, show_up, self.session.setter(up, f"Height of {name}"), WIDE).caption_width(CAPTION), up.find),
                (Field("turn", number(-360, 360, "°"), lambda v: f"{digits(v, 1)}°", self.session.setter(turn, f"Turn {name}"), 84).caption_width(CAPTION), turn.find),
            ]  # fmt: skip
        rows += [self._length(SHORT.get(size, size), spot, f"Size of {name}") for size, spot in sizes_of(piece).items()]
        rows += self._kind(piece)
        others = [("", "nothing"), *((p.id, p.name) for p in self.session.project.pieces if p.id != piece.id)]
        roles = [("piece", "a piece"), ("scenery", "scenery")]
        rows += [
            self._colour("paint", at.then(lambda p: p.paint), f"Paint of {name}"),
            self._choice("part of", others, at.then(lambda p: p.part_of), f"What {name} is part of"),
            self._choice("it is", roles, at.then(lambda p: p.role), f"Role of {name}"),
            self._name(at.then(lambda p: p.name)),
        ]
        return rows

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
            case sh.Wall() | sh.Room():
                return self._openings(piece, own.then(attrgetter("openings")))
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

    # Openings of a wall or a room.

    def _openings(self, piece: Piece, spot: Spot[tuple[sh.Opening, ...]]) -> list[Row]:
        now = spot.find(self.session.project) or ()
        if not now:
            return []
        self.opening = min(self.opening, len(now) - 1)
        which = Choice("opening", [(i, f"{i + 1} of {len(now)}") for i in range(len(now))], self._choose_opening, CHOICE).caption_width(
            CAPTION
        )
        rows: list[Row] = [(which, lambda _p: self.opening)]
        fields: tuple[tuple[str, str, Any], ...] = (
            ("from left", "x", number(-100_000, 100_000, "mm")), ("sill", "z", number(0, 100_000, "mm")),
            ("wide", "width", lambda t: parse_length(t, self._house())), ("high", "height", lambda t: parse_length(t, self._house())),
        )  # fmt: skip
        for caption, name, parse in fields:
            field = Field(
                caption, parse, lambda v: f"{digits(v, 1)} mm" if v is not None else "", partial(self._put_opening, piece.id, name), WIDE
            )
            rows.append((field.caption_width(CAPTION), self._reader(spot, name)))
        arch = Choice(
            "ends in", [(False, "a lintel"), (True, "an arch")], partial(self._put_opening, piece.id, "arch"), CHOICE
        ).caption_width(CAPTION)
        rows.append((arch, self._reader(spot, "arch")))
        return rows

    def _reader(self, spot: Spot[tuple[sh.Opening, ...]], name: str) -> Callable[[Any], Any]:
        def read(project: Any) -> Any:
            now = spot.find(project) or ()
            return getattr(now[self.opening], name) if self.opening < len(now) else None

        return read

    def _choose_opening(self, index: int) -> None:
        self.opening = index
        self.session.selection_changed.emit()

    def _put_opening(self, ident: str, name: str, value: Any) -> None:
        piece = self.session.project.find(PIECES, ident)
        if piece is not None and isinstance(piece.shape, WALLED) and self.opening < len(piece.shape.openings):
            new = tuple(o.but(**{name: value}) if i == self.opening else o for i, o in enumerate(piece.shape.openings))
            self.session.do(openings_put(piece, new, "Opening"))

    def change_openings(self, piece: Piece, how: str) -> None:
        """Add an opening, copy the chosen one beside itself, or take it out."""
        if not isinstance(piece.shape, WALLED):
            return
        now, wide = piece.shape.openings, face_width(piece.shape)
        if how == "add" or not now:
            size = min(wide, piece.shape.height) / 3
            new = (*now, sh.Opening(x=round((wide - size) / 2, 1), z=0.0, width=round(size, 1), height=round(size * 1.5, 1)))
            self.opening = len(now)
        elif how == "copy":
            one = now[min(self.opening, len(now) - 1)]
            new = (*now, one.but(x=round(min(one.x + one.width * 1.5, wide - one.width), 1)))
            self.opening = len(now)
        else:
            new = tuple(o for i, o in enumerate(now) if i != self.opening)
            self.opening = max(0, self.opening - 1)
        self.session.do(openings_put(piece, new, {"add": "Add an opening", "copy": "Copy an opening"}.get(how, "Close an opening")))


def face_width(shape: Walled) -> float:
    """Width of the face that has the openings, in mm."""
    return shape.length if isinstance(shape, sh.Wall) else shape.width


def openings_put(piece: Piece, new: tuple[sh.Opening, ...], label: str, gesture: str = "") -> Put[Any]:
    """The edit that gives a wall or a room these openings."""
    spot: Spot[Any] = PIECES.at(piece.id).then(lambda p: p.shape).narrowed(type(piece.shape)).then(attrgetter("openings"))
    return put(spot, new, f"{label} of {piece.name}", gesture)
