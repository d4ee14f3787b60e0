# SPDX-License-Identifier: MIT
"""What is done to the size of a file: by factor, by height, by axis, to the house scale, inside another; how it lies and where it is cut."""

import numpy as np
from PySide6.QtWidgets import QWidget

from fondale.app.errands import SEEK
from fondale.app.workers import Report
from fondale.core.derived import READINGS
from fondale.core.edits import put
from fondale.core.edits.printing import ScaleFiles
from fondale.core.lengths import LengthError
from fondale.core.model import PRINTS, Cut, PrintFile
from fondale.core.model.prints import Axis
from fondale.core.prints.body import BodyError
from fondale.core.prints.cutting import plan_cuts
from fondale.core.prints.jobs import NoRoom, follower_times, largest_percent, room_of
from fondale.core.prints.posture import postures
from fondale.core.prints.printers import printer_of
from fondale.core.scale.placing import factor_for_height
from fondale.core.words import digits, percent, show_mm
from fondale.knowledge import table
from fondale.qt.furniture.dialogs import ask_which
from fondale.qt.session import Session
from fondale.qt.stations.bench.print_drawing import shape_of


def parse_stretch(text: str) -> tuple[float, float, float]:
    """``100 x 100 x 110`` percent of width, depth and height as factors. Raises LengthError."""
    parts = text.lower().replace("×", "x").replace("%", "").replace(",", ".").split("x")
    try:
        values = [float(p) / 100 for p in parts]
    except ValueError:
        values = []
    if len(values) != 3 or not all(0.01 <= v <= 100 for v in values):
        raise LengthError("Three percentages: width x depth x height, for example 100 x 100 x 110.")
    return values[0], values[1], values[2]


def parse_cuts(text: str) -> tuple[Cut, ...]:
    """``height 33 67, width 50`` as cuts at percent of the sizes. Raises LengthError."""
    axes: dict[str, Axis] = {"width": "x", "depth": "y", "height": "z"}
    out: list[Cut] = []
    axis: Axis | None = None
    for word in text.lower().replace("%", " ").replace(",", " ").split():
        if word in axes:
            axis = axes[word]
            continue
        try:
            at = float(word) / 100
        except ValueError:
            at = 0.0
        if axis is None or not 0 < at < 1:
            raise LengthError("Say across what and where in percent: height 33 67, width 50.")
        out.append(Cut(id=f"cut-{len(out) + 1}", axis=axis, at=at))
    if len(out) > 40:
        raise LengthError("At most 40 cuts.")
    return tuple(out)


def show_cuts(cuts: tuple[Cut, ...] | None) -> str:
    """Cuts as they are typed."""
    said = []
    for axis, name in (("x", "width"), ("y", "depth"), ("z", "height")):
        at = [digits(c.at * 100, 1) for c in cuts or () if c.axis == axis]
        if at:
            said.append(f"{name} {' '.join(at)}")
    return ", ".join(said)


def chosen_file(session: Session) -> PrintFile | None:
    """The chosen file of the print shop."""
    found = session.project.find(PRINTS, session.chosen(PRINTS))
    return found if isinstance(found, PrintFile) else None


