# SPDX-License-Identifier: MIT
"""The files of the print shop as outlines with their cuts, and the machines as lanes of hours."""

from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from fondale.core.bodies.outline import Outline
from fondale.core.derived import BANK, JOBS, OUTLINES
from fondale.core.model import PrintFile, Project
from fondale.core.model.shapes import Mesh
from fondale.core.words import digits, hours_words, show_mm
from fondale.instruments import Bar
from fondale.qt.furniture.cells import Cells
from fondale.qt.session import Session
from fondale.qt.theme import signs


def shape_of(project: Project, file: PrintFile) -> Mesh | None:
    """The skin of a file, from the piece that is made of it."""
    return next((p.shape for p in project.pieces if isinstance(p.shape, Mesh) and p.shape.file == file.id), None)


def view_path(rings: Outline) -> QPainterPath:
    """An outline filling the square from 0 to 1, y down."""
    points = np.concatenate(rings)
    low, size = points.min(0), np.maximum(np.ptp(points, axis=0), 1e-9)
    return signs.path_of(tuple((r - low) / size for r in rings), 1.0, 0.0, 0.0)


def draw_view(p: QPainter, session: Session, file: PrintFile, axis: str, box: QRectF) -> None:
    """One view of a file in ``box``: axis x is the front, y the side. Cuts across it as dashed lines with their keys."""
    theme = session.theme
    known = session.results[OUTLINES]
    views = known.files.get(file.id) if known else None
    p.save()
    p.setPen(QPen(theme.color("ink"), 0.0))
    pen = p.pen()
    pen.setCosmetic(True)
    pen.setWidthF(1.2)
    p.setPen(pen)
    p.setBrush(theme.color("line", 0.6))
    p.translate(box.left(), box.bottom())
    p.scale(box.width(), box.height())
    if views is None:
        p.drawRect(QRectF(0, -1, 1, 1))
    else:
        p.drawPath(view_path(views[0 if axis == "x" else 1]))
    p.restore()
    p.setPen(QPen(theme.color("curtain"), 1.4, Qt.PenStyle.DashLine))
    for cut in file.cuts:
        if cut.axis == "z":
            y = box.bottom() - cut.at * box.height()
            p.drawLine(QPointF(box.left() - 6, y), QPointF(box.right() + 6, y))
            keys = [QPointF(box.left() + box.width() * s, y) for s in (0.38, 0.62)]
        elif cut.axis == axis:
            x = box.left() + cut.at * box.width()
            p.drawLine(QPointF(x, box.top() - 6), QPointF(x, box.bottom() + 6))
            keys = [QPointF(x, box.bottom() - box.height() * s) for s in (0.35, 0.65)]
        else:
            continue
        if file.keyed:
            p.save()
            p.setPen(QPen(theme.color("curtain"), 1.2))
            p.setBrush(theme.color("card"))
            for at in keys:
                p.drawEllipse(at, 3.2, 3.2)
            p.restore()
    p.setBrush(theme.color("curtain", 0.12))
    p.setPen(QPen(theme.color("curtain"), 1.2, Qt.PenStyle.DotLine))
    for panel in file.panels:
        if panel.side in (("front", "back") if axis == "x" else ("left", "right")):
            p.drawPolygon(QPolygonF([QPointF(box.left() + u * box.width(), box.bottom() - v * box.height()) for u, v in panel.outline]))


def draw_lying(p: QPainter, session: Session, rings: Outline, box: QRectF) -> None:
    """A file as it lies on its machine, on the line of its plate."""
    theme = session.theme
    p.save()
    pen = QPen(theme.color("ink"), 1.2)
    pen.setCosmetic(True)
    p.setPen(pen)
    p.setBrush(theme.color("line", 0.6))
    p.translate(box.left(), box.bottom())
    p.scale(box.width(), box.height())
    p.drawPath(view_path(rings))
    p.restore()
    p.setPen(QPen(theme.color("soft"), 1))
    p.drawLine(box.bottomLeft() + QPointF(-6, 1), box.bottomRight() + QPointF(6, 1))


