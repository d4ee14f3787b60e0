# SPDX-License-Identifier: MIT
"""The lines of a ground that can be edited: which is chosen, what is drawn next, and its few values."""

from functools import partial
from operator import attrgetter
from typing import Any

import numpy as np
import shapely

from fondale.core.arrays import Floats
from fondale.core.edits import put
from fondale.core.lengths import parse_length
from fondale.core.model import PIECES, Piece, Spot
from fondale.core.model import shapes as sh
from fondale.core.words import digits
from fondale.qt.furniture.fields import Choice, Field, number
from fondale.qt.furniture.one_of import OneOf
from fondale.qt.furniture.ticket import Row
from fondale.qt.session import Session
from fondale.qt.stations.stage.openings import CAPTION, CHOICE, WIDE

WORDS: dict[sh.LineKind, str] = {"contour": "a contour", "stroke": "a stroke"}
RIMS: dict[str, str] = {"held": "held level", "free": "free"}
DEEDS = {
    "contour": "Draw contours", "stroke": "Draw strokes", "hill": "Add a round contour", "copy": "Copy this line inwards", "out": "Take this line out",
}  # fmt: skip
FINE_MM = 0.4  # how far a drawn line may be from the hand that drew it
LABEL = "A line"
MOST_POINTS, ROUND, INWARDS, HIGHER_MM = 400, 16, 0.7, 8.0


class GroundLines(OneOf[sh.GroundLine]):
    """Those of the chosen ground; ``pen`` is what the next one will be."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.pen = sh.GroundLine(points=((0.0, 0.0),))

    @property
    def piece(self) -> Piece | None:
        """The chosen ground."""
        piece = self.session.project.find(PIECES, self.session.chosen(PIECES))
        return piece if piece is not None and isinstance(piece.shape, sh.Ground) else None

    @property
    def shape(self) -> sh.Ground | None:
        """Its shape."""
        piece = self.piece
        return piece.shape if piece is not None and isinstance(piece.shape, sh.Ground) else None

    def now(self) -> tuple[sh.GroundLine, ...]:
        shape = self.shape
        return shape.lines if shape is not None else ()

    def put(self, new: tuple[Any, ...], label: str, gesture: str = "") -> None:
        piece = self.piece
        if piece is not None:
            spot: Spot[Any] = PIECES.at(piece.id).then(lambda p: p.shape).narrowed(sh.Ground).then(attrgetter("lines"))
            self.session.do(put(spot, new, f"{label} of {piece.name}", f"{gesture} {piece.id}" if gesture else ""))

    def draw(self, points: Floats, closed: bool) -> None:
        """A new line through points (k, 2), in mm from the middle, as the pen has it."""
        shape = self.shape
        if shape is None:
            return
        if len(points) > 2:
            line, fine = shapely.linestrings(points), FINE_MM
            points = shapely.get_coordinates(shapely.simplify(line, fine))
            while len(points) > MOST_POINTS:
                fine *= 2
                points = shapely.get_coordinates(shapely.simplify(line, fine))
        shares = np.clip(points / (shape.width, shape.depth), -10.0, 10.0).round(5).tolist()
        self._add(self.pen.but(points=shares, closed=closed and len(points) > 2), LABEL)

    def _add(self, line: sh.GroundLine, label: str) -> None:
        self.at = len(self.now())
        self.put((*self.now(), line), label)

    def move(self, index: int, start: sh.GroundLine, way: tuple[float, float], gesture: str) -> None:
        """Shift a line by mm from where it lay."""
        shape = self.shape
        if shape is not None:
            points = np.clip(np.array(start.points) + np.array(way) / (shape.width, shape.depth), -10.0, 10.0)
            self.replace(index, start.but(points=points.round(5).tolist()), LABEL, gesture)

    def change(self, how: str) -> None:
        """Take up another pen, add a round contour, copy the chosen line inwards and higher, or take it out."""
        now, shape = self.now(), self.shape
        if shape is None:
            return
        if how in WORDS:
            self.pen = self.pen.but(kind=how)
            self.session.said.emit(f"Draw in the plan of the ground with the mouse: what comes next is {WORDS[self.pen.kind]}.")
        elif how == "hill":
            turn = np.linspace(0, 2 * np.pi, ROUND, endpoint=False)
            wide = min(shape.width, shape.depth) / 4
            self.pen = self.pen.but(kind="contour")
            self.draw(wide * np.column_stack([np.cos(turn), np.sin(turn)]), True)
        elif how == "copy" and self.at < len(now):
            points = np.array(now[self.at].points)
            inner = (points.mean(0) + (points - points.mean(0)) * INWARDS).round(5).tolist()
            self._add(now[self.at].but(points=inner, height=now[self.at].height + HIGHER_MM), "Copy a line")
        elif how == "out":
            self.drop("Take out a line")

    def rows(self) -> list[Row]:
        """What its rim does; which line, and what it is."""
        piece, now = self.piece, self.now()
        if piece is None:
            return []
        rim: Spot[Any] = PIECES.at(piece.id).then(lambda p: p.shape).narrowed(sh.Ground).then(attrgetter("rim"))
        rows: list[Row] = [
            (Choice("rim", list(RIMS.items()), self.session.setter(rim, f"Rim of {piece.name}"), CHOICE).caption_width(CAPTION), rim.find)
        ]
        if not now:
            return rows
        rows.append(self.which("line", [f"{i + 1} of {len(now)}" for i in range(len(now))], CHOICE, CAPTION))
        rows.append(
            (Choice("it is", list(WORDS.items()), partial(self.set, LABEL, "kind"), CHOICE).caption_width(CAPTION), self.reader("kind"))
        )
        length = lambda t: parse_length(t, self.session.project.brief.house_n)  # noqa: E731
        show = lambda v: f"{digits(v, 1)} mm" if v is not None else ""  # noqa: E731
        at = "at" if now[self.at].kind == "contour" else "by"
        rows.append(
            (
                Field(at, number(-100_000, 100_000, "mm"), show, partial(self.set, LABEL, "height"), WIDE).caption_width(CAPTION),
                self.reader("height"),
            )
        )
        if now[self.at].kind == "stroke":
            rows.append(
                (Field("reach", length, show, partial(self.set, LABEL, "reach"), WIDE).caption_width(CAPTION), self.reader("reach"))
            )
        ends = [(False, "open"), (True, "closed")]
        rows.append((Choice("ends", ends, partial(self.set, LABEL, "closed"), CHOICE).caption_width(CAPTION), self.reader("closed")))
        return rows

    @property
    def key(self) -> tuple[object, ...]:
        """What the rows depend on."""
        now = self.now()
        return len(now), self.at, now[self.at].kind if self.at < len(now) else ""

    def choose(self, index: int) -> None:
        self.pen = self.now()[index]  # the next one drawn is like it
        super().choose(index)

    def set(self, label: str, name: str, value: Any) -> None:
        super().set(label, name, value)
        self.pen = self.pen.but(**{name: value})
