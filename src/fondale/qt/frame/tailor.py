"""Dressing a window: what is on show at once, the rest bit by bit."""

from collections.abc import Callable, Iterable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QWidget

from fondale.qt.theme.palette import Theme, wear


class Tailor:
    """``parts`` are all that are dressed each by itself, hidden ones too."""

    def __init__(self, theme: Theme, parts: Callable[[], Iterable[QWidget]], between_ms: int) -> None:
        self._theme, self._parts = theme, parts
        self.timer = QTimer()
        self.timer.setInterval(between_ms)
        self.timer.timeout.connect(self.dress_one)

    def dress(self, shown: Iterable[QWidget]) -> None:
        """Dress these now, and begin with the rest."""
        for part in shown:
            wear(part, self._theme)
        self.timer.start()

    def dress_one(self) -> None:
        """Dress the next part that is not yet."""
        for part in self._parts():
            if wear(part, self._theme):
                return
        self.timer.stop()
