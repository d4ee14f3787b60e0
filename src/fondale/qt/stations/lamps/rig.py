# SPDX-License-Identifier: MIT
"""The rig: each supply with its strings drawn as bunting between two posts."""

import math
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from fondale.core.circuit.diode import most_ma
from fondale.core.circuit.supply import StringCurrent, SupplyResult
from fondale.core.derived import SUPPLIES_SOLVED
from fondale.core.light.desk import levels_of
from fondale.core.model import AREAS, LAMPS, METERS, STRINGS, SUPPLIES, Listing, String
from fondale.core.words import clipped, digits, ma, ohm_words, percent
from fondale.knowledge import table
from fondale.qt.session import Session
from fondale.qt.theme import signs

SAG = 13.0
UNKNOWN_RGB = (0.3, 0.3, 0.3)


class Rig(QWidget):
    """Bulbs as beads, resistors as knots, currents written where they flow. Click or arrow keys choose."""

    chosen = Signal(object, str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._spots: list[tuple[QRectF, Listing[Any], str]] = []
        self.at: tuple[Listing[Any], str] = (LAMPS, "")
        self._wanted, self._shown = QSize(), tuple[Any, ...]()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The rig")

    def sizeHint(self) -> QSize:
        theme, project = self._session.theme, self._session.project
        rows = len(project.strings)
        high = len(project.supplies) * theme.px(36) + rows * self._row() + self._loose_height() + self._measured_height()
        return QSize(theme.px(270), max(120, high))

    def minimumSizeHint(self) -> QSize:
        return QSize(200, self.sizeHint().height())

    def _row(self) -> int:
        return self._session.theme.px(70)

    def _loose(self) -> list[str]:
        wired = {i for s in self._session.project.strings for i in s.lamps}
        return [m.id for m in self._session.project.lamps if m.id not in wired]

    def _loose_height(self) -> int:
        return self._session.theme.px(30) + len(self._loose()) * self._session.theme.px(22) if self._loose() else 0

    def _measured(self) -> list[tuple[Listing[Any], str, str]]:
        """What is measured: meters and areas, with their names."""
        project = self._session.project
        return [*((METERS, m.id, m.name) for m in project.meters), *((AREAS, a.id, a.name) for a in project.areas)]

    def _measured_height(self) -> int:
        return self._session.theme.px(30) + len(self._measured()) * self._session.theme.px(22) if self._measured() else 0

    def refresh(self) -> None:
        """Follow the project."""
        wanted = self.sizeHint()
        if wanted != self._wanted:
            self._wanted = wanted
            self.updateGeometry()
        shown = self._shows()
        if shown != self._shown:  # a lamp that is dragged through the case hangs where it did here
            self._shown = shown
            self.update()

    def _shows(self) -> tuple[Any, ...]:
        """All that is drawn."""
        session, project, theme = self._session, self._session.project, self._session.theme
        lamps = tuple((m.id, m.name, m.led) for m in project.lamps)
        solved = session.results[SUPPLIES_SOLVED], levels_of(project)
        chosen = self.at, session.chosen(LAMPS), theme.lighting, theme.scale
        return project.supplies, project.strings, lamps, self._measured(), solved, chosen

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, project, p = self._session.theme, self._session.project, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._spots = []
        results = {r.supply: r for r in self._session.results[SUPPLIES_SOLVED] or ()}
        y = 0.0
        for supply in project.supplies:
            y = self._supply(p, supply.id, results.get(supply.id), y)
            strung = {s.string: s for s in results[supply.id].strings} if supply.id in results else {}
            for string in project.strings:
                if string.supply == supply.id:
                    self._string(p, string, strung.get(string.id), y)
                    y += self._row()
        loose = self._loose()
        if loose:
            p.setFont(theme.font(13, 600))
            p.setPen(theme.color("ink"))
            p.drawText(QRectF(0, y, self.width(), theme.px(24)), Qt.AlignmentFlag.AlignVCenter, "not wired")
            y += theme.px(26)
            for ident in loose:
                lamp = project.get(LAMPS, ident)
                row = QRectF(0, y, self.width(), theme.px(20))
                self._spots.append((row, LAMPS, ident))
                signs.bead(p, QPointF(10, row.center().y()), self._bead_colour(ident), 1.0, 5)
                p.setFont(theme.font(12, 600 if ident == self._session.chosen(LAMPS) else 400))
                p.setPen(theme.color("ink"))
                p.drawText(row.adjusted(24, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, clipped(lamp.name, 26))
                y += theme.px(22)
        y = self._draw_measured(p, y)
        if not self._spots:
            p.setPen(theme.color("soft"))
            p.drawText(
                self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, "No lamps yet. Add one, and a supply to feed it."
            )
        signs.focus_ring(p, theme, self)

    def _draw_measured(self, p: QPainter, y: float) -> float:
        """Meters as crosses, areas as frames, to be chosen."""
        theme, measured = self._session.theme, self._measured()
        if not measured:
            return y
        p.setFont(theme.font(13, 600))
        p.setPen(theme.color("ink"))
        p.drawText(QRectF(0, y, self.width(), theme.px(24)), Qt.AlignmentFlag.AlignVCenter, "measured")
        y += theme.px(26)
        for listing, ident, name in measured:
            row = QRectF(0, y, self.width(), theme.px(20))
            self._spots.append((row, listing, ident))
            chosen, at = self.at == (listing, ident), QPointF(10, row.center().y())
            p.setPen(QPen(theme.color("curtain" if chosen else "soft"), 1.4))
            p.setBrush(Qt.BrushStyle.NoBrush)
            if listing == METERS:
                p.drawLine(at + QPointF(-4, -4), at + QPointF(4, 4))
                p.drawLine(at + QPointF(-4, 4), at + QPointF(4, -4))
            else:
                p.drawRect(QRectF(at.x() - 6, at.y() - 4, 12, 8))
            p.setFont(theme.font(12, 600 if chosen else 400))
            p.setPen(theme.color("ink"))
            p.drawText(row.adjusted(24, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, clipped(name, 26))
            y += theme.px(22)
        return y

    def _supply(self, p: QPainter, ident: str, result: SupplyResult | None, y: float) -> float:
        theme = self._session.theme
        supply = self._session.project.get(SUPPLIES, ident)
        row = QRectF(0, y, self.width() - 10, theme.px(26))
        self._spots.append((row, SUPPLIES, ident))
        p.setFont(theme.font(15, display=True))
        p.setPen(theme.text("curtain") if self.at == (SUPPLIES, ident) else theme.color("ink"))
        right = ""
        if result is not None:
            right = f"{ma(result.amps)}, {percent(result.used)}"
            if result.hours_half is not None:
                right = f"{digits(result.hours_half, 1)} h to half light"
        p.setFont(theme.font(12))
        room = p.fontMetrics().horizontalAdvance(right) + 10
        over = result is not None and (result.overloaded or result.trouble)
        p.setPen(theme.text("stop" if over else "soft"))
        p.drawText(row, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, right)
        p.setFont(theme.font(15, display=True))
        p.setPen(theme.color("ink"))
        name = p.fontMetrics().elidedText(supply.name, Qt.TextElideMode.ElideRight, int(self.width() - room - 10))
        p.drawText(row, Qt.AlignmentFlag.AlignVCenter, name)
        return y + theme.px(30)

    def _bead_colour(self, lamp: str) -> QColor:
        row = table("electric")["led"].get(self._session.project.get(LAMPS, lamp).led, {})
        return signs.srgb(tuple(row.get("rgb", UNKNOWN_RGB)))

    def _string(self, p: QPainter, string: String, result: StringCurrent | None, y: float) -> None:
        theme = self._session.theme
        chosen = self.at == (STRINGS, string.id)
        head = QRectF(0, y, self.width() - 10, theme.px(18))
        self._spots.append((head, STRINGS, string.id))
        p.setFont(theme.font(12.5, 600))
        p.setPen(theme.text("curtain") if chosen else theme.color("ink"))
        wiring = "" if string.wiring == "series" or len(string.lamps) < 2 else ", side by side"
        right = f"{ma(result.amps)}" if result else ""
        p.drawText(
            head.adjusted(0, 0, -70, 0),
            Qt.AlignmentFlag.AlignVCenter,
            p.fontMetrics().elidedText(string.name + wiring, Qt.TextElideMode.ElideRight, int(head.width() - 70)),
        )
        p.setFont(theme.font(12))
        p.setPen(theme.text("soft"))
        p.drawText(head, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, right)
        top = head.bottom() + 3
        left, wide = 4.0, self.width() - 18.0
        post = theme.px(30)
        for x in (left, left + wide):
            p.fillRect(QRectF(x - 2, top, 4, post), theme.color("soft"))

        def on(t: float) -> QPointF:
            return QPointF(left + wide * t, top + 6 + SAG * 4 * t * (1 - t) * theme.scale)

        line = QPainterPath(on(0))
        for k in range(1, 33):
            line.lineTo(on(k / 32))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.color("curtain" if chosen else "soft"), 1.6 if chosen else 1.1))
        p.drawPath(line)
        beads = len(string.lamps)
        slots = beads + (1 if string.resistor_ohm else 0)
        at = 1
        small = theme.font(11)
        if string.resistor_ohm:
            self._knot(p, on(at / (slots + 1)), ohm_words(string.resistor_ohm), small)
            at += 1
        currents = {x.lamp: x for x in result.lamps} if result else {}
        levels = levels_of(self._session.project)
        for ident in string.lamps:
            spot = on(at / (slots + 1))
            at += 1
            lamp = self._session.project.find(LAMPS, ident)
            if lamp is None:
                continue
            amps = currents[ident].amps if ident in currents else 0.0
            glow = min(1.0, max(0.0, amps) / 0.012) * levels.get(ident, 1.0)
            signs.bead(p, spot, self._bead_colour(ident), glow, 6.5)
            if ident == self._session.chosen(LAMPS):
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(QPen(theme.color("curtain"), 1.6))
                p.drawEllipse(spot, 10, 10)
            limit = most_ma(lamp) / 1000
            p.setFont(small)
            p.setPen(theme.text("stop" if amps > limit else "soft"))
            said, room = ma(amps) if result else "", wide / (slots + 1) - theme.px(6)
            if p.fontMetrics().horizontalAdvance(said) > room:
                said = said.removesuffix(" mA")  # the string above says of what
            p.drawText(QRectF(spot.x() - 50, spot.y() + 11, 100, theme.px(15)), Qt.AlignmentFlag.AlignHCenter, said)
            self._spots.append((QRectF(spot.x() - 14, spot.y() - 14, 28, 28), LAMPS, ident))
        if not string.lamps:
            p.setFont(small)
            p.setPen(theme.text("soft"))
            p.drawText(QRectF(left, top + 14, wide, theme.px(20)), Qt.AlignmentFlag.AlignCenter, "no lamp hangs here yet")

    def _knot(self, p: QPainter, at: QPointF, text: str, font: QFont) -> None:
        theme = self._session.theme
        wave = QPainterPath(at + QPointF(-9, 0))
        for k in range(1, 25):
            wave.lineTo(at + QPointF(-9 + 18 * k / 24, -4.5 * math.sin(k / 24 * 4 * math.pi)))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.color("ink"), 1.6))
        p.drawPath(wave)
        p.setFont(font)
        p.setPen(theme.text("soft"))
        p.drawText(QRectF(at.x() - 40, at.y() + 7, 80, theme.px(15)), Qt.AlignmentFlag.AlignHCenter, text)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for box, listing, ident in reversed(self._spots):
            if box.contains(event.position()):
                self.chosen.emit(listing, ident)
                return

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Left: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        every = [(listing, ident) for _box, listing, ident in self._spots if listing in (LAMPS, METERS, AREAS)]
        if step is None or not every:
            super().keyPressEvent(event)
            return
        now = self.at if self.at in every and self.at[0] != LAMPS else (LAMPS, self._session.chosen(LAMPS))
        at = every.index(now) if now in every else 0
        self.chosen.emit(*every[max(0, min(len(every) - 1, at + step))])
