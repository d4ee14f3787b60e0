# SPDX-License-Identifier: MIT
"""The rehearsal: a line through the build in the maker's order; it tells what is on, wet and closed at each step."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from fondale.core.model import STEPS
from fondale.core.order.ties import tie_words
from fondale.qt.session import Session
from fondale.qt.theme import signs


class Rehearsal(QWidget):
    """Steps as beads on a line; rings are closing steps; red marks stand under steps that come too late."""

    step_chosen = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Rehearsal")

    def sizeHint(self) -> QSize:
        return QSize(800, self._session.theme.px(64))

    def minimumSizeHint(self) -> QSize:
        return QSize(300, self._session.theme.px(60))

    def _x(self, k: int) -> float:
        count = len(self._session.project.steps)
        return 14 + (self.width() - 28) * (k / max(1, count - 1) if count > 1 else 0.0)

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        steps = self._session.project.steps
        if not steps:
            return
        chosen = self._session.chosen(STEPS)
        at = next((k for k, s in enumerate(steps) if s.id == chosen), 0)
        y = theme.px(34)
        p.fillRect(QRectF(self._x(0), y - 2, self._x(len(steps) - 1) - self._x(0), 4), theme.color("line"))
        p.fillRect(QRectF(self._x(0), y - 2, self._x(at) - self._x(0), 4), theme.color("lamp"))
        late = {s: c for f in self._session.results.prompts if f.code == "COAT-ACCESS" for s, c in [(f.subjects[0][1], f.subjects[1][1])]}
        for k, step in enumerate(steps):
            x = self._x(k)
            if step.closes:
                p.setBrush(theme.color("card"))
                p.setPen(QPen(theme.color("curtain"), 2))
                p.drawEllipse(QPointF(x, y), 6, 6)
            else:
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(theme.color("verdigris" if step.done else "soft"))
                p.drawEllipse(QPointF(x, y), 3.6, 3.6)
            if step.id in late:
                p.setPen(QPen(theme.color("stop"), 1.6))
                p.drawLine(QPointF(x, y + 8), QPointF(x, y + 18))
        x = self._x(at)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("ink"))
        p.drawPolygon(QPolygonF([QPointF(x - 6, y - 18), QPointF(x + 6, y - 18), QPointF(x, y - 8)]))
        step = steps[at]
        surfaces = {s.id: s.name for s in self._session.project.surfaces}
        shut = ", ".join(surfaces.get(c, c) for c in step.closes)
        names = {s.id: s.name for s in steps}
        tied = "".join(f"; {tie_words(t, names.get(t.step, t.step))}" for t in step.ties)
        text = f"{at + 1}. {step.name}" + (f"; closes {shut}" if shut else "") + tied
        p.setFont(theme.font(12.5, 600))
        p.setPen(theme.color("ink"))
        width = p.fontMetrics().horizontalAdvance(text)
        left = min(max(2.0, x - width / 2), self.width() - width - 2.0) if width < self.width() else 2.0
        below = QRectF(left, 0, self.width() - left, y - 18)
        p.drawText(below, Qt.AlignmentFlag.AlignVCenter, text)
        if step.id in late:
            p.setFont(theme.font(12))
            p.setPen(theme.text("stop"))
            closing = next((s.name for s in steps if s.id == late[step.id]), "")
            words = f"comes after “{closing}”: it can no longer be reached"
            width = p.fontMetrics().horizontalAdvance(words)
            p.drawText(QPointF(min(max(2.0, x - width / 2), self.width() - width - 2.0), y + theme.px(28)), words)
        signs.focus_ring(p, theme, self)

    def _pick(self, x: float) -> None:
        steps = self._session.project.steps
        if steps:
            k = min(range(len(steps)), key=lambda i: abs(self._x(i) - x))
            self.step_chosen.emit(steps[k].id)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pick(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._pick(event.position().x())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        ids = [s.id for s in self._session.project.steps]
        if step is None or not ids:
            super().keyPressEvent(event)
            return
        now = self._session.chosen(STEPS)
        at = ids.index(now) if now in ids else 0
        self.step_chosen.emit(ids[max(0, min(len(ids) - 1, at + step))])
