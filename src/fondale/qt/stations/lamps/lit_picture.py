# SPDX-License-Identifier: MIT
"""The lit view: lux written where it is measured, lamps and meters under the hand."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QApplication

from fondale.core.arrays import Floats
from fondale.core.derived import AMPS, FINE_LIGHT, LIGHT
from fondale.core.edits import put
from fondale.core.light.desk import levels_of
from fondale.core.light.evenness import level_of
from fondale.core.model import LAMPS, METERS, Lamp, Listing, Meter
from fondale.core.stage.cases import extent
from fondale.core.words import clipped, digits, ma, percent
from fondale.knowledge import table
from fondale.qt.furniture.keys import arrow, stride
from fondale.qt.furniture.seat_picture import SeatPicture
from fondale.qt.session import Session
from fondale.qt.theme import signs
from fondale.qt.theme.palette import DOWN, Theme

GRAB_PX = 24  # how near a press takes hold of a lamp or a meter
HINT = (
    "Drag it, or press the arrow keys. A lamp moves along the front, with Shift or Page Up and Down to and fro; a meter over its surface."
)
_Thing = tuple[Listing[Any], Lamp | Meter]


@dataclass
class _Grip:
    """What is held, as it was, where it was taken hold of and how far beside it, and whether it moves yet."""

    listing: Listing[Any]
    thing: Lamp | Meter
    at: QPointF
    beside: QPointF
    moves: bool = False


class LitPicture(SeatPicture):
    """The lit view. A press near a lamp or a meter chooses it, a drag or the arrow keys move it, and the light follows."""

    chosen = Signal(object, str)

    def __init__(self, session: Session, shown: Callable[[], tuple[Listing[Any], str]]) -> None:
        super().__init__(session)
        self._shown = shown
        self._grip: _Grip | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Lit view from the seat")
        self.setAccessibleDescription(HINT)

    def draw_over(self, p: QPainter) -> None:
        theme, project, light = self._session.theme, self._session.project, self._session.results[LIGHT]
        if not project.lamps:
            p.setFont(theme.font(13))
            p.setPen(QColor(DOWN["soft"]))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "It is dark. Add a lamp, and the scene is lit by it.")
        blind = next((f for f in self._session.results.prompts if f.code == "CASE-BLIND"), None)
        if blind is not None and project.lamps:
            p.setFont(theme.font(13))
            p.setPen(QColor(DOWN["soft"]))
            p.drawText(
                self.rect().adjusted(40, 0, -40, 0), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, f"{blind.title}: {blind.text}"
            )
        p.setFont(theme.font(12))
        shown, more = {m.meter: m.lux for m in light.meters} if light else {}, "" if self._session.results.fresh(FINE_LIGHT) else " …"
        written = list[QRectF]()
        for meter in project.meters:
            at = self.project_point(meter.x, meter.y, meter.z)
            if at is None:
                continue
            if (METERS, meter.id) == self._shown():
                self._ring(p, at)
            p.setPen(QPen(QColor(DOWN["ink"]), 1.4))
            p.drawLine(at + QPointF(-4, -4), at + QPointF(4, 4))
            p.drawLine(at + QPointF(-4, 4), at + QPointF(4, -4))
            text = f"{digits(shown[meter.id], 0 if shown[meter.id] >= 10 else 1)} lx{more}" if meter.id in shown else "… lx"
            box = QRectF(at.x() + 8, at.y() - theme.px(9), p.fontMetrics().horizontalAdvance(text) + 8, theme.px(18))
            written.append(box.adjusted(-12, 0, 0, 0))  # with its cross
            p.fillRect(box, QColor(20, 23, 27, 170))
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(QColor(DOWN["ink"]), 1.0, Qt.PenStyle.DashLine))
        for area in project.areas:
            x, y = area.x + area.width, area.y + area.depth
            z = level_of(project, area)
            corners = [self.project_point(*at, z) for at in ((area.x, area.y), (x, area.y), (x, y), (area.x, y))]
            if all(corner is not None for corner in corners):
                p.drawPolygon(QPolygonF([corner for corner in corners if corner is not None]))
        chosen = project.find(LAMPS, self._session.chosen(LAMPS))
        if chosen is not None:
            at = self.project_point(chosen.x, chosen.y, chosen.z)
            if at is not None:
                self._ring(p, at)
                amps = self._session.results.one(AMPS, chosen.id)
                wired = ma(amps) if amps is not None else "not wired"
                level = percent(levels_of(project)[chosen.id])
                name = table("electric")["led"].get(chosen.led, {}).get("name", chosen.led)
                self.ticket(p, at, 9, [clipped(chosen.name, 30), f"{name}, {wired}", f"level {level}"], written)
        signs.focus_ring(p, Theme("down", theme.scale), self)

    def _ring(self, p: QPainter, at: QPointF) -> None:
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(QColor(DOWN["lamp"]), 1.6))
        p.drawEllipse(at, 9, 9)

    def _near(self, at: QPointF) -> _Thing | None:
        """The lamp or meter beside a point of the widget."""
        near: list[tuple[float, int]] = []
        things: list[_Thing] = [*((LAMPS, m) for m in self._session.project.lamps), *((METERS, m) for m in self._session.project.meters)]
        for k, (_listing, thing) in enumerate(things):
            spot = self.project_point(thing.x, thing.y, thing.z)
            if spot is not None:
                gap = spot - at
                near.append((float(np.hypot(gap.x(), gap.y())), k))
        return things[min(near)[1]] if near and min(near)[0] < GRAB_PX else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        thing = self._near(event.position())
        if thing is None or event.button() != Qt.MouseButton.LeftButton:
            return
        spot = self.project_point(thing[1].x, thing[1].y, thing[1].z)
        self._grip = _Grip(*thing, event.position(), event.position() - spot if spot is not None else QPointF())
        self.chosen.emit(thing[0], thing[1].id)  # its ticket may leave the picture more room, or less

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        grip = self._grip
        if grip is None:
            near = self._near(event.position()) is not None
            self.setCursor(Qt.CursorShape.OpenHandCursor if near else Qt.CursorShape.ArrowCursor)
            self.setToolTip(HINT if near else "")
            return
        if not grip.moves:
            if (event.position() - grip.at).manhattanLength() < QApplication.startDragDistance():
                return
            grip.moves = True
            self._session.begin_drag()
        axis = _across(grip.thing, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        level = (grip.thing.x, grip.thing.y, grip.thing.z)[axis]
        to = self.on_plane(event.position() - grip.beside, axis, level)
        if to is not None:
            # A pixel is about a millimetre.
            self._put(grip.listing, grip.thing, np.where(np.arange(3) == axis, level, np.round(to)))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._grip is not None and self._grip.moves:
            self._session.end_drag()
        self._grip = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        listing, ident = self._shown()
        thing = self._session.project.find(listing, ident)
        way, deeper = arrow(event), {Qt.Key.Key_PageUp: 1, Qt.Key.Key_PageDown: -1}.get(Qt.Key(event.key()), 0)
        if not isinstance(thing, Lamp | Meter) or (way is None and not deeper):
            super().keyPressEvent(event)
            return
        step = np.zeros(3)
        step[1] = deeper * stride(event)
        if way is not None:
            along = [axis for axis in range(3) if axis != _across(thing, False)]
            step[along] = np.array(way) * stride(event)
        self._put(listing, thing, np.array([thing.x, thing.y, thing.z]) + step)

    def _put(self, listing: Listing[Any], thing: Lamp | Meter, at: Floats) -> None:
        """Move it, but not out of the case, if it is not outside already; its light follows."""
        low, high = extent(self._session.project.case)
        start = np.array([thing.x, thing.y, thing.z])
        x, y, z = (round(float(v), 1) for v in np.clip(at, np.minimum(low, start), np.maximum(high, start)))
        moved = put(listing.at(thing.id), thing.but(x=x, y=y, z=z), f"Move {thing.name}", f"{listing.name} {thing.id}")
        if self._session.do(moved):
            self._session.results.follow_light()


def _across(thing: Lamp | Meter, to_and_fro: bool) -> int:
    """The axis across which a thing is moved: lamps along the front, or to and fro on their level; meters along the surface that they lie on."""
    if isinstance(thing, Meter):
        return int(np.abs([thing.nx, thing.ny, thing.nz]).argmax())
    return 2 if to_and_fro else 1
