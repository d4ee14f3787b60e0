# SPDX-License-Identifier: MIT
"""Core samples: a column a surface, its coats as strata with hatch by kind and thickness in micrometres."""

import math
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from fondale.core.model import STEPS, SURFACES, Listing, Project
from fondale.core.strata import Layer, core_sample, film_um
from fondale.core.words import digits
from fondale.qt.session import Session
from fondale.qt.theme import signs

SAMPLE, LEAST = 34, 160  # widths of a sample, and of the narrowest column with its names


def strata_height(um: float) -> float:
    """Height of a stratum at 100 %: it grows with the logarithm, so that 3 µm and 900 µm can stand in one column."""
    return 13.0 + 7.0 * math.log10(1 + um)


def _words(layer: Layer) -> str:
    return ("✓ " if layer.done else "") + layer.name


class CoreSamples(QWidget):
    """All surfaces side by side; click a stratum or use the arrow keys to choose its step."""

    step_chosen = Signal(str)
    surface_chosen = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._spots: list[tuple[QRectF, Listing[Any], str]] = []
        self._kept: tuple[Project, list[tuple[str, str, tuple[Layer, ...]]]] | None = None
        self._widest: tuple[object, float, int] = (None, 0.0, 0)
        self._troubled: set[str] = set()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Core samples")

    def _column(self) -> int:
        """Wide enough for the longest name, where the whole width is."""
        theme, stacks = self._session.theme, self._stacks()
        if self._widest[0] is not stacks or self._widest[1] != theme.scale:
            metrics = QFontMetrics(theme.font(11.5, 600))
            words = max((metrics.horizontalAdvance(_words(layer)) for _i, _n, layers in stacks for layer in layers), default=0)
            self._widest = stacks, theme.scale, max(theme.px(LEAST), theme.px(SAMPLE) + 14 + words)
        return min(self._widest[2], max(theme.px(LEAST), self.width()))

    def _stacks(self) -> list[tuple[str, str, tuple[Layer, ...]]]:
        project = self._session.project
        if self._kept is None or self._kept[0] is not project:
            self._kept = (project, [(s.id, s.name, core_sample(project, s.id)) for s in project.surfaces])
        return self._kept[1]

    def _per_row(self) -> int:
        return max(1, self.width() // self._column())

    def _rows(self) -> list[tuple[float, list[tuple[str, str, tuple[Layer, ...]]]]]:
        """Rows of surfaces, and the height that each row needs."""
        stacks, per_row, theme = self._stacks(), self._per_row(), self._session.theme
        out: list[tuple[float, list[tuple[str, str, tuple[Layer, ...]]]]] = []
        for k in range(0, len(stacks), per_row):
            mine = stacks[k : k + per_row]
            tall = max(sum(strata_height(x.film_um) for x in layers) for _i, _n, layers in mine)
            out.append((round(tall * theme.scale) + theme.px(50), mine))
        return out

    def sizeHint(self) -> QSize:
        return QSize(self._column() * 2, max(160, int(sum(high for high, _row in self._rows()))))

    def minimumSizeHint(self) -> QSize:
        return QSize(self._session.theme.px(LEAST), self.sizeHint().height())

    def resizeEvent(self, event: object) -> None:
        self.updateGeometry()

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._spots = []
        stacks = self._stacks()
        if not stacks:
            p.setPen(theme.color("soft"))
            p.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                "No surfaces yet. Add one, then the steps that go onto it.",
            )
            return
        prompts = [f for f in self._session.results.prompts if f.station == "coats" and f.severity != "hint"]
        self._troubled = {i for f in prompts for listing, i in f.subjects[:2] if listing == STEPS}
        top = 0.0
        for high, row in self._rows():
            floor = top + high - theme.px(42)
            seen = top + high >= event.rect().top() and top <= event.rect().bottom()
            for k, (ident, name, layers) in enumerate(row if seen else []):
                self._surface(p, ident, name, layers, k * self._column() + 4, floor)
            top += high
        signs.focus_ring(p, theme, self)

    def _surface(self, p: QPainter, ident: str, name: str, layers: tuple[Layer, ...], x: float, floor: float) -> None:
        theme = self._session.theme
        chosen = self._session.chosen(STEPS)
        wide = theme.px(SAMPLE)
        y = floor
        for layer in layers:
            high = strata_height(layer.film_um) * theme.scale
            box = QRectF(x, y - high, wide, high)
            self._stratum(p, layer, box, layer.step == chosen)
            label = QRectF(x + wide + 6, y - high, self._column() - wide - 12, high)
            self._label(p, layer, label, layer.step == chosen, layer.step in self._troubled)
            self._spots.append((QRectF(x, y - high, self._column() - 8, high), STEPS, layer.step))
            y -= high
        p.setPen(QPen(theme.color("ink"), 2))
        p.drawLine(QPointF(x - 3, floor), QPointF(x + wide + 3, floor))
        foot = QRectF(x, floor + 3, self._column() - 10, theme.px(18))
        self._spots.append((foot, SURFACES, ident))
        p.setFont(theme.font(12.5, 600))
        p.setPen(theme.text("curtain") if self._session.selected.get(SURFACES) == ident else theme.color("ink"))
        p.drawText(foot, Qt.AlignmentFlag.AlignVCenter, p.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(foot.width())))
        p.setFont(theme.font(11))
        p.setPen(theme.text("soft"))
        words = f"{digits(film_um(layers), 0)} µm" if layers else "bare"
        p.drawText(QRectF(x, floor + theme.px(19), foot.width(), theme.px(16)), Qt.AlignmentFlag.AlignVCenter, words)

    def _stratum(self, p: QPainter, layer: Layer, box: QRectF, chosen: bool) -> None:
        theme = self._session.theme
        colour = signs.srgb(layer.colour)
        p.fillRect(box, colour)
        mark = QColor(255, 255, 255, 70) if colour.lightnessF() < 0.5 else QColor(0, 0, 0, 60)
        p.save()
        p.setClipRect(box)
        p.setPen(QPen(mark, 1))
        match layer.hatch:
            case "slant":
                for x in range(-int(box.height()), int(box.width()), 5):
                    p.drawLine(QPointF(box.left() + x, box.bottom()), QPointF(box.left() + x + box.height(), box.top()))
            case "lines":
                for y in range(4, int(box.height()), 5):
                    p.drawLine(QPointF(box.left(), box.top() + y), QPointF(box.right(), box.top() + y))
            case "dots":
                p.drawPoints(
                    QPolygonF(
                        [
                            QPointF(box.left() + x + more, box.top() + y)
                            for i, y in enumerate(range(3, int(box.height()), 5))
                            for x in range(3 + 3 * (i % 2), int(box.width()), 6)
                            for more in (0, 1)
                        ]
                    )
                )
            case "wave":
                for y in range(4, int(box.height()), 6):
                    for x in range(0, int(box.width()), 8):
                        p.drawLine(QPointF(box.left() + x, box.top() + y), QPointF(box.left() + x + 4, box.top() + y + 2))
                        p.drawLine(QPointF(box.left() + x + 4, box.top() + y + 2), QPointF(box.left() + x + 8, box.top() + y))
            case "sheen":
                p.drawLine(box.topLeft() + QPointF(4, 3), box.topLeft() + QPointF(box.width() * 0.6, 3))
        p.restore()
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.color("curtain" if chosen else "ink"), 2.2 if chosen else 0.8))
        p.drawRect(box)

    def _label(self, p: QPainter, layer: Layer, box: QRectF, chosen: bool, troubled: bool) -> None:
        theme = self._session.theme
        p.setFont(theme.font(11.5, 600 if chosen or troubled else 400))
        p.setPen(theme.text("curtain" if chosen else "stop" if troubled else "soft" if layer.done else "ink"))
        text = p.fontMetrics().elidedText(_words(layer), Qt.TextElideMode.ElideRight, int(box.width()))
        if box.height() >= theme.px(27):
            p.drawText(QRectF(box.left(), box.center().y() - theme.px(14), box.width(), theme.px(15)), Qt.AlignmentFlag.AlignVCenter, text)
            p.setFont(theme.font(11))
            p.setPen(theme.text("soft"))
            p.drawText(
                QRectF(box.left(), box.center().y(), box.width(), theme.px(14)),
                Qt.AlignmentFlag.AlignVCenter,
                f"{digits(layer.film_um, 0)} µm{', sanded' if layer.sanded else ''}",
            )
        else:
            p.drawText(box, Qt.AlignmentFlag.AlignVCenter, text)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for box, listing, ident in self._spots:
            if box.contains(event.position()):
                (self.step_chosen if listing == STEPS else self.surface_chosen).emit(ident)
                return

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1}.get(Qt.Key(event.key()))
        ids = [layer.step for _i, _n, layers in self._stacks() for layer in layers]
        if step is None or not ids:
            super().keyPressEvent(event)
            return
        now = self._session.chosen(STEPS)
        at = ids.index(now) if now in ids else 0
        self.step_chosen.emit(ids[max(0, min(len(ids) - 1, at + step))])
