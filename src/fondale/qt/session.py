# SPDX-License-Identifier: MIT
"""What every part of the window shares: the document, its results, the theme and the selection."""

from collections.abc import Callable, Iterable, Iterator
from datetime import datetime
from typing import Any, Concatenate, ParamSpec, TypeVar

from PySide6.QtCore import QObject, QTimer, Signal

from fondale.app.document import Document
from fondale.app.own_shelf import OwnShelf
from fondale.app.results import DRAG_WIDTH, VIEW_WIDTH, Results
from fondale.app.settings import Settings
from fondale.app.workers import Report, Workers
from fondale.core.edits import Edit, apply, put
from fondale.core.edits.own_rows import BringOwn
from fondale.core.model import PIECES, STEPS, Listing, Project, Spot
from fondale.core.tables import in_force
from fondale.core.troubles import Trouble
from fondale.instruments import Instruments
from fondale.qt.theme.palette import Theme

PLAN_DELAY_MS = 350
T = TypeVar("T")
P = ParamSpec("P")


Way = Iterator[Callable[[], object]]


class Turns:
    """Does one thing after the other, each in a turn of the window's loop, so that it hears its maker between them. What is asked for next takes
    the place of what is left.
    """

    def __init__(self) -> None:
        self._way: Way | None = None
        self._timer = QTimer()
        self._timer.setSingleShot(True)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._one)

    @property
    def busy(self) -> bool:
        """Whether anything is left to be done."""
        return self._way is not None

    def run(self, way: Iterable[Callable[[], object]]) -> None:
        """Do these."""
        self._way = iter(way)
        self._timer.start()

    def stop(self) -> None:
        """Leave what is left."""
        self._way = None
        self._timer.stop()

    def _one(self) -> None:
        way = self._way
        step = next(way, None) if way is not None else None
        if step is not None:
            step()
        if self._way is way:
            if step is None:
                self._way = None
            else:
                self._timer.start()