class FileCells(Cells):
    """Every file with its outline, percentage and hours."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Files", 176, 118, "No files yet. Bring STL, OBJ, PLY, 3MF or GLB.", across=1)

    def words(self, thing: Any) -> str:
        job = self._session.results.one(JOBS, thing.id)
        return f"{thing.name} at {digits(thing.percent, 1)} %{': ' + job.words if job else ''}"

    def draw(self, p: QPainter, box: QRectF, thing: Any, chosen: bool) -> None:
        job = self._session.results.one(JOBS, thing.id)
        known = self._session.results[OUTLINES]
        lying = known.lying.get(thing.id) if known else None
        w, _d, h = thing.printed
        if lying is not None:
            w, h = np.ptp(np.concatenate(lying), axis=0).tolist()
        room = box.adjusted(16, 10, -16, -self._session.theme.px(46))
        scale = min(room.width() / w, room.height() / h)
        view = QRectF(0, 0, w * scale, h * scale)
        view.moveCenter(room.center())
        if lying is None:
            draw_view(p, self._session, thing, "x", view)
        else:
            draw_lying(p, self._session, lying, view)
        self.line(p, box, 1, thing.name, weight=600)
        percent = f"{digits(thing.percent, 1)} %"
        if job is None:
            self.line(p, box, 0, percent, "soft", size=11)
        elif job.too_large:
            self.line(p, box, 0, f"{percent}, too large for the machine", "stop", size=11)
        else:
            parts = f", {job.parts} parts" if job.parts > 1 else ""
            bank = self._session.results[BANK]
            hours = sum(b - a for _m, lead, a, b in bank.bars if lead == thing.id) if bank is not None else 0.0
            here = hours_words(hours) if hours else "on another one’s plates"
            takes = f"ordered, {job.cost_words}" if thing.ordered is not None else here
            self.line(p, box, 0, f"{percent}{parts}, {takes}", "soft", size=11)


class FileDrawing(QWidget):
    """The chosen file from the front and from the side, with its sizes, its cuts and the room of the machine.

    While it ``draws``, a drag makes a panel of four corners, and clicks one of as many as there are, closed by a double click or Enter.
    """

    drawn = Signal(str, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.file: PrintFile | None = None
        self.build: tuple[float, float, float] = (0.0, 0.0, 0.0)
        self.draws = False
        self._views: dict[str, QRectF] = {}
        self._side = ""
        self._start: QPointF | None = None
        self._now = QPointF()
        self._corners: list[QPointF] = []
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName("Outline drawings of the file")

    def let_draw(self, on: bool) -> None:
        """Whether a drag draws a panel."""
        self.draws, self._start, self._corners = on, None, []
        self.setCursor(Qt.CursorShape.CrossCursor if on else Qt.CursorShape.ArrowCursor)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        side = next((s for s, box in self._views.items() if box.adjusted(-8, -8, 8, 8).contains(at)), "")
        if self.draws and side and (side == self._side or not self._corners):
            self._side, self._start, self._now = side, at, at

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._now = event.position()
        if self._start is not None:
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        start, self._start, end = self._start, None, event.position()
        if start is None:
            return
        if (end - start).manhattanLength() < 6:
            self._corners.append(start)
        elif not self._corners:
            self._corners = [start, QPointF(end.x(), start.y()), end, QPointF(start.x(), end.y())]
            self._close()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._close()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._close()
        elif event.key() == Qt.Key.Key_Escape:
            self._corners = []
            self.update()
        else:
            super().keyPressEvent(event)

    def _close(self) -> None:
        corners, self._corners = self._corners, []
        box = self._views.get(self._side)
        if box is None or len(corners) < 3:
            return
        u = [round(min(1.0, max(0.0, (c.x() - box.left()) / box.width())), 3) for c in corners]
        v = [round(min(1.0, max(0.0, (box.bottom() - c.y()) / box.height())), 3) for c in corners]
        if len(corners) == 4 and u[0] == u[3] and u[1] == u[2]:  # a box goes round from its lower left corner
            (u0, u1), (v0, v1) = sorted((u[0], u[1])), sorted((v[0], v[2]))
            u, v = [u0, u1, u1, u0], [v0, v0, v1, v1]
        if len(set(u)) > 1 and len(set(v)) > 1:
            self.drawn.emit(self._side, tuple(zip(u, v, strict=True)))

    def minimumSizeHint(self) -> QSize:
        return QSize(0, self._session.theme.px(180))

    def sizeHint(self) -> QSize:
        return QSize(360, 260)

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        file = self.file
        if file is None:
            p.setPen(theme.color("soft"))
            words = "Bring a file, and it is drawn here with its sizes, its cuts and the machine’s room."
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
            return
        w, d, h = file.printed
        side = theme.px(64.0)
        room = QRectF(self.rect()).adjusted(14, theme.px(30), -side, -theme.px(36))
        between = theme.px(44.0)
        scale = min((room.width() - between) / (w + d), room.height() / h)
        front = QRectF(room.left(), room.bottom() - h * scale, w * scale, h * scale)
        right = QRectF(front.right() + between, front.top(), d * scale, h * scale)
        self._views = {"front": front, "right": right}
        self._room(p, front, right, scale, file)
        draw_view(p, self._session, file, "x", front)
        draw_view(p, self._session, file, "y", right)
        p.setPen(QPen(theme.color("curtain"), 1.4))
        p.setBrush(Qt.BrushStyle.NoBrush)
        if self._start is not None and not self._corners:
            p.drawRect(QRectF(self._start, self._now).normalized())
        p.drawPolyline(QPolygonF(self._corners))
        low = room.bottom() + 12
        signs.dimension(p, theme, QPointF(front.left(), low), QPointF(front.right(), low), show_mm(w), above=False)
        signs.dimension(p, theme, QPointF(right.left(), low), QPointF(right.right(), low), show_mm(d), above=False)
        signs.dimension(p, theme, QPointF(right.right() + 12, right.top()), QPointF(right.right() + 12, right.bottom()), show_mm(h))
        p.setFont(theme.font(11))
        p.setPen(theme.text("soft"))
        for box, words in ((front, "from the front"), (right, "from the side")):
            at = QRectF(box.center().x() - 70, 2, 140, theme.px(16))
            p.drawText(at, Qt.AlignmentFlag.AlignCenter, words)

    def _room(self, p: QPainter, front: QRectF, side: QRectF, scale: float, file: PrintFile) -> None:
        """The machine's room behind a part that stands, where it is smaller than the drawing."""
        if file.up != "z" or file.tilt_deg or not self.build[0]:
            return
        theme = self._session.theme
        p.setPen(QPen(theme.color("slate"), 1, Qt.PenStyle.DotLine))
        p.setBrush(Qt.BrushStyle.NoBrush)
        for box, wide in ((front, self.build[0]), (side, self.build[1])):
            frame = QRectF(0, 0, wide * scale, self.build[2] * scale)
            frame.moveCenter(QPointF(box.center().x(), 0))
            frame.moveBottom(box.bottom())
            if frame.width() < self.width() and frame.height() < self.height() * 1.2:
                p.drawRect(frame)


