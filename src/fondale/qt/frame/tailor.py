# SPDX-License-Identifier: MIT
"""Dressing a window: what is on show at once, the rest bit by bit."""

import time
from collections.abc import Callable, Iterable

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QWidget
from shiboken6 import isValid

from fondale.qt.frame.breath import Breath
from fondale.qt.theme.palette import Theme, wear, wears

TURN_S = 0.003  # the next part is begun in the same turn while less than this has gone
HUSHED = Qt.WidgetAttribute.WA_UpdatesDisabled  # of the window alone: “setUpdatesEnabled” would paint all of it twice
PATIENCE = 10  # turns that it waits at most while each of them has enough to do
LAYOUTS = 2  # turns that it takes until what has come on show is laid out: its bars, and what folds
IDLE_S = 0.25  # what is hidden waits while the maker works


class Tailor:
    """``parts`` are all that are dressed each by itself, hidden ones too.

    A part takes some 20 ms at most: each has a turn of its own, the window is painted when all that is on show is dressed and laid out, and
    what is hidden waits for a rest.
    """

    def __init__(self, window: QWidget, theme: Theme, parts: Callable[[], Iterable[QWidget]], between_ms: int, breath: Breath) -> None:
        self._window, self._theme, self._parts, self._between_ms, self._breath = window, theme, parts, between_ms, breath
        self._shown: list[QWidget] = []
        self._hidden: list[QWidget] = []
        self._busy_until = 0.0
        self._layouts = self._waited = 0
        self.timer = QTimer()
        self.timer.timeout.connect(self._turn)

    def dress(self, shown: Iterable[QWidget]) -> None:
        """Dress these in the next turns, what never was at once; and then the rest."""
        for part in shown:
            if part.property("look") is None:
                wear(part, self._theme)
            elif part not in self._shown:
                self._shown.append(part)
        if self._shown:
            self.lay_out()
        elif self._window.updatesEnabled():
            self.timer.start(self._between_ms)

    def lay_out(self) -> None:
        """Something has come on show: paint it when it is laid out, which takes some turns, and not in each of them."""
        self._window.setAttribute(HUSHED)
        self._layouts = LAYOUTS
        self.timer.start(0)

    def wait(self) -> None:
        """The maker works: what is hidden has time."""
        self._busy_until = time.monotonic() + IDLE_S

    @property
    def rests(self) -> bool:
        """Whether nothing is asked for, and the maker has paused."""
        return not self._shown and time.monotonic() >= self._busy_until

    def _turn(self) -> None:
        """Go on, unless this turn has done enough."""
        self._waited = self._waited + 1 if self._breath.short and self._waited < PATIENCE else 0
        if not self._waited:
            self.dress_one()

    def dress_one(self) -> None:
        """Dress what is next."""
        if self._shown:
            end = time.perf_counter() + TURN_S
            while self._shown and time.perf_counter() < end:
                part = self._shown.pop(0)
                if isValid(part):
                    wear(part, self._theme)
        elif self._layouts:
            self._layouts -= 1
        elif not self._window.updatesEnabled():
            self._window.setAttribute(HUSHED, False)
            self._window.repaint()
            self.timer.start(self._between_ms)
        elif self.rests:
            self._dress_hidden()

    def _dress_hidden(self) -> None:
        """The next of what is hidden. All of it is looked for in a turn of its own, and again when none is left: there may be more by then."""
        while self._hidden:
            part = self._hidden.pop()
            if isValid(part) and wear(part, self._theme):
                return
        self._hidden = [part for part in self._parts() if not wears(part, self._theme)]
        if not self._hidden:
            self.timer.stop()
