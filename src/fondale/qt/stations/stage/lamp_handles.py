# SPDX-License-Identifier: MIT
"""Lamps in plan and section: drawn, moved, and aimed by a handle."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPen, QPolygonF

from fondale.core.edits import put
from fondale.core.emitters import emitter_of
from fondale.core.model import LAMPS, Lamp
from fondale.core.words import clipped
from fondale.qt.session import Session

Axis = Literal["plan", "section"]


@dataclass
class _Grip:
    """A lamp that is dragged, as it was, and whether by the handle of its aim."""

    lamp: Lamp
    at: QPointF
    aims: bool
    moved: bool = False


AIM_MM, GRAB_PX = 45.0, 8.0  # how long the handle of a lamp's aim is drawn, and how near takes hold of it


def aimed(lamp: Lamp, shown: tuple[int, int], to: tuple[float, float]) -> tuple[float, float, float]:
    """The direction of a lamp whose handle is pulled to ``to`` (share of its length) in a drawing that shows two of the axes.

    The third axis takes what is left of a unit vector, on the side where it is now.
    """
    far = float(np.hypot(*to))
    a, b = (to[0] / far, to[1] / far) if far > 1 else to
    hidden = 3 - sum(shown)
    now = (lamp.ax, lamp.ay, lamp.az)
    rest = float(np.sqrt(max(0.0, 1 - a * a - b * b)))
    out = [0.0, 0.0, 0.0]
    out[shown[0]], out[shown[1]] = a, b
    out[hidden] = -rest if now[hidden] < 0 or (now[hidden] == 0 and hidden == 2) else rest
    return round(out[0], 4), round(out[1], 4), round(out[2], 4)


class LampHandles:
    """The lamps of one drawing, which tells how millimetres lie on it."""

    def __init__(
        self, session: Session, axis: Axis, to_screen: Callable[[float, float], QPointF], to_mm: Callable[[QPointF], QPointF]
    ) -> None:
        self._session, self._axis, self._to_screen, self._to_mm = session, axis, to_screen, to_mm
        self._grip: _Grip | None = None

    def press(self, at: QPointF) -> bool:
        """Take hold of a lamp or of the chosen one’s handle; a press elsewhere lets the chosen lamp go."""
        self._grip = self.at(at)
        if self._grip is not None:
            self._session.select(LAMPS, self._grip.lamp.id)
            self._session.begin_drag()
            return True
        self._session.selected.pop(LAMPS, "")
        return False

    def drag(self, at: QPointF) -> bool:
        """Move or aim what is held."""
        if self._grip is not None:
            self._drag(self._grip, self._to_mm(at))
        return self._grip is not None

    def release(self) -> None:
        """Let go."""
        if self._grip is not None:
            self._grip = None
            self._session.end_drag()

    def draw(self, p: QPainter) -> None:
        """Every lamp; the chosen one with a handle where it aims."""
        theme, chosen = self._session.theme, self._session.selected.get(LAMPS, "")
        for lamp in self._session.results.project.lamps:
            p.setPen(QPen(theme.color("curtain" if lamp.id == chosen else "ink"), 1.6 if lamp.id == chosen else 0.8))
            p.setBrush(theme.color("lamp"))
            line = emitter_of(lamp).outline()
            ring = QPolygonF([self._to_screen(a, b) for a, b in (line[:, :2] if self._axis == "plan" else line[:, 1:]).tolist()])
            if len(line) == 1:
                p.drawEllipse(ring.at(0), 3, 3)
            else:
                p.drawPolygon(ring)
        found = self._session.project.find(LAMPS, chosen)
        if found is not None:
            at, handle = self._lamp_spot(found), self._aim_spot(found)
            p.setPen(QPen(theme.color("curtain"), 1.4))
            p.drawLine(at, handle)
            p.setBrush(theme.color("card"))
            p.drawEllipse(handle, 4.5, 4.5)

    def name(self, p: QPainter, taken: QRectF) -> QRectF:
        """The name of the chosen lamp beside it, below what is ``taken`` by another; what room it takes itself."""
        theme, found = self._session.theme, self._session.project.find(LAMPS, self._session.selected.get(LAMPS, ""))
        if found is None:
            return QRectF()
        p.setFont(theme.font(11.5, 600))
        p.setPen(theme.text("curtain"))
        name, at = clipped(found.name, 26), self._lamp_spot(found) + QPointF(8, -6)
        box = QRectF(p.fontMetrics().boundingRect(name)).translated(at)
        if box.intersects(taken):
            at.setY(taken.bottom() + p.fontMetrics().ascent())
            box.moveTop(taken.bottom())
        p.drawText(at, name)
        return box

    def _flat(self, x: float, y: float, z: float) -> tuple[float, float]:
        return (x, y) if self._axis == "plan" else (y, z)

    def _lamp_spot(self, lamp: Lamp) -> QPointF:
        return self._to_screen(*self._flat(lamp.x, lamp.y, lamp.z))

    def _aim_spot(self, lamp: Lamp) -> QPointF:
        """Where the handle of a lamp's aim is: its direction as it is seen in this drawing, AIM_MM long."""
        length = max(1e-9, float(np.sqrt(lamp.ax**2 + lamp.ay**2 + lamp.az**2)))
        a, b = self._flat(lamp.ax, lamp.ay, lamp.az)
        c, d = self._flat(lamp.x, lamp.y, lamp.z)
        return self._to_screen(c + a / length * AIM_MM, d + b / length * AIM_MM)

    def at(self, at: QPointF) -> _Grip | None:
        """The lamp, or the handle of the chosen one, under a point of the widget."""
        chosen = self._session.project.find(LAMPS, self._session.selected.get(LAMPS, ""))

        def near(spot: QPointF) -> bool:
            return (spot - at).manhattanLength() <= GRAB_PX

        if chosen is not None and near(self._aim_spot(chosen)) and not near(self._lamp_spot(chosen)):
            return _Grip(chosen, self._to_mm(at), True)
        found = next((m for m in self._session.project.lamps if near(self._lamp_spot(m))), None)
        return _Grip(found, self._to_mm(at), False) if found is not None else None

    def _drag(self, grip: _Grip, to: QPointF) -> None:
        lamp, grip.moved = grip.lamp, True
        names = ("x", "y", "z")
        shown = (0, 1) if self._axis == "plan" else (1, 2)
        where = [lamp.x, lamp.y, lamp.z]
        if not grip.aims:
            for k, delta in zip(shown, (to.x() - grip.at.x(), to.y() - grip.at.y()), strict=True):
                where[k] = round(where[k] + delta, 1)
            new = lamp.but(**dict(zip(names, where, strict=True)))
            label = f"Move {lamp.name}"
        else:
            aim = aimed(lamp, shown, ((to.x() - where[shown[0]]) / AIM_MM, (to.y() - where[shown[1]]) / AIM_MM))
            new, label = lamp.but(ax=aim[0], ay=aim[1], az=aim[2]), f"Aim {lamp.name}"
        self._session.do(put(LAMPS.at(lamp.id), new, label, f"lamp {lamp.id}"))