class BankDrawing(QWidget):
    """One lane a printer, hours along it; what failed is struck through and printed again."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.bars: tuple[Bar, ...] = ()
        self.setAccessibleName("Printers at work")

    def minimumSizeHint(self) -> QSize:
        return QSize(0, self._session.theme.px(70))

    def sizeHint(self) -> QSize:
        return QSize(320, 84)

    def show_bars(self, bars: tuple[Bar, ...]) -> None:
        """Show tries, hours from the start."""
        self.bars = bars
        said = "; ".join(f"{b.printer}: {b.job}{'' if b.good else ' failed'} until {digits(b.end, 1)} h" for b in bars[:12])
        self.setAccessibleDescription(said)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        printers = list(dict.fromkeys(b.printer for b in self.bars))
        if not printers:
            p.setPen(theme.color("soft"))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, "What is printed shows here, hour by hour.")
            return
        end = max(b.end for b in self.bars) or 1.0
        names = {f.id: f.name for f in self._session.project.prints}
        lane = min(theme.px(34.0), (self.height() - theme.px(18)) / len(printers))
        scale = (self.width() - 4) / end
        for k, printer in enumerate(printers):
            top = k * lane
            p.setFont(theme.font(10.5))
            p.setPen(theme.text("soft"))
            p.drawText(QRectF(0, top, self.width(), theme.px(13)), Qt.AlignmentFlag.AlignVCenter, printer)
            drawn, bad = -1.0, False
            for bar in (b for b in self.bars if b.printer == printer):
                if bar.end * scale < drawn + 1 and (bar.good or bad):
                    continue  # hundreds of copies share a pixel
                drawn, bad = bar.end * scale, not bar.good
                box = QRectF(bar.start * scale, top + theme.px(14), max(2.0, (bar.end - bar.start) * scale - 1), lane - theme.px(17))
                p.fillRect(box, theme.color("verdigris" if bar.good else "stop", 0.35))
                p.setPen(QPen(theme.color("verdigris" if bar.good else "stop"), 1))
                p.drawRect(box)
                if not bar.good:
                    p.drawLine(box.topLeft(), box.bottomRight())
                if box.width() > 30:
                    p.setPen(theme.text("ink"))
                    text = p.fontMetrics().elidedText(names.get(bar.job, bar.job), Qt.TextElideMode.ElideRight, int(box.width() - 6))
                    p.drawText(box.adjusted(3, 0, -2, 0), Qt.AlignmentFlag.AlignVCenter, text)
        p.setPen(theme.text("slate"))
        step = next((s for s in (1, 2, 4, 6, 12, 24, 48, 96, 192, 400, 1000, 5000) if end / s <= 7), max(1, int(end / 5)))
        y = len(printers) * lane
        for hour in range(0, int(end) + 1, step):
            if hour * scale > self.width() - 24:
                break
            p.drawLine(QPointF(hour * scale, y), QPointF(hour * scale, y + 4))
            p.drawText(QRectF(hour * scale + 2, y, 50, theme.px(15)), Qt.AlignmentFlag.AlignVCenter, f"{hour} h")
