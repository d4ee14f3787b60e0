# SPDX-License-Identifier: MIT
"""Opening, saving, leaving and printing: the dialogs around the document."""

import itertools
import os
import sys
import time
from collections.abc import Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from datetime import datetime
from pathlib import Path
from typing import Any

from PySide6.QtCore import QEventLoop, QProcess, QTimer
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from fondale import __version__
from fondale.app.actions import DEEDS
from fondale.app.apart import opened_apart
from fondale.app.document import Document
from fondale.app.workers import processes
from fondale.core.edits import new_project
from fondale.core.edits.steps import StopTimer
from fondale.core.spreadsheets import PLAIN, Signs
from fondale.core.words import day_words, digits
from fondale.demo import SAMPLES, sample_assets
from fondale.qt.frame.keeping import Keeper, LeftBehind
from fondale.qt.frame.taking import Taking
from fondale.qt.furniture.dialogs import Buttons, choose, inform, question, signs_of, warn
from fondale.qt.session import Session
from fondale.storage import (
    FileChanged,
    FileReadOnly,
    FileTrouble,
    Left,
    Recovery,
    Rescued,
    Saved,
    disk_words,
    known_as,
    left_behind,
    put_file,
    save,
    used_assets,
)

CLOCK_S = 120.0  # by so much a file may be ahead of the clock: disks of other machines have clocks of their own
FILTER = "Fondale projects (*.fondale)"
SHEETS = ("PDF, tables with points and commas (*.pdf)", "PDF, tables with the signs of this desktop (*.pdf)")
FIRST = (
    "1. Bench: choose a figure, take its height with the caliper, and read its true scale.\n"
    "2. Stage: drag it in the plan, and see the view from each seat follow.\n"
    "3. Lamps: change a lamp’s level, and read the lux at the meters.\n"
    "4. Coats: mend an order conflict from the prompt corner, and see the date move.\n"
    "5. Any number with a dotted underline tells how it was found: click it, or press F1 on it."
)


