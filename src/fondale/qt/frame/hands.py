# SPDX-License-Identifier: MIT
"""Instruments in the maker's hands: what a menu or a key does at a station. A station is loaded when it is first gone to."""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from fondale.qt.frame.main_window import MainWindow


class Hands:
    """Takes caliper, lux meter, timer and tables to where they serve."""

    def __init__(self, window: "MainWindow") -> None:
        self._window = window

    def take_reading(self) -> None:
        """What the caliper shows goes into the focused field of a length; without one, into the main size of the chosen piece."""
        field = self._window.caliper_window.focused
        if field is None or not field.isVisible():
            self.take_height()
        else:
            self._window.caliper_window.take_into(field)

    def take_height(self) -> None:
        """Take the main size of the chosen piece."""
        from fondale.qt.stations.bench.shelf_page import ShelfPage
        from fondale.qt.stations.bench.station import BenchStation

        bench = self._window.stations["bench"]
        assert isinstance(bench, BenchStation)
        self._window.go("bench")
        bench.turn_to(ShelfPage.title)
        shelf = bench.page_of(ShelfPage)
        if shelf.piece is None:
            self._window.say("Nothing lies between the jaws: add a figure to the shelf, or choose a field of a length.")
            return
        self._window.caliper_window.take_into(shelf.height_field)

    def show_caliper(self) -> None:
        """Open the window of the caliper beside the field that it measures for."""
        self._window.caliper_window.follow(self._window.caliper_window.focused)
        self._window.caliper_window.show()
        self._window.caliper_window.raise_()

    def show_tables(self) -> None:
        """Open the window of the tables."""
        window = self._window
        if window.tables_window is None:
            from fondale.qt.frame.tables_window import TablesWindow

            window.tables_window = TablesWindow(window.session, window)
            window.tailor.dress((window.tables_window,))
        window.tables_window.refresh()
        window.tables_window.show()
        window.tables_window.raise_()

    def zero_caliper(self) -> None:
        """Close the simulated caliper and zero it."""
        before = self._window.caliper.closed_mm()
        self._window.caliper.zero()
        self._window.say(f"The caliper showed {before:.2f} mm with closed jaws; it shows 0.00 mm now.")

    def take_lux(self) -> None:
        """Read the lux meter."""
        from fondale.qt.stations.lamps.station import LampsStation

        lamps = self._window.stations["lamps"]
        self._window.go("lamps")
        if isinstance(lamps, LampsStation):
            lamps.take_lux()

    def toggle_timer(self) -> None:
        """Start or stop the timer of the diary."""
        from fondale.qt.stations.diary.station import DiaryStation

        diary = self._window.stations["diary"]
        self._window.go("diary")
        if isinstance(diary, DiaryStation):
            diary.toggle_timer()

    def shift_step(self, way: int) -> None:
        """Move the chosen step earlier or later."""
        from fondale.qt.stations.coats.station import CoatsStation

        coats = self._window.stations["coats"]
        assert isinstance(coats, CoatsStation)
        coats.shift(way)
