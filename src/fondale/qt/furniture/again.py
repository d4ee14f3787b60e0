# SPDX-License-Identifier: MIT
"""The chosen thing once more, or several times: in a row, in rows."""

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QPushButton

from fondale.core.edits.again import RUN_HELP, Run, again, parse_run
from fondale.core.lengths import LengthError
from fondale.core.model import AREAS, LAMPS, METERS, PIECES, Listing
from fondale.qt.furniture.dialogs import ask
from fondale.qt.furniture.rows import menu_button
from fondale.qt.session import Session

PLACED = (PIECES, LAMPS, METERS, AREAS)  # what lies somewhere is asked how far apart
Chosen = Callable[[], tuple[Listing[Any], str] | None]


class Again:
    """A word with its two ways. ``chosen`` tells of what; ``then`` is told of which list and id the last new one is."""

    def __init__(self, session: Session, chosen: Chosen, then: Callable[[Listing[Any], str], object] | None = None) -> None:
        self._session, self._chosen, self._then = session, chosen, then or session.select
        self.button: QPushButton = menu_button("Again…", [("Once more", self.once), ("Several…", self.several)])

    def once(self) -> None:
        """One more, beside it."""
        self.make(Run(2, (0.0, 0.0, 0.0)))

    def several(self) -> None:
        """Ask how many, and how far apart."""
        found = self._chosen()
        if found is None:
            return
        placed = found[0] in PLACED
        text = ask(self.button, "Several", RUN_HELP if placed else "How many in all", "5, every 40 right" if placed else "3")
        if text is None:
            return
        try:
            self.make(parse_run(text, placed))
        except LengthError as error:
            self._session.said.emit(str(error))

    def make(self, run: Run) -> None:
        """As many as were asked for."""
        found = self._chosen()
        if found is None or (made := self._session.make(again, *found, run)) is None:
            return
        edits, idents = made
        if idents and self._session.do(*edits, label=f"{run.count * run.rows} in all"):
            self._then(found[0], idents[-1])
