# SPDX-License-Identifier: MIT
"""What all stations share: they refresh when they are on show and something changed."""

from functools import partial
from typing import Any

from PySide6.QtCore import QTimer
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QWidget

from fondale.core.model import Listing
from fondale.qt.furniture.columns import parts_of
from fondale.qt.session import Session, Way
from fondale.qt.theme.palette import wears


class Station(QWidget):
    """A place of work. Subclasses fill ``refresh``; many changes in one turn of the loop make one refresh."""

    name = ""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._stale = True
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(0)
        self._later.timeout.connect(self._refresh_now)
        for signal in (session.project_changed, session.results_changed, session.selection_changed, session.theme_changed):
            signal.connect(self.touch)

    def touch(self) -> None:
        """Something changed."""
        self._stale = True
        if self.isVisible():
            self._later.start()

    def showEvent(self, event: QShowEvent) -> None:
        if self._stale:
            self._refresh_now()
        super().showEvent(event)

    def _refresh_now(self) -> None:
        self._stale = False
        self.refresh()

    def refresh(self) -> None:
        """Show the present project and results."""

    def parts(self) -> list[QWidget]:
        """What is dressed each by itself, once it is on show."""
        return parts_of(self)

    def undressed(self) -> list[QWidget]:
        """What is on show and does not wear the lighting in force."""
        return [p for p in self.parts() if (p is self or p.isVisibleTo(self)) and not wears(p, self.session.theme)]

    def way(self) -> Way:
        """What is to be done before it can come on show in one turn, a turn each."""
        if not self.isVisible() and self._stale:
            yield self._refresh_now
        yield from self.dressing()

    def dressing(self) -> Way:
        """What is still to be dressed of what would be on show, a turn each."""
        for part in self.undressed():
            yield partial(self.session.dress_asked.emit, (part,))

    def make_more(self) -> bool:
        """Make one of the parts that are not there yet; False when all stand."""
        return False

    def show_subject(self, listing: Listing[Any], ident: str) -> None:
        """Bring the thing of a prompt into view and choose it."""
        self.session.select(listing, ident)
