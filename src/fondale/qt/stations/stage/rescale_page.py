# SPDX-License-Identifier: MIT
"""Another scale for the whole scene: what follows from it, before it is done."""

from PySide6.QtWidgets import QVBoxLayout

from fondale.app.errands import RESCALE
from fondale.app.workers import Report
from fondale.core.edits.rescaling import rescaled
from fondale.core.model import Project
from fondale.core.words import show_scale
from fondale.qt.furniture.fields import Choice, scale_field
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import ShortAction, headed, line_of
from fondale.qt.session import Session

CAPTION = 90


class RescalePage(Page):
    """A scale, and whether the case grows too; below, all that follows."""

    title = "Another scale"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.n, self.case_too = 32.0, False
        self._of: tuple[Project, float, bool] | None = None
        column = headed("What if it were built at another scale?")
        self.scale = scale_field("what if", self._ask_scale).caption_width(CAPTION)
        self.case = Choice("the case", [(False, "stays as it is"), (True, "grows with it")], self._ask_case, 140).caption_width(CAPTION)
        column.addLayout(line_of(self.scale, self.case))
        self.words = Prose()
        column.addWidget(self.words)
        self.do_it = ShortAction("", self._do)
        column.addLayout(line_of(self.do_it))
        column.addStretch(1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addLayout(column)

    def _ask_scale(self, n: float) -> None:
        self.n = n
        self.refresh()

    def _ask_case(self, case_too: bool) -> None:
        self.case_too = case_too
        self.refresh()

    def _do(self) -> None:
        edit = self.session.make(rescaled, self.n, self.case_too)
        if edit is not None and self.session.do(edit):
            self.session.said.emit(f"It is built at {show_scale(self.n)} now. Undo brings the other scale back.")

    def refresh(self) -> None:
        """Follow the project and what is asked."""
        self.scale.set_value(self.n)
        self.case.set_value(self.case_too)
        house = self.session.project.brief.house_n
        self.do_it.setVisible(self.n != house)
        self.do_it.say(f"Build it at {show_scale(self.n)}")
        asked = (self.session.project, self.n, self.case_too)
        if self.n == house:
            self.words.setText(f"That is the house scale, {show_scale(house)}.")
            self._of = None
            return
        if self._of == asked or self.session.results.errands.doing(RESCALE):
            return
        self.words.setText("Trying it…")

        def tried(report: Report) -> None:
            self._of = asked
            self.words.setText("\n".join(report.found) if report.good else "It could not be tried.")
            self.refresh()  # something may have changed meanwhile

        self.session.results.errands.ask(RESCALE, asked, tried)
