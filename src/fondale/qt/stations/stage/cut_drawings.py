"""The cut list as a table, and the sheets with what is sawn out of them."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QScrollArea, QWidget

from fondale.core.stage.cutting import CutPlan, Panel, panel_words
from fondale.core.words import digits
from fondale.qt.furniture.rows import hold
from fondale.qt.session import Session
from fondale.qt.theme import signs

ROW = 18
SHARES = (0.42, 0.10, 0.26, 0.22)  # of the width: name, count, size, stuff
HEADS = ("board", "pieces", "size", "of")


class CutTable(QWidget):
    """One row a panel: its name, how many pieces, its size, and of what."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._panels: tuple[Panel, ...] = ()
        self.setAccessibleName("Cut list")

    def framed(self) -> QScrollArea:
        """The table in a frame that scrolls up and down."""
        frame = QScrollArea()
        frame.setWidgetResizable(True)
        frame.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        frame.setMinimumHeight(96)
        hold(frame, self)
        return frame

    def show_plan(self, plan: CutPlan | None) -> None:
        """Show the panels of a plan."""
        if plan is not None and plan.panels != self._panels:
            self._panels = plan.panels
            self.setAccessibleDescription("; ".join(", ".join(panel_words(p)) for p in self._panels))
            self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(320, self._session.theme.px(ROW) * (len(self._panels) + 1) + 4)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        row = theme.px(ROW)
        for i, cells in enumerate((HEADS, *(panel_words(panel) for panel in self._panels))):
            p.setFont(theme.font(11.5 if i else 11))
            x = 0.0
            for k, (text, share) in enumerate(zip(cells, SHARES, strict=True)):
                wide = share * self.width()
                box = QRectF(x, i * row, wide - 8, row)
                p.setPen(theme.color("ink") if i and k != 3 else theme.text("soft"))
                side = Qt.AlignmentFlag.AlignRight if k == 1 else Qt.AlignmentFlag.AlignLeft
                p.drawText(
                    box, side | Qt.AlignmentFlag.AlignVCenter, p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(wide - 8))
                )
                x += wide + (8 if k == 1 else 0)


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
