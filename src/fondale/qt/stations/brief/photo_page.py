# SPDX-License-Identifier: MIT
"""Reference photographs: threads read as real lengths and at the house scale, and made into parts and needs."""

from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QButtonGroup, QFileDialog, QHBoxLayout, QPushButton, QVBoxLayout

from fondale.app.errands import PHOTO, PhotoImport
from fondale.app.workers import Report
from fondale.core.derived import PHOTO_READINGS
from fondale.core.edits import Remove, put
from fondale.core.edits.boxes import add_photo, add_thread, drop_thread
from fondale.core.lengths import parse_known
from fondale.core.model import PHOTOS, Frame, Horizon, Photo, Thread
from fondale.core.photo.cameras import SHORTEST
from fondale.core.photo.reading import ThreadReading, assumed_words, reading_told, show_known, wall_angles
from fondale.core.words import digits, show_real
from fondale.qt.furniture.cells import Cells
from fondale.qt.furniture.columns import Columns
from fondale.qt.furniture.dialogs import warn
from fondale.qt.furniture.fields import Choice, Field, number, words
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Line, Prose
from fondale.qt.furniture.rows import action, line_of, pick
from fondale.qt.session import Session
from fondale.qt.stations.brief.photo_pictures import PhotoPictures
from fondale.qt.stations.brief.photo_view import ROLE, Grip, PhotoView
from fondale.qt.stations.brief.thread_makes import ThreadMakes

PICTURES = "Photographs (*.png *.jpg *.jpeg *.webp *.tif *.tiff)"
TOOLS = (("plane", "plane"), ("wall", "wall"), ("ground", "ground"), ("upright", "upright"), ("frame", "frame"), ("horizon", "horizon"), ("hand", "hand"))  # fmt: skip
LIES = (
    ("plane", "a plane square to the view"),
    ("wall", "the wall in the frame"),
    ("ground", "stands on the ground"),
    ("upright", "only shows what is upright"),
)
CAPTION = 64
T = TypeVar("T")

UNREAD = ThreadReading(None, 0.0, "", "")


