# SPDX-License-Identifier: MIT
"""The scale ribbon: the case at candidate scales, and how many of the figures at hand fit as they are."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from fondale.core.derived import OUTLINES, RIBBON
from fondale.core.house_scale import Candidate, Extent, man_mm
from fondale.core.model import Case
from fondale.core.stage.cases import cells
from fondale.core.words import digits, show_mm, show_real, show_scale
from fondale.qt.session import Session
from fondale.qt.theme import signs

LEAST_CELL = 96


class ScaleRibbon(QWidget):
    """The scene in the case at each scale (an empty project: a man of average height); the wheel moves along, click or arrow keys choose."""

    chosen = Signal(float)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._left = 0.0
        self._seen: tuple[object, ...] = (None,) * 4
        self._shown: tuple[float, int, float] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Scale ribbon")
        self.setToolTip(
            "Pieces that serve as they are; bits of that scale; how far the scene leaves the case; the largest part in print;"
            " and the smallest detail, in real size, that the nearest eye makes out"
        )
        self.setMinimumHeight(150)

    def sizeHint(self) -> QSize:
        return QSize(800, self._session.theme.px(158))

    def refresh(self) -> None:
        """Draw anew where something changed."""
        seen = (self._session.results[RIBBON], self._session.project, self._session.theme.lighting, self._session.theme.scale)
        if any(a is not b for a, b in zip(seen, self._seen, strict=True)):
            self._seen = seen
            self.update()

    def rows(self) -> list[Candidate]:
        """The scales on show: the named ones and the house scale, largest model first."""
        ribbon = self._session.results[RIBBON]
        return list(ribbon.candidates) if ribbon else []

    def candidates(self) -> list[float]:
        """The scales on show."""
        return [c.n for c in self.rows()]

    def _cells(self) -> list[tuple[float, QRectF]]:
        scales = self.candidates()
        width = max(self.width() / max(1, len(scales)), self._session.theme.px(LEAST_CELL))
        return [(n, QRectF(i * width - self._left, 0, width, self.height())) for i, n in enumerate(scales)]

    def show_scale_at(self, n: float) -> None:
        """Move the ribbon so that a scale is on show."""
        cell = next((c for m, c in self._cells() if m == n), None)
        if cell is not None:
            end = len(self.candidates()) * cell.width() - self.width()
            self._left = max(0.0, min(end, self._left + cell.center().x() - self.width() / 2))
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        ribbon = self._session.results[RIBBON]
        case, house = self._session.project.case, self._session.project.brief.house_n
        if ribbon is None:
            return
        shown = (house, self.width(), theme.scale)
        if self._shown != shown:
            self._shown = shown
            self.show_scale_at(house)
        line = theme.px(15)
        for row, (n, cell) in zip(self.rows(), self._cells(), strict=True):
            if cell.right() < 0 or cell.left() > self.width():
                continue
            mine, best = n == house, n == ribbon.best
            inner = cell.adjusted(5, theme.px(21), -5, -line * 5 - 2)
            scale = min(inner.width() / case.width, inner.height() / case.height)
            box = QRectF(0, 0, case.width * scale, case.height * scale)
            box.moveCenter(QPointF(inner.center().x(), 0))
            box.moveTop(inner.top())
            p.setPen(QPen(theme.color("curtain" if mine else "soft"), 2 if mine else 1))
            p.setBrush(theme.color("card"))
            p.drawRect(box)
            self._scene(p, box, scale, house / n, ribbon.extents)
            p.setFont(theme.font(13, 600))
            p.setPen(theme.text("curtain" if mine else "ink"))
            p.drawText(QRectF(cell.left(), 0, cell.width(), theme.px(20)), Qt.AlignmentFlag.AlignCenter, show_scale(n))
            for k, (text, role) in enumerate(self._notes(row, best and case != Case())):
                p.setFont(theme.font(11, 600 if role == "verdigris" else 400))
                p.setPen(theme.text(role))
                at = QRectF(cell.left(), box.bottom() + 3 + k * line, cell.width(), line)
                p.drawText(at, Qt.AlignmentFlag.AlignCenter, p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(at.width())))
        signs.focus_ring(p, theme, self)

    @staticmethod
    def _notes(row: Candidate, best: bool) -> list[tuple[str, str]]:
        """What follows from a scale, in at most five short lines."""
        out = []
        if row.measured:
            out.append((f"{row.serve} of {row.measured} fit", "verdigris" if best else "soft"))
        elif best:
            out.append(("suits the case", "verdigris"))
        if row.known_bits:
            out.append((f"{row.bits} of {row.known_bits} bits", "soft"))
        if row.over_mm > 1:
            out.append((f"{show_mm(row.over_mm)} out", "stop"))
        if row.largest_ml:
            out.append((f"largest {digits(row.largest_ml, 0)} ml", "soft"))
        out.append((f"detail {show_real(row.eye_mm_real)}", "soft"))
        return out[:5]

    def _scene(self, p: QPainter, box: QRectF, scale: float, grow: float, extents: tuple[Extent, ...]) -> None:
        """The scene's outlines as seen from the front, as large as they would be; red where they leave the case."""
        theme, case = self._session.theme, self._session.project.case
        p.save()
        p.setClipRect(box.adjusted(1, 1, -1, -1))
        over, roofed = False, cells(case)[0].sides["top"] != "open"
        large, centre, floor = grow * scale, box.center().x(), box.bottom()
        seen: dict[bool, list[QRectF]] = {True: [], False: []}
        for e in extents:
            left, right = centre + (e.left - case.width / 2) * large, centre + (e.right - case.width / 2) * large
            over |= left < box.left() - 1 or right > box.right() + 1 or (roofed and e.high * grow > case.height + 1)
            seen[e.scenery].append(QRectF(left, floor - e.high * large, right - left, (e.high - e.low) * large))
        p.setPen(QPen(theme.color("soft"), 0.6))
        for scenery, colour in ((True, theme.color("line", 0.5)), (False, theme.color("ink"))):
            p.setBrush(colour)
            p.drawRects(seen[scenery])
        if not extents:
            outlines = self._session.results[OUTLINES]
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.color("ink"))
            p.drawPath(
                signs.path_of(
                    outlines.man if outlines is not None else (),
                    man_mm() / self._session.project.brief.house_n * grow * scale,
                    box.center().x(),
                    box.bottom(),
                )
            )
        p.restore()
        if over:
            p.setPen(QPen(theme.color("stop"), 1.4, Qt.PenStyle.DashLine))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(box.adjusted(-2, -2, 2, 2))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for n, cell in self._cells():
            if cell.contains(event.position()):
                self.chosen.emit(n)

    def wheelEvent(self, event: QWheelEvent) -> None:
        cells = self._cells()
        if cells:
            end = max(0.0, len(cells) * cells[0][1].width() - self.width())
            turn = event.angleDelta().y() or event.angleDelta().x()
            self._left = max(0.0, min(end, self._left - turn * 0.6))
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        scales = self.candidates()
        if step is None:
            super().keyPressEvent(event)
            return
        at = scales.index(self._session.project.brief.house_n) + step
        if 0 <= at < len(scales):
            self.chosen.emit(scales[at])
