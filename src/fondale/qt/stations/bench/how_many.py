# SPDX-License-Identifier: MIT
"""How many go in: the maker's own figures, anybody, or bases, into an own piece, the case or any inside, and by which hatch they come out."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QSize
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fondale.app.errands import COUNT
from fondale.app.workers import Report
from fondale.core.bodies.poses import poses
from fondale.core.fits.capacity import FACINGS, GAP_MM, Capacity, Entrant, Facing, a_base, a_person, a_piece, circle, inside_of, rectangle
from fondale.core.fits.hatches import parse_hatches
from fondale.core.model import PIECES
from fondale.core.model.shapes import Animal, Figure, Mesh
from fondale.core.shapes import boats
from fondale.core.stage.cases import cells
from fondale.core.words import show_scale
from fondale.knowledge import table
from fondale.qt.furniture.fields import Choice, Field, length_field, length_or_none
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import headed
from fondale.qt.session import Session

CAPTION = 52
BOX, ROUND_ONE, BOAT = "a box", "a round one", "a boat"  # no id of a piece looks like these
INSIDES = {BOX: "with straight walls", ROUND_ONE: "round", BOAT: "of a boat"}
PERSON, ROUND, SQUARE, CASE = "a person", "round base", "square base", "the case"


@dataclass(frozen=True)
class Question:
    """What was asked: the inside and its sizes in mm, who goes in, and how they sit."""

    inside: str = BOX
    long: float = 110.0
    wide: float = 36.0
    high: float = 0.0
    who: str = PERSON
    person: str = "man"
    pose: str = "standing"
    base: float = 25.0
    apart: float = GAP_MM
    faces: Facing = ""
    every: float = 0.0
    hatches: str = ""


class InsideDrawing(QWidget):
    """The plan of an inside with those that go in; a stroke shows which way each faces."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.inside = rectangle(60, 40)
        self.found: Capacity | None = None
        self.faces = True
        self.setAccessibleName("Plan of the inside")

    def minimumSizeHint(self) -> QSize:
        return QSize(0, self._session.theme.px(60))

    def sizeHint(self) -> QSize:
        return QSize(280, 110)

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        size = self.inside.max(0) - self.inside.min(0)
        scale = min((self.width() - 12) / size[0], (self.height() - 12) / size[1])
        left, bottom = 6.0, 6 + size[1] * scale

        def at(x: float, y: float) -> QPointF:
            return QPointF(left + x * scale, bottom - y * scale)

        p.setPen(QPen(theme.color("ink"), 1.2))
        p.setBrush(theme.color("card"))
        p.drawPolygon(QPolygonF([at(float(x), float(y)) for x, y in self.inside]))
        if self.found is None:
            return
        p.setBrush(theme.color("verdigris", 0.25))
        p.setPen(QPen(theme.color("verdigris"), 1.2))
        for ring, (x, y, turn) in zip(self.found.outlines, self.found.places, strict=True):
            p.drawPolygon(QPolygonF([at(float(a), float(b)) for a, b in ring]))
            if self.faces:
                way = np.array([np.sin(np.radians(turn)), -np.cos(np.radians(turn))]) * np.ptp(ring, axis=0).min() * 0.4
                p.drawLine(at(x, y), at(x + way[0], y + way[1]))


