# SPDX-License-Identifier: MIT
"""Brief: what it is for, by when, on which evenings, within what, at which scale."""

from PySide6.QtWidgets import QHBoxLayout

from fondale.core.derived import RIBBON
from fondale.core.edits.measuring import set_house
from fondale.qt.furniture.fields import scale_field
from fondale.qt.furniture.pages import PagedStation
from fondale.qt.furniture.prose import Line, Prose
from fondale.qt.session import Session
from fondale.qt.stations.brief.photo_page import PhotoPage
from fondale.qt.stations.brief.ribbon import ScaleRibbon
from fondale.qt.stations.brief.rules_page import RulesPage
from fondale.qt.stations.brief.sheet_page import SheetPage


class BriefStation(PagedStation):
    """The sheet with the scale ribbon below it, the house rules and the photographs."""

    name = "brief"

    kinds = (SheetPage, PhotoPage, RulesPage)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        column = self.column
        row = QHBoxLayout()
        row.setSpacing(12)
        head = Line("head", "Scale ribbon")
        row.addWidget(head)
        self._why = Prose("soft")
        row.addWidget(self._why, 1)
        self.scale = scale_field("house scale", self._set_scale)
        row.addWidget(self.scale)
        column.addLayout(row)
        self.ribbon = ScaleRibbon(session)
        self.ribbon.chosen.connect(self._set_scale)
        column.addWidget(self.ribbon)

    def _set_scale(self, n: float) -> None:
        self.session.do(set_house(n))

    def refresh(self) -> None:
        """Follow the project."""
        super().refresh()
        ribbon, house = self.session.results[RIBBON], self.session.project.brief.house_n
        self.scale.set_value(house)
        # Photographs and rules need the room; the scale itself stays in sight.
        self.ribbon.setVisible(isinstance(self.page, SheetPage))
        self.ribbon.refresh()
        if ribbon is None:
            self._why.setText("")
        elif ribbon.best == house:
            self._why.setText(ribbon.why)
        else:
            self._why.setText(f"Suits most: {ribbon.why}")
