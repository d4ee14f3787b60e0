"""Where parts meet what they are part of, in plan and section."""

from collections.abc import Callable, Sequence

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPen

from fondale.core.model import PIECES, Project
from fondale.core.stage.scene import rest_places
from fondale.core.stage.seams import Seam, rim_in_case
from fondale.qt.stations.stage.lamp_handles import Axis
from fondale.qt.theme.palette import Theme


def draw_seams(
    p: QPainter, theme: Theme, axis: Axis, to_screen: Callable[[float, float], QPointF], project: Project, known: Sequence[Seam]
) -> None:
    """The line where the skins meet, which is where the saw goes."""
    p.setPen(QPen(theme.color("slate"), 2.4))
    places, keep = rest_places(project), slice(0, 2) if axis == "plan" else slice(1, 3)
    for seam in known:
        piece = project.find(PIECES, seam.piece)
        if piece is not None and piece.id in places:
            for cut in seam.cuts:
                ends: np.ndarray = rim_in_case(piece, places[piece.id], cut)[..., keep]
                for (a0, b0), (a1, b1) in ends.tolist():
                    p.drawLine(to_screen(a0, b0), to_screen(a1, b1))