class Projects:
    """Keeps unsaved work safe, and asks before it is lost. What windows keep for a crash lies below ``state``."""

    def __init__(self, session: Session, state: Path) -> None:
        self._session = session
        self._state = state
        self.taking = Taking(session)
        self.window: QWidget | None = None
        # Files are written beside the window's own thread: a large mesh takes the disk longer than a blink.
        self._writer = ThreadPoolExecutor(1, "fondale-writer")
        self.recovery = Recovery(state / f"{os.getpid()}-{time.time_ns():x}")
        self.keeper = Keeper(session, self.recovery, self._writer, self.taking.typing)
        self._saving = False

    def keep_now(self) -> None:
        """Write unsaved work down, what can be taken of what is being typed with it, before anything else."""
        self.taking.take()
        self.wait()
        self.keeper.keep()
        self.wait()

    def wait(self) -> None:
        """Until all that was asked for has been written."""
        self._writer.submit(lambda: None).result()

    def close(self) -> None:
        """Write what is still to be written, and nothing after that."""
        self.keeper.close()
        self._writer.shutdown()

    def offer_left(self) -> bool:
        """Offer what windows that did not end well left unsaved; False where there is nothing."""
        left = self._waited(self._writer.submit(left_behind, self._state))
        if left:
            LeftBehind(left, self.recover, self.window).exec()
        return bool(left)

    def unsaved(self) -> None:
        """The same because the maker asks for it."""
        if not self.offer_left():
            self._session.said.emit("No window has left anything unsaved.")

    def recover(self, left: Left) -> bool:
        """Open what a window left unsaved, and take it into this one's care."""
        try:
            found = self._waited(self._writer.submit(left.recovery.found))
        except FileTrouble as error:
            warn(self.window, "It cannot be opened", str(error))
            return False
        if found is None or not self.may_leave():
            return False
        project, path = found
        rescued: Rescued = self._waited(self._writer.submit(left.recovery.read, path))
        document = Document(project, path, rescued.assets)
        document.stamp = left.recovery.stamp()
        stopped = _stopped(document, left.when)
        self._session.open(document)
        document.mark_unsaved()
        self._waited(self._writer.submit(self.keeper.take_over, left, project, path, rescued))
        self._session.said.emit(
            f"Fondale did not end well last time. This is what it had written down; save it to keep it.{_again(rescued.again)}{_gone(rescued.lost)}{stopped}"
        )
        return True

    def may_leave(self) -> bool:
        """Whether the document may be left: saved, or let go on purpose."""
        untaken = self.taking.take()
        if not self._session.document.modified and not untaken:
            return True
        if not self._session.document.modified:
            return question(self.window, "Not taken", f"{untaken} Let it go?") == Buttons.Yes
        words = f"“{self._session.project.name}” has changes that are not saved. {untaken}".strip()
        answer = question(self.window, "Not saved", words, Buttons.Save | Buttons.Discard | Buttons.Cancel)
        if answer == Buttons.Save:
            return self.save()
        if answer == Buttons.Discard:
            self.keeper.forget()
            return True
        return False

    def new(self) -> None:
        """An empty project."""
        if self.may_leave():
            self._session.open(Document(new_project("New piece", self._session.results.look.today)))

    def open(self) -> None:
        """Ask for a file and open it."""
        if self.may_leave():
            name, _filter = QFileDialog.getOpenFileName(self.window, "Open a project", "", FILTER)
            if name:
                self.open_path(Path(name))

    def open_path(self, path: Path) -> bool:
        """Open a file; trouble is told and the present project stays."""
        document = self._opened(path)
        if document is None:
            return False
        self._session.open(document)
        self._session.settings.opened(path)
        self.tell_notes()
        return True

    def _opened(self, path: Path) -> Document | None:
        """The document of a file; trouble is told."""
        try:
            document: Document = self._waited(self._writer.submit(opened_apart, path, processes()))
        except FileTrouble as error:
            warn(self.window, "It cannot be opened", str(error))
            return None
        return document

    def tell_notes(self) -> None:
        """Say what is odd about the file that is open: what had to be mended in it, a timer that ran, a clock that was set back."""
        document, said = self._session.document, ""
        if document.notes:
            said = f"Mended on opening: {'; '.join(document.notes)}. The file itself is as it was until you save."
        if document.stamp is not None:
            written = datetime.fromtimestamp(document.stamp.changed_ns / 1e9)
            said += _stopped(document, written)
            if (written - datetime.now()).total_seconds() > CLOCK_S:
                said += f" {document.path.name if document.path else 'The file'} was written on {day_words(written.date())} at {written:%H:%M}, which is still to come: this machine’s clock was set back. Days and drying times go by it."
        if said:
            self._session.said.emit(said.strip())

    def open_sample(self, name: str) -> None:
        """Open one of the samples."""
        if self.may_leave():
            self._session.open(Document(SAMPLES[name](self._session.results.look.today), assets=sample_assets(name)))

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

    def save_to(self, path: Path, force: bool = False) -> bool:
        """Save to a file, with ``force`` also over one that may only be read; trouble is told and nothing is lost."""
        if self._saving:
            self._session.said.emit("It is still being saved.")
            return False
        document = self._session.document
        snapshot = document.project
        self._saving = True
        try:
            used = used_assets(snapshot, document.assets)
            made: Saved = self._waited(self._writer.submit(save, snapshot, path, used, document.expected(path), document.path, force))
        except FileChanged as error:
            self._saving = False
            return self._changed_there(path, str(error))
        except FileReadOnly as error:
            self._saving = False
            answer = question(self.window, "May only be read", f"{error} Write over it all the same? It stays one that may only be read.")
            return answer == Buttons.Yes and self.save_to(path, force=True)
        except FileTrouble as error:
            warn(self.window, "It could not be saved", str(error))
            return False
        finally:
            self._saving = False
        document.saved(snapshot, path, made)
        self._session.settings.opened(path)
        if not document.modified:
            self.keeper.forget()
        self._session.said.emit(f"Saved to {path.name}.{_again(made.again)}{_gone(made.lost)}")
        return True

    def _changed_there(self, path: Path, words: str) -> bool:
        """The file is another one than was opened: the maker chooses; nothing is written over."""
        ways = mine, theirs, both = "Keep mine beside it", "Take theirs", "Look at both"
        chosen = choose(self.window, "Written by another", f"{words} What now?", ways)
        if chosen == mine:
            beside = (path.with_name(f"{path.stem}-mine{'' if k == 1 else f'-{k}'}{path.suffix}") for k in itertools.count(1))
            return self.save_to(next(b for b in beside if not b.exists()))
        if chosen == theirs:
            return self._take_theirs(path)
        if chosen == both and not QProcess.startDetached(sys.executable, ["-m", "fondale", "open", "--tell", str(path)])[0]:
            self._session.said.emit("Another window could not be started.")
        return False

    def _take_theirs(self, path: Path) -> bool:
        """What lies in the file takes the place of what is open; undo brings mine back."""
        theirs = self._opened(path)
        if theirs is None:
            return False
        self._session.document.take(theirs)
        self._session.said.emit("This is the file as it lies there now; undo brings yours back.")
        return True

    @staticmethod
    def _waited(future: "Future[Any]") -> Any:
        """What comes of work with a file, with the window alive meanwhile. Raises what went wrong."""
        if not future.done():
            loop, poll = QEventLoop(), QTimer()
            poll.timeout.connect(lambda: loop.quit() if future.done() else None)
            poll.start(10)
            loop.exec()
            poll.stop()
        return future.result()

    def print_sheet(self) -> None:
        """Ask where, and write the build sheet with the numbers on the screens."""
        results = self._session.results
        if not results.settled:
            results.refresh()
            self._session.said.emit("The running order is still being worked out; try again in a moment.")
            return
        name, kind = QFileDialog.getSaveFileName(self.window, "Print the build sheet", "build-sheet.pdf", ";;".join(SHEETS))
        if name:
            self.write_sheet(Path(name), signs_of(kind))

    def write_sheet(self, path: Path, signs: Signs = PLAIN) -> bool:
        """Write the build sheet and, beside it, the calendar and the lists."""
        from fondale.papers import all_papers  # loads the PDF library

        results = self._session.results
        papers = self._waited(self._writer.submit(all_papers, results.derived, results.look.today, datetime.now().astimezone(), signs))
        try:
            put_file(path, papers["build-sheet.pdf"])
            for other in papers.keys() - {"build-sheet.pdf"}:
                put_file(path.with_name(f"{path.stem}-{other}"), papers[other])
        except OSError as error:
            warn(self.window, "It could not be written", f"{path.name}: {disk_words(error)}.")
            return False
        calendar = " the calendar and" if "running-order.ics" in papers else ""
        self._session.said.emit(f"Wrote {path.name},{calendar} the lists.")
        return True

    def first_minutes(self) -> None:
        """The first five minutes."""
        inform(self.window, "First five minutes", FIRST)

    def keys(self) -> None:
        """All keys."""
        words = "\n".join(f"{d.key}: {d.words}" for d in DEEDS if d.key)
        more = "\nArrows: move the chosen piece in plan and section (Shift: 10 mm)\nF1 on a number: how it was found\nEscape in a field: as it was"
        inform(self.window, "Keys", words + more)

    def about(self) -> None:
        """What this is."""
        words = f"Fondale {__version__}\nPlans miniature dioramas: scale, sight lines, light, wiring, paint and time.\nMIT licence. Type: IBM Plex Sans and Fraunces, SIL Open Font License."
        QMessageBox.about(self.window, "About Fondale", words)


def _stopped(document: Document, written: datetime) -> str:
    """Stop a timer that ran when a document was last written; in words with a blank before them."""
    since = document.project.tonight.since
    if since is None:
        return ""
    minutes = max(0.0, (written - since).total_seconds() / 60)
    document.do(StopTimer("Stop the timer", minutes))
    return f" The timer ran when this was written last; its {digits(minutes, 0)} min until then are on tonight’s page."


def _again(found: Sequence[tuple[str, Path]]) -> str:
    """What was found again, in words with a blank before them."""
    by_file: dict[Path, list[str]] = {}
    for name, path in found:
        by_file.setdefault(path, []).append(known_as(name))
    return "".join(f" {', '.join(names)} came out of {path.name}." for path, names in by_file.items())


def _gone(lost: Sequence[str]) -> str:
    names = ", ".join(map(known_as, lost))
    return f" Missing, and to be read nowhere: {names}. A backup that has anything of that stays." if names else ""
