# SPDX-License-Identifier: MIT
"""From where something is seen: asked for, told in words, with the least that hides it."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fondale.app.errands import SIGHT
from fondale.app.workers import Report
from fondale.core.edits import put
from fondale.core.model import LAMPS, PIECES, PROJECT, Project
from fondale.core.views.places import Found, Target, told
from fondale.core.words import digits
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import ShortAction, clear
from fondale.qt.session import Session


class SeenFrom(QWidget):
    """Words below the drawings; it follows the project while something is looked for."""

    found = Signal(object)  # Found, or None

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.target: Target | None = None
        self._of: tuple[Project, Target] | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        self.words = Prose("soft")
        column.addWidget(self.words)
        self._ways = QHBoxLayout()
        self._ways.setSpacing(4)
        column.addLayout(self._ways)
        self.hide()

    def look_for(self, target: Target | None) -> None:
        """Look for something, or for nothing any more."""
        self.target = target
        self._of = None
        self.setVisible(target is not None)
        self._offer(None)
        self.found.emit(None)
        if target is not None:
            self.words.setText("Looking…")
            self.refresh()

    def _name(self) -> str | None:
        project, target = self._session.project, self.target
        if target is None:
            return None
        if target.kind == "point":
            return f"The point {', '.join(digits(v, 0) for v in target.at)} mm"
        thing = project.find(LAMPS, target.ident) if target.kind == "lamp" else project.find(PIECES, target.ident)
        if thing is None:
            return None
        return f"The face of {thing.name}" if target.kind == "face" else thing.name

    def refresh(self) -> None:
        """Ask anew where the project has changed."""
        project, target = self._session.project, self.target
        if target is None:
            return
        if self._name() is None:
            self.look_for(None)
            return
        if self._of == (project, target) or self._session.results.errands.doing(SIGHT):
            return
        asked = (project, target)

        def answered(report: Report) -> None:
            if self.target == asked[1]:
                self._of = asked
                found = report.found if report.good else None
                self.words.setText(f"{self._name()}\n{told(asked[0], found)}" if found is not None else "It is not in the scene.")
                self._offer(found)
                self.found.emit(found)
            self.refresh()  # something may have moved meanwhile

        self._session.results.errands.ask(SIGHT, asked, answered)

    def _offer(self, found: Found | None) -> None:
        clear(self._ways)
        hiding = found.hiding if found is not None else None
        if hiding is None:
            return
        case = PROJECT.then(lambda p: p.case)
        if hiding.lip is not None:
            words = f"Add a {digits(hiding.lip, 0)} mm lip"
            edit = put(case.then(lambda c: c.lip_top), hiding.lip, words)
            self._ways.addWidget(ShortAction(words, lambda _c=False, e=edit: self._session.do(e)))
        if hiding.returns is not None:
            words = f"Add returns of {digits(hiding.returns, 0)} mm"
            edit = put(case.then(lambda c: c.lip_sides), hiding.returns, words)
            self._ways.addWidget(ShortAction(words, lambda _c=False, e=edit: self._session.do(e)))
        self._ways.addStretch(1)
