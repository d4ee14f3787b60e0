# SPDX-License-Identifier: MIT
"""Where parts meet what they are part of, in plan and section."""

from collections.abc import Sequence

from PySide6.QtCore import QLineF
from PySide6.QtGui import QPainter, QPen

from fondale.core.arrays import Floats
from fondale.core.stage.seams import Seam
from fondale.qt.stations.stage.lamp_handles import Axis
from fondale.qt.theme.palette import Theme


def draw_seams(p: QPainter, theme: Theme, axis: Axis, frame: tuple[float, float, float], known: Sequence[Seam]) -> None:
    """The line where the skins meet, which is where the saw goes. ``frame``: pixels a millimetre, and where the case's origin lies."""
    p.setPen(QPen(theme.color("slate"), 2.4))
    scale, x, y = frame
    for cut in (cut for seam in known for cut in seam.cuts):
        flat: Floats = cut.rim[..., 0:2] if axis == "plan" else cut.rim[..., 1:3]
        p.drawLines([QLineF(*ends) for ends in (flat * (scale, -scale) + (x, y)).reshape(-1, 4).tolist()])
