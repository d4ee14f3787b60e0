# SPDX-License-Identifier: MIT
"""Lamps: how it is lit, whether it looks right, and whether it will run safely."""

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QSizePolicy, QSlider, QVBoxLayout

from fondale.core.cautions import cautions_of_lamp, cautions_of_string, cautions_of_supply
from fondale.core.circuit.supply import current_told
from fondale.core.derived import FINE_LIGHT, LIGHT, PICTURE, SUPPLIES_SOLVED
from fondale.core.edits import put, remove
from fondale.core.edits.handing import HandRig
from fondale.core.edits.wiring import add_area, add_lamp, add_meter, add_moment, add_string, add_supply, set_level
from fondale.core.light.desk import levels_of, meter_told
from fondale.core.light.evenness import area_told
from fondale.core.model import AREAS, LAMPS, METERS, MOMENTS, PROJECT, SEATS, STRINGS, SUPPLIES, Lamp, Listing, String, Supply
from fondale.core.words import digits, percent
from fondale.qt.furniture.again import Again
from fondale.qt.furniture.columns import FieldGrid
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.prose import Line, Short
from fondale.qt.furniture.rows import heading, hold, menu_button
from fondale.qt.furniture.ticket import Ticket
from fondale.qt.furniture.workplace import Station
from fondale.qt.session import Session
from fondale.qt.stations.lamps.lit_picture import LitPicture
from fondale.qt.stations.lamps.rail import Slides, Traces
from fondale.qt.stations.lamps.rig import Rig
from fondale.qt.stations.lamps.ticket_rows import TicketRows, string_row


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
        self.view = LitPicture(session, self._chosen)
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
            self.session.results.follow_light()

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
        self._seat_note.setText(f"from {seat.name}" + (f", {moment.name}" if moment else "") if seat else "")
        known = results[PICTURE]
        picture = known if known and seat and known.seat == seat.id else None
        self.view.show_view(picture, results.fresh(PICTURE) or results.dragging)
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
            what += f" {thing.motion != 'steady'} {thing.led}"  # what moves, and what is built as one likes, has more to set
        self.again.button.setVisible(thing is not None and listing in (LAMPS, METERS, AREAS))
        self.ticket.show_thing(what, title, thing is not None, lambda: self._rows.of(listing, ident))
        string = string_row(self.ticket.rows)
        if string is not None:
            string.set_options(self._rows.string_options())
        self.ticket.read(project)
        self.ticket.show_care(self._care(listing, ident))
        if is_lamp:
            level = levels_of(project)[ident]
            self.level.blockSignals(True)
            self.level.setValue(round(level * 100))
            self.level.blockSignals(False)
            self._level_value.setText(f"{percent(level)}")
            self._show_current(ident)

    def _care(self, listing: Listing[Any], ident: str) -> tuple[str, ...]:
        project = self.session.project
        match project.find(listing, ident):
            case Lamp() as lamp:
                return cautions_of_lamp(lamp)
            case Supply() as supply:
                return cautions_of_supply(supply)
            case String() as string:
                return cautions_of_string(project, string)
        return ()

    def _show_current(self, ident: str) -> None:
        solved = self.session.results[SUPPLIES_SOLVED] or ()
        self.current.show_told(current_told(next((x for r in solved for s in r.strings for x in s.lamps if x.lamp == ident), None)))

    def show_subject(self, listing: Listing[Any], ident: str) -> None:
        if listing in (LAMPS, STRINGS, SUPPLIES, METERS, AREAS):
            self._choose(listing, ident)
            self.rig.setFocus()