class Session(QObject):
    """Edits go through here; signals tell what changed. Reports of workers arrive on the window's thread."""

    project_changed = Signal()
    results_changed = Signal()
    busy_changed = Signal()
    selection_changed = Signal()
    theme_changed = Signal()
    dress_asked = Signal(object)
    came_on = Signal()  # another page is on show
    said = Signal(str)
    take_asked = Signal()
    leaving = Signal()  # something else is done now: what is being typed is taken first
    replaced = Signal()  # another document is open: what was typed for the one before goes with it
    shown = Signal(object, str)
    _reported = Signal(object)

    def __init__(self, document: Document, results: Results, settings: Settings, theme: Theme, instruments: Instruments) -> None:
        super().__init__()
        self.document = document
        self.results = results
        self.settings = settings
        self.theme = theme
        self.instruments = instruments
        self._workers: Workers | None = None
        self.view_width = VIEW_WIDTH
        self.selected: dict[Listing[Any], str] = {}
        self.turns = Turns()
        self.refusal = ""  # why the last edit was not made, if it was not
        self._trial: Project | None = None
        self.shelf = OwnShelf(settings.folder)
        self.hold_rows()
        self._reported.connect(self._take)
        self._slow = QTimer(self)
        self._slow.setSingleShot(True)
        self._slow.setInterval(PLAN_DELAY_MS)
        self._slow.timeout.connect(results.refresh)
        self._saying = QTimer(self)
        self._saying.setSingleShot(True)
        self._saying.timeout.connect(results.news.now)
        results.news.soon = self._saying.start
        document.changed.listen(self._document_changed)
        results.changed.listen(self.results_changed.emit)
        results.got_on.listen(self.busy_changed.emit)

    @property
    def project(self) -> Project:
        """The current snapshot."""
        return self.document.project if self._trial is None else self._trial

    def now(self) -> datetime:
        """The moment, to the minute, on the day that the window goes by."""
        return datetime.combine(self.results.look.today, datetime.now().time().replace(second=0, microsecond=0))

    def connect_workers(self, make: Callable[[Callable[[Report], None]], Workers]) -> Workers:
        """Build workers whose reports come back on this thread."""
        self._workers = make(self._reported.emit)
        self.results.connect(self._workers)
        return self._workers

    def close(self) -> None:
        """End the workers, and ask for nothing any more."""
        self._slow.stop()
        self._saying.stop()
        self.turns.stop()
        if self._workers is not None:
            self._workers.close()
            self._workers = None

    def _take(self, report: Report) -> None:
        if self._workers is not None:  # what was on its way when the window closed is of no use any more
            self.results.take(report)

    def do(self, *edits: Edit, label: str = "") -> bool:
        """Apply edits as one step; trouble is said to the maker, nothing is lost."""
        also = (BringOwn("Own rows", self.shelf.rows),) if edits and self.shelf.rows else ()
        self.turns = Turns()
        self.refusal = ""
        try:
            if self._trial is None:
                self.document.do(*edits, *also, label=label)
            else:
                self._trial = apply(self._trial, *edits, *also)
        except Trouble as error:
            self.hold_rows()
            self.refusal = str(error)
            self.said.emit(self.refusal)
            return False
        return True

    def after(self, deeds: Iterable[Callable[[], object]]) -> Project:
        """The project as these would leave it; nothing is changed, shown or said."""
        blocked, self._trial = self.blockSignals(True), self.document.project
        try:
            for deed in deeds:
                deed()
            return self._trial
        finally:
            self._trial = None
            self.blockSignals(blocked)

    def setter(self, spot: Spot[T], label: str) -> Callable[[T], bool]:
        """What a field calls with a new value for ``spot``."""
        return lambda value: self.do(put(spot, value, label))

    def make(self, maker: Callable[Concatenate[Project, P], T], *args: P.args, **more: P.kwargs) -> T | None:
        """What ``maker`` makes of the project and what is given; where it cannot, the maker is told why, and None comes back."""
        try:
            return maker(self.project, *args, **more)
        except Trouble as error:
            self.said.emit(str(error))
            return None

    def select(self, listing: Listing[Any], ident: str) -> None:
        """Choose a thing of one of the project's lists."""
        if self.selected.get(listing) != ident:
            self.leaving.emit()
            self.selected[listing] = ident
            self.selection_changed.emit()

    def chosen(self, listing: Listing[Any]) -> str:
        """The chosen thing of a list, or the first, or an empty text."""
        ident = self.selected.get(listing, "")
        if self.project.find(listing, ident) is not None:
            return ident
        members = listing.members(self.project)
        likely = {
            PIECES: (p.id for p in self.project.pieces if p.role == "piece"),
            STEPS: (s.id for s in self.project.steps if not s.done),
        }.get(listing, iter(()))
        return next(likely, members[0].id if members else "")

    def choose_seat(self, seat: str) -> None:
        """Look from another seat."""
        self.results.look_from(seat=seat)
        self.results.refresh()
        self.selection_changed.emit()

    def move_head(self, head: tuple[float, float]) -> None:
        """Look with the head elsewhere in the seat's range and rise."""
        self.results.look_from(head=head)
        self.results.refresh()
        self.selection_changed.emit()

    def begin_drag(self) -> None:
        """While something is dragged the quick results follow, and the light."""
        self.results.dragging = True
        self.results.look_from(width=DRAG_WIDTH)

    def end_drag(self) -> None:
        """The gesture is one step of undo; the slow results follow now."""
        self.results.dragging = False
        self.results.look_from(width=self.view_width)
        self.document.end_gesture()
        self.results.refresh()

    def open(self, document: Document) -> None:
        """Show another document."""
        self.document = document
        self.hold_rows()
        self.selected.clear()
        document.changed.listen(self._document_changed)
        self.results.open(document)
        self.replaced.emit()
        self.project_changed.emit()
        self.results.refresh()

    def hold_rows(self) -> None:
        """The own rows of the project and those that are kept for all projects are in the tables from now on."""
        in_force(self.project, self.shelf.rows)

    def _document_changed(self) -> None:
        self.hold_rows()
        if not self.document.modified:
            self.shelf.keep(self.project.own)
        self.results.refresh(slow=False)
        if self.results.dragging:
            self.results.follow_light()  # whatever is under the hand takes its light with it
        else:
            self._slow.start()
        self.project_changed.emit()
