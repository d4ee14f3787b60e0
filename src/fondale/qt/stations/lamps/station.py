"""Lamps: how it is lit, whether it looks right, and whether it will run safely."""

from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QSizePolicy, QSlider, QVBoxLayout

from fondale.core.circuit.supply import current_told
from fondale.core.derived import AMPS, FINE_LIGHT, LIGHT, PICTURE, SUPPLIES_SOLVED
from fondale.core.edits import put, remove
from fondale.core.edits.handing import HandRig
from fondale.core.edits.wiring import add_area, add_lamp, add_meter, add_moment, add_string, add_supply, set_level
from fondale.core.light.desk import levels_of, meter_told
from fondale.core.light.evenness import area_told, level_of
from fondale.core.model import AREAS, LAMPS, METERS, MOMENTS, PROJECT, SEATS, STRINGS, SUPPLIES, Lamp, Listing, Meter
from fondale.core.words import clipped, digits, ma, percent
from fondale.knowledge import table
from fondale.qt.furniture.again import Again
from fondale.qt.furniture.columns import FieldGrid
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.prose import Line, Short
from fondale.qt.furniture.rows import heading, hold, menu_button
from fondale.qt.furniture.seat_picture import SeatPicture
from fondale.qt.furniture.ticket import Ticket
from fondale.qt.furniture.workplace import Station
from fondale.qt.session import Session
from fondale.qt.stations.lamps.rail import Slides, Traces
from fondale.qt.stations.lamps.rig import Rig
from fondale.qt.stations.lamps.ticket_rows import TicketRows, string_row
from fondale.qt.theme.palette import DOWN


class LitPicture(SeatPicture):
    """The lit view with the lux meters written where they stand; a click near a lamp or a meter chooses it."""

    chosen = Signal(object, str)

    def draw_over(self, p: QPainter) -> None:
        theme, project, light = self._session.theme, self._session.project, self._session.results[LIGHT]
        if not project.lamps:
            p.setFont(theme.font(13))
            p.setPen(QColor(DOWN["soft"]))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "It is dark. Add a lamp, and the scene is lit by it.")
        p.setFont(theme.font(12))
        shown, more = {m.meter: m.lux for m in light.meters} if light else {}, "" if self._session.results.fresh(FINE_LIGHT) else " …"
        for meter in project.meters:
            at = self.project_point(meter.x, meter.y, meter.z)
            if at is None:
                continue
            p.setPen(QPen(QColor(DOWN["ink"]), 1.4))
            p.drawLine(at + QPointF(-4, -4), at + QPointF(4, 4))
            p.drawLine(at + QPointF(-4, 4), at + QPointF(4, -4))
            text = f"{digits(shown[meter.id], 0 if shown[meter.id] >= 10 else 1)} lx{more}" if meter.id in shown else "… lx"
            box = QRectF(at.x() + 8, at.y() - theme.px(9), p.fontMetrics().horizontalAdvance(text) + 8, theme.px(18))
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
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(QPen(QColor(DOWN["lamp"]), 1.6))
                p.drawEllipse(at, 9, 9)
                amps = self._session.results.one(AMPS, chosen.id)
                wired = ma(amps) if amps is not None else "not wired"
                level = percent(levels_of(project)[chosen.id])
                name = table("electric")["led"].get(chosen.led, {}).get("name", chosen.led)
                self.ticket(p, at, 9, [clipped(chosen.name, 30), f"{name}, {wired}", f"level {level}"])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        near: list[tuple[float, int]] = []
        things: list[tuple[Listing[Any], Lamp | Meter]] = [
            *((LAMPS, m) for m in self._session.project.lamps),
            *((METERS, m) for m in self._session.project.meters),
        ]
        for k, (_listing, thing) in enumerate(things):
            at = self.project_point(thing.x, thing.y, thing.z)
            if at is not None:
                gap = at - event.position()
                near.append((float(np.hypot(gap.x(), gap.y())), k))
        if near and min(near)[0] < 24:
            listing, thing = things[min(near)[1]]
            self.chosen.emit(listing, thing.id)


