# SPDX-License-Identifier: MIT
"""Signs that Fondale draws itself: severities, outlines, hatching, dimension lines."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from fondale.core.colours import shown
from fondale.qt.theme.palette import SEVERITY, Theme


def severity(p: QPainter, theme: Theme, level: str, box: QRectF) -> None:
    """*stop* a filled square, *mind* a half-filled one, *hint* a small open one."""
    colour = theme.color(SEVERITY[level])
    p.save()
    p.setPen(QPen(colour, 1.4))
    p.setBrush(Qt.BrushStyle.NoBrush)
    if level == "stop":
        p.fillRect(box, colour)
    elif level == "mind":
        p.drawRect(box)
        p.setBrush(colour)
        p.setPen(Qt.PenStyle.NoPen)
        p.drawPolygon(QPolygonF([box.bottomLeft(), box.topLeft(), box.bottomRight()]))
    else:
        inset = box.width() * 0.2
        p.drawRect(box.adjusted(inset, inset, -inset, -inset))
    p.restore()


def path_of(rings: tuple[np.ndarray, ...], scale: float, x: float, y: float) -> QPainterPath:
    """Rings (k, 2) in mm, y up, as a path with its origin at (x, y) on the screen; odd-even filled."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill)
    for ring in rings:
        path.addPolygon(QPolygonF([QPointF(x + float(a) * scale, y - float(b) * scale) for a, b in ring]))
        path.closeSubpath()
    return path


def hatch(theme: Theme, role: str = "soft", alpha: float = 0.5) -> QBrush:
    """The 45-degree hatch of what is hidden."""
    return QBrush(theme.color(role, alpha), Qt.BrushStyle.BDiagPattern)


def dimension(p: QPainter, theme: Theme, a: QPointF, b: QPointF, text: str, above: bool = True) -> None:
    """A dimension line with slashes at both ends; the number stands beside the line, never on it."""
    p.save()
    p.setPen(QPen(theme.color("slate"), 1))
    p.drawLine(a, b)
    for end in (a, b):
        p.drawLine(end + QPointF(-3, 3), end + QPointF(3, -3))
    p.setFont(theme.font(11))
    p.setPen(theme.text("slate"))
    if abs(a.y() - b.y()) < abs(a.x() - b.x()):
        box = QRectF(min(a.x(), b.x()) - 40, a.y() + (-theme.px(17) if above else 3), abs(a.x() - b.x()) + 80, theme.px(15))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
    else:
        box = QRectF(a.x() + 5, (a.y() + b.y()) / 2 - theme.px(8), 120, theme.px(16))
        p.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)
    p.restore()


def label_tag(p: QPainter, theme: Theme, box: QRectF, edge: QColor, chosen: bool) -> None:
    """A luggage label: cut corners on the left and a hole for the cord."""
    cut = 7.0
    shape = QPolygonF([
        QPointF(box.left() + cut, box.top()), box.topRight(), box.bottomRight(), QPointF(box.left() + cut, box.bottom()),
        QPointF(box.left(), box.bottom() - cut), QPointF(box.left(), box.top() + cut),
    ])  # fmt: skip
    p.save()
    p.setBrush(theme.color("card"))
    p.setPen(QPen(edge, 2.0 if chosen else 1.0))
    p.drawPolygon(shape)
    p.setBrush(theme.color("ground"))
    p.setPen(QPen(edge, 1.0))
    p.drawEllipse(hole_of(box), 2.6, 2.6)
    p.restore()


def hole_of(box: QRectF) -> QPointF:
    """Where the cord of a tag is tied."""
    return QPointF(box.left() + 8, box.top() + 11)


def bead(p: QPainter, at: QPointF, colour: QColor, glow: float, radius: float) -> None:
    """A bulb on a string: a bead, with a halo when it glows."""
    p.save()
    p.setPen(Qt.PenStyle.NoPen)
    if glow > 0:
        halo = QColor(colour)
        halo.setAlphaF(0.28 * min(1.0, glow))
        p.setBrush(halo)
        p.drawEllipse(at, radius * 1.9, radius * 1.9)
    p.setBrush(colour if glow > 0 else colour.darker(260))
    p.setPen(QPen(colour.darker(190), 1))  # or white ones could not be seen on paper
    p.drawEllipse(at, radius, radius)
    p.restore()


def focus_ring(p: QPainter, theme: Theme, widget: QWidget) -> None:
    """A dotted frame around a drawing that has the keyboard."""
    if widget.hasFocus():
        p.setPen(QPen(theme.color("curtain"), 1, Qt.PenStyle.DotLine))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(widget.rect().adjusted(0, 0, -1, -1))


def srgb(rgb: tuple[float, float, float]) -> QColor:
    """A linear reflectance as a display colour."""
    return QColor.fromRgbF(*shown(rgb))