class ThreadCells(Cells):
    """Every thread with its length."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Threads", 260, 44, "No threads yet. Drag over something of known length.", across=1)
        self.readings: dict[str, ThreadReading] = {}

    def words(self, thing: Any) -> str:
        reading = self.readings.get(thing.id)
        return f"{thing.name}: {reading.words(self._session.project.brief.house_n) if reading else ''}"

    def draw(self, p: QPainter, box: QRectF, thing: Any, chosen: bool) -> None:
        reading = self.readings.get(thing.id)
        p.fillRect(QRectF(box.left(), box.top(), 4, box.height()), self._session.theme.color(ROLE[thing.on]))
        inner = box.adjusted(4, 0, 0, 0)
        known = " (known)" if thing.known_mm is not None else ""
        self.line(p, inner, 1, thing.name + known, weight=600)
        bad = reading is not None and (reading.real_mm is None or (reading.off is not None and abs(reading.off) > 0.05))
        said = reading.words(self._session.project.brief.house_n) if reading else ""
        self.line(p, inner, 0, said, "lamp" if bad else "soft", size=11)


class PhotoPage(Page):
    """The picture with its tools on the left; threads, the chosen one's values and what to make of it on the right."""

    title = "Photographs"
    shows = (PHOTOS,)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._pictures = PhotoPictures(session)
        self._thread = ""
        left = QVBoxLayout()
        left.setSpacing(4)
        bar = QHBoxLayout()
        bar.setSpacing(2)
        bar.addWidget(Line("", "thread on the"))
        self._group = QButtonGroup(self)
        self.tools: dict[str, QPushButton] = {}
        for key, text in TOOLS:
            self.tools[key] = pick(text, lambda _c=False, k=key: self._take_tool(k), self._group)
            if key == "frame":
                bar.addWidget(Line("", " or the "))
            bar.addWidget(self.tools[key])
        bar.addStretch(1)
        left.addLayout(bar)
        self.view = PhotoView(session)
        self.view.chosen.connect(self._choose)
        self.view.stretched.connect(self._stretch)
        self.view.framed.connect(self._set_frame)
        self.view.levelled.connect(self._set_horizon)
        self.view.moved.connect(self._move)
        self.view.released.connect(session.end_drag)
        self.view.dropped.connect(self._drop)
        left.addWidget(self.view, 1)
        self._hint = Prose("soft")
        left.addWidget(self._hint)
        self.lay_out(Columns(16, (left, 5), (self._side(), 3)))
        self.tools["plane"].setChecked(True)

    def _side(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(4)
        line = QHBoxLayout()
        self.which = Choice("", [], lambda i: self.session.select(PHOTOS, i))
        line.addWidget(self.which, 1)
        line.addWidget(action("Bring…", self._bring, "PNG, JPEG, WebP or TIFF"))
        column.addLayout(line)
        self.called = Field("called", words(1, 120), str, self.setter(PHOTOS, lambda f: f.name, "Rename")).caption_width(CAPTION)
        column.addWidget(self.called)
        self.cells = ThreadCells(self.session)
        self.cells.chosen.connect(self._choose)
        column.addWidget(self.cells.framed(), 1)

        def real(text: str) -> tuple[float, float]:
            return parse_known(text, self.session.project.brief.house_n) if text.strip() else (0.0, 0.0)

        def maybe(text: str) -> tuple[float, float] | None:
            return real(text) if text.strip() else None

        def shown(value: tuple[float, float] | None) -> str:
            return show_known(*value) if value and value[0] else ""

        self.name = Field("thread", words(1, 120), str, self._thread_setter(lambda t: t.name, "Rename")).caption_width(CAPTION)
        self.on = Choice("lies on", list(LIES), self._thread_setter(lambda t: t.on, "What it lies on")).caption_width(CAPTION)
        self.known = Field("known as", maybe, shown, self._set_known).caption_width(CAPTION)
        self.known.edit.setPlaceholderText("not known; 2.03 ± 0.05 m, 1.7-1.8 m, a man")
        self.wide = Field("frame", real, shown, lambda v: self._put_side("width", v), 104).caption_width(CAPTION)
        self.high = Field("by", real, shown, lambda v: self._put_side("height", v), 104)
        for side, tip in ((self.wide, "wide"), (self.high, "high")):
            side.edit.setPlaceholderText(f"how {tip}?")
        self.lens = Field(
            "lens",
            lambda t: number(SHORTEST, 2000, "mm")(t) if t.strip() else 0.0,
            lambda v: f"{digits(v, 0)} mm" if v else "",
            self._set_lens,
            104,
        ).caption_width(CAPTION)
        self.lens.edit.setPlaceholderText("not known")
        self.lens.setToolTip("Focal length as the 35 mm equivalent, as cameras and telephones tell it")
        column.addWidget(self.lens)
        for field in (self.name, self.on, self.known):
            column.addWidget(field)
        frame = QHBoxLayout()
        frame.addWidget(self.wide)
        frame.addWidget(self.high)
        column.addLayout(frame)
        self.reading = HowButton()
        column.addLayout(line_of(self.reading))
        self._trouble = Prose("soft")
        column.addWidget(self._trouble)
        self._assumed = Prose("note")
        column.addWidget(self._assumed)
        self.makes = ThreadMakes(self.session)
        column.addWidget(self.makes)
        self.off = QPushButton("Take it off")
        self.off.clicked.connect(lambda: self._drop(self._thread))
        self.makes.last.addWidget(self.off)
        self.remove = QPushButton("Remove the photograph")
        self.remove.clicked.connect(self._remove)
        column.addWidget(self.remove)
        return column

    @property
    def photo(self) -> Photo | None:
        """The chosen photograph."""
        found = self.chosen(PHOTOS)
        return found if isinstance(found, Photo) else None

    @property
    def chosen_thread(self) -> Thread | None:
        """The chosen thread on it."""
        photo = self.photo
        if photo is None or not photo.threads:
            return None
        return next((t for t in photo.threads if t.id == self._thread), photo.threads[0])

    def _take_tool(self, tool: str) -> None:
        self.tools[tool].setChecked(True)
        self.view.tool = tool
        self.refresh()

    def _choose(self, ident: str) -> None:
        self._thread = ident
        self.refresh()

    def _set_horizon(self, left: float, right: float) -> None:
        photo = self.photo
        if photo is not None:
            self.session.do(
                put(
                    PHOTOS.at(photo.id).then(lambda p: p.horizon),
                    Horizon(left=left, right=right, hand_px=self.view.hand_px),
                    "Set the horizon",
                )
            )

    def _put_frame(self, get: Callable[[Frame], T], value: T, label: str, gesture: str = "") -> None:
        photo = self.photo
        if photo is not None:
            self.session.do(put(PHOTOS.at(photo.id).then(lambda p: p.frame).narrowed(Frame).then(get), value, label, gesture))

    def _put_thread(self, ident: str, get: Callable[[Thread], T], value: T, label: str, gesture: str = "") -> None:
        photo = self.photo
        if photo is not None:
            self.session.do(put(PHOTOS.at(photo.id).then(lambda p: p.threads).member(ident).then(get), value, label, gesture))

    def _thread_setter(self, get: Callable[[Thread], T], label: str) -> Callable[[T], None]:
        def set_it(value: T) -> None:
            thread = self.chosen_thread
            if thread is not None:
                self._put_thread(thread.id, get, value, f"{label}: {thread.name}")

        return set_it

    def _set_known(self, value: tuple[float, float] | None) -> None:
        photo, thread = self.photo, self.chosen_thread
        if photo is not None and thread is not None:
            real, give = value or (None, 0.0)
            spot = PHOTOS.at(photo.id).then(lambda p: p.threads).member(thread.id)
            self.session.do(put(spot, thread.but(known_mm=real, known_give_mm=give), f"Known length: {thread.name}"))

    def _put_side(self, side: str, value: tuple[float, float]) -> None:
        photo = self.photo
        if photo is not None and photo.frame is not None:
            frame = photo.frame.but(**{f"{side}_mm": value[0], f"{side}_give_mm": value[1]})
            self.session.do(put(PHOTOS.at(photo.id).then(lambda p: p.frame), frame, f"{side.capitalize()} of the frame"))

    def _set_lens(self, value: float) -> None:
        photo = self.photo
        if photo is not None:
            self.session.do(put(PHOTOS.at(photo.id).then(lambda p: p.f35_mm), value, f"Lens of {photo.name}"))

    def _stretch(self, a: tuple[float, float], b: tuple[float, float]) -> None:
        photo = self.photo
        if photo is not None:
            edit, ident = add_thread(photo, a, b, self.view.tool, self.view.hand_px)
            if self.session.do(edit):
                self._thread = ident
                self.refresh()
                self.name.edit.setFocus()
                self.name.edit.selectAll()

    def _set_frame(self, corners: tuple[tuple[float, float], ...]) -> None:
        photo = self.photo
        if photo is None:
            return
        frame = photo.frame.but(corners=corners) if photo.frame is not None else Frame(corners=corners)  # type: ignore[arg-type]
        frame = frame.but(hand_px=self.view.hand_px)
        if self.session.do(put(PHOTOS.at(photo.id).then(lambda p: p.frame), frame, "Set the frame of the wall")) and not frame.width_mm:
            self.refresh()
            self.wide.edit.setFocus()

    def _move(self, grip: Grip, to: tuple[float, float]) -> None:
        photo = self.photo
        if photo is None:
            return
        self.session.begin_drag()
        if grip.what == "thread":
            spot = PHOTOS.at(photo.id).then(lambda p: p.threads).member(grip.ident)
            thread = spot.find(self.session.project)
            if thread is not None:
                pulled = thread.but(**{grip.end: to}, hand_px=self.view.hand_px)
                self.session.do(put(spot, pulled, "Stretch a thread", f"thread {grip.ident} {grip.end}"))
        elif grip.what == "frame" and photo.frame is not None:
            corners = list(photo.frame.corners)
            corners[int(grip.end)] = to
            four = (corners[0], corners[1], corners[2], corners[3])
            moved = photo.frame.but(corners=four, hand_px=self.view.hand_px)
            self.session.do(put(PHOTOS.at(photo.id).then(lambda p: p.frame), moved, "Move a corner of the frame", f"corner {grip.end}"))
        elif grip.what == "horizon" and photo.horizon is not None:
            tilted = photo.horizon.but(**{grip.end: to[1]}, hand_px=self.view.hand_px)
            self.session.do(put(PHOTOS.at(photo.id).then(lambda p: p.horizon), tilted, "Tilt the horizon", f"horizon {grip.end}"))

    def _drop(self, ident: str) -> None:
        photo = self.photo
        if photo is not None and ident:
            self.session.do(drop_thread(photo, ident))

    def _remove(self) -> None:
        photo = self.photo
        if photo is not None:
            self.session.do(Remove(f"Remove {photo.name}", PHOTOS, photo.id))

    def _bring(self) -> None:
        name, _filter = QFileDialog.getOpenFileName(self, "Bring a photograph", "", PICTURES)
        if name:
            self.bring(name)

    def bring(self, path: str) -> None:
        """Read a photograph in the background; it joins the project when it is upright and small enough to show."""
        if not self.session.results.errands.ask(PHOTO, (path,), self._brought):
            self.session.said.emit("A photograph is still being read; bring the next one in a moment.")

    def _brought(self, report: Report) -> None:
        if not report.good:
            return
        found: PhotoImport = report.found
        if found.picture is None:
            warn(self, "It cannot be read", found.trouble)
            return
        picture = found.picture
        asset = self.session.document.keep_asset("photos", found.name, picture.data, found.digest)
        edit, ident = add_photo(
            self.session.project, Path(found.name).stem[:110] or "Photograph", asset, picture.width, picture.height, picture.f35_mm
        )
        self._pictures.keep(asset, picture.shown)
        if self.session.do(edit):
            self.session.select(PHOTOS, ident)

    def _readings(self) -> dict[str, ThreadReading]:
        """What is known of each thread; of one that was just drawn nothing, for a moment."""
        if self.photo is None:
            return {}
        known = self.session.results.one(PHOTO_READINGS, self.photo.id) or {}
        return {t.id: known.get(t.id, UNREAD) for t in self.photo.threads}

    def refresh(self) -> None:
        """Follow the project."""
        project, photo, thread = self.session.project, self.photo, self.chosen_thread
        readings = self._readings()
        self.note = "stretch a thread over something known, and read the rest"
        self.which.set_options([(p.id, p.name) for p in project.photos])
        self.which.set_value(photo.id if photo else "")
        self.called.setVisible(photo is not None)
        self.called.set_value(photo.name if photo is not None else "")
        picture = self._pictures.of(photo, self.refresh) if photo is not None else None
        at = thread.id if thread else ""
        self.view.show_photo(photo, picture, readings, at)
        self.cells.readings = readings
        self.cells.show_things(photo.threads if photo else (), at)
        for widget in (self.name, self.on, self.known, self.reading, self.makes):
            widget.setVisible(thread is not None)
        frame = photo.frame if photo else None
        for widget in (self.wide, self.high):
            widget.setVisible(frame is not None)
        self.remove.setVisible(photo is not None)
        self.lens.setVisible(photo is not None)
        self.lens.set_value(photo.f35_mm if photo is not None else 0.0)
        self._assumed.setText(assumed_words(photo) if photo is not None else "")
        for tool in self.tools.values():
            tool.setEnabled(photo is not None)
        self._hint.setText(self._hint_words(photo))
        if frame is not None:
            self.wide.set_value((frame.width_mm, frame.width_give_mm))
            self.high.set_value((frame.height_mm, frame.height_give_mm))
        self._trouble.setText("")
        self._trouble.hide()
        if thread is None:
            return
        self.name.set_value(thread.name)
        self.on.set_value(thread.on)
        self.known.set_value((thread.known_mm, thread.known_give_mm) if thread.known_mm is not None else None)
        reading = readings[thread.id]
        house = project.brief.house_n
        readable = reading.real_mm is not None
        self.reading.setVisible(readable)
        self.makes.show_thread(photo, thread, readings)
        if reading.real_mm is not None:
            told = reading_told(thread, reading, house)
            if told is not None:
                self.reading.show_told(told)
        off = (
            f"By what else is known it would be {show_real((thread.known_mm or 0) * (1 + reading.off))}. "
            if reading.off is not None
            else ""
        )
        self._trouble.setText(off + reading.trouble)
        self._trouble.setVisible(bool(off or reading.trouble))

    def _hint_words(self, photo: Photo | None) -> str:
        if photo is None:
            return ""
        angles = wall_angles(photo)
        said = [f"{a} and {b} meet at {digits(v, 1)}°" for a, b, v in angles[:3]]
        tool = {
            "plane": "Drag a thread over a thing. All threads on one plane share a known length.",
            "wall": "Drag a thread on the wall inside or around the frame."
            if photo.frame
            else "First drag the frame over a door or window of known size.",
            "ground": "Drag from the foot to the top."
            if photo.horizon
            else "First drag the horizon: the line at the height of the camera.",
            "upright": "Drag along what stands upright: two of them show how the camera was tilted.",
            "frame": "Drag a rectangle over a door or a window, then pull its corners into place.",
            "horizon": "Drag along the line at the height of the camera.",
            "hand": "Drag an end or a corner to pull it, or the picture to move it; turn the wheel to enlarge.",
        }[self.view.tool]
        pull = " With Ctrl held, ends are pulled." if self.view.tool in ("plane", "wall", "ground", "upright") and photo.threads else ""
        return f"{tool}{pull} {'; '.join(said)}{'.' if said else ''} By keys: Enter makes one, Space takes the next end, arrows move it."
