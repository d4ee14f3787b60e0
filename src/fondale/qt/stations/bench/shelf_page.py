# SPDX-License-Identifier: MIT
"""The shelf: everything at hand at its true relative size, what each thing is, and what to do about it."""

import math
from collections.abc import Callable
from functools import partial
from typing import Any, TypeVar, get_args

from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QSizePolicy, QVBoxLayout

from fondale.app.actions import keyed
from fondale.core.bodies.poses import lies, poses
from fondale.core.derived import READINGS
from fondale.core.edits import Remove, put
from fondale.core.edits.measuring import TakeSize, set_house
from fondale.core.edits.new_things import add_piece
from fondale.core.edits.places import free_place
from fondale.core.model import PIECES, Measure, Piece
from fondale.core.model import shapes as sh
from fondale.core.model.bench import Origin, Stands
from fondale.core.model.shapes import Build
from fondale.core.prompts.scale import back_to_the_box, rescale_fix
from fondale.core.scale.pieces import claim_contradicted
from fondale.core.scale.placing import advise
from fondale.core.scale.reading import Reading, factor_told, native_told, passes, reads_told
from fondale.core.shapes import KINDS, ShapeKind, kind_of
from fondale.core.stage.solids import measured_height
from fondale.core.words import digits, show_scale
from fondale.knowledge import table
from fondale.qt.furniture.columns import Columns
from fondale.qt.furniture.fields import Choice, Field, length_field, number, words
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Line, Prose, Short
from fondale.qt.furniture.rows import Entries, action, clear, headed, hold, line_of, menu_button
from fondale.qt.session import Session
from fondale.qt.stations.bench.details import Details
from fondale.qt.stations.bench.real_size import RealSize
from fondale.qt.stations.bench.ruler import ScaleRuler
from fondale.qt.stations.bench.shelf import Shelf
from fondale.qt.stations.bench.toy_lines import ToyLines
from fondale.qt.stations.bench.true_size import calibrate, px_per_mm

CAPTION = 70
T = TypeVar("T")
STANDS: dict[Stands, str] = {"beside": "beside its like", "alone": "alone", "behind": "behind its like", "front": "in front of them"}
BUILDS: tuple[tuple[tuple[Build, bool], str], ...] = (
    (("plain", False), "plain"),
    (("stocky", False), "stocky"),
    (("plain", True), "heroic"),
    (("stocky", True), "stocky, heroic"),
)