class HowMany(QWidget):
    """The question, its plan and its answer."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.asked = Question()
        self._counted: object = None
        house = lambda: session.project.brief.house_n  # noqa: E731
        people = [(k, v["name"]) for k, v in table("body")["people"].items()]
        self.inside = Choice("inside", [], self._ask("inside"))
        self.long = length_field("long", self._ask("long"), house, 88)
        self.wide = length_field("wide", self._ask("wide"), house, 88)
        self.who = Choice("who", [], self._ask("who"))
        self.person = Choice("people", people, self._ask("person"), 88)
        self.pose = Choice("pose", list(poses().items()), self._ask("pose"))
        self.base = length_field("across", self._ask("base"), house, 88)
        self.roof = length_or_none("roof at", self._ask("high"), "open above", 88)
        self.apart = length_or_none("apart", self._ask("apart"), "", 88)
        self.faces = Choice("faces", list(FACINGS.items()), self._ask("faces"))
        self.every = length_or_none("benches", self._ask("every"), "every", 88)
        self.hatches = Field("hatches", self._hatches, str, self._ask("hatches"))
        self.hatches.edit.setPlaceholderText("30 x 40, 25 round")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        held = headed("How many go in", 4)
        column.addLayout(held)
        for pair in ((self.inside,), (self.long, self.wide), (self.who,), (self.pose,), (self.person, self.base, self.roof), (self.faces,), (self.apart, self.every), (self.hatches,)):  # fmt: skip
            line = QHBoxLayout()
            line.setSpacing(8)
            for field in pair:
                line.addWidget(field.caption_width(CAPTION), 1)
            held.addLayout(line)
        self.plan = InsideDrawing(session)
        held.addWidget(self.plan, 1)
        self.words = Prose()
        held.addWidget(self.words)

    def _ask(self, name: str) -> Callable[[Any], None]:
        def ask(value: Any) -> None:
            news: dict[str, Any] = {name: value}
            self.asked = replace(self.asked, **news)
            self.refresh()

        return ask

    def _hatches(self, text: str) -> str:
        parse_hatches(text, self.session.project.brief.house_n)
        return text.strip()

    def _who(self) -> tuple[Callable[..., Entrant], tuple[Any, ...]]:
        """What makes the body that goes in, and of what."""
        asked, project = self.asked, self.session.project
        own = project.find(PIECES, asked.who)
        if own is not None:
            return a_piece, (own,)
        if asked.who in (ROUND, SQUARE):
            return a_base, (asked.base, asked.who == SQUARE, 0.1)
        return a_person, (asked.person, asked.pose, project.brief.house_n)

    def _room(self) -> tuple[Any, float | None]:
        """The plan of the inside, and its roof."""
        asked, project = self.asked, self.session.project
        own = project.find(PIECES, asked.inside)
        found = inside_of(own) if own is not None else None
        if found is not None:
            return found[0], asked.high or found[1]
        if asked.inside == CASE:
            case = project.case
            return rectangle(case.width, case.depth), asked.high or (case.height if cells(case)[0].sides["top"] != "open" else None)
        if asked.inside == ROUND_ONE:
            return circle(asked.long), asked.high or None
        return (boats.plan if asked.inside == BOAT else rectangle)(asked.long, asked.wide), asked.high or None

    def refresh(self) -> None:
        """Follow the project and what is asked."""
        project, asked = self.session.project, self.asked
        hollow = [p for p in project.pieces if inside_of(p) is not None]
        going = [p for p in project.pieces if isinstance(p.shape, Figure | Animal) or (isinstance(p.shape, Mesh) and p.role == "piece")]
        self.inside.set_options([*INSIDES.items(), (CASE, "of the case"), *((p.id, f"of {p.name}") for p in hollow)])
        self.who.set_options([(w, w) for w in (PERSON, ROUND, SQUARE)] + [(p.id, p.name) for p in going])
        if asked.inside not in (*INSIDES, CASE, *(p.id for p in hollow)):
            self.asked = asked = replace(asked, inside=BOX)
        if asked.who not in (PERSON, ROUND, SQUARE, *(p.id for p in going)):
            self.asked = asked = replace(asked, who=PERSON)
        for name in ("inside", "long", "wide", "who", "person", "pose", "base", "apart", "faces", "hatches"):
            getattr(self, name).set_value(getattr(asked, name))
        self.roof.set_value(asked.high or None)
        self.every.set_value(asked.every or None)
        self.long.setVisible(asked.inside in INSIDES)
        self.long.caption = "across" if asked.inside == ROUND_ONE else "long"
        self.wide.setVisible(asked.inside in INSIDES and asked.inside != ROUND_ONE)
        for field in (self.person, self.pose):
            field.setVisible(asked.who == PERSON)
        self.base.setVisible(asked.who in (ROUND, SQUARE))
        self.faces.setVisible(asked.who != ROUND)
        self._count()

    def _count(self) -> None:
        asked, (make, of), (inside, high) = self.asked, self._who(), self._room()
        hatches = parse_hatches(asked.hatches, self.session.project.brief.house_n)
        state = (asked, inside.tobytes(), high, make, of, hatches)
        if state == self._counted or self.session.results.errands.doing(COUNT):
            return
        self.words.setText("Counting…")
        self.plan.inside, self.plan.found, self.plan.faces = inside, None, asked.who not in (ROUND, SQUARE)
        self.plan.update()

        def counted(report: Report) -> None:
            self._counted = state
            if report.good and report.found is None:
                self.words.setText("There is nothing to count: choose somebody else.")
            elif report.good:
                found, out = report.found
                self.plan.found = found
                mean = f" Mean stature at {show_scale(self.session.project.brief.house_n)}." if asked.who == PERSON else ""
                self.words.setText(" ".join(x for x in (found.words[0].upper() + found.words[1:] + mean, out) if x))
                self.plan.update()
            self._count()  # something may have been asked meanwhile

        self.session.results.errands.ask(COUNT, (inside, high, partial(make, *of), asked.apart, asked.faces, asked.every, hatches), counted)
