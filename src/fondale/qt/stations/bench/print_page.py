# SPDX-License-Identifier: MIT
"""The print shop: files from anywhere brought to size, cut, laid on the machines and reckoned."""

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QVBoxLayout

from fondale.core.derived import JOBS
from fondale.core.edits import put
from fondale.core.edits.bringing import drop_file
from fondale.core.edits.ids import new_id
from fondale.core.model import PRINTS, PrintFile, Project
from fondale.core.model.prints import Panel
from fondale.core.prints.jobs import largest_percent, stretch_words
from fondale.core.prints.posture import UPS
from fondale.core.prints.printers import any_of, any_shown, machine_of, machine_rows
from fondale.core.words import digits
from fondale.qt.furniture.columns import Columns
from fondale.qt.furniture.fields import Choice, Field, length_field, length_or_none, number, words
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import action, menu_button
from fondale.qt.furniture.ticket import Editor, Row, Ticket
from fondale.qt.session import Session
from fondale.qt.stations.bench.print_drawing import FileCells, FileDrawing
from fondale.qt.stations.bench.print_files import FileDesk
from fondale.qt.stations.bench.print_panels import SIDES, parse_panels, show_panels
from fondale.qt.stations.bench.print_sizes import Sizes, chosen_file, parse_cuts, parse_stretch, show_cuts
from fondale.qt.stations.bench.print_takes import Takes

CAPTION = 58
PANEL_MM = 3.0  # so deep is a panel that is drawn on a solid body, until the maker says

FORMATS = (
    (".stl", "STL, in millimetres"), (".3mf", "3MF, which states its millimetres"), (".obj", "OBJ, in millimetres"), (".ply", "PLY, in millimetres"),
    (".glb", "GLB, in metres by its standard"),
)  # fmt: skip