class ShelfPage(Page):
    """The shelf above; below it the ticket of the chosen piece, what it is, and what to do."""

    title = "The shelf"
    shows = (PIECES,)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        row = QHBoxLayout()
        offers = [(k.words, lambda k=k: self._add(k)) for k in KINDS if k.words and (not k.scenery or k.main)]
        row.addWidget(menu_button("Add…", offers))
        self.compare = menu_button("Compare with…", self._others)
        self.compare.setToolTip("Or drag one silhouette onto another")
        row.addWidget(self.compare)
        self.apart = action("Back to all", lambda: self._pair(""))
        row.addWidget(self.apart)
        self._pair_note = Short("soft")
        row.addWidget(self._pair_note, 1)
        self.true = QPushButton("true size")
        self.true.setProperty("role", "pick")
        self.true.setCheckable(True)
        self.true.setToolTip("Real millimetres on this screen")
        self.true.clicked.connect(self._true_size)
        row.addWidget(self.true)
        row.addWidget(action("Hold a card against it…", self._calibrate, "Calibrates this screen with a bank card"))
        column.addLayout(row)
        self.together = ToyLines(session)
        column.addWidget(self.together)
        self.shelf = Shelf(session)
        self.shelf.chosen.connect(lambda ident: session.select(PIECES, ident))
        self.shelf.paired.connect(self._pair)
        self._frame = QScrollArea()
        self._frame.setWidgetResizable(True)
        hold(self._frame, self.shelf)
        column.addWidget(self._frame, 1)
        column.addWidget(Columns(14, (self._ticket(), 12), (self._what_it_is(), 9), (self._what_to_do(), 9)))

    def _ticket(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(4)
        self._title, self._origin_note = Short("head"), Short("soft")
        column.addLayout(line_of(self._title, self._origin_note))
        self._nothing = Line("soft", "Choose something on the shelf, or add it.")
        column.addWidget(self._nothing)
        self._make_fields()
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(4)
        pair = QHBoxLayout()
        pair.addWidget(self.error_field)
        pair.addWidget(self.shown_field)  # in the place of the other, until it is measured
        pair.addWidget(self.caliper_button)
        grid.addWidget(self.height_field, 0, 0)
        grid.addLayout(pair, 0, 1)
        grid.addWidget(self.details, 1, 0, 1, 2)
        # Of what shares a cell one is shown; a grid would lose its spacing to the hidden ones.
        for at, shared in enumerate(((self.person, self.species, self.thing), (self.pose, self.rests))):
            cell = QHBoxLayout()
            for choice in shared:
                cell.addWidget(choice)
            grid.addLayout(cell, 2, at)
        grid.addWidget(self.really, 3, 0)
        grid.addWidget(self.worn, 3, 1)
        grid.addWidget(self.build, 4, 0)
        grid.addWidget(self.stands, 4, 1)
        grid.addWidget(self.origin, 5, 0)
        grid.addWidget(self.claim, 5, 1)
        grid.addWidget(self.name_field, 6, 0)
        grid.addWidget(self.cost, 6, 1)
        grid.addWidget(self.note_field, 7, 0, 1, 2)
        grid.setColumnStretch(0, 1)
        grid.setColumnStretch(1, 1)
        self._fields = (
            self.height_field, self.error_field, self.caliper_button, self.shown_field, self.details, self.name_field, self.person, self.pose, self.species, self.rests,
            self.thing, self.really, self.worn, self.build, self.origin, self.claim, self.stands, self.cost, self.note_field,
        )  # fmt: skip
        column.addLayout(grid)
        column.addStretch(1)
        return column

    def _make_fields(self) -> None:
        house = lambda: self.session.project.brief.house_n  # noqa: E731
        self.height_field = length_field("crown", self._measure, house, 90).caption_width(CAPTION)
        self.height_field.expected = self._expected_height
        self.shown_field = length_field("shown", self._setter(lambda p: p.shown_mm, "Shown height"), house, 80)
        self.shown_field.setToolTip("How high it is shown until somebody has measured it")
        self.error_field = Field("±", number(0, 100, "mm"), lambda v: f"{digits(v, 2)} mm", self._set_error, 60)
        self.caliper_button = action("take", self.session.take_asked.emit, keyed("What the caliper shows goes into the field", "caliper"))
        self.details = Details(self.session, CAPTION)
        self.name_field = Field("name", words(1, 120), str, self._setter(lambda p: p.name, "Rename")).caption_width(CAPTION)
        people = [(k, v["name"]) for k, v in table("body")["people"].items()]
        self.person = Choice("person", people, self._set_person).caption_width(CAPTION)
        self.pose = Choice("pose", list(poses().items()), self._set_pose).caption_width(46)
        species = [(s, s) for s in get_args(sh.Species)]
        self.species = Choice("kind", species, self._beast_setter(lambda a: a.species, "Kind")).caption_width(CAPTION)
        self.rests = Choice("is", [(r, r) for r in get_args(sh.Rest)], self._beast_setter(lambda a: a.pose, "Posture")).caption_width(46)
        self.build = Choice("build", list(BUILDS), self._set_build).caption_width(CAPTION)
        self.thing = Choice(
            "it is a",
            lambda: [("", "nothing known"), *((k, v["name"]) for k, v in table("scales")["things"].items())],
            self._setter(lambda p: p.thing, "What it is"),
        ).caption_width(CAPTION)
        self._real = RealSize(self.session, lambda: self.piece, CAPTION)
        self.really, self.worn = self._real.really, self._real.worn
        origins: list[tuple[Origin, str]] = [(o, o) for o in get_args(Origin)]
        self.origin = Choice("from", origins, self._setter(lambda p: p.origin, "Origin")).caption_width(CAPTION)
        self.claim = Field("says", words(0, 40), str, self._setter(lambda p: p.claim, "What the box says")).caption_width(46)
        self.claim.edit.setPlaceholderText("1:32, 54 mm")
        self.stands = Choice("stands", list(STANDS.items()), self._setter(lambda p: p.stands, "Where it stands")).caption_width(46)
        money = lambda v: f"{digits(v, 2)} {self.session.project.brief.currency}"  # noqa: E731
        self.cost = Field("cost", self._parse_money, money, self._setter(lambda p: p.cost, "Cost")).caption_width(46)

        self.note_field = Field("note", words(0), str, self._setter(lambda p: p.note, "Note")).caption_width(CAPTION)

    def _what_it_is(self) -> QVBoxLayout:
        column = headed("What it is", 4)
        self._native_words = Line("", "native scale")
        self.native = HowButton()
        self._interval = Line("soft")
        column.addLayout(line_of(self._native_words, self.native, self._interval))
        self.factor = HowButton()
        column.addLayout(line_of(self.factor))
        self.ruler = ScaleRuler(self.session)
        column.addWidget(self.ruler)
        self._claim_words = Prose("soft")
        column.addWidget(self._claim_words)
        column.addStretch(1)
        return column

    def _what_to_do(self) -> QVBoxLayout:
        column = headed("What to do", 4)
        self.reads = HowButton()
        column.addLayout(line_of(self.reads))
        self._advice = Prose()
        self._advice.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        column.addWidget(self._advice)
        self._actions = QVBoxLayout()
        self._actions.setSpacing(0)
        column.addLayout(self._actions)
        column.addStretch(1)
        return column

    @property
    def piece(self) -> Piece | None:
        """The chosen piece that can be measured; scenery is not on the shelf."""
        found = self.session.project.find(PIECES, self.session.chosen(PIECES))
        if found is not None and found.role == "piece":
            return found
        return next((p for p in self.session.project.pieces if p.role == "piece"), None)

    def _setter(self, get: Callable[[Piece], T], label: str) -> Callable[[T], None]:
        def set_it(value: T) -> None:
            if self.piece is not None:
                self.session.do(put(PIECES.at(self.piece.id).then(get), value, f"{label}: {self.piece.name}"))

        return set_it

    def _expected_height(self) -> float:
        piece = self.piece and self.session.results.project.find(PIECES, self.piece.id)
        return measured_height(piece) if piece is not None else 0.0

    def _set_error(self, mm: float) -> None:
        piece = self.piece
        if piece is not None:
            spot = PIECES.at(piece.id).then(lambda p: p.measure).narrowed(Measure).then(lambda m: m.error_mm)
            self.session.do(put(spot, mm, f"Caliper error: {piece.name}"))

    def _set_person(self, person: sh.Person) -> None:
        piece = self.piece
        if piece is not None and isinstance(piece.shape, sh.Figure):
            spot = PIECES.at(piece.id).then(lambda p: p.shape).narrowed(sh.Figure).then(lambda f: f.person)
            self.session.do(put(spot, person, f"Person: {piece.name}"))
        elif piece is not None and isinstance(piece.shape, sh.Mesh):
            nobody = PIECES.at(piece.id).then(lambda p: p.shape).narrowed(sh.Mesh).then(lambda m: m.person)
            self.session.do(put(nobody, person, f"Person: {piece.name}"))

    def _set_pose(self, pose: str) -> None:
        piece = self.piece
        if piece is not None and isinstance(piece.shape, sh.Figure | sh.Mesh):
            shape = PIECES.at(piece.id).then(lambda p: p.shape)
            figure, mesh = shape.narrowed(sh.Figure).then(lambda f: f.pose), shape.narrowed(sh.Mesh).then(lambda m: m.pose)
            self.session.do(put(figure if isinstance(piece.shape, sh.Figure) else mesh, pose, f"Pose: {piece.name}"))

    def _beast_setter(self, get: Callable[[sh.Animal], Any], label: str) -> Callable[[Any], None]:
        def commit(value: Any) -> None:
            piece = self.piece
            if piece is not None and isinstance(piece.shape, sh.Animal):
                spot = PIECES.at(piece.id).then(lambda p: p.shape).narrowed(sh.Animal).then(get)
                self.session.do(put(spot, value, f"{label}: {piece.name}"))

        return commit

    def _parse_money(self, text: str) -> float:
        return float(number(0, 1e6, self.session.project.brief.currency)(text))

    def _set_build(self, value: tuple[Build, bool]) -> None:
        piece = self.piece
        if piece is not None:
            label, figure = f"Build of {piece.name}", PIECES.at(piece.id).then(lambda p: p.shape).narrowed(sh.Figure)
            build, heroic = figure.then(lambda f: f.build), figure.then(lambda f: f.heroic)
            self.session.do(put(build, value[0], label), put(heroic, value[1], label), label=label)

    def _measure(self, mm: float) -> None:
        if self.piece is not None:
            self.session.do(TakeSize(f"Measure {self.piece.name}", self.piece.id, mm))

    def _add(self, kind: ShapeKind[Any]) -> None:
        edit, ident = add_piece(self.session.project, kind, placed=False)
        if self.session.do(edit):
            self.session.select(PIECES, ident)
            self.height_field.edit.setFocus()

    def _others(self) -> Entries:
        piece = self.piece
        rest = [p for p in self.session.project.pieces if p.role == "piece" and p is not piece]
        return [(p.name, partial(self._pair, p.id)) for p in rest]

    def _pair(self, other: str) -> None:
        """Show the chosen piece and another side by side; an empty text shows all again."""
        piece = self.piece
        self.shelf.show_pair((piece.id, other) if piece is not None and other else None)
        self.refresh()

    def _true_size(self) -> None:
        if self.true.isChecked() and px_per_mm(self.session.settings, self.screen().name()) is None and not self._calibrate():
            self.true.setChecked(False)
        self._follow_true_size()

    def _calibrate(self) -> bool:
        done = calibrate(self.session, self)
        self._follow_true_size()
        return done

    def _follow_true_size(self) -> None:
        scale = px_per_mm(self.session.settings, self.screen().name()) if self.true.isChecked() else None
        self.shelf.set_true_scale(scale)

    def refresh(self) -> None:
        """Follow the project."""
        house = self.session.project.brief.house_n
        self.note = f"as they are; dashed, as they should be at {show_scale(house)}"
        self._frame.setMinimumHeight(self.session.theme.px(240))
        self.shelf.refresh()
        piece = self.piece
        if piece is not None:
            at = self.shelf.middle_of(piece.id)
            self._frame.ensureVisible(int(at), 0, 90, 0)
        self.apart.setVisible(self.shelf.pair is not None)
        self.compare.setVisible(self.shelf.pair is None and piece is not None)
        self.together.refresh()
        self.together.setVisible(self.shelf.pair is None)
        self._pair_note.setText(self.shelf.pair_words())
        for widget in self._fields:
            widget.setVisible(piece is not None)
        self._nothing.setVisible(piece is None)
        reading = self.session.results.one(READINGS, piece.id) if piece else None
        self._show_reading(piece, reading)
        if piece is None:
            self._title.setText("Nothing chosen")
            self._origin_note.setText("")
            return
        figure, beast = isinstance(piece.shape, sh.Figure), isinstance(piece.shape, sh.Animal)
        mesh = isinstance(piece.shape, sh.Mesh)
        self._title.setText(piece.name)
        self._origin_note.setText("" if piece.place else "on the bench, not on the stage")
        long = isinstance(piece.shape, sh.Figure) and lies(piece.shape.pose)
        beast_row = table("scales")["things"].get(piece.shape.species, {}) if isinstance(piece.shape, sh.Animal) else {}
        shoulder = "shoulder" in beast_row.get("name", "")
        self.height_field.caption = "length" if long else "shoulder" if shoulder else kind_of(piece.shape).caption
        self.height_field.set_value(piece.measure.mm if piece.measure else None)
        self.error_field.set_value(piece.measure.error_mm if piece.measure else 0.1)
        self.error_field.setEnabled(piece.measure is not None)
        guessed = kind_of(piece.shape).living and piece.measure is None
        self.error_field.setVisible(not guessed)
        self.shown_field.setVisible(guessed)
        self.shown_field.set_value(measured_height(piece))
        self.name_field.set_value(piece.name)
        people = [(k, v["name"]) for k, v in table("body")["people"].items()]
        self.person.set_options([("", "nobody"), *people] if mesh else people)
        body = figure or (isinstance(piece.shape, sh.Mesh) and bool(piece.shape.person))
        for widget, wanted in (
            (self.person, figure or mesh), (self.pose, body), (self.species, beast), (self.rests, beast), (self.thing, not figure and not beast and not mesh),
            (self.build, figure), (self.worn, body and not long),
        ):  # fmt: skip
            widget.setVisible(wanted)
        if isinstance(piece.shape, sh.Figure | sh.Mesh):
            self.person.set_value(piece.shape.person)
            self.pose.set_value(piece.shape.pose)
        if isinstance(piece.shape, sh.Figure):
            self.build.set_value((piece.shape.build, piece.shape.heroic))
        if isinstance(piece.shape, sh.Animal):
            self.species.set_value(piece.shape.species)
            self.rests.set_value(piece.shape.pose)
        self.details.show_piece(piece, body)
        self.thing.set_value(piece.thing)
        self._real.show_piece(piece)
        self.origin.set_value(piece.origin)
        self.claim.set_value(piece.claim)
        self.stands.set_value(piece.stands)
        self.cost.set_value(piece.cost)
        self.note_field.set_value(piece.note)

    def _show_reading(self, piece: Piece | None, reading: Reading | None) -> None:
        for widget in (self._native_words, self.native, self._interval, self.factor, self.ruler, self.reads):
            widget.setVisible(reading is not None)
        clear(self._actions)
        if piece is None or reading is None:
            lacking = (
                ""
                if piece is None
                else "Take its height, and say what it is."
                if piece.measure is None
                else "Say what it is, and its scale follows."
            )
            self._claim_words.setText(lacking)
            self._advice.setText("")
            if piece is not None:
                self._add_actions(piece, None)
            return
        house = self.session.project.brief.house_n
        self.native.show_told(native_told(reading))
        self._interval.setText(f"({show_scale(reading.low)} to {show_scale(reading.high)})")
        self.factor.show_told(factor_told(reading, house))
        self.ruler.show_reading(reading)
        names = ", ".join(show_scale(s.n) for s in reading.plausible) or "no named scale"
        told = claim_contradicted(piece, reading, self.session.project.brief.rules.sizes) if piece.origin != "kitbash" else ""
        odd = reading.oddity.words if reading.oddity else ""
        self._claim_words.setText(" ".join(t for t in (f"Could be {names}.", told, odd) if t))
        self.reads.show_told(reads_told(reading, house))
        self._advice.setText("\n".join(a.words for a in advise(piece, reading, self.session.project)[:3]))
        self._add_actions(piece, reading)

    @staticmethod
    def _own_scale(reading: Reading | None) -> float | None:
        """The scale that a thing forces: the nearest with a name that it may have, or its own."""
        if reading is None:
            return None
        return min((s.n for s in reading.plausible), key=lambda n: abs(math.log(n / reading.n)), default=round(reading.n, 1))

    def _add_actions(self, piece: Piece, reading: Reading | None) -> None:
        fixes = []
        file = piece.origin == "printed file" or isinstance(piece.shape, sh.Mesh)
        if reading is not None and file and abs(reading.off) > 0.005:
            fixes.append(rescale_fix(self.session.project, piece, reading))
        if piece.place is not None and reading is not None and not passes(reading.beyond, piece.stands):
            fixes.append(back_to_the_box(piece))
        for fix in fixes:
            self._actions.addWidget(action(fix.label, lambda _c=False, f=fix: self.session.do(*f.edits, label=f.label)))
        n = self._own_scale(reading)
        if n is not None and n != self.session.project.brief.house_n:
            self._actions.addWidget(action(f"Make {show_scale(n)} the house scale", lambda _c=False: self.session.do(set_house(n))))
        if piece.place is None:
            at, label = PIECES.at(piece.id).then(lambda p: p.place), f"Put {piece.name} on the stage"
            stand = lambda _c=False: self.session.do(put(at, free_place(self.session.project, piece), label))  # noqa: E731
            self._actions.addWidget(action("Put it on the stage", stand))
        remove = QPushButton("Remove")
        remove.setToolTip("Take it out of the project")
        edit = Remove(f"Remove {piece.name}", PIECES, piece.id)
        remove.clicked.connect(lambda: self.session.do(edit))
        lost, said = not piece.lost, f"{piece.name} is {'found' if piece.lost else 'lost'}"
        lose = put(PIECES.at(piece.id).then(lambda p: p.lost), lost, said)
        missed = QPushButton("It is lost" if lost else "It is found")
        missed.clicked.connect(lambda: self.session.do(lose))
        for button in (missed, remove):
            self._actions.addWidget(button)
