# SPDX-License-Identifier: MIT
"""Who is seen from where: a row a piece, a bar a seat."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from fondale.core.derived import VIEWS
from fondale.core.model import PIECES
from fondale.core.prompts.sight import HEAD_LEAST, PIECE_LEAST
from fondale.core.words import percent
from fondale.qt.session import Session

NAMES, NAMES_LEAST, LEAST = 130, 84, 100


class SeenTable(QWidget):
    """Seen share of every piece from every seat; a click chooses the piece."""

    chosen = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._rows: list[tuple[QRectF, str]] = []
        self.setAccessibleName("Seen share of every piece from every seat")

    def _row(self) -> int:
        return self._session.theme.px(18)

    def sizeHint(self) -> QSize:
        count = sum(p.role == "piece" and p.place is not None for p in self._session.project.pieces)
        return QSize(300, (count + 1) * self._row() + 4)

    def minimumSizeHint(self) -> QSize:
        px = self._session.theme.px
        return QSize(px(NAMES_LEAST) + px(LEAST) * len(self._session.project.seats), self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, project, p = self._session.theme, self._session.project, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        found = self._session.results[VIEWS]
        self._rows = []
        if found is None or not project.seats:
            return
        views = {(v.piece, v.seat): v for v in found}
        names = max(theme.px(NAMES_LEAST), min(theme.px(NAMES), self.width() - theme.px(LEAST) * len(project.seats)))
        wide = (self.width() - names) / len(project.seats)
        row = self._row()
        p.setFont(theme.font(11.5))
        p.setPen(theme.text("soft"))
        for k, seat in enumerate(project.seats):
            head = QRectF(names + k * wide, 0, wide - 8, row)
            p.drawText(
                head, Qt.AlignmentFlag.AlignVCenter, p.fontMetrics().elidedText(seat.name, Qt.TextElideMode.ElideRight, int(head.width()))
            )
        y = row
        for piece in project.pieces:
            mine = [views.get((piece.id, s.id)) for s in project.seats]
            if not any(mine):
                continue
            self._rows.append((QRectF(0, y, self.width(), row), piece.id))
            chosen = piece.id == self._session.chosen(PIECES)
            p.setFont(theme.font(12, 600 if chosen else 400))
            p.setPen(theme.text("curtain") if chosen else theme.color("ink"))
            p.drawText(
                QRectF(0, y, names - 8, row),
                Qt.AlignmentFlag.AlignVCenter,
                p.fontMetrics().elidedText(piece.name, Qt.TextElideMode.ElideRight, names - 10),
            )
            for k, view in enumerate(mine):
                if view is None:
                    continue
                poor = view.seen < PIECE_LEAST or (view.head_seen is not None and view.head_seen < HEAD_LEAST)
                frame = QRectF(names + k * wide, y + row / 2 - 2, wide - theme.px(84), 4)
                bar = QRectF(frame.left(), frame.top(), frame.width() * view.seen, 4)
                p.setPen(QPen(theme.color("line"), 1))
                p.drawRect(frame)
                p.fillRect(bar, theme.color("lamp" if poor else "verdigris"))
                p.setFont(theme.font(11.5))
                p.setPen(theme.text("lamp" if poor else "soft"))
                words = percent(view.seen) + (", face hidden" if view.head_seen is not None and view.head_seen < HEAD_LEAST else "")
                p.drawText(
                    QRectF(frame.right() + 5, y, theme.px(80), row),
                    Qt.AlignmentFlag.AlignVCenter,
                    p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, theme.px(74)),
                )
            y += row

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for box, ident in self._rows:
            if box.contains(event.position()):
                self.chosen.emit(ident)
