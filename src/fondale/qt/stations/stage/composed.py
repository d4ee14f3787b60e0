# SPDX-License-Identifier: MIT
"""The composition of the view: hints, numbered in the picture that proves them."""

from PySide6.QtWidgets import QVBoxLayout, QWidget

from fondale.app.errands import COMPOSE
from fondale.app.workers import Report
from fondale.core.light.composition import Hint
from fondale.core.model import Project
from fondale.qt.furniture.prose import Prose
from fondale.qt.session import Session
from fondale.qt.stations.stage.seat_view import SeatView


class Composed(QWidget):
    """Words below the view; it follows the project, the seat and the head while it is shown."""

    def __init__(self, session: Session, view: SeatView) -> None:
        super().__init__()
        self._session, self._view = session, view
        self.on = False
        self._of: tuple[Project, str, tuple[float, float]] | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.words = Prose("soft")
        column.addWidget(self.words)
        self.hide()

    def switch(self) -> None:
        """Show the hints, or no longer."""
        self.on, self._of = not self.on, None
        self.setVisible(self.on)
        self._show(())
        if self.on:
            self.words.setText("Looking…")
            self.refresh()

    def refresh(self) -> None:
        """Look anew where something has changed."""
        look, project = self._session.results.look, self._session.project
        asked = (project, look.seat_of(project), look.head)
        if not self.on or self._of == asked or self._session.results.errands.doing(COMPOSE):
            return

        def looked(report: Report) -> None:
            if self.on:
                self._of = asked
                found: tuple[Hint, ...] = report.found if report.good else ()
                lines = [f"{k + 1}. {hint.words}" for k, hint in enumerate(found)]
                self.words.setText("\n".join(lines) or "Nothing strikes the eye.")
                self._show(found)
            self.refresh()

        self._session.results.errands.ask(COMPOSE, asked, looked)

    def _show(self, found: tuple[Hint, ...]) -> None:
        self._view.hints = found
        self._view.update()
