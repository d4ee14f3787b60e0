# SPDX-License-Identifier: MIT
"""Lines of sight in plan and section: the chosen seat's fan, the seats as small eyes, and from where a spot is seen."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from fondale.core.model import SEATS
from fondale.core.views.places import Found
from fondale.core.views.sight import eye_of
from fondale.qt.session import Session
from fondale.qt.stations.stage.lamp_handles import Axis

Bounds = tuple[tuple[float, float], tuple[float, float]]


class SightLines:
    """The lines of one drawing, which tells how millimetres lie on it."""

    def __init__(self, session: Session, axis: Axis, to_screen: Callable[[float, float], QPointF]) -> None:
        self._session, self._plan, self._to_screen = session, axis == "plan", to_screen
        self.found: Found | None = None

    def draw(self, p: QPainter, box: QRectF, bounds: Bounds) -> None:
        """All of them: ``box`` is the case on the screen, ``bounds`` its corners in mm."""
        self._spot(p, box, bounds)
        self._seats(p, box, bounds)

    def _spot(self, p: QPainter, box: QRectF, bounds: Bounds) -> None:
        """Where a spot is seen from: the part inside the case of every way that leads from it to an eye at the chosen seat's distance."""
        found, project = self.found, self._session.project
        seat = project.find(SEATS, self._session.results.look.seat_of(project))
        sight = next((s for s in found.sights if seat is not None and s.seat == seat.id), None) if found is not None else None
        if found is None or seat is None or sight is None:
            return
        theme, (x, y, z) = self._session.theme, found.at
        at, front = (x, bounds[0][1]) if self._plan else (z, bounds[0][0])
        spot = self._point(at, y)
        share = (y - front) / max(y + seat.distance, 1e-6)
        p.setClipRect(box)
        for span in sight.across if self._plan else sight.up:
            corners = [self._point(at * (1 - share) + end * share, front) for end in span]
            p.setPen(QPen(theme.color("lamp"), 1))
            p.setBrush(theme.color("lamp", 0.22))
            p.drawPolygon(QPolygonF([spot, *corners]))
        p.setClipping(False)
        p.setPen(QPen(theme.color("lamp"), 1.6))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawEllipse(spot, 7, 7)

    def _point(self, aside: float, deep: float) -> QPointF:
        """On the screen: ``aside`` is x in plan and the height in section, ``deep`` how far behind the front."""
        return self._to_screen(aside, deep) if self._plan else self._to_screen(deep, aside)

    def _seats(self, p: QPainter, box: QRectF, bounds: Bounds) -> None:
        """The chosen seat's fan, from both ends of its range; all seats as small eyes along the front of the plan."""
        theme, project = self._session.theme, self._session.project
        current = self._session.results.look.seat_of(project)
        (x0, y0), (x1, y1) = bounds
        front, back, ends = (y0, y1, (x0, x1)) if self._plan else (x0, x1, (y0, y1))
        for seat in project.seats:
            mine = seat.id == current
            if mine:
                p.setPen(QPen(theme.color("curtain", 0.9), 1.2))
                for head in (-0.5, 0.5):
                    x, y, z = eye_of(project, seat, head, head).tolist()
                    for end in ends:
                        p.drawLine(*self._ray(x if self._plan else z, y, end, front, back, box))
            if self._plan:
                x = min(max(float(eye_of(project, seat)[0]), x0), x1)
                self._eye(p, QPointF(self._to_screen(x, y0).x(), box.bottom() + 6), mine)

    def _ray(self, aside: float, before: float, at: float, front: float, back: float, box: QRectF) -> tuple[QPointF, QPointF]:
        """The part inside the case of the line from an eye, ``aside`` and ``before`` it, through a corner ``at`` of the front."""
        share = (back - before) / max(front - before, 1e-6)
        start, stop = self._point(at, front), self._point(aside + (at - aside) * share, back)
        way, t = stop - start, 1.0
        for step, low, high in (
            (way.x(), box.left() - start.x(), box.right() - start.x()), (way.y(), box.top() - start.y(), box.bottom() - start.y()),
        ):  # fmt: skip
            if step:
                t = min(t, (high if step > 0 else low) / step)
        return start, start + way * max(0.0, t)

    def _eye(self, p: QPainter, at: QPointF, mine: bool) -> None:
        theme = self._session.theme
        p.setBrush(theme.color("card"))
        p.setPen(QPen(theme.color("curtain" if mine else "soft"), 1.4 if mine else 1))
        p.drawEllipse(at, 7, 4)
        p.setBrush(theme.color("curtain" if mine else "soft"))
        p.drawEllipse(at, 2, 2)
