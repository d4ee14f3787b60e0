# SPDX-License-Identifier: MIT
"""More sizes taken on one piece: parts of a body, or known things on it."""

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from fondale.core.edits.boxes import add_detail, drop_detail
from fondale.core.model import Piece
from fondale.core.words import digits, show_mm
from fondale.knowledge import table
from fondale.qt.furniture.fields import Choice, Field, length_field, number
from fondale.qt.furniture.rows import clear
from fondale.qt.session import Session


class Details(QWidget):
    """A choice of what was measured, its size, and what has been taken so far: a click on one forgets it."""

    def __init__(self, session: Session, caption: int) -> None:
        super().__init__()
        self._session = session
        self._piece: Piece | None = None
        self._part = ""
        self._shown: object = None
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        self.part = Choice("also", [], self._choose, 118).caption_width(caption)
        self.part.setToolTip("Another size of the same thing makes its scale surer")
        self.length = length_field("", self._take, lambda: session.project.brief.house_n, 74)
        self.length.edit.setAccessibleName("Its size")
        self.length.edit.setPlaceholderText("mm")
        self.error = Field("±", number(0, 100, "mm"), lambda v: f"{digits(v, 2)} mm", self._set_error, 60)
        self.error.setToolTip("How sure the next size is")
        self._error = 0.1
        self._taken = QHBoxLayout()
        self._taken.setSpacing(2)
        row.addWidget(self.part)
        row.addWidget(self.length)
        row.addWidget(self.error)
        row.addLayout(self._taken)
        row.addStretch(1)

    def _choose(self, part: str) -> None:
        self._part = part
        self.length.edit.setFocus()

    def _set_error(self, mm: float) -> None:
        self._error = mm

    def _take(self, mm: float) -> None:
        if self._piece is not None and self._part:
            self._session.do(add_detail(self._piece, self._part, mm, self._error))
            self.length.set_value(None)

    @staticmethod
    def names() -> dict[str, str]:
        """Every part and every thing by its key."""
        body = {k: v["name"] for k, v in table("body")["details"].items()}
        return body | {k: v["name"] for k, v in table("scales")["things"].items() if k not in body}

    def show_piece(self, piece: Piece, body: bool) -> None:
        """Offer what can be measured on it, and show what was."""
        if self._piece is not None and self._piece.id != piece.id:
            self.length.edit.clear()  # what was typed was meant for another
        self._piece = piece
        self.error.set_value(self._error)
        parts = list(table("body")["details"]) if body else []
        names = self.names()
        options = [(k, names[k]) for k in [*parts, *table("scales")["things"]]]
        self.part.set_options(options)
        if self._part not in dict(options):
            self._part = options[0][0]
        self.part.set_value(self._part)
        if self._shown == (piece.id, piece.details):
            return
        self._shown = (piece.id, piece.details)
        clear(self._taken)
        for d in piece.details:
            word = QPushButton(f"{names.get(d.part, d.part)} {show_mm(d.mm)} ×")
            word.setToolTip("Forget this size")
            word.clicked.connect(lambda _c=False, i=d.id, p=piece: self._session.do(drop_detail(p, i)))
            self._taken.addWidget(word)
