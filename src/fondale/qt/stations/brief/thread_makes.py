# SPDX-License-Identifier: MIT
"""What is made of a thread, alone or with another one: a part, a need, an opening in a wall."""

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fondale.core.derived import PHOTO_READINGS
from fondale.core.edits.threads import Read, need_of_threads, opening_of_threads, part_of_threads
from fondale.core.model import NEEDS, PIECES, Photo, Thread
from fondale.core.model.shapes import Room, Wall
from fondale.core.photo.reading import ThreadReading
from fondale.core.words import show_mm, show_real, show_scale
from fondale.qt.furniture.fields import Choice
from fondale.qt.furniture.rows import action
from fondale.qt.session import Session

CAPTION = 64


class ThreadMakes(QWidget):
    """The choice of a second thread, and what the two, or the one, become. ``last`` is the row that its owner may add to."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._photo: Photo | None = None
        self._thread: Thread | None = None
        self._readings: dict[str, ThreadReading] = {}
        self._with = ""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.second = Choice("with", [], self._choose_second).caption_width(CAPTION)
        self.second.setToolTip("Two threads, one level and one upright, make one part, need or opening")
        self.opening = Choice("opening in", [], self._make_opening).caption_width(CAPTION)
        self.part = action("Make a part of this", self._make_part)
        self.need = action("Make a need of this", self._make_need)
        for widget in (self.second, self.opening, self.part):
            column.addWidget(widget)
        self.last = QHBoxLayout()
        self.last.addWidget(self.need)
        column.addLayout(self.last)

    def show_thread(self, photo: Photo | None, thread: Thread, readings: dict[str, ThreadReading]) -> None:
        """Offer what the chosen thread makes, alone or with another one."""
        self._photo, self._thread, self._readings = photo, thread, readings
        project = self.session.project
        others = [t for t in (photo.threads if photo else ()) if t is not thread and readings[t.id].real_mm is not None]
        readable = readings[thread.id].real_mm is not None
        self.second.set_options([("", "no other thread"), *((t.id, t.name) for t in others)])
        if self._with not in {t.id for t in others}:
            self._with = ""
        self.second.set_value(self._with)
        self.second.setVisible(readable and bool(others))
        reads, house = self.reads(), project.brief.house_n
        walls = [p for p in project.pieces if isinstance(p.shape, Wall | Room)]
        self.opening.setVisible(len(reads) == 2 and bool(walls))
        self.opening.set_options([("", "choose a wall"), *((p.id, p.name) for p in walls)])
        self.opening.set_value("")
        what = "these" if len(reads) == 2 else "this"
        sizes = " × ".join(show_mm(r.mm / house) for r in sorted(reads, key=lambda r: r.lean))
        self.part.setText(f"Make a part of {what}: {sizes} at {show_scale(house)}")
        self.need.setText(f"Make a need of {what}")
        self.part.setVisible(readable)
        self.need.setVisible(readable)

    def reads(self) -> list[Read]:
        """The chosen thread and the one that goes with it, as far as they can be read."""
        second = [t for t in (self._photo.threads if self._photo else ()) if t.id == self._with and t is not self._thread]
        two = [t for t in (self._thread, *second) if t is not None]
        return [Read(t, mm, self._readings[t.id].give_mm) for t in two if (mm := self._readings[t.id].real_mm) is not None]

    def _sure_reads(self) -> list[Read]:
        """What is made is made of lengths as they are now: until they are read nothing is."""
        if self.session.results.fresh(PHOTO_READINGS):
            return self.reads()
        self.session.said.emit("The threads are still being read. Make it in a moment.")
        return []

    def _choose_second(self, ident: str) -> None:
        self._with = ident
        if self._thread is not None:
            self.show_thread(self._photo, self._thread, self._readings)

    def _make_part(self) -> None:
        reads = self._sure_reads()
        if self._photo is not None and reads:
            made = self.session.make(part_of_threads, self._photo, *reads)
            if made is not None and self.session.do(made[0]):
                self.session.select(PIECES, made[1])
                house, part = self.session.project.brief.house_n, self.session.project.get(PIECES, made[1])
                sizes = ", ".join(f"{show_real(r.mm)} real = {show_mm(r.mm / house)}" for r in reads)
                self.session.said.emit(f"{part.name} is on the shelf: {sizes}. {part.note.partition(' real. ')[2]}")

    def _make_need(self) -> None:
        reads = self._sure_reads()
        if self._photo is not None and reads:
            made = self.session.make(need_of_threads, self._photo, *reads)
            if made is not None and self.session.do(made[0]):
                self.session.select(NEEDS, made[1])
                self.session.said.emit(f"{self.session.project.get(NEEDS, made[1]).name} is among the needs of the bits box.")

    def _make_opening(self, piece: str) -> None:
        reads = self._sure_reads() if piece else []
        if len(reads) == 2 and piece:
            made = self.session.make(opening_of_threads, piece, *reads)
            if made is not None and self.session.do(made):
                self.session.said.emit(f"It is cut into the middle of {self.session.project.get(PIECES, piece).name}; move it on Stage.")
        self.opening.set_value("")
