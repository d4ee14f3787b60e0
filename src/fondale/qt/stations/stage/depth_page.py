# SPDX-License-Identifier: MIT
"""Depth: how large a backdrop must be, forced perspective, facing mirrors, and the room in the pane."""

import math
from collections.abc import Callable
from operator import attrgetter
from typing import Any, get_args

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QVBoxLayout, QWidget

from fondale.core.derived import BACKDROPS, LIGHT, READINGS
from fondale.core.lengths import parse_length
from fondale.core.model import PIECES, PROJECT, SEATS, Spot
from fondale.core.model.shapes import Backdrop, Mirror
from fondale.core.scale.placing import forced_error, forced_scale
from fondale.core.shapes.backdrops import arc_of
from fondale.core.stage.cases import floor_over_shelf
from fondale.core.stage.glass import MIRRORS
from fondale.core.views.backdrops import BackdropView, backdrop_told, tiles
from fondale.core.views.depth import CLEAR, Veil, facing_mirrors, forced_told, mirrors_told, veil, veil_told, zones
from fondale.core.views.sight import eye_height_mm
from fondale.core.words import digits, percent, show_mm, show_scale
from fondale.qt.furniture.columns import Columns, FieldGrid
from fondale.qt.furniture.fields import Choice, Field, length_field, number
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import headed, line_of
from fondale.qt.session import Session
from fondale.qt.theme import signs

CAPTION, WIDE = 74, 84
NEAR = 0.06  # of a scale: it passes there (as the Bench judges)


