# SPDX-License-Identifier: MIT
"""What is being typed and was not taken yet: part of the work, though no edit has told of it."""

from typing import Protocol, cast
from weakref import WeakSet

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget
from shiboken6 import isValid


class Typing(Protocol):
    """Something that is typed into."""

    @property
    def typed(self) -> str:
        """What is typed, as long as it was not taken; otherwise an empty text."""
        ...

    @property
    def caption(self) -> str:
        """What it is called."""
        ...

    def settle(self) -> str:
        """Take what is typed. What cannot be taken stays, and it is told why."""
        ...

    def drop(self) -> None:
        """Let go of what is typed, and show what was there before."""
        ...

    def attempt(self) -> None:
        """Do with what is typed what taking it would do, and show nothing of it."""
        ...


REFUSED = "It is not taken."  # by the project, which has said why


class _News(QObject):
    typed = Signal()


news = _News()
_open: WeakSet[QWidget] = WeakSet()


def note(field: QWidget) -> None:
    """Somebody types into this."""
    _open.add(field)
    news.typed.emit()


def being_typed(window: QWidget) -> list[Typing]:
    """What in a window, or in one of its own windows, holds what was not taken."""
    return [cast(Typing, f) for f in list(_open) if isValid(f) and cast(Typing, f).typed and _within(f, window)]


def settled(window: QWidget) -> str:
    """Take all that is typed; in words what could not be taken, which stays where it is."""
    left = []
    for field in being_typed(window):
        typed = field.typed
        if trouble := field.settle():
            left.append(f"“{typed}” in “{field.caption}” is not taken: {trouble}")
    return " ".join(left)


def _within(widget: QWidget | None, window: QWidget) -> bool:
    while widget is not None and widget is not window:
        widget = widget.parentWidget()
    return widget is window