class OnFile:
    """What is done with the chosen file; dialogs open over ``parent``."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        self.session = session
        self.parent = parent

    @property
    def file(self) -> PrintFile | None:
        """The chosen file."""
        return chosen_file(self.session)


class Sizes(OnFile):
    """Edits of the chosen file's size, posture and cuts."""

    def build_room(self, file: PrintFile) -> tuple[float, float, float]:
        """Width, depth and height in mm of the room of its machine."""
        return room_of(printer_of(self.session.project, file))

    def members(self, file: PrintFile) -> tuple[str, ...]:
        """The file and its family: they keep one factor."""
        return tuple(f.id for f in self.session.project.prints if f.id == file.id or (file.family and f.family == file.family))

    def scale(self, value: float) -> None:
        """Print the chosen file, and its family, at this percentage."""
        file = self.file
        if file is not None:
            label = f"Print {file.family or file.name} at {digits(value, 1)} %"
            self.session.do(ScaleFiles(label, self.members(file), value))

    def to_height(self, mm: float) -> None:
        """Print it this tall."""
        file = self.file
        if file is not None:
            self.scale(factor_for_height(file.size[2] * file.stretch[2], mm))

    def stretch(self, value: tuple[float, float, float]) -> None:
        """Multiply its axes by these."""
        file = self.file
        if file is not None:
            self.session.do(ScaleFiles(f"Stretch {file.name}", (file.id,), file.percent, value))

    def to_house(self) -> None:
        """Bring it to the house scale."""
        file = self.file
        factor = self.house_factor()
        if file is not None and factor is not None:
            self.scale(file.percent * factor)

    def house_factor(self) -> float | None:
        """What brings the piece of the chosen file to the house scale, where its scale is known."""
        file, known = self.file, self.session.results[READINGS]
        if file is None or known is None:
            return None
        mine = (p for p in self.session.project.pieces if shape_of(self.session.project, file) is p.shape)
        reading = next((known[p.id] for p in mine if p.id in known), None)
        return reading.factor if reading is not None else None

    def suggest_posture(self) -> None:
        """Lay it down with the least to support."""
        file = self.file
        shape = shape_of(self.session.project, file) if file else None
        if file is None or shape is None:
            self.session.said.emit("The piece of this file is not on the shelf any more; bring the file again.")
            return
        process = str(printer_of(self.session.project, file)["process"])
        best = postures(np.array(shape.points) * file.printed, np.array(shape.faces), process, self.build_room(file), file.seen)[0]
        label = f"Lay {file.name} down"
        self.session.do(
            put(PRINTS.at(file.id).then(lambda f: f.up), best.up, label),
            put(PRINTS.at(file.id).then(lambda f: f.tilt_deg), best.tilt_deg, label),
            label=label,
        )
        self.session.said.emit(f"It lies {best.words}.")

    def suggest_cuts(self) -> None:
        """Cut it so that each part goes on the machine, where the seams are short."""
        file = self.file
        if file is None:
            return
        try:
            planned = plan_cuts(file.printed, self.build_room(file), file.up, file.tilt_deg, file.keyed)
        except BodyError as error:
            self.session.said.emit(str(error))
            return
        if not planned:
            self.session.said.emit("It goes on the machine whole: no cut is needed.")
        cuts = tuple(Cut(id=f"cut-{k + 1}", axis=a, at=at) for k, (a, at) in enumerate(planned))
        data = self.session.document.assets.get(file.asset)

        def put_cuts(found: tuple[Cut, ...]) -> None:
            self.session.do(put(PRINTS.at(file.id).then(lambda f: f.cuts), found, f"Cuts: {file.name}"))

        def sought(report: Report) -> None:
            put_cuts(report.found if report.good else cuts)

        if not cuts or data is None or not self.session.results.errands.ask(SEEK, (data, file, cuts, self.build_room(file)), sought):
            put_cuts(cuts)

    def largest(self) -> None:
        """Print it as large as it goes, whole."""
        file = self.file
        if file is not None:
            most = largest_percent(file, self.build_room(file))
            self.scale(float(int(most * 10)) / 10)

    def ask_and_follow(self) -> None:
        """Bring the file to the inside of another one: its sizes less the wall and the air on both sides."""
        file = self.file
        others = [f for f in self.session.project.prints if file is not None and f.id != file.id]
        if file is None or not others:
            self.session.said.emit("There is no other file that it could fit inside.")
            return
        name = ask_which(self.parent, "To fit inside", f"{file.name} goes inside", [f.name for f in others])
        if name is not None:
            self.follow_inside(next(f for f in others if f.name == name))

    def follow_inside(self, outer: PrintFile) -> None:
        """Scale the chosen file to the inside of ``outer``."""
        file = self.file
        row = printer_of(self.session.project, outer)
        wall = outer.hollow_mm or float(row["min_wall"])
        air = float(table("fits")["process"][row["process"]]["least"])
        if file is None:
            return
        try:
            times, apart = follower_times(outer.printed, file.size, wall, air)
        except NoRoom as error:
            self.session.said.emit(f"It does not go inside {outer.name}: {error}.")
            return
        least = min(times)
        label = f"Fit {file.name} inside {outer.name}"
        stretch = (times[0] / least, times[1] / least, times[2] / least)
        if self.session.do(ScaleFiles(label, (file.id,), least * 100, stretch)):
            self.session.said.emit(f"{label}: wall {show_mm(wall)}, {digits(air, 2)} mm of air a side, axes {percent(apart)} apart.")
