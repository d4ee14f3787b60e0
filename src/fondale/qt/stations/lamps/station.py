"""Lamps: how it is lit, whether it looks right, and whether it will run safely."""

from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QSizePolicy, QSlider, QVBoxLayout

from fondale.core.edits import Edit, put
from fondale.core.edits.new_things import add_lamp, add_meter, add_moment, add_string, add_supply, wire_lamp
from fondale.core.light.desk import levels_of
from fondale.core.model import Project
from fondale.core.prompts.light import set_level
from fondale.core.words import clipped, digits, ma, percent
from fondale.instruments import SimulatedLuxMeter
from fondale.knowledge import table
from fondale.qt.furniture.columns import FieldGrid
from fondale.qt.furniture.fields import Choice, Field, number, place_field, words
from fondale.qt.furniture.how import How, HowButton
from fondale.qt.furniture.prose import Line, Short
from fondale.qt.furniture.rows import heading, menu_button
from fondale.qt.furniture.seat_picture import SeatPicture
from fondale.qt.furniture.ticket import Row, Ticket
from fondale.qt.furniture.workplace import Station
from fondale.qt.session import Session
from fondale.qt.stations.lamps.rail import Slides, Traces
from fondale.qt.stations.lamps.rig import Rig
from fondale.qt.theme.palette import DOWN

MOTIONS = ("steady", "candle", "breathing", "failing tube", "beacon")


class LitPicture(SeatPicture):
    """The lit view with the lux meters written where they stand; a click near a lamp chooses it."""

    def draw_over(self, p: QPainter) -> None:
        theme, project, light = self._session.theme, self._session.project, self._session.results.light
        if not project.lamps:
            p.setFont(theme.font(13))
            p.setPen(QColor(DOWN["soft"]))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "It is dark. Add a lamp, and the scene is lit by it.")
        p.setFont(theme.font(12))
        shown = {m.meter: m.lux for m in light.meters} if light else {}
        for meter in project.meters:
            at = self.project_point(meter.x, meter.y, meter.z)
            if at is None:
                continue
            p.setPen(QPen(QColor(DOWN["ink"]), 1.4))
            p.drawLine(at + QPointF(-4, -4), at + QPointF(4, 4))
            p.drawLine(at + QPointF(-4, 4), at + QPointF(4, -4))
            text = f"{digits(shown[meter.id], 0 if shown[meter.id] >= 10 else 1)} lx" if meter.id in shown else "… lx"
            box = QRectF(at.x() + 8, at.y() - theme.px(9), p.fontMetrics().horizontalAdvance(text) + 8, theme.px(18))
            p.fillRect(box, QColor(20, 23, 27, 170))
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        chosen = project.find("lamps", self._session.chosen("lamps"))
        if chosen is not None:
            at = self.project_point(chosen.x, chosen.y, chosen.z)
            if at is not None:
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(QPen(QColor(DOWN["lamp"]), 1.6))
                p.drawEllipse(at, 9, 9)
                quick = self._session.results.quick
                amps = quick.amps.get(chosen.id) if quick else None
                wired = ma(amps) if amps is not None else "not wired"
                level = percent(levels_of(project)[chosen.id])
                name = table("electric")["led"][chosen.led]["name"]
                self.ticket(p, at, 9, [clipped(chosen.name, 30), f"{name}, {wired}", f"level {level}"])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        near: list[tuple[float, str]] = []
        for lamp in self._session.project.lamps:
            at = self.project_point(lamp.x, lamp.y, lamp.z)
            if at is not None:
                gap = at - event.position()
                near.append((float(np.hypot(gap.x(), gap.y())), lamp.id))
        if near and min(near)[0] < 24:
            self._session.select("lamps", min(near)[1])


