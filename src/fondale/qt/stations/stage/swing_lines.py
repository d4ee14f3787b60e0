# SPDX-License-Identifier: MIT
"""Doors and cranes in plan: the way that they turn, and where they end."""

from collections.abc import Callable, Iterable

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from fondale.core.model import Piece, Place
from fondale.core.stage.swings import pivot_of, swept
from fondale.qt.theme.palette import Theme

COARSE_DEG = 3.0


def draw_swings(p: QPainter, theme: Theme, polygon: Callable[[np.ndarray], QPolygonF], standing: Iterable[tuple[Piece, Place]]) -> None:
    """The way of the farthest corner of what turns, dashed, and its outline at the end."""
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(theme.color("slate"), 1.1, Qt.PenStyle.DashLine))
    for piece, place in standing:
        if piece.swing_deg:
            _angles, rings = swept(piece, place, COARSE_DEG)
            far = np.linalg.norm(rings[0] - pivot_of(piece, place), axis=1).argmax()
            p.drawPolyline(polygon(rings[:, far]))
            p.drawPolygon(polygon(rings[-1]))
