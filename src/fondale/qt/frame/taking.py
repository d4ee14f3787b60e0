# SPDX-License-Identifier: MIT
"""What is being typed is taken into the project before anything else is done."""

from PySide6.QtWidgets import QWidget

from fondale.qt.furniture.typed import REFUSED, Typing, being_typed, settled
from fondale.qt.session import Session


class Taking:
    """Takes it; what cannot be taken stays in its field and is told. ``window`` is the one whose fields are meant, its own windows' too."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self.window: QWidget | None = None
        session.leaving.connect(self._tell)
        session.replaced.connect(self.drop)

    def typing(self) -> list[Typing]:
        """What holds something that was not taken."""
        return being_typed(self.window) if self.window is not None else []

    def take(self) -> str:
        """Take it; in words what cannot be taken."""
        left = settled(self.window) if self.window is not None else ""
        return left.replace(REFUSED, self._session.refusal or REFUSED)

    def drop(self) -> None:
        """Let go of it: it was typed for another document."""
        for field in self.typing():
            field.drop()

    def _tell(self) -> None:
        if left := self.take():
            self._session.said.emit(left)