class LampsStation(Station):
    """The rig on the left, the lit view large, the ticket of the chosen thing and the rail below."""

    name = "lamps"

    def __init__(self, session: Session, lux_meter: SimulatedLuxMeter) -> None:
        super().__init__(session)
        self.lux_meter = lux_meter
        self._taken: dict[str, float] = {}
        self._moments = -1
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
                    ("A moment", self._add_moment),
                ],
            )
        )
        left.addLayout(head)
        self.rig = Rig(session)
        self.rig.lamp_chosen.connect(lambda i: self._choose("lamps", i))
        self.rig.string_chosen.connect(lambda i: self._choose("strings", i))
        self.rig.supply_chosen.connect(lambda i: self._choose("supplies", i))
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.rig)
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
        right.addWidget(self.view, 1)
        self.ticket = Ticket(4)
        self.ticket.removed.connect(self._remove_chosen)
        self._level_line()
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
        self.level.setFixedWidth(160)
        self.level.setAccessibleName("Level of the lamp in this moment")
        self.level.sliderPressed.connect(self.session.begin_drag)
        self.level.sliderReleased.connect(self.session.end_drag)
        self.level.valueChanged.connect(self._set_level)
        line.addWidget(self.level)
        self._level_value = Line()
        line.addWidget(self._level_value)
        self.current = HowButton()
        line.addWidget(self.current)

    def _choose(self, field: str, ident: str) -> None:
        self.session.selected["rig"] = f"{field}:{ident}"
        if field == "lamps":
            self.session.selected["lamps"] = ident
        self.session.selection_changed.emit()

    def _chosen(self) -> tuple[str, str]:
        """What the ticket shows: (list, id)."""
        field, _, ident = self.session.selected.get("rig", "").partition(":")
        if field and self.session.project.find(field, ident) is not None and (field != "lamps" or ident == self.session.chosen("lamps")):
            return field, ident
        return "lamps", self.session.chosen("lamps")

    def _add_lamp(self) -> None:
        edit, ident = add_lamp(self.session.project)
        if self.session.do(edit):
            self._choose("lamps", ident)

    def _add_supply(self, kind: str) -> None:
        edit, ident = add_supply(self.session.project, kind)
        if self.session.do(edit):
            self._choose("supplies", ident)

    def _add_string(self) -> None:
        supplies = self.session.project.supplies
        if not supplies:
            self.session.said.emit("A string needs a supply: add a plug or cells first.")
            return
        edit, ident = add_string(self.session.project, supplies[0].id)
        if self.session.do(edit):
            self._choose("strings", ident)

    def _add_meter(self) -> None:
        edit, ident = add_meter(self.session.project)
        if self.session.do(edit):
            self._choose("meters", ident)

    def _add_moment(self) -> None:
        edit, ident = add_moment(self.session.project)
        if self.session.do(edit):
            self._go_to_moment(ident)

    def _go_to_moment(self, ident: str) -> None:
        moment = self.session.project.find("moments", ident)
        self.session.do(put(("moment",), ident, f"Go to {moment.name}"))
        self._choose("moments", ident)

    def _remove_chosen(self) -> None:
        field, ident = self._chosen()
        thing = self.session.project.find(field, ident)
        if thing is not None:
            self.session.do(Edit("remove", f"Remove {thing.name}", {"field": field, "ident": ident}))

    def _set_level(self, value: int) -> None:
        field, ident = self._chosen()
        if field != "lamps" or not ident:
            return
        now = levels_of(self.session.project).get(ident, 0.0)
        if round(now * 100) != value:
            self.session.do(set_level(self.session.project, ident, value / 100, gesture=f"level {ident}"))
            self.session.results.refresh_light()

    def take_lux(self) -> None:
        """Read the simulated lux meter at every meter of the project."""
        light = self.session.results.light
        if light is None:
            self.session.said.emit("The light is still being solved." if self.session.project.meters else "Add a lux meter first.")
            return
        self._taken = {m.meter: self.lux_meter.read_lx(m.lux) for m in light.meters}
        words = ", ".join(f"{self.session.project.find('meters', k).name} {digits(v, 1)} lx" for k, v in self._taken.items())
        self.session.said.emit(f"The lux meter shows: {words}.")

    def refresh(self) -> None:
        """Follow the project and the results."""
        project, results = self.session.project, self.session.results
        seat = project.find("seats", results.seat_of(project))
        moment = project.find("moments", project.moment)
        self._seat_note.setText(f"from {seat.name}" + (f", {moment.name.lower()}" if moment else "") if seat else "")
        picture = results.picture if results.picture and seat and results.picture.seat == seat.id else None
        self.view.show_rgb(picture.image if picture else None, results.fresh("picture"))
        self.rig.refresh()
        if len(project.moments) != self._moments:
            self._moments = len(project.moments)
            self.slides.updateGeometry()
        self.slides.update()
        self.traces.update()
        self._show_meters()
        self._fill_ticket()

    def _show_meters(self) -> None:
        project, light = self.session.project, self.session.results.light
        if len(self.meters) != len(project.meters):
            self.meters = [HowButton() for _meter in project.meters]
            for button in self.meters:
                button.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
            self._meter_grid.fill(self.meters)
        found = {m.meter: m for m in light.meters} if light else {}
        for i, meter in enumerate(project.meters):
            button = self.meters[i]
            if meter.id not in found:
                button.show_value(f"{clipped(meter.name, 26)} …", How(meter.name, "Being solved.", "light"))
                continue
            m = found[meter.id]
            parts = sorted(((v, k) for k, v in m.by_lamp.items() if v >= 0.05), reverse=True)
            names = (
                "\n".join(f"{project.find('lamps', k).name}: {digits(v, 1)} lx" for v, k in parts if project.find("lamps", k))
                or "no lamp reaches it"
            )
            formula = f"Direct light E = I(θ) cos(incidence) / d², shadowed by rays, plus light bounced off every surface (4096 rays from the meter).\n{names}\nWanted: {digits(meter.wanted_lx, 0)} lx."
            button.show_value(
                f"{clipped(meter.name, 26)} {digits(m.lux, 0 if m.lux >= 10 else 1)} lx",
                How(meter.name, formula, "radiosity with final gather, checked against Radiance"),
            )

    def _fill_ticket(self) -> None:
        project = self.session.project
        field, ident = self._chosen()
        thing = project.find(field, ident)
        is_lamp = field == "lamps" and thing is not None
        for widget in (self._level_words, self.level, self._level_value):
            widget.setVisible(is_lamp)
        self.current.setVisible(is_lamp)
        what, title = (f"{field} {ident}", thing.name) if thing else ("nothing", "No lamp chosen")
        self.ticket.show_thing(what, title, thing is not None, lambda: self._make_rows(field, ident) if thing else [])
        for widget, read in self.ticket.rows:
            if isinstance(widget, Choice) and read.__name__ == "string_of":
                widget.set_options(self._string_options())
        self.ticket.read(project)
        if is_lamp:
            level = levels_of(project)[ident]
            self.level.blockSignals(True)
            self.level.setValue(round(level * 100))
            self.level.blockSignals(False)
            self._level_value.setText(f"{percent(level)}")
            self._show_current(ident)

    def _show_current(self, ident: str) -> None:
        quick = self.session.results.quick
        found = [x for r in quick.supplies for s in r.strings for x in s.lamps if x.lamp == ident] if quick else []
        if found:
            x = found[0]
            formula = f"Kirchhoff’s laws over the whole supply, each LED as V = N·Vt·ln(I/IS + 1) + I·RS.\nHere {ma(x.amps)} at {digits(x.volts, 2)} V; between {ma(x.low)} and {ma(x.high)} if its forward voltage is 0.1 V up or down."
            self.current.show_value(
                ma(x.amps), How("Current", formula, "Shockley equation with series resistance, damped Newton; checked against ngspice")
            )
        else:
            self.current.show_value("not wired", How("Current", "In no string yet: shown at its rated current.", "Lamps"))

    def _string_options(self) -> list[tuple[str, str]]:
        return [("", "not wired"), *((s.id, s.name) for s in self.session.project.strings)]

    def _make_rows(self, field: str, ident: str) -> list[Row]:
        do = self.session.do
        name = self.session.project.find(field, ident).name

        def get(p: Project, key: str) -> Any:
            return getattr(p.find(field, ident), key)

        def spot(caption: str, key: str) -> Row:
            return place_field(caption, lambda v: do(put((field, ident, key), v, f"Move {name}")), 74).caption_width(34), lambda p: get(
                p, key
            )

        renamed = Field("name", words(1, 120), str, lambda v: do(put((field, ident, "name"), v, "Rename"))).caption_width(34)
        first = (renamed, lambda p: get(p, "name"))
        if field == "lamps":
            return [first, *self._lamp_rows(ident, name, get, spot)]
        if field == "strings":
            return [first, *self._string_rows(ident, name, get)]
        if field == "supplies":
            return [first, *self._supply_rows(ident, name, get)]
        if field == "meters":
            wanted = Field(
                "wanted",
                number(0, 1e6, "lx"),
                lambda v: f"{digits(v, 0)} lx",
                lambda v: do(put((field, ident, "wanted_lx"), v, f"Wanted light at {name}")),
                74,
            )
            return [first, spot("x", "x"), spot("y", "y"), spot("z", "z"), (wanted, lambda p: get(p, "wanted_lx"))]
        return [first]

    def _lamp_rows(self, ident: str, name: str, get: Any, spot: Any) -> list[Row]:
        do = self.session.do
        leds = [(k, v["name"]) for k, v in table("electric")["led"].items()]
        led = Choice("LED", leds, lambda v: do(put(("lamps", ident, "led"), v, f"LED of {name}"))).caption_width(34)
        angle = Field(
            "angle",
            number(5, 360, "°"),
            lambda v: f"{digits(v, 0)}°",
            lambda v: do(put(("lamps", ident, "angle_deg"), v, f"Angle of {name}")),
            74,
        ).caption_width(44)
        motion = Choice(
            "motion", [(m, m) for m in MOTIONS], lambda v: do(put(("lamps", ident, "motion"), v, f"Motion of {name}"))
        ).caption_width(44)
        string = Choice("string", self._string_options(), lambda v: do(*wire_lamp(self.session.project, ident, v))).caption_width(44)

        def string_of(p: Project) -> str:
            return next((s.id for s in p.strings if ident in s.lamps), "")

        return [
            spot("x", "x"), spot("y", "y"), spot("z", "z"), (led, lambda p: get(p, "led")), (angle, lambda p: get(p, "angle_deg")),
            (motion, lambda p: get(p, "motion")), (string, string_of),
        ]  # fmt: skip

    def _string_rows(self, ident: str, name: str, get: Any) -> list[Row]:
        do = self.session.do
        ohm = Field(
            "resistor",
            number(0, 1e7, "Ω"),
            lambda v: f"{digits(v, 1)} Ω",
            lambda v: do(put(("strings", ident, "resistor_ohm"), v, f"Resistor of {name}")),
            84,
        )
        wiring = Choice(
            "wired",
            [("series", "one after the other"), ("group", "side by side")],
            lambda v: do(put(("strings", ident, "wiring"), v, f"Wiring of {name}")),
        )
        wire = Field(
            "wire",
            number(0, 100_000, "mm"),
            lambda v: f"{digits(v, 0)} mm",
            lambda v: do(put(("strings", ident, "wire_mm"), v, f"Wire of {name}")),
            84,
        )
        supplies = [(s.id, s.name) for s in self.session.project.supplies]
        supply = Choice("supply", supplies, lambda v: do(put(("strings", ident, "supply"), v, f"Supply of {name}")))
        return [
            (ohm, lambda p: get(p, "resistor_ohm")),
            (wiring, lambda p: get(p, "wiring")),
            (wire, lambda p: get(p, "wire_mm")),
            (supply, lambda p: get(p, "supply")),
        ]

    def _supply_rows(self, ident: str, name: str, get: Any) -> list[Row]:
        do = self.session.do
        supply = self.session.project.find("supplies", ident)
        rows = table("electric")["plug" if supply.kind == "plug" else "cell"]
        row = Choice(
            "it is a", [(k, v["name"]) for k, v in rows.items()], lambda v: do(put(("supplies", ident, "row"), v, f"Kind of {name}"))
        )
        out = [(row, lambda p: get(p, "row"))]
        if supply.kind == "cells":
            count = Field(
                "cells in series",
                number(1, 24),
                lambda v: digits(v, 0),
                lambda v: do(put(("supplies", ident, "count"), round(v), f"Cells of {name}")),
                60,
            )
            out.append((count, lambda p: get(p, "count")))
        return out

    def show_subject(self, field: str, ident: str) -> None:
        if field in ("lamps", "strings", "supplies", "meters"):
            self._choose(field, ident)
            self.rig.setFocus()