class PrintPage(Page):
    """Files on the left, the chosen one's drawing in the middle, its ticket on the right; machines and quotes below."""

    title = "Print shop"
    shows = (PRINTS,)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.sizes = Sizes(session, self)
        self.files = FileDesk(session, self)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        left = QVBoxLayout()
        left.addWidget(action("Bring files…", self.files.ask_and_bring, "STL, OBJ, PLY, 3MF or GLB"))
        self.cells = FileCells(session)
        self.cells.chosen.connect(lambda i: session.select(PRINTS, i))
        frame = self.cells.framed()
        frame.setMinimumWidth(180)
        left.addWidget(frame, 1)
        middle = QVBoxLayout()
        self.drawing = FileDrawing(session)
        self.drawing.drawn.connect(self._add_panel)
        middle.addWidget(self.drawing, 1)
        self._advice = Prose("soft")
        middle.addWidget(self._advice)
        self.to_house = action("To the house scale", self.sizes.to_house)
        self.suggest = menu_button(
            "Suggest…",
            [
                ("How it lies", self.sizes.suggest_posture),
                ("Where to cut", self.sizes.suggest_cuts),
                ("The largest it can be, whole", self.sizes.largest),
                ("What is too thin", self.files.seek_thin),
                ("To fit inside another file…", self.sizes.ask_and_follow),
            ],
        )
        self.write = menu_button("Write the parts…", [(said, partial(self.files.ask_and_write, e)) for e, said in FORMATS])
        self.write.setToolTip("Cuts it with keys and writes every part")
        self.steps = action("Hand its steps to Coats", self.files.hand_over)
        self.keyed = QCheckBox("with keys")
        self.keyed.clicked.connect(lambda on: self.put_in(PRINTS, lambda f: f.keyed, on, "Keys"))
        self.panel = QPushButton("draw a panel")
        self.panel.setProperty("role", "pick")
        self.panel.setCheckable(True)
        self.panel.setToolTip("Drag over the drawing, or click its corners and close it with a double click: that part lifts off")
        self.panel.toggled.connect(self.drawing.let_draw)
        for pair in ((self.to_house, self.suggest, self.keyed, self.panel), (self.write, self.steps)):
            row = QHBoxLayout()
            for button in pair:
                row.addWidget(button)
            row.addStretch(1)
            middle.addLayout(row)
        right = QVBoxLayout()
        self.ticket = Ticket(1)
        self.ticket.removed.connect(self._remove)
        self.foresee(self.ticket, "file", self._rows)
        right.addWidget(self.ticket)
        right.addStretch(1)
        column.addWidget(Columns(14, (left, 4), (middle, 8), (right, 5)), 1)
        self.takes = Takes(session)
        column.addWidget(self.takes)

    @property
    def file(self) -> PrintFile | None:
        """The chosen file."""
        return chosen_file(self.session)

    def _rows(self) -> list[Row]:
        house = lambda: self.session.project.brief.house_n  # noqa: E731

        hours = number(0, 2, "mm")
        levels = [("easy", "easy"), ("fair", "fair"), ("hard", "hard")]
        self._machine = Choice("machine", [], self._set_machine)
        self._beside = Choice("with", [], self.setter(PRINTS, lambda f: f.beside, "On whose plates"))
        fields = (
            self._computed(lambda f: f.percent, Field("percent", number(0.01, 100_000, "%"), lambda v: f"{digits(v, 2)} %", self.sizes.scale)),
            self._computed(lambda f: f.printed[2], length_field("height", self.sizes.to_height, house, 0)),
            self._computed(lambda f: f.stretch, Field("stretch", parse_stretch, lambda v: " x ".join(digits(s * 100, 1) for s in v), self.sizes.stretch)),
            self.row(PRINTS, lambda f: f.family, "Family", lambda put: Field("family", words(0, 60), str, put)),
            self._computed(self._machine_now, self._machine),
            self._computed(lambda f: f.beside, self._beside),
            self.row(PRINTS, lambda f: f.count, "Copies", lambda put: Field("copies", lambda t: round(number(1, 1000)(t)), lambda v: digits(v, 0), put)),
            self.row(PRINTS, lambda f: f.up, "How it lies", lambda put: Choice("lies", list(UPS.items()), put)),
            self.row(PRINTS, lambda f: f.tilt_deg, "Tilt", lambda put: Field("tilted", number(0, 80, "°"), lambda v: f"{digits(v, 0)}°", put)),
            self.row(PRINTS, lambda f: f.layer_mm, "Layer", lambda put: Field("layer", hours, lambda v: f"{digits(v, 3)} mm" if v else "as the machine", put)),
            self.row(PRINTS, lambda f: f.hollow_mm, "Hollow", lambda put: Field("hollow", number(0, 100, "mm"), lambda v: f"wall {digits(v, 2)} mm" if v else "solid", put)),
            self.row(PRINTS, lambda f: f.drain_mm, "Drains", lambda put: length_or_none("drains", put, "no holes", 0)),
            self.row(PRINTS, lambda f: f.seen, "Side that is seen", lambda put: Choice("seen", [("", "no side more"), *((s, f"the {s}") for s in SIDES)], put)),
            self.row(PRINTS, lambda f: f.difficulty, "Risk", lambda put: Choice("risk", levels, put)),
            self.row(PRINTS, lambda f: f.cuts, "Cuts", lambda put: Field("cuts", parse_cuts, show_cuts, put)),
            self.row(PRINTS, lambda f: f.panels, "Panels", lambda put: Field("panels", parse_panels, show_panels, put)),
            self.row(PRINTS, lambda f: f.name, "Rename", lambda put: Field("name", words(1, 120), str, put)),
        )  # fmt: skip
        return [(f.caption_width(CAPTION), read) for f, read in fields]

    def _computed(self, get: Callable[[PrintFile], object], field: Editor) -> tuple[Editor, Callable[[Project], object]]:
        """A row whose value is set in another way than it is read."""

        def read(_project: Project) -> object:
            file = self.file
            return get(file) if file is not None else None

        return field, read

    def _machine_now(self, file: PrintFile) -> tuple[str, bool]:
        project = self.session.project
        ident = machine_of(project, file).id
        return (any_shown(project, ident) if file.any_machine else ident), file.any_machine

    def _set_machine(self, value: tuple[str, bool]) -> None:
        file = self.file
        if file is not None:
            self.session.do(put(PRINTS.at(file.id), file.but(machine=value[0], any_machine=value[1]), f"Machine: {file.name}"))

    def _add_panel(self, side: str, outline: tuple[tuple[float, float], ...]) -> None:
        file = self.file
        if file is not None:
            deep = 2 * file.hollow_mm or PANEL_MM
            panel = Panel(id=new_id("panel", [p.id for p in file.panels]), side=side, outline=outline, deep_mm=deep)  # type: ignore[arg-type]
            self.session.do(put(PRINTS.at(file.id).then(lambda f: f.panels), (*file.panels, panel), f"Panel of {file.name}"))
            self.panel.setChecked(False)

    def _remove(self) -> None:
        file = self.file
        if file is not None:
            self.session.do(*drop_file(self.session.project, file))

    def refresh(self) -> None:
        """Follow the project."""
        project, file = self.session.project, self.file
        self.note = (
            f"{len(project.prints)} {'file' if len(project.prints) == 1 else 'files'}"
            if project.prints
            else "files from anywhere, brought to size, cut and reckoned"
        )
        self.cells.show_things(project.prints, file.id if file else "")
        for widget in (self.ticket, self.keyed, self.panel, self.to_house, self.suggest, self.write, self.steps):
            widget.setVisible(file is not None)
        self.drawing.file = file
        self._advice.setText("")
        if file is not None:
            self.drawing.build = self.sizes.build_room(file)
            self.ticket.show_thing("file", file.name, True, self._rows)
            rows = machine_rows()
            machines = [(m.id, m.name) for m in project.brief.machines if m.row in rows]
            alike = [((m.id, True), said) for m, said in any_of(project) if m.row in rows]
            known = [((ident, False), name) for ident, name in machines or [("none", machine_of(project, file).name)]]
            self._machine.set_options([*known, *alike])
            leads = [(f.id, f"on the plates of {f.name}") for f in project.prints if f.id != file.id and not f.beside]
            self._beside.set_options([("", "plates of its own"), *leads])
            self.ticket.read(project)
            self.keyed.setChecked(file.keyed)
            self._show_file(file)
        self.takes.show_file(file, self.session.results.one(JOBS, file.id) if file else None)
        self.drawing.update()

    def _show_file(self, file: PrintFile) -> None:
        factor = self.sizes.house_factor()
        self.to_house.setVisible(factor is not None and abs(factor - 1) > 0.005)
        if factor is not None:
            self.to_house.setText(f"To the house scale: {digits(file.percent * factor, 1)} %")
        parts = f"{file.triangles:,} triangles".replace(",", " ")
        said = [f"{file.bodies} bodies, {parts}" if file.bodies > 1 else parts]
        said += list(file.repairs[:2])
        said += [stretch_words(file)] if stretch_words(file) else []
        said.append(f"whole, the machine takes it at up to {digits(largest_percent(file, self.sizes.build_room(file)), 0)} %")
        self._advice.setText("; ".join(said) + ".")
