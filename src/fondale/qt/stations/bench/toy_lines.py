# SPDX-License-Identifier: MIT
"""What one size is on each figure at hand, and the scale that suits the given things together."""

from PySide6.QtWidgets import QHBoxLayout, QWidget

from fondale.core.derived import READINGS, RIBBON
from fondale.core.edits.measuring import set_house
from fondale.core.scale.together import on_each, together_told
from fondale.qt.furniture.fields import length_field
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.prose import Short
from fondale.qt.furniture.rows import ShortAction
from fondale.qt.session import Session


class ToyLines(QWidget):
    """A row above the shelf: a size to ask for, and one press that takes the common scale."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self._asked_mm = session, 0.0
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.height_asked = length_field("how high is", self.ask, lambda: session.project.brief.house_n, 70)
        self.height_asked.setToolTip("Type a size: what it is on each figure at hand")
        row.addWidget(self.height_asked)
        self.told = Short("soft")
        row.addWidget(self.told, 1)
        self.common = HowButton()
        row.addWidget(self.common)
        self.take = ShortAction("Make it the house scale", self._take)
        row.addWidget(self.take)

    def ask(self, mm: float) -> None:
        """Say what a size is on each figure."""
        self._asked_mm = mm
        self.refresh()

    def _take(self) -> None:
        ribbon = self._session.results[RIBBON]
        if ribbon is not None and ribbon.together is not None:
            self._session.do(set_house(ribbon.together.n))

    def refresh(self) -> None:
        """Follow the project and the results."""
        project, ribbon = self._session.project, self._session.results[RIBBON]
        found = ribbon.together if ribbon is not None else None
        self.common.setVisible(found is not None)
        self.take.setVisible(found is not None and found.n != project.brief.house_n)
        if found is not None:
            self.common.show_told(together_told(found))
        self.told.setText(on_each(self._asked_mm, project, self._session.results[READINGS] or {}) if self._asked_mm else "")
