# SPDX-License-Identifier: MIT
"""The ticket of what is chosen: its name, what else belongs on its first line, and its few values, each editable in place."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from fondale.core.cautions import cautions_told
from fondale.core.model import Project
from fondale.qt.furniture.columns import FieldGrid
from fondale.qt.furniture.fields import Choice, Field
from fondale.qt.furniture.finder import Several
from fondale.qt.furniture.how import ShortHow
from fondale.qt.furniture.prose import Short
from fondale.qt.furniture.rows import line_of

Editor = Field | Choice
Row = tuple[Editor | Several, Callable[[Project], Any]]


class Ticket(QWidget):
    """Fields in at most ``columns``; they are built anew only when something else is chosen."""

    removed = Signal()

    def __init__(self, columns: int) -> None:
        super().__init__()
        self._what = ""
        self.rows: list[Row] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        head = QHBoxLayout()
        self._title = Short("head")
        head.addWidget(self._title)
        self.line = QHBoxLayout()
        head.addLayout(self.line)
        head.addStretch(1)
        self.remove = QPushButton("Remove")
        self.remove.clicked.connect(self.removed)
        head.addWidget(self.remove)
        column.addLayout(head)
        self._grid = FieldGrid(columns)
        column.addWidget(self._grid)
        self.care = ShortHow()
        self.care.hide()
        column.addLayout(line_of(self.care))

    def show_thing(self, what: str, title: str, removable: bool, make_rows: Callable[[], list[Row]]) -> None:
        """Show the thing known as ``what``; the same one keeps its fields."""
        self._title.setText(title)
        self._title.setVisible(bool(title))
        self.remove.setVisible(removable)
        if what == self._what:
            return
        self._what = what
        self.rows = make_rows()
        self._grid.fill([field for field, _read in self.rows])

    def show_care(self, cautions: tuple[str, ...]) -> None:
        """What to take care of with it."""
        self.care.show_told(cautions_told(cautions))
        self.care.setVisible(bool(cautions))

    def read(self, project: Project) -> None:
        """Fill the fields from the project."""
        for field, read in self.rows:
            field.set_value(read(project))
