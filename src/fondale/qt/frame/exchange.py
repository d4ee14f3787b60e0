# SPDX-License-Identifier: MIT
"""What goes to other programs and comes from them: the scene, its drawings, floor plans."""

from pathlib import Path

from PySide6.QtWidgets import QApplication, QFileDialog, QWidget

from fondale.app.errands import EXPORT, FLOOR, PASTE, PlanImport
from fondale.app.workers import Report
from fondale.core.edits.floor_plans import walls_from
from fondale.core.edits.pasting import NOTHING, copied, pasted
from fondale.core.lengths import LengthError
from fondale.core.model import PIECES
from fondale.core.stage.drawn import View
from fondale.core.stage.sections import Plane, parse_plane
from fondale.core.words import digits, show_scale
from fondale.qt.furniture.dialogs import ask, ask_which, warn, write_file
from fondale.qt.session import Session
from fondale.storage.files import to_json
from fondale.storage.limits import CLIPBOARD_LETTERS

KINDS = {
    "Scene (*.glb)": (".glb", "plan"), "Scene (*.obj)": (".obj", "plan"),
    "Plan (*.svg)": (".svg", "plan"), "Plan (*.dxf)": (".dxf", "plan"),
    "Section, hatched (*.svg)": (".svg", "section"), "Section, hatched (*.dxf)": (".dxf", "section"),
    "Silhouette from the side (*.svg)": (".svg", "silhouette"), "Silhouette from the side (*.dxf)": (".dxf", "silhouette"),
}  # fmt: skip
UNITS = {"millimetres": "mm", "centimetres": "cm", "decimetres": "dm", "metres": "m", "inches": "in", "feet": "ft"}
BUSY = "That is still being done; try again in a moment."


class Exchange:
    """Asks for files, and leaves the work to the background."""

    def __init__(self, window: QWidget, session: Session) -> None:
        self.window, self._session = window, session

    def export(self) -> None:
        """Ask what to write and where."""
        name, kind = QFileDialog.getSaveFileName(self.window, "Write the scene", "scene.glb", ";;".join(KINDS))
        if name:
            ending, view = KINDS.get(kind, (Path(name).suffix.lower(), "plan"))
            path = Path(name)
            path = path if path.suffix.lower() == ending else path.with_name(path.name + ending)
            if view == "section":
                self.cut(path)
            else:
                self.write(path, "silhouette" if view == "silhouette" else "plan")

    def cut(self, path: Path) -> None:
        """Ask for the plane of a section, and write it; the middle of the chosen piece is proposed."""
        session = self._session
        piece = session.project.find(PIECES, session.chosen(PIECES))
        place = piece.place if piece is not None else None
        now = f"x {digits(place.x if place is not None else session.project.case.width / 2, 0)}"
        text = ask(
            self.window, "Section", "Where is it cut? x from the left, y from the front, z from the floor: x 210, y 130 mm, z 40", now
        )
        if text is None:
            return
        try:
            self.write(path, parse_plane(text))
        except LengthError as error:
            session.said.emit(str(error))

    def write(self, path: Path, view: View | Plane = "plan") -> None:
        """Write the scene, or a drawing of it, as the ending of the file says."""

        def done(report: Report) -> None:
            for ending, data in report.found.items() if report.good else ():
                write_file(self.window, self._session, path if ending == path.suffix.lower() else path.with_suffix(ending), data)

        if not self._session.results.errands.ask(EXPORT, (self._session.project, path.suffix.lower(), view, path.stem), done):
            self._session.said.emit(BUSY)

    def copy(self) -> None:
        """Put the chosen piece on the clipboard, with what belongs to it."""
        session = self._session
        piece = session.project.find(PIECES, session.chosen(PIECES))
        made = session.make(copied, piece.id) if piece is not None else None
        if made is not None and piece is not None:
            QApplication.clipboard().setText(to_json(made))
            session.said.emit(f"{piece.name} is copied; Ctrl+V adds it to this project, or to another.")

    def paste(self) -> None:
        """Add the piece that is on the clipboard, as one step of undo."""
        text = QApplication.clipboard().text()
        if not 0 < len(text) < CLIPBOARD_LETTERS:
            self._session.said.emit(NOTHING)
        elif not self._session.results.errands.ask(PASTE, (text,), self._pasted):
            self._session.said.emit(BUSY)

    def _pasted(self, report: Report) -> None:
        session = self._session
        if not report.good or isinstance(report.found, str):
            session.said.emit(report.found if report.good else NOTHING)
            return
        made = session.make(pasted, report.found)
        if made is not None and session.do(*made[0], label=made[0][0].label):
            session.select(PIECES, made[1])

    def bring(self) -> None:
        """Ask for a floor plan."""
        name, _filter = QFileDialog.getOpenFileName(self.window, "Bring a floor plan", "", "Floor plans (*.svg *.dxf)")
        if name:
            self.read(Path(name))

    def read(self, path: Path, unit: str = "") -> None:
        """Read a floor plan; its lines become walls as one step of undo."""
        if not self._session.results.errands.ask(FLOOR, (str(path), unit), self._brought):
            self._session.said.emit(BUSY)

    def _brought(self, report: Report) -> None:
        if not report.good:
            return
        found: PlanImport = report.found
        if found.plan is None:
            warn(self.window, "It cannot be read", found.trouble)
            return
        if found.plan.asks_unit:
            unit = ask_which(self.window, "Bring a floor plan", "The drawing states no unit. What are its numbers?", list(UNITS))
            if unit is not None:
                self.read(Path(found.path), UNITS[unit])
            return
        house = self._session.project.brief.house_n
        sizes = {"as the model will be": 1.0, f"as it is in life: bring it to {show_scale(house)}": 1 / house}
        size = ask_which(self.window, "Bring a floor plan", "How large is it drawn?", list(sizes))
        if size is None:
            self._session.said.emit("Nothing was brought.")
            return
        edit = self._session.make(walls_from, found.plan.lines, sizes[size])
        if edit is not None and self._session.do(edit):
            count = len(edit.edits)
            left = f" {found.plan.left_out[0].upper()}{found.plan.left_out[1:]}: walls are straight lines." if found.plan.left_out else ""
            self._session.said.emit(f"{count} {'wall stands' if count == 1 else 'walls stand'} on the stage.{left}")
