# SPDX-License-Identifier: MIT
"""Things of a tuple, edited one at a time: the openings of a face, the lines of a ground, the lines that a piece hangs on."""

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from typing import Any, Generic, TypeVar

from fondale.core.model import Model
from fondale.qt.furniture.fields import Choice
from fondale.qt.furniture.ticket import Row
from fondale.qt.session import Session

M = TypeVar("M", bound=Model)


class OneOf(ABC, Generic[M]):
    """``at`` is the one in hand."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.at = 0

    @abstractmethod
    def now(self) -> tuple[M, ...]:
        """All as they are."""

    @abstractmethod
    def put(self, new: tuple[Any, ...], label: str, gesture: str = "") -> None:
        """Have these in their place."""

    def replace(self, index: int, new: M, label: str, gesture: str = "") -> None:
        """Another one in the place of one."""
        self.put(tuple(new if i == index else one for i, one in enumerate(self.now())), label, gesture)

    def drop(self, label: str) -> None:
        """Take out the one in hand."""
        now, out = self.now(), self.at
        if out < len(now):
            self.at = max(0, out - 1)
            self.put(tuple(one for i, one in enumerate(now) if i != out), label)

    def choose(self, index: int) -> None:
        """Take another one in hand."""
        self.at = index
        self.session.selection_changed.emit()

    def which(self, caption: str, names: Sequence[str], width: int, caption_width: int) -> Row:
        """The row that says which one is in hand."""
        self.at = min(self.at, max(0, len(names) - 1))
        return Choice(caption, list(enumerate(names)), self.choose, width).caption_width(caption_width), lambda _p: self.at

    def reader(self, name: str) -> Callable[[Any], Any]:
        """Reads a field of the one in hand; None where there is none."""

        def read(_project: Any) -> Any:
            now = self.now()
            return getattr(now[self.at], name) if self.at < len(now) else None

        return read

    def set(self, label: str, name: str, value: Any) -> None:
        """Set a field of the one in hand."""
        now = self.now()
        if self.at < len(now):
            self.replace(self.at, now[self.at].but(**{name: value}), label)
