"""Opening, saving, leaving and printing: the dialogs around the document."""

from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from fondale import __version__
from fondale.app.document import Document
from fondale.core.derive import Derived
from fondale.core.edits import new_project
from fondale.demo import SAMPLES
from fondale.qt.frame.actions import DEEDS
from fondale.qt.session import Session
from fondale.storage import FileTrouble, Recovery

FILTER = "Fondale projects (*.fondale)"
AUTOSAVE_MS = 2000
FIRST = (
    "1. Bench: choose a figure, take its height with the caliper, and read its true scale.\n"
    "2. Stage: drag it in the plan, and see the view from each seat follow.\n"
    "3. Lamps: change a lamp’s level, and read the lux at the meters.\n"
    "4. Coats: mend an order conflict from the prompt corner, and see the date move.\n"
    "5. Any number with a dotted underline tells how it was found: click it, or press F1 on it."
)


class Projects:
    """Keeps unsaved work safe, and asks before it is lost."""

    def __init__(self, session: Session, recovery: Recovery) -> None:
        self._session = session
        self._recovery = recovery
        self.window: QWidget | None = None
        self._autosave = QTimer()
        self._autosave.setSingleShot(True)
        self._autosave.setInterval(AUTOSAVE_MS)
        self._autosave.timeout.connect(self.keep)
        session.project_changed.connect(self._autosave.start)

    def keep(self) -> None:
        """Write unsaved work down for recovery; a saved project leaves nothing behind."""
        document = self._session.document
        if document.modified:
            self._recovery.keep(document.project, document.path)
        else:
            self._recovery.drop()

    def recover(self, left: Recovery | None) -> bool:
        """Open what an earlier window left unsaved, if there is anything, and take it into this one's care."""
        found = left.found() if left is not None else None
        if left is None or found is None:
            return False
        project, path = found
        document = Document(project, path)
        self._session.open(document)
        document.mark_unsaved()
        if self._recovery.keep(project, path):
            left.drop()
        self._session.said.emit("Fondale did not end well last time. This is what it had written down; save it to keep it.")
        return True

    def may_leave(self) -> bool:
        """Whether the document may be left: saved, or let go on purpose."""
        if not self._session.document.modified:
            return True
        answer = QMessageBox.question(
            self.window, "Not saved", f"“{self._session.project.name}” has changes that are not saved.",
            QMessageBox.StandardButton.Save | QMessageBox.StandardButton.Discard | QMessageBox.StandardButton.Cancel,
        )  # fmt: skip
        if answer == QMessageBox.StandardButton.Save:
            return self.save()
        if answer == QMessageBox.StandardButton.Discard:
            self._recovery.drop()
            return True
        return False

    def new(self) -> None:
        """An empty project."""
        if self.may_leave():
            self._session.open(Document(new_project("New piece", self._session.results.today)))

    def open(self) -> None:
        """Ask for a file and open it."""
        if self.may_leave():
            name, _filter = QFileDialog.getOpenFileName(self.window, "Open a project", "", FILTER)
            if name:
                self.open_path(Path(name))

    def open_path(self, path: Path) -> bool:
        """Open a file; trouble is told and the present project stays."""
        try:
            document = Document.opened(path)
        except FileTrouble as error:
            QMessageBox.warning(self.window, "It cannot be opened", str(error))
            return False
        self._session.open(document)
        self._session.settings.opened(path)
        return True

    def open_sample(self, name: str) -> None:
        """Open one of the samples."""
        if self.may_leave():
            self._session.open(Document(SAMPLES[name](self._session.results.today)))

    def save(self) -> bool:
        """Save where it came from, or ask where."""
        path = self._session.document.path
        return self.save_to(path) if path else self.save_as()

    def save_as(self) -> bool:
        """Ask where, and save."""
        name, _filter = QFileDialog.getSaveFileName(self.window, "Save the project", f"{self._session.project.id}.fondale", FILTER)
        if not name:
            return False
        return self.save_to(Path(name) if name.endswith(".fondale") else Path(f"{name}.fondale"))

    def save_to(self, path: Path) -> bool:
        """Save to a file; trouble is told and nothing is lost."""
        try:
            self._session.document.save(path)
        except FileTrouble as error:
            QMessageBox.warning(self.window, "It could not be saved", str(error))
            return False
        self._session.settings.opened(path)
        self._recovery.drop()
        self._session.said.emit(f"Saved to {path.name}.")
        return True

    def print_sheet(self) -> None:
        """Ask where, and write the build sheet with the numbers on the screens."""
        results = self._session.results
        if results.quick is None or results.plan is None:
            self._session.said.emit("The running order is still being worked out; try again in a moment.")
            return
        name, _filter = QFileDialog.getSaveFileName(self.window, "Print the build sheet", "build-sheet.pdf", "PDF (*.pdf)")
        if name:
            self.write_sheet(Path(name))

    def write_sheet(self, path: Path) -> bool:
        """Write the build sheet and, beside it, the calendar and the piece list."""
        from fondale.papers import all_papers  # loads the PDF library

        results = self._session.results
        assert results.quick is not None
        derived = Derived(results.quick, results.plan, results.light)
        papers = all_papers(self._session.project, derived, results.today, datetime.now().astimezone())
        try:
            path.write_bytes(papers["build-sheet.pdf"])
            for other in ("running-order.ics", "pieces.csv"):
                if other in papers:
                    path.with_name(f"{path.stem}-{other}").write_bytes(papers[other])
        except OSError as error:
            QMessageBox.warning(self.window, "It could not be written", f"{path.name}: {error.strerror or error}.")
            return False
        self._session.said.emit(f"Wrote {path.name}, the calendar and the piece list.")
        return True

    def first_minutes(self) -> None:
        """The first five minutes."""
        QMessageBox.information(self.window, "First five minutes", FIRST)

    def keys(self) -> None:
        """All keys."""
        words = "\n".join(f"{d.key}: {d.words}" for d in DEEDS if d.key)
        more = "\nArrows: move the chosen piece in plan and section (Shift: 10 mm)\nF1 on a number: how it was found\nEscape in a field: as it was"
        QMessageBox.information(self.window, "Keys", words + more)

    def about(self) -> None:
        """What this is."""
        words = f"Fondale {__version__}\nPlans miniature dioramas: scale, sight lines, light, wiring, paint and time.\nMIT licence. Type: IBM Plex Sans and Fraunces, SIL Open Font License."
        QMessageBox.about(self.window, "About Fondale", words)
