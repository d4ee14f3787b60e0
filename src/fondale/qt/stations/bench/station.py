"""Bench: what is at hand, which scale it really has, what it reads as, what to do."""

from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QSizePolicy, QVBoxLayout

from fondale.core.edits import Edit, put
from fondale.core.edits.making import PIECE_KINDS, add_piece
from fondale.core.lengths import digits, percent, show_mm, show_real, show_scale
from fondale.core.model import Measure, Piece, Place
from fondale.core.model import shapes as sh
from fondale.core.prompts.scale import back_to_the_box, rescale_fix
from fondale.core.scale.mannequin import poses
from fondale.core.scale.reading import Reading, claim_contradicted
from fondale.core.stage.solids import measured_height
from fondale.instruments import SimulatedCaliper
from fondale.knowledge import table
from fondale.qt.frame.fields import Choice, Field, length_field, number, words
from fondale.qt.frame.how import How, HowButton
from fondale.qt.session import Session
from fondale.qt.stations.bench.ruler import ScaleRuler
from fondale.qt.stations.bench.shelf import Shelf
from fondale.qt.stations.station import Station, action, heading

CAPTION = 74
ORIGINS = ("bought", "printed file", "gaming", "kitbash", "scratch")


class BenchStation(Station):
    """The shelf above; below it the ticket of the chosen piece, what it is, and what to do."""

    name = "bench"

    def __init__(self, session: Session, caliper: SimulatedCaliper) -> None:
        super().__init__(session)
        self.caliper = caliper
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 12, 24, 8)
        column.setSpacing(8)
        row, self._note = heading("The shelf")
        for kind in ("figure", "animal", "wheel", "post"):
            row.addWidget(action(f"Add {PIECE_KINDS[kind][0].lower()}", lambda _c=False, k=kind: self._add(k)))
        column.addLayout(row)
        self.shelf = Shelf(session)
        self.shelf.chosen.connect(lambda ident: session.select("pieces", ident))
        column.addWidget(self.shelf, 1)
        below = QHBoxLayout()
        below.setSpacing(24)
        below.addLayout(self._ticket(), 11)
        below.addLayout(self._what_it_is(), 10)
        below.addLayout(self._what_to_do(), 9)
        column.addLayout(below)

    def _ticket(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(5)
        row, self._origin_note = heading("")
        self._title = row.itemAt(0).widget()
        column.addLayout(row)
        self._nothing = QLabel("Choose something on the shelf, or add it.")
        self._nothing.setProperty("role", "soft")
        column.addWidget(self._nothing)
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(5)
        self.height_field = length_field("crown", self._measure, lambda: self.session.project.brief.house_n, 96).caption_width(CAPTION)
        self.error_field = Field(
            "give or take",
            number(0, 100, "mm"),
            lambda v: f"{digits(v, 2)} mm",
            lambda v: self._put("measure", "error_mm", value=v, label="Caliper error"),
            64,
        )
        self.caliper_button = action("take with caliper", self.take_with_caliper, "Ctrl+M: reads the simulated caliper into the height")
        self.name_field = Field("name", words(1, 120), str, lambda v: self._put("name", value=v, label="Rename")).caption_width(CAPTION)
        self.person = Choice(
            "person",
            [(k, v["name"]) for k, v in table("body")["people"].items()],
            lambda v: self._put("shape", "person", value=v, label="Person"),
        ).caption_width(CAPTION)
        self.pose = Choice("pose", list(poses().items()), lambda v: self._put("shape", "pose", value=v, label="Pose"))
        self.species = Choice(
            "kind", [("cat", "cat"), ("dog", "dog"), ("heron", "heron")], lambda v: self._put("shape", "species", value=v, label="Kind")
        ).caption_width(CAPTION)
        things = [("", "nothing known"), *((k, v["name"]) for k, v in table("scales")["things"].items())]
        self.thing = Choice("it is a", things, lambda v: self._put("thing", value=v, label="What it is")).caption_width(CAPTION)
        self.origin = Choice("from", [(o, o) for o in ORIGINS], lambda v: self._put("origin", value=v, label="Origin")).caption_width(
            CAPTION
        )
        self.claim = Field("box says", words(0, 40), str, lambda v: self._put("claim", value=v, label="What the box says"), 84)
        self.stands = Choice(
            "stands", [("beside", "beside its like"), ("apart", "apart")], lambda v: self._put("stands", value=v, label="Where it stands")
        )
        self.cost = Field(
            "cost", number(0, 1e6), lambda v: digits(v, 2), lambda v: self._put("cost", value=v, label="Cost"), 64
        ).caption_width(CAPTION)
        grid.addWidget(self.height_field, 0, 0)
        pair = QHBoxLayout()
        pair.addWidget(self.error_field)
        pair.addWidget(self.caliper_button)
        grid.addLayout(pair, 0, 1)
        grid.addWidget(self.name_field, 1, 0)
        grid.addWidget(self.pose, 1, 1)
        grid.addWidget(self.person, 2, 0)
        grid.addWidget(self.species, 2, 0)
        grid.addWidget(self.thing, 2, 0)
        grid.addWidget(self.stands, 2, 1)
        grid.addWidget(self.origin, 3, 0)
        grid.addWidget(self.claim, 3, 1)
        grid.addWidget(self.cost, 4, 0)
        grid.setColumnStretch(0, 1)
        grid.setColumnStretch(1, 1)
        self._fields = (
            self.height_field,
            self.error_field,
            self.caliper_button,
            self.name_field,
            self.person,
            self.pose,
            self.species,
            self.thing,
            self.origin,
            self.claim,
            self.stands,
            self.cost,
        )
        column.addLayout(grid)
        column.addStretch(1)
        return column

    def _what_it_is(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(4)
        row, _note = heading("What it is")
        column.addLayout(row)
        line = QHBoxLayout()
        line.setSpacing(6)
        self._native_words = QLabel("native scale")
        self.native = HowButton()
        self._interval = QLabel()
        self._interval.setProperty("role", "soft")
        line.addWidget(self._native_words)
        line.addWidget(self.native)
        line.addWidget(self._interval)
        line.addStretch(1)
        column.addLayout(line)
        self.ruler = ScaleRuler(self.session)
        column.addWidget(self.ruler)
        self._claim_words = QLabel()
        self._claim_words.setWordWrap(True)
        self._claim_words.setProperty("role", "soft")
        column.addWidget(self._claim_words)
        column.addStretch(1)
        return column

    def _what_to_do(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(4)
        row, _note = heading("What to do")
        column.addLayout(row)
        line = QHBoxLayout()
        self.reads = HowButton()
        line.addWidget(self.reads)
        line.addStretch(1)
        column.addLayout(line)
        self._advice = QLabel()
        self._advice.setWordWrap(True)
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
        found = self.session.project.find("pieces", self.session.chosen("pieces"))
        if found is not None and found.role == "piece":
            return found
        return next((p for p in self.session.project.pieces if p.role == "piece"), None)

    def _put(self, *path: str, value: object, label: str) -> None:
        if self.piece is not None:
            self.session.do(put(("pieces", self.piece.id, *path), value, f"{label}: {self.piece.name}"))

    def _measure(self, mm: float) -> None:
        piece = self.piece
        if piece is None:
            return
        error = piece.measure.error_mm if piece.measure else 0.1
        edits = [put(("pieces", piece.id, "measure"), Measure(mm=mm, error_mm=error), f"Measure {piece.name}")]
        key = {"wheel": ("diameter",), "cylinder": ("length",)}.get(piece.shape.kind)
        if key:
            edits.append(put(("pieces", piece.id, "shape", *key), mm, f"Measure {piece.name}"))
        self.session.do(*edits)

    def take_with_caliper(self) -> None:
        """Read the caliper on the chosen piece: what it shows goes into the height as it is, zero error and all."""
        piece = self.piece
        if piece is not None:
            self._measure(round(self.caliper.read_mm(measured_height(piece)), 2))

    def _add(self, kind: str) -> None:
        edit, ident = add_piece(self.session.project, kind)
        if self.session.do(edit):
            self.session.select("pieces", ident)
            self.height_field.edit.setFocus()

    def refresh(self) -> None:
        """Follow the project."""
        self.shelf.refresh()
        house = self.session.project.brief.house_n
        self._note.setText(f"figures and parts as they are; dashed, as they should be at {show_scale(house)}")
        piece = self.piece
        for widget in self._fields:
            widget.setVisible(piece is not None)
        self._nothing.setVisible(piece is None)
        quick = self.session.results.quick
        reading = quick.readings.get(piece.id) if piece and quick else None
        self._show_reading(piece, reading)
        if piece is None:
            self._title.setText("Nothing chosen")
            self._origin_note.setText("")
            return
        figure, beast = isinstance(piece.shape, sh.Figure), isinstance(piece.shape, sh.Animal)
        self._title.setText(piece.name)
        self._origin_note.setText("" if piece.place else "on the bench, not on the stage")
        caption = "crown" if figure else "height" if beast else {"wheel": "diameter"}.get(piece.shape.kind, "size")
        self.height_field._caption.setText(caption)
        self.height_field.set_value(piece.measure.mm if piece.measure else None)
        self.error_field.set_value(piece.measure.error_mm if piece.measure else 0.1)
        self.error_field.setEnabled(piece.measure is not None)
        self.name_field.set_value(piece.name)
        for widget, wanted in ((self.person, figure), (self.pose, figure), (self.species, beast), (self.thing, not figure and not beast)):
            widget.setVisible(wanted)
        if figure:
            self.person.set_value(piece.shape.person)
            self.pose.set_value(piece.shape.pose)
        if beast:
            self.species.set_value(piece.shape.species)
        self.thing.set_value(piece.thing)
        self.origin.set_value(piece.origin)
        self.claim.set_value(piece.claim)
        self.stands.set_value(piece.stands)
        self.cost.set_value(piece.cost)

    def _show_reading(self, piece: Piece | None, reading: Reading | None) -> None:
        for widget in (self._native_words, self.native, self._interval, self.ruler, self.reads):
            widget.setVisible(reading is not None)
        while self._actions.count():
            item = self._actions.takeAt(0)
            if item.widget():
                item.widget().deleteLater()
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
        how = How("Native scale", reading.formula, reading.source)
        self.native.show_value(show_scale(reading.n), how)
        self._interval.setText(f"({show_scale(reading.low)} to {show_scale(reading.high)})")
        self.ruler.show_reading(reading)
        names = ", ".join(show_scale(s.n) for s in reading.plausible) or "no named scale"
        told = claim_contradicted(piece, reading, self.session.project.brief.rules.sizes) if piece.origin != "kitbash" else ""
        self._claim_words.setText(f"Could be {names}. {told}".strip())
        formula = f"{show_mm(reading.measured_mm)} × {digits(house, 1)} = {show_real(reading.reads_mm)}; right would be {show_mm(reading.wanted_mm)}, it is {reading.off * 100:+.1f} % off.\nWithin 3 % right, to 6 % beside its like, to 10 % apart, beyond that wrong."
        self.reads.show_value(f"reads as {reading.words}", How("Reads as", formula, "verdict limits: common practice, no source"))
        self._advice.setText(self._advise(piece, reading))
        self._add_actions(piece, reading)

    def _advise(self, piece: Piece, reading: Reading) -> str:
        factor = reading.factor
        if reading.verdict == "right":
            return "Right as it is: use it anywhere."
        if reading.verdict == "passes beside":
            return f"{percent(abs(reading.off))} off: passes beside others of its kind."
        if reading.verdict == "passes apart":
            return f"{percent(abs(reading.off))} off: let it stand apart, or a little {'in front' if reading.off > 0 else 'behind'}."
        change = f"volume to {percent(factor**3)}, paint to {percent(factor**2)}"
        if piece.origin == "printed file":
            return f"Scale the file to {digits(factor * 100, 1)} %: {change}."
        return f"Out of scale by {percent(abs(reading.off))}. It would have to be {show_mm(reading.wanted_mm)}: swap it."

    def _add_actions(self, piece: Piece, reading: Reading | None) -> None:
        fixes = []
        if reading is not None and piece.origin == "printed file" and abs(reading.off) > 0.005:
            fixes.append(rescale_fix(self.session.project, piece, reading))
        if piece.place is not None:
            fixes.append(back_to_the_box(piece))
        for fix in fixes:
            button = action(fix.label, lambda _c=False, f=fix: self.session.do(*f.edits, label=f.label))
            if len(fixes) == 1 and reading is not None and reading.verdict != "wrong":
                button.setProperty("role", "")
            self._actions.addWidget(button)
        if piece.place is None:
            case = self.session.project.case
            place = put(("pieces", piece.id, "place"), Place(x=case.width / 2, y=case.depth / 2), f"Put {piece.name} on the stage")
            self._actions.addWidget(action("Put it on the stage", lambda _c=False: self.session.do(place)))
        remove = QPushButton("Remove from the project")
        edit = Edit("remove", f"Remove {piece.name}", {"field": "pieces", "ident": piece.id})
        remove.clicked.connect(lambda: self.session.do(edit))
        self._actions.addWidget(remove)