class BackdropDrawing(QWidget):
    """A backdrop unrolled, from the front: the sheet, what is seen of its plane, the horizon of each seat, and the sheets of paper."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.view: BackdropView | None = None
        self.shape_: Backdrop | None = None
        self.setAccessibleName("Backdrop from the front")
        self.setMinimumSize(QSize(240, 150))

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p, view, shape = self._session.theme, QPainter(self), self.view, self.shape_
        if shape is None:
            return
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        half = arc_of(shape.width, shape.cove)[1]
        wants = view.wants if view is not None and view.wants is not None else (-half, half, 0.0, shape.height)
        x0, x1 = min(-half, wants[0]), max(half, wants[1])
        z1 = max(shape.height, wants[3])
        pad = theme.px(22)
        scale = min((self.width() - 2 * pad) / (x1 - x0), (self.height() - 2 * pad) / max(z1, 1.0))
        left, foot = (self.width() - (x1 - x0) * scale) / 2 - x0 * scale, (self.height() + z1 * scale) / 2

        def box(a: float, b: float, low: float, high: float) -> QRectF:
            return QRectF(QPointF(left + a * scale, foot - high * scale), QPointF(left + b * scale, foot - low * scale))

        p.setPen(QPen(theme.color("ink"), 1.2))
        p.setBrush(theme.color("card"))
        sheet = box(-half, half, 0.0, shape.height)
        p.drawRect(sheet)
        if view is not None and view.seen is not None:
            p.setPen(QPen(theme.color("verdigris"), 1))
            p.setBrush(theme.color("verdigris", 0.12))
            p.drawRect(box(*view.seen))
            p.setPen(QPen(theme.color("lamp"), 1.4, Qt.PenStyle.DashLine))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(box(*wants))
        p.setFont(theme.font(11))
        if view is not None:
            shown: list[float] = []
            for seat in self._session.project.seats:
                high = view.horizons.get(seat.id)
                if high is None or not 0 < high < z1:
                    continue
                y = foot - high * scale
                p.setPen(QPen(theme.color("slate"), 1, Qt.PenStyle.DotLine))
                p.drawLine(QPointF(pad, y), QPointF(self.width() - pad, y))
                if all(abs(y - other) > theme.px(14) for other in shown):
                    shown.append(y)
                    p.setPen(theme.text("slate"))
                    p.drawText(
                        QRectF(sheet.left() + 4, y - theme.px(15), sheet.width() - 8, theme.px(15)), Qt.AlignmentFlag.AlignLeft, seat.name
                    )
        signs.dimension(
            p, theme, sheet.bottomLeft() + QPointF(0, 6), sheet.bottomRight() + QPointF(0, 6), f"{digits(2 * half, 0)} mm", False
        )


class DepthPage(Page):
    """Left the chosen backdrop; right what is reckoned of scales, mirrors and the pane."""

    title = "Depth"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.lay_out(Columns(24, (self._left(), 5), (self._right(), 6)))

    def _left(self) -> QVBoxLayout:
        column = headed("Backdrop")
        self.which = Choice("backdrop", [], lambda ident: self.session.select(PIECES, ident)).caption_width(CAPTION)
        column.addWidget(self.which)
        self.needed, self._backdrop = HowButton(), Prose()
        column.addLayout(line_of(self.needed))
        column.addWidget(self._backdrop)
        self.drawing = BackdropDrawing(self.session)
        column.addWidget(self.drawing, 1)
        column.addStretch(0)
        return column

    def _right(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(6)
        house = lambda: self.session.project.brief.house_n  # noqa: E731
        real = Field("meant at", lambda t: parse_length(t, 1.0), lambda v: f"{digits((v or 0) / 1000, 2)} m", self._ask("meant"), WIDE)
        real.edit.setToolTip("How far behind the front it is meant to stand, in life")
        mirrors: list[tuple[Any, str]] = [(kind, kind) for kind in get_args(Mirror)]
        share = lambda v: f"{digits((v or 0) * 100, 0)} %"  # noqa: E731
        percent_ = lambda t: number(0, 100, "%")(t) / 100  # noqa: E731
        self.fields: dict[str, Field | Choice] = {
            "meant": real,
            "stands": length_field("stands at", self._ask("stands"), house, WIDE),
            "zones": Field("zones", number(1, 12), lambda v: digits(v or 1, 0), lambda v: self._ask("zones")(round(v)), WIDE),
            "apart": length_field("apart", self._ask("apart"), house, WIDE),
            "wide": length_field("wide", self._ask("wide"), house, WIDE),
            "front": Choice("in front", mirrors, self._ask("front"), 120),
            "back": Choice("behind", mirrors, self._ask("back"), 120),
            "room_lx": Field("room", number(0, 100_000, "lx"), lambda v: f"{digits(v or 0, 0)} lx", self._ask("room_lx"), WIDE),
            "clothes": Field("viewers", percent_, share, self._ask("clothes"), WIDE),
            "scene_lx": Field("scene", number(0, 100_000, "lx"), lambda v: f"{digits(v, 0)} lx" if v else "", self._ask("scene_lx"), WIDE),
            "paint": Field("its paint", percent_, share, self._ask("paint"), WIDE),
        }  # fmt: skip
        scene = self.fields["scene_lx"]
        assert isinstance(scene, Field)
        scene.edit.setPlaceholderText("metered")
        self.fields["clothes"].setToolTip("How much light what stands before the pane throws back: dark clothes 10 %, light ones 60 %")
        for field in self.fields.values():
            field.caption_width(CAPTION)
        self.told = {part: HowButton() for part in ("forced", "mirrors", "pane")}
        self.said = {part: Prose() for part in self.told}
        for part, title, names in (
            ("forced", "Forced perspective", ("meant", "stands", "zones")),
            ("mirrors", "Two facing mirrors", ("apart", "wide", "front", "back")),
            ("pane", "The room in the pane", ("room_lx", "clothes", "scene_lx", "paint")),
        ):
            column.addLayout(headed(title))
            grid = FieldGrid(3)
            grid.fill([self.fields[n] for n in names])
            column.addWidget(grid)
            column.addLayout(line_of(self.told[part]))
            column.addWidget(self.said[part])
        column.addStretch(1)
        return column

    def _ask(self, name: str) -> Callable[[Any], object]:
        spot: Spot[Any] = PROJECT.then(lambda p: p.depth).then(attrgetter(name))
        return self.session.setter(spot, "Depth")

    def refresh(self) -> None:
        """Follow the project, what any seat sees, and what is asked."""
        for name, field in self.fields.items():
            field.set_value(getattr(self.session.project.depth, name))
        self._show_backdrop()
        seat = self.session.project.find(SEATS, self.session.results.look.seat_of(self.session.project))
        distance = seat.distance if seat is not None else 700.0
        self._show_forced(distance)
        self._show_mirrors()
        self._show_pane(distance, eye_height_mm(seat) if seat is not None else 1600.0)

    def _show_backdrop(self) -> None:
        project, known = self.session.project, self.session.results[BACKDROPS] or ()
        every = [p for p in project.pieces if isinstance(p.shape, Backdrop) and p.place is not None]
        piece = next((p for p in every if p.id == self.session.chosen(PIECES)), every[0] if every else None)
        self.which.set_options([(p.id, p.name) for p in every])
        self.which.set_value(piece.id if piece is not None else None)
        self.which.setVisible(len(every) > 1)
        view = next((v for v in known if piece is not None and v.piece == piece.id), None)
        self.drawing.view, self.drawing.shape_ = view, piece.shape if piece is not None and isinstance(piece.shape, Backdrop) else None
        self.drawing.setVisible(piece is not None)
        self.drawing.update()
        self.needed.setVisible(view is not None)
        if piece is None:
            self._backdrop.setText(
                "No backdrop stands in the scene. Add one there, behind an opening or at the back, and its size is reckoned here."
            )
            return
        if view is None:
            self._backdrop.setText("Looking from the seats…")
            return
        self.needed.show_told(backdrop_told(view, piece))
        self._backdrop.setText(self._backdrop_words(view))

    def _backdrop_words(self, view: BackdropView) -> str:
        project = self.session.project
        if view.seen is None:
            return "No seat sees it: it may stay away, or wants another place."
        wide, high = view.size
        across, up, turned = tiles(wide, high)
        lines = [f"{across} × {up} sheets of A4{' on their side' if turned else ''}, at {digits(max(view.dpi, 72), 0)} dpi or better."]
        names = {s.id: s.name for s in project.seats}
        if view.edges:
            lines.append(" ".join(f"Its {side} edge is seen from {names[seat]}." for side, seat in view.edges.items()))
        else:
            lines.append("No seat sees an edge of it.")
        high_low = sorted(view.horizons.items(), key=lambda h: h[1])
        if high_low:
            said = ", ".join(f"{digits(z, 0)} mm for {names[ident]}" for ident, z in high_low)
            lines.append(f"The horizon lies as high as the eyes, over its foot: {said}.")
        return "\n".join(lines)

    def _show_forced(self, distance: float) -> None:
        project, asked = self.session.project, self.session.project.depth
        house = project.brief.house_n
        try:
            scale = forced_scale(house, distance, asked.meant, asked.stands)
        except ValueError as error:
            self.said["forced"].setText(f"That cannot be: {error}.")
            return
        self.told["forced"].show_told(forced_told(house, distance, asked.meant, asked.stands))
        lines = []
        errors = [(s.name, forced_error(house, scale, s.distance, asked.meant, asked.stands)) for s in project.seats]
        off = [f"{name} {'+' if e > 0 else '−'}{percent(abs(e))}" for name, e in errors if abs(e) > 0.005]
        lines.append(
            "It looks right from every seat." if not off else f"From other distances it looks too large or too small: {', '.join(off)}."
        )
        readings = self.session.results[READINGS] or {}
        serve = [p.name for p in project.pieces if (r := readings.get(p.id)) is not None and abs(r.n / scale - 1) <= NEAR]
        bits = [b.name for b in project.bits if b.native_n and abs(b.native_n / scale - 1) <= NEAR]
        if serve or bits:
            more = f" and {len(serve) + len(bits) - 4} more" if len(serve) + len(bits) > 4 else ""
            lines.append(f"At hand for there: {', '.join([*serve, *bits][:4])}{more}.")
        else:
            lines.append("Nothing at hand is of that scale.")
        if asked.zones > 1:
            each = zones(house, distance, asked.stands, asked.meant, asked.zones)
            lines.append(
                "Zones: " + "; ".join(f"{digits(d, 0)} mm deep {show_scale(s)}, meant {digits(r / 1000, 1)} m" for d, r, s in each) + "."
            )
        self.said["forced"].setText("\n".join(lines))

    def _show_mirrors(self) -> None:
        asked = self.session.project.depth
        front, back = MIRRORS[asked.front], MIRRORS[asked.back]
        through = 1 - front
        try:
            images = facing_mirrors(asked.apart, front, back, asked.wide, through)
        except ValueError as error:
            self.said["mirrors"].setText(f"That cannot be: {error}.")
            return
        self.told["mirrors"].show_told(mirrors_told(images, asked.apart, front * back))
        few = "" if images.count >= 4 else " That is a shallow show: take better mirrors."
        self.said["mirrors"].setText(
            f"They look {show_mm(images.depth_mm)} deep and take {show_mm(asked.apart)} of room. {percent(through)} of what is there comes out through the front one. "
            f"From more than {digits(images.breaks_deg, 0)}° aside the last of them is gone.{few} Mirror acrylic snaps: cut it slowly, and buy a spare."
        )

    def _show_pane(self, distance: float, eyes: float) -> None:
        project, asked = self.session.project, self.session.project.depth
        floor = project.brief.shelf_height_mm + floor_over_shelf(project.case)
        scene = asked.scene_lx or self._metered()
        self.told["pane"].setVisible(scene > 0)
        if not scene:
            self.said["pane"].setText("Say how bright the scene is, or set a meter on Lamps.")
            return
        try:
            found: Veil = veil(
                asked.room_lx, asked.clothes, scene * asked.paint / math.pi, 0.0, distance, eyes, max(floor + project.case.height, 1.0)
            )
        except ValueError as error:
            self.said["pane"].setText(f"That cannot be: {error}.")
            return
        self.told["pane"].show_told(veil_told(found, 0.0))
        if found.share <= CLEAR:
            said = "The view is clear."
        elif found.share < 1:
            said = "Viewers see themselves in it."
        else:
            said = "The case looks black: the pane shows the room, not the scene."
        if found.share > CLEAR:
            tilt = (
                f" Or lean the top of the pane {digits(found.tilt_deg, 0)}° to the viewer, so that it shows the floor."
                if found.tilt_deg < 45
                else ""
            )
            said += f" {digits(found.lamps, 1)} times as much light inside clears it, or a room of {digits(asked.room_lx / found.lamps, 0)} lx.{tilt}"
        metered = "" if asked.scene_lx else f" The meters on Lamps say {digits(scene, 0)} lx in the mean."
        self.said["pane"].setText(said + metered)

    def _metered(self) -> float:
        """The mean of the meters in lux; 0 where there is none."""
        light = self.session.results[LIGHT]
        return sum(m.lux for m in light.meters) / len(light.meters) if light is not None and light.meters else 0.0
