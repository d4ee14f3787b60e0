# SPDX-License-Identifier: MIT
"""The rows of the cut list, and the sheets with what is sawn out of them."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from fondale.core.stage.cutting import CutPlan, panel_words
from fondale.core.words import digits
from fondale.qt.furniture.table import Column, Entry
from fondale.qt.session import Session
from fondale.qt.theme import signs

COLUMNS = (Column("board", 0.42), Column("pieces", 0.12, True), Column("size", 0.25), Column("of", 0.21))


def cut_entries(plan: CutPlan | None) -> list[Entry]:
    """The rows of the cut list."""
    return [Entry("", panel_words(p), plan is not None and p.name in plan.too_large) for p in (plan.panels if plan is not None else ())]


class SheetsDrawing(QWidget):
    """Every sheet with the pieces that come out of it; what is left over is hatched."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._plan: CutPlan | None = None
        self.setAccessibleName("Sheets")
        self.setMinimumSize(QSize(200, 110))

    def show_plan(self, plan: CutPlan | None) -> None:
        """Show the sheets of a plan."""
        self._plan = plan if plan is not None else self._plan
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p, plan = self._session.theme, QPainter(self), self._plan
        if plan is None or not plan.sheets:
            return
        boards, n = self._session.project.case.boards, len(plan.sheets)
        gap, note = theme.px(10), theme.px(16)
        long, wide = boards.sheet_long, boards.sheet_wide
        # As many side by side as make the sheets largest.
        best = max(
            (min((self.width() - 2 - gap * (across - 1)) / across / long, (self.height() - (note + gap) * -(-n // across)) / -(-n // across) / wide), across)
            for across in range(1, n + 1)
        )  # fmt: skip
        scale, across = best
        if scale <= 0:
            return
        for i, sheet in enumerate(plan.sheets):
            left = (i % across) * (long * scale + gap)
            top = (i // across) * (wide * scale + note + gap)
            frame = QRectF(left, top, long * scale, wide * scale)
            p.setPen(QPen(theme.color("soft"), 1))
            p.setBrush(signs.hatch(theme, "soft", 0.35))
            p.drawRect(frame)
            p.setFont(theme.font(10.5))
            for laid in sheet.laid:
                box = QRectF(left + laid.x * scale, top + laid.y * scale, laid.long * scale, laid.wide * scale)
                p.setPen(QPen(theme.color("ink"), 0.8))
                p.setBrush(theme.color("card"))
                p.drawRect(box)
                if box.width() > theme.px(40) and box.height() > theme.px(13):
                    p.setPen(theme.color("ink"))
                    p.drawText(
                        box.adjusted(3, 0, -2, 0),
                        Qt.AlignmentFlag.AlignCenter,
                        p.fontMetrics().elidedText(laid.name, Qt.TextElideMode.ElideRight, int(box.width() - 6)),
                    )
            p.setPen(theme.text("soft"))
            said = f"{digits(sheet.thick, 1)} mm, {digits(sheet.left * 100, 0)} % left over"
            p.drawText(QRectF(left, frame.bottom() + 2, frame.width(), note), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, said)
