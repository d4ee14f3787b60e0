# SPDX-License-Identifier: MIT
"""The running order: an evening a block with its minutes as a measuring glass; what dries hangs as cords in the margin."""

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from fondale.core.derived import DRAFT, PLAN
from fondale.core.model import STEPS, Step
from fondale.core.order.plan import Evening, Item
from fondale.core.words import day_words
from fondale.qt.session import Session

WORK_ROLE = {"build": "soft", "print": "slate", "paint": "verdigris", "weather": "lamp", "wire": "curtain", "test": "slate"}


class RunningOrder(QWidget):
    """Tonight first; click chooses a step."""

    step_chosen = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._spots: list[tuple[QRectF, str]] = []
        self.setAccessibleName("Running order")

    def _heights(self) -> tuple[int, int]:
        return self._session.theme.px(26), self._session.theme.px(19)

    def sizeHint(self) -> QSize:
        plan = self._session.results.order
        head, row = self._heights()
        rows = sum(max(2, len(e.items)) for e in plan.evenings) if plan else 4
        return QSize(380, (len(plan.evenings) if plan else 1) * (head + 10) + rows * row + 20)

    def minimumSizeHint(self) -> QSize:
        return QSize(300, self.sizeHint().height())

    def refresh(self) -> None:
        """Follow the plan."""
        self.updateGeometry()
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        plan = self._session.results.order
        self._spots = []
        if plan is None or not plan.evenings:
            words = (
                "Finding the running order…"
                if plan is None
                else plan.trouble or "Nothing is left to do. Add steps, and they are put in order here."
            )
            p.setPen(theme.color("soft"))
            p.drawText(self.rect().adjusted(0, 8, -8, 0), Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, words)
            return
        if not (self._session.results.fresh(PLAN) or self._session.results.fresh(DRAFT)):
            p.setOpacity(0.55)
        y = 0.0
        ends: dict[str, QPointF] = {}
        for evening in plan.evenings:
            y = self._evening(p, evening, y, ends, event.rect())
        self._cords(p, ends)
        self._ties(p, ends)

    def _evening(self, p: QPainter, evening: Evening, y: float, ends: dict[str, QPointF], show: QRect) -> float:
        """Lay an evening out from ``y`` on, and draw it where it can be seen; returns where the next one begins."""
        theme = self._session.theme
        head, row = self._heights()
        right = self.width() - theme.px(96)
        top, high = y + head, max(2, len(evening.items)) * row
        seen = y <= show.bottom() and top + high >= show.top()
        glass = QRectF(2, top + 2, theme.px(22), high - 6)
        if seen:
            self._title(p, evening, QRectF(0, y, right, head))
            self._glass(p, evening, glass)
        steps = {s.id: s for s in self._session.project.steps}
        shut = {s for f in self._session.results.prompts if f.code == "COAT-ACCESS" for _field, s in f.subjects[:1]}
        for k, item in enumerate(evening.items):
            if item.step not in steps:
                continue
            line = QRectF(glass.right() + 8, top + k * row, right - glass.right() - 8, row)
            if seen:
                self._line(p, item, steps[item.step], line, item.step in shut)
            self._spots.append((line, item.step))
            ends[f"{item.step}:{'first' if item.part == 1 else ''}"] = QPointF(right + 4, line.center().y())
            ends[item.step] = QPointF(right + 4, line.center().y())
        return top + high + 10

    def _title(self, p: QPainter, evening: Evening, box: QRectF) -> None:
        theme = self._session.theme
        title = ("Tonight, " if evening.day == self._session.results.look.today else "") + day_words(evening.day)
        p.setFont(theme.font(13, 600))
        p.setPen(theme.color("ink"))
        p.drawText(box, Qt.AlignmentFlag.AlignVCenter, title)
        room = box.width() - p.fontMetrics().horizontalAdvance(title) - theme.px(10)
        p.setFont(theme.font(11.5))
        p.setPen(theme.text("soft"))
        tools = "".join(f", {tool} {minutes}" for tool, minutes in evening.tools)
        every = f", tools {sum(minutes for _tool, minutes in evening.tools)}" if evening.tools else ""
        used = f"{evening.used} of {evening.minutes} min"
        said = next((used + more for more in (tools, every) if p.fontMetrics().horizontalAdvance(used + more) <= room), used)
        p.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, said)

    def _glass(self, p: QPainter, evening: Evening, glass: QRectF) -> None:
        """The evening's minutes as a measuring glass, filled by kind of work."""
        theme = self._session.theme
        used = evening.used
        at = glass.bottom()
        for item in evening.items:
            part = glass.height() * item.minutes / max(evening.minutes, used)
            step = self._session.project.find(STEPS, item.step)
            role = WORK_ROLE[step.work] if step else "soft"
            p.fillRect(QRectF(glass.left(), at - part, glass.width(), part), theme.color(role, 0.55))
            at -= part
        p.setPen(QPen(theme.color("ink"), 1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        rim = QPointF(0, -3)
        p.drawPolyline([glass.topLeft() + rim, glass.bottomLeft(), glass.bottomRight(), glass.topRight() + rim])
        for k in range(1, 4):
            mark = glass.bottom() - glass.height() * k / 4
            p.drawLine(QPointF(glass.left(), mark), QPointF(glass.left() + 5, mark))

    def _line(self, p: QPainter, item: Item, step: Step, line: QRectF, shut: bool) -> None:
        theme = self._session.theme
        mine = item.step == self._session.chosen(STEPS)
        p.fillRect(QRectF(line.left(), line.center().y() - 4, 8, 8), theme.color(WORK_ROLE[step.work]))
        p.setFont(theme.font(12, 600 if mine else 400))
        p.setPen(theme.text("curtain" if mine else "stop" if shut else "ink"))
        part = f" ({item.part} of {item.parts})" if item.parts > 1 else ""
        name = step.name + part + (": cannot be reached" if shut else "")
        room = int(line.width() - 14 - theme.px(48))
        p.drawText(
            line.adjusted(14, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, p.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, room)
        )
        p.setFont(theme.font(12))
        p.setPen(theme.text("soft"))
        p.drawText(line, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{item.minutes} min")

    def _cords(self, p: QPainter, ends: dict[str, QPointF]) -> None:
        """Cords of the chosen step and of those that decide the date; all others thin."""
        theme = self._session.theme
        plan = self._session.results.order
        if plan is None:
            return
        chosen = self._session.chosen(STEPS)
        lane = 0
        for cord in plan.cords:
            a, b = ends.get(cord.step), ends.get(f"{cord.next_step}:first") or ends.get(cord.next_step)
            if a is None or b is None or b.y() <= a.y():
                continue
            strong = chosen in (cord.step, cord.next_step)
            x = a.x() + 6 + (lane % 7) * theme.px(10)
            lane += 1
            path = QPainterPath(a)
            path.cubicTo(QPointF(x + 12, a.y()), QPointF(x, (a.y() + b.y()) / 2), QPointF(x, b.y()))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(theme.color("slate", 1.0 if strong else 0.45), 1.6 if strong else 1.0, Qt.PenStyle.DotLine))
            p.drawPath(path)
            p.setBrush(theme.color("slate", 1.0 if strong else 0.5))
            p.setPen(Qt.PenStyle.NoPen)
            p.drawEllipse(a, 2.5, 2.5)
            p.fillRect(QRectF(x - 4, b.y() - 1, 8, 2), theme.color("slate", 1.0 if strong else 0.5))
            if strong:
                p.setFont(theme.font(11))
                p.setPen(theme.text("slate"))
                step = self._session.project.find(STEPS, cord.step)
                words = f"{'dry' if step is not None and step.coat else 'until'} {cord.until:%a %H:%M}"
                p.drawText(QRectF(self.width() - theme.px(86), b.y() + 1, theme.px(86), theme.px(15)), Qt.AlignmentFlag.AlignRight, words)

    def _ties(self, p: QPainter, ends: dict[str, QPointF]) -> None:
        """A bracket from a step to the one that is tied to it; red where the order does not keep it."""
        theme, plan = self._session.theme, self._session.results.order
        left = {u.tied for u in plan.unkept} if plan is not None else set()
        for step in self._session.project.steps:
            for tie in step.ties:
                a, b = ends.get(tie.step), ends.get(f"{step.id}:first") or ends.get(step.id)
                if a is None or b is None:
                    continue
                role = "stop" if (step.id, tie.step, tie.kind) in left else "curtain"
                p.setPen(QPen(theme.color(role), 1.4))
                x = a.x() + 3
                p.drawPolyline([QPointF(x - 3, a.y()), QPointF(x, a.y()), QPointF(x, b.y()), QPointF(x - 3, b.y())])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for box, ident in self._spots:
            if box.contains(event.position()):
                self.step_chosen.emit(ident)
                return
