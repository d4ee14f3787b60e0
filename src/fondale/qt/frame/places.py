# SPDX-License-Identifier: MIT
"""The six stations. What a station is made of is loaded when it is first gone to, or bit by bit: the window opens before."""

import importlib
import pkgutil
import sys
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer

from fondale.qt.furniture.workplace import Station
from fondale.qt.session import Session, Way

if TYPE_CHECKING:
    from fondale.qt.frame.main_window import MainWindow

BETWEEN_PARTS_MS = 30


def _brief(session: Session) -> Station:
    from fondale.qt.stations.brief.station import BriefStation

    return BriefStation(session)


def _bench(session: Session) -> Station:
    from fondale.qt.stations.bench.station import BenchStation

    return BenchStation(session)


def _stage(session: Session) -> Station:
    from fondale.qt.stations.stage.station import StageStation

    return StageStation(session)


def _lamps(session: Session) -> Station:
    from fondale.qt.stations.lamps.station import LampsStation

    return LampsStation(session)


def _coats(session: Session) -> Station:
    from fondale.qt.stations.coats.station import CoatsStation

    return CoatsStation(session)


def _diary(session: Session) -> Station:
    from fondale.qt.stations.diary.station import DiaryStation

    return DiaryStation(session)


MAKERS: dict[str, Callable[[Session], Station]] = {
    "brief": _brief, "bench": _bench, "stage": _stage, "lamps": _lamps, "coats": _coats, "diary": _diary,
}  # fmt: skip


def loading(name: str) -> Way:
    """What is still to be loaded of a station's modules, each in a turn of its own."""
    package = importlib.import_module(f"fondale.qt.stations.{name}")
    for module in pkgutil.iter_modules(package.__path__, f"{package.__name__}."):
        if module.name not in sys.modules:
            yield partial(importlib.import_module, module.name)


def way_to(window: "MainWindow", station: str) -> Way:
    """What is to be done to show a station, each in a turn of its own."""
    yield from loading(station)
    yield partial(window.stations.__getitem__, station)
    yield from window.stations[station].way()
    yield partial(window.go, station)


class Growth:
    """What was not needed at first is made bit by bit, from the first answer on, whenever the maker rests: workers that start take every processor."""

    def __init__(self, window: "MainWindow") -> None:
        self._window = window
        self._timer = QTimer(window)
        self._timer.setInterval(BETWEEN_PARTS_MS)
        self._timer.timeout.connect(self._grow)

    def start(self) -> None:
        """Begin."""
        self._timer.start()

    def stop(self) -> None:
        """End it, whatever is missing."""
        self._timer.stop()

    def _grow(self) -> None:
        window = self._window
        if window.session.results.answers == 0 or window.session.turns.busy or not window.tailor.rests:
            return
        # What took this turn goes off as often as this does: half a time later the two no longer meet.
        short = window.breath.short
        self._timer.start(BETWEEN_PARTS_MS // 2 if short else BETWEEN_PARTS_MS)
        if short:
            return
        if any(s.make_more() for s in window.stations.made.values()):
            return
        following = next((name for name in window.stations if name not in window.stations.made), None)
        if following is None:
            self._timer.stop()
        else:
            next(loading(following), partial(window.stations.__getitem__, following))()
