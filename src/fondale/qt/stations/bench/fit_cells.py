# SPDX-License-Identifier: MIT
"""Fits drawn as a section: the hole's walls, the peg, the coats on both, and the air that is left."""

from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from fondale.core.derived import AIRS
from fondale.core.fits.air import Air
from fondale.core.model import Fit
from fondale.core.words import digits
from fondale.knowledge import table
from fondale.qt.furniture.cells import Cells
from fondale.qt.session import Session
from fondale.qt.theme import signs

VERDICT = {"fits": "verdigris", "tight": "lamp", "loose": "slate", "will not go in": "stop"}
SIGN = {"fits": "fits", "tight": "binds", "loose": "rattles", "will not go in": "will not go in"}
FILM_GROWS = 14.0  # films and air are drawn this much larger than the parts, or nobody would see them


def draw_section(p: QPainter, session: Session, fit: Fit, air: Air | None, room: QRectF, large: bool) -> None:
    """The section of a fit in ``room``. The gap, films and air are drawn enlarged, to one scale among themselves."""
    theme = session.theme
    hole_film = air.hole_film if air else 0.0
    peg_film = air.peg_film if air else 0.0
    gap = (fit.hole - fit.peg) / 2
    wall = room.width() * 0.16
    inner = room.adjusted(wall, 0, -wall, 0)
    most = max(abs(gap), hole_film + peg_film, 0.05)
    unit = min(inner.width() * 0.22 / most, inner.width() * FILM_GROWS / max(fit.hole, 1e-6) / 4)
    g = gap * unit
    peg = QRectF(inner.left() + g, room.top(), inner.width() - 2 * g, room.height() - room.height() * 0.18)
    p.setPen(Qt.PenStyle.NoPen)
    # The walls of the hole and what lies under it.
    block = theme.color("line")
    floor = room.height() * 0.12
    for box in (
        QRectF(room.left(), room.top() + room.height() * 0.16, wall, room.height() * 0.84),
        QRectF(inner.right(), room.top() + room.height() * 0.16, wall, room.height() * 0.84),
        QRectF(inner.left(), room.bottom() - floor, inner.width(), floor),
    ):
        p.fillRect(box, block)
        p.fillRect(box, signs.hatch(theme, "soft", 0.6))
    p.fillRect(peg, theme.color("shade"))
    p.setPen(QPen(theme.color("ink"), 1.2))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawRect(peg)
    p.drawLine(QPointF(inner.left(), room.top() + room.height() * 0.16), QPointF(inner.left(), room.bottom() - floor))
    p.drawLine(QPointF(inner.right(), room.top() + room.height() * 0.16), QPointF(inner.right(), room.bottom() - floor))
    top, high = room.top() + room.height() * 0.16, room.height() * (1 - 0.16) - floor
    for film, role, edge, way in (
        (hole_film, "lamp", inner.left(), 1), (hole_film, "lamp", inner.right(), -1),
        (peg_film, "curtain", peg.left(), -1), (peg_film, "curtain", peg.right(), 1),
    ):  # fmt: skip
        thick = film * unit
        if thick > 0.2:
            p.fillRect(QRectF(edge if way > 0 else edge - thick, top, thick, high), theme.color(role, 0.8))
    if air is not None and air.painted < 0:
        p.setPen(QPen(theme.color("stop"), 2))
        for x in (peg.left(), peg.right()):
            p.drawLine(QPointF(x - 5, room.center().y() - 5), QPointF(x + 5, room.center().y() + 5))
            p.drawLine(QPointF(x - 5, room.center().y() + 5), QPointF(x + 5, room.center().y() - 5))
    if large:
        kind = table("fits")["kind"][fit.kind]
        signs.dimension(p, theme, QPointF(inner.left(), room.bottom() + 18), QPointF(inner.right(), room.bottom() + 18), f"{kind['hole']} {digits(fit.hole, 2)} mm", above=False)  # fmt: skip
        signs.dimension(
            p, theme, QPointF(peg.left(), room.top() - 8), QPointF(peg.right(), room.top() - 8), f"{kind['peg']} {digits(fit.peg, 2)} mm"
        )


class FitCells(Cells):
    """All fits, each as a small section with its verdict."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Fits", 170, 128, "No fits yet. Add one for each pair of parts that go into each other after paint.")

    def _air(self, fit: Fit) -> Air | None:
        return self._session.results.one(AIRS, fit.id)

    def words(self, thing: Any) -> str:
        air = self._air(thing)
        return f"{thing.name}: {air.words if air else ''}"

    def draw(self, p: QPainter, box: QRectF, thing: Any, chosen: bool) -> None:
        air = self._air(thing)
        room = box.adjusted(24, 8, -24, -self._session.theme.px(44))
        draw_section(p, self._session, thing, air, room, large=False)
        self.line(p, box, 1, thing.name, weight=600)
        if air is not None:
            self.line(p, box, 0, f"{SIGN[air.verdict]}, air {digits(air.painted, 2)} mm a side", VERDICT[air.verdict], size=11)
