# SPDX-License-Identifier: MIT
"""What the shelf draws besides the silhouettes themselves."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from fondale.qt.theme.palette import Theme


def break_line(p: QPainter, theme: Theme, x: float, y: float, width: float) -> None:
    """The draughtsman's zigzag over what goes on upwards."""
    left = x - width / 2
    line = QPainterPath(QPointF(left, y))
    line.lineTo(x - 7, y)
    for dx, dy in ((-3, -6), (3, 6), (7, 0)):
        line.lineTo(x + dx, y + dy)
    line.lineTo(left + width, y)
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(theme.color("slate"), 1.2))
    p.drawPath(line)


def draw_standing(p: QPainter, path: QPainterPath, x: float, floor: float, scale: float) -> None:
    """A path in mm, standing at (x, floor); the pen keeps its width."""
    pen = p.pen()
    pen.setCosmetic(True)
    p.save()
    p.setPen(pen)
    p.translate(x, floor)
    p.scale(scale, scale)
    p.drawPath(path)
    p.restore()


def draw_rule(p: QPainter, theme: Theme, top: float, width: int, scale: float) -> None:
    """A millimetre rule from the left edge."""
    p.setFont(theme.font(11))
    p.setPen(theme.color("slate"))
    last = int(width / scale)
    every = next(step for step in (50, 100, 200, 500, 1000, 5000) if step * scale >= theme.px(62) or step == 5000)
    half = theme.px(31)
    for mm in range(0, last + 1, next(step for step in (1, 5, 10, 50, 100, 500) if step * scale >= 2.5 or step == 500)):
        x = mm * scale
        tall = 10 if mm % 50 == 0 else 7 if mm % 10 == 0 else 4
        p.drawLine(QPointF(x, top), QPointF(x, top + tall))
        if mm % every == 0:
            p.drawText(
                QRectF(x - half if mm else 0, top + 10, 2 * half, theme.px(15)),
                Qt.AlignmentFlag.AlignHCenter if mm else Qt.AlignmentFlag.AlignLeft,
                f"{mm} mm",
            )
