# SPDX-License-Identifier: MIT
"""Openings that can be edited: those of a wall or a room, and those of the sides of the case."""

from abc import abstractmethod
from functools import partial
from operator import attrgetter
from typing import Any, get_args

from fondale.core.edits import put
from fondale.core.lengths import parse_length
from fondale.core.model import PIECES, PROJECT, ROOMS, CaseOpening, Piece, Spot
from fondale.core.model import shapes as sh
from fondale.core.model.stage import Side
from fondale.core.stage.cases import Cell, cell_of, frame_of
from fondale.core.words import digits
from fondale.qt.furniture.fields import Choice, Field, number
from fondale.qt.furniture.one_of import OneOf
from fondale.qt.furniture.ticket import Row
from fondale.qt.session import Session

CAPTION, WIDE, CHOICE = 50, 76, 100
FORMS: dict[sh.Form, str] = {"lintel": "straight", "arch": "arch", "round": "round", "broken": "broken"}
USES: dict[str, str] = {"look in": "look in by", "hatch": "a hatch", "door": "a door"}
DEEDS = {"add": "Add an opening", "copy": "Copy this one", "close": "Take this one out"}
LABELS = {"add": "Add an opening", "copy": "Copy an opening", "close": "Close an opening"}
LABEL = "Opening"
Walled = sh.Wall | sh.Room  # pieces that have openings
WALLED = (sh.Wall, sh.Room)


class Openings(OneOf[Any]):
    """The openings of one face."""

    @property
    def sill(self) -> str:
        """What the distance from the lower edge of the face is called."""
        return "sill"

    @abstractmethod
    def face(self) -> tuple[float, float] | None:
        """Breadth and height of the face in mm; None where nothing that has openings is chosen."""

    @abstractmethod
    def fresh(self, x: float, width: float, height: float) -> sh.Opening:
        """A new opening that stands on the ground."""

    def change(self, how: str) -> None:
        """Add an opening, copy the chosen one beside itself, or take it out."""
        now, face = self.now(), self.face()
        if face is None:
            return
        wide, high = face
        if how == "add" or not now:
            size = min(wide, high) / 3
            new: tuple[sh.Opening, ...] = (*now, self.fresh(round((wide - size) / 2, 1), round(size, 1), round(size * 1.5, 1)))
            self.at = len(now)
        elif how == "copy":
            one = now[min(self.at, len(now) - 1)]
            new = (*now, one.but(x=round(min(one.x + one.width * 1.5, wide - one.width), 1)))
            self.at = len(now)
        else:
            self.drop(LABELS[how])
            return
        self.put(new, LABELS[how])

    def rows(self) -> list[Row]:
        """Which opening, where it is, how large, and its form."""
        now = self.now()
        if not now:
            return []
        rows = [self.which("opening", [f"{i + 1} of {len(now)}" for i in range(len(now))], CHOICE, CAPTION)]
        length = lambda t: parse_length(t, self.session.project.brief.house_n)  # noqa: E731
        fields: tuple[tuple[str, str, Any], ...] = (
            ("from left", "x", number(-100_000, 100_000, "mm")), (self.sill, "z", number(0, 100_000, "mm")), ("wide", "width", length), ("high", "height", length),
        )  # fmt: skip
        show = lambda v: f"{digits(v, 1)} mm" if v is not None else ""  # noqa: E731
        for caption, name, parse in fields:
            rows.append((Field(caption, parse, show, partial(self.set, LABEL, name), WIDE).caption_width(CAPTION), self.reader(name)))
        rows.append(self._choice("form", FORMS, "form"))
        return rows

    def _choice(self, caption: str, options: dict[Any, str], name: str) -> Row:
        return Choice(caption, list(options.items()), partial(self.set, LABEL, name), CHOICE).caption_width(CAPTION), self.reader(name)


class PieceOpenings(Openings):
    """Those of the chosen wall or room."""

    @property
    def piece(self) -> Piece | None:
        """The chosen piece, where it has openings or may have some."""
        piece = self.session.project.find(PIECES, self.session.chosen(PIECES))
        return piece if piece is not None and isinstance(piece.shape, WALLED) else None

    @property
    def _shape(self) -> Walled | None:
        piece = self.piece
        return piece.shape if piece is not None and isinstance(piece.shape, WALLED) else None

    def face(self) -> tuple[float, float] | None:
        shape = self._shape
        return None if shape is None else (shape.length if isinstance(shape, sh.Wall) else shape.width, shape.height)

    def now(self) -> tuple[sh.Opening, ...]:
        shape = self._shape
        return shape.openings if shape is not None else ()

    def put(self, new: tuple[Any, ...], label: str, gesture: str = "") -> None:
        piece = self.piece
        if piece is not None:
            spot: Spot[Any] = PIECES.at(piece.id).then(lambda p: p.shape).narrowed(type(piece.shape)).then(attrgetter("openings"))
            self.session.do(put(spot, new, f"{label} of {piece.name}", f"{gesture} {piece.id}" if gesture else ""))

    def fresh(self, x: float, width: float, height: float) -> sh.Opening:
        return sh.Opening(x=x, width=width, height=height)


class CaseOpenings(Openings):
    """Those of one side of the case, or of one of its rooms."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.room = ""
        self.side: Side = "front"

    @property
    def sill(self) -> str:
        return "from front" if self.side == "top" else "sill"

    @property
    def cell(self) -> Cell:
        """The room whose side it is."""
        return cell_of(self.session.project.case, self.room)

    @property
    def hollow(self) -> Spot[Any]:
        """Where its sizes and openings are told."""
        own: Spot[Any] = PROJECT.then(lambda p: p.case)
        return ROOMS.at(self.room) if self.session.project.find(ROOMS, self.room) is not None else own

    def face(self) -> tuple[float, float] | None:
        frame = frame_of(self.cell, self.side)
        return frame.length, frame.height

    def now(self) -> tuple[CaseOpening, ...]:
        return tuple(o for o in self.cell.hollow.openings if o.side == self.side)

    def put(self, new: tuple[Any, ...], label: str, gesture: str = "") -> None:
        others = tuple(o for o in self.cell.hollow.openings if o.side != self.side)
        spot: Spot[Any] = self.hollow.then(attrgetter("openings"))
        self.session.do(put(spot, (*others, *new), f"{label} in the {self.side}", f"{gesture} {self.room}{self.side}" if gesture else ""))

    def change(self, how: str) -> None:
        is_ = self.cell.sides[self.side]
        if is_ != "board" and how != "close":
            self.session.said.emit(f"The {self.side} is {'a pane' if is_ == 'pane' else 'open'}: openings are cut into boards.")
            return
        super().change(how)

    def fresh(self, x: float, width: float, height: float) -> CaseOpening:
        return CaseOpening(x=x, width=width, height=height, side=self.side)

    def rows(self) -> list[Row]:
        rows = super().rows()
        if rows:
            rows.append(self._choice("for", USES, "use"))
            rows.append((Choice("side", [(s, s) for s in get_args(Side)], self._move, CHOICE).caption_width(CAPTION), self.reader("side")))
        return rows

    def _move(self, side: Side) -> None:
        """The chosen opening goes into another side, which is shown from now on."""
        now = self.now()
        if self.at >= len(now) or side == self.side:
            return
        moved = now[self.at].but(side=side)
        rest = tuple(o for o in self.cell.hollow.openings if o is not now[self.at])
        spot: Spot[Any] = self.hollow.then(attrgetter("openings"))
        self.side = side
        self.at = sum(o.side == side for o in rest)
        self.session.do(put(spot, (*rest, moved), f"Opening to the {side}"))