class LampsStation(Station):
    """The rig on the left, the lit view large, the ticket of the chosen thing and the rail below."""

    name = "lamps"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._taken: dict[str, float] = {}
        self._moments = -1
        self._rows = TicketRows(session)
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 12, 16, 8)
        row.setSpacing(16)
        left = QVBoxLayout()
        head, _note = heading("The rig")
        head.addWidget(
            menu_button(
                "Add…",
                [
                    ("A lamp", self._add_lamp),
                    ("A USB plug", lambda: self._add_supply("plug")),
                    ("Two AA cells", lambda: self._add_supply("cells")),
                    ("A string", self._add_string),
                    ("A lux meter", self._add_meter),
                    ("An area to be even", self._add_area),
                    ("A moment", self._add_moment),
                    ("Its steps on Coats", self._hand_over),
                ],
            )
        )
        left.addLayout(head)
        self.rig = Rig(session)
        self.rig.chosen.connect(self._choose)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        hold(scroll, self.rig)
        scroll.setMinimumWidth(236)
        left.addWidget(scroll, 1)
        row.addLayout(left, 3)
        right = QVBoxLayout()
        right.setSpacing(6)
        self._seat_note = Short("soft")
        right.addWidget(self._seat_note)
        self.meters: list[HowButton] = []
        self._meter_grid = FieldGrid(4)
        right.addWidget(self._meter_grid)
        self.view = LitPicture(session)
        self.view.chosen.connect(self._choose)
        right.addWidget(self.view, 1)
        self.ticket = Ticket(4)
        self.ticket.removed.connect(self._remove_chosen)
        self._level_line()
        self.again = Again(session, self._chosen, self._choose)
        self.ticket.line.addWidget(self.again.button)
        right.addWidget(self.ticket)
        rail = QHBoxLayout()
        rail.setSpacing(16)
        self.slides = Slides(session)
        self.slides.chosen.connect(self._go_to_moment)
        self.traces = Traces(session)
        rail.addWidget(self.slides, 3)
        rail.addWidget(self.traces, 2)
        right.addLayout(rail)
        row.addLayout(right, 8)

    def _level_line(self) -> None:
        """The level and the current of a lamp, on the ticket's first line."""
        line = self.ticket.line
        self._level_words = Line("soft", "level")
        line.addWidget(self._level_words)
        self.level = QSlider(Qt.Orientation.Horizontal)
        self.level.setRange(0, 100)
        self.level.setMinimumWidth(90)
        self.level.setMaximumWidth(160)
        self.level.setAccessibleName("Level of the lamp in this moment")
        self.level.sliderPressed.connect(self.session.begin_drag)
        self.level.sliderReleased.connect(self.session.end_drag)
        self.level.valueChanged.connect(self._set_level)
        line.addWidget(self.level)
        self._level_value = Line()
        line.addWidget(self._level_value)
        self.current = HowButton()
        line.addWidget(self.current)

    def _choose(self, listing: Listing[Any], ident: str) -> None:
        self.rig.at = (listing, ident)
        if listing == LAMPS:
            self.session.selected[LAMPS] = ident
        self.session.selection_changed.emit()

    def _chosen(self) -> tuple[Listing[Any], str]:
        """What the ticket shows: its list and its id."""
        listing, ident = self.rig.at
        if self.session.project.find(listing, ident) is not None and (listing != LAMPS or ident == self.session.chosen(LAMPS)):
            return listing, ident
        return LAMPS, self.session.chosen(LAMPS)

    def _add_lamp(self) -> None:
        edit, ident = add_lamp(self.session.project)
        if self.session.do(edit):
            self._choose(LAMPS, ident)

    def _add_supply(self, kind: str) -> None:
        edit, ident = add_supply(self.session.project, kind)
        if self.session.do(edit):
            self._choose(SUPPLIES, ident)

    def _add_string(self) -> None:
        supplies = self.session.project.supplies
        if not supplies:
            self.session.said.emit("A string needs a supply: add a plug or cells first.")
            return
        edit, ident = add_string(self.session.project, supplies[0].id)
        if self.session.do(edit):
            self._choose(STRINGS, ident)

    def _hand_over(self) -> None:
        if not self.session.project.strings:
            self.session.said.emit("Nothing is wired yet: hang the lamps on strings first.")
        elif self.session.do(HandRig("Steps of the rig")):
            self.session.said.emit("Wiring and testing are among the steps on Coats.")

    def _add_meter(self) -> None:
        edit, ident = add_meter(self.session.project)
        if self.session.do(edit):
            self._choose(METERS, ident)

    def _add_area(self) -> None:
        edit, ident = add_area(self.session.project)
        if self.session.do(edit):
            self._choose(AREAS, ident)

    def _add_moment(self) -> None:
        edit, ident = add_moment(self.session.project)
        if self.session.do(edit):
            self._go_to_moment(ident)

    def _go_to_moment(self, ident: str) -> None:
        moment = self.session.project.get(MOMENTS, ident)
        self.session.do(put(PROJECT.then(lambda p: p.moment), ident, f"Go to {moment.name}"))
        self._choose(MOMENTS, ident)

    def _remove_chosen(self) -> None:
        listing, ident = self._chosen()
        thing = self.session.project.find(listing, ident)
        if thing is not None:
            self.session.do(remove(listing, thing))

    def _set_level(self, value: int) -> None:
        listing, ident = self._chosen()
        if listing != LAMPS or not ident:
            return
        now = levels_of(self.session.project).get(ident, 0.0)
        if round(now * 100) != value:
            self.session.do(set_level(self.session.project, ident, value / 100, gesture=f"level {ident}"))
            self.session.results.refresh_light()

    def take_lux(self) -> None:
        """Read the simulated lux meter at every meter of the project."""
        light = self.session.results[LIGHT]
        if light is None:
            self.session.said.emit("The light is still being solved." if self.session.project.meters else "Add a lux meter first.")
            return
        self._taken = {m.meter: self.session.instruments.lux_meter.read_lx(m.lux) for m in light.meters}
        words = ", ".join(f"{self.session.project.get(METERS, k).name} {digits(v, 1)} lx" for k, v in self._taken.items())
        self.session.said.emit(f"The lux meter shows: {words}.")

    def refresh(self) -> None:
        """Follow the project and the results."""
        project, results = self.session.project, self.session.results
        seat = project.find(SEATS, results.look.seat_of(project))
        moment = project.find(MOMENTS, project.moment)
        self._seat_note.setText(f"from {seat.name}" + (f", {moment.name.lower()}" if moment else "") if seat else "")
        known = results[PICTURE]
        picture = known if known and seat and known.seat == seat.id else None
        self.view.show_view(picture, results.fresh(PICTURE))
        self.rig.refresh()
        if len(project.moments) != self._moments:
            self._moments = len(project.moments)
            self.slides.updateGeometry()
        self.slides.update()
        self.traces.update()
        self._show_meters()
        self._fill_ticket()

    def _show_meters(self) -> None:
        project, light = self.session.project, self.session.results[LIGHT]
        if len(self.meters) != len(project.meters) + len(project.areas):
            self.meters = [HowButton() for _one in (*project.meters, *project.areas)]
            for button in self.meters:
                button.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
            self._meter_grid.fill(self.meters)
        found, refined = {m.meter: m for m in light.meters} if light else {}, self.session.results.fresh(FINE_LIGHT)
        for button, meter in zip(self.meters, project.meters, strict=False):
            button.show_told(meter_told(project, meter, found.get(meter.id), refined))
        even = {a.area: a for a in light.areas} if light else {}
        for button, area in zip(self.meters[len(project.meters) :], project.areas, strict=True):
            button.show_told(area_told(project, area, even.get(area.id), self.session.results.fresh(LIGHT), refined))

    def _fill_ticket(self) -> None:
        project = self.session.project
        listing, ident = self._chosen()
        thing = project.find(listing, ident)
        is_lamp = listing == LAMPS and thing is not None
        for widget in (self._level_words, self.level, self._level_value):
            widget.setVisible(is_lamp)
        self.current.setVisible(is_lamp)
        what, title = (f"{listing.name} {ident}", thing.name) if thing is not None else ("nothing", "No lamp chosen")
        if is_lamp and thing is not None:
            what += f" {thing.motion != 'steady'}"  # what moves has more to set
        self.again.button.setVisible(thing is not None and listing in (LAMPS, METERS, AREAS))
        self.ticket.show_thing(what, title, thing is not None, lambda: self._rows.of(listing, ident))
        string = string_row(self.ticket.rows)
        if string is not None:
            string.set_options(self._rows.string_options())
        self.ticket.read(project)
        if is_lamp:
            level = levels_of(project)[ident]
            self.level.blockSignals(True)
            self.level.setValue(round(level * 100))
            self.level.blockSignals(False)
            self._level_value.setText(f"{percent(level)}")
            self._show_current(ident)

    def _show_current(self, ident: str) -> None:
        solved = self.session.results[SUPPLIES_SOLVED] or ()
        self.current.show_told(current_told(next((x for r in solved for s in r.strings for x in s.lamps if x.lamp == ident), None)))

    def show_subject(self, listing: Listing[Any], ident: str) -> None:
        if listing in (LAMPS, STRINGS, SUPPLIES, METERS, AREAS):
            self._choose(listing, ident)
            self.rig.setFocus()
