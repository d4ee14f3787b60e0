# SPDX-License-Identifier: MIT
"""The shelf: everything at hand as silhouettes at true relative size over a millimetre rule."""

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from fondale.core.bodies.outline import Outline
from fondale.core.derived import OUTLINES, READINGS
from fondale.core.model import PIECES, Piece
from fondale.core.scale.pieces import read_piece
from fondale.core.shapes import kind_of
from fondale.core.stage.solids import measured_height
from fondale.core.words import percent, show_mm, show_scale
from fondale.qt.session import Session
from fondale.qt.stations.bench.shelf_drawing import break_line, draw_rule, draw_standing
from fondale.qt.theme import signs
from fondale.qt.theme.palette import VERDICT

GAP_MM = 9.0
BREAK = 2.4  # what is this much taller than most is broken off
MOST_WIDE = 2.0  # in widths of the frame
LEAST_HEIGHT = 230
CARRY_PX = 6


def compared(a: Piece, b: Piece, house_n: float) -> str:
    """How two pieces compare, in words."""
    one, other = measured_height(a), measured_height(b)
    words = f"{a.name} {show_mm(one)}, {b.name} {show_mm(other)}: {percent(one / other)} of it"
    first, second = read_piece(a, house_n), read_piece(b, house_n)
    if first is not None and second is not None:
        words += f"; {show_scale(first.n)} beside {show_scale(second.n)}, {percent(abs(second.n / first.n - 1))} apart in scale"
    return words


@dataclass(frozen=True)
class _Spot:
    """One thing on the shelf: its outline at 1 mm a unit, centre and width in mm."""

    piece: Piece
    rings: Outline
    path: QPainterPath
    x_mm: float
    width_mm: float
    height_mm: float


class Shelf(QWidget):
    """Silhouettes, ghosts of the right size, tags with cords. Click or arrow keys choose; outlines come when they are known."""

    chosen = Signal(str)
    paired = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._paths: dict[str, tuple[Outline, QPainterPath]] = {}
        self._wanted: list[Piece] = []
        self._spots: list[_Spot] = []
        self._scale = 3.0
        self._true: float | None = None
        self._tall = 50.0
        self.pair: tuple[str, str] | None = None
        self._grip: tuple[str, QPointF] | None = None
        self._carried: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The shelf")
        self.setMinimumHeight(LEAST_HEIGHT)

    def sizeHint(self) -> QSize:
        return QSize(900, 380)

    def refresh(self) -> None:
        """Lay the shelf out anew."""
        everything = [p for p in self._session.results.project.pieces if p.role == "piece"]
        if self.pair is not None and not set(self.pair) <= {p.id for p in everything}:
            self.pair = None
        self._wanted = [p for p in everything if self.pair is None or p.id in self.pair]
        self._layout_spots()
        self.update()

    def middle_of(self, ident: str) -> float:
        """Where a piece stands, in pixels from the left."""
        return next((s.x_mm * self._scale for s in self._spots if s.piece.id == ident), 0.0)

    def show_pair(self, pair: tuple[str, str] | None) -> None:
        """Show only these two, side by side with lines across; None shows all."""
        self.pair = pair
        self.refresh()

    def pair_words(self) -> str:
        """The two that are compared, in words."""
        if self.pair is None or len(self._wanted) != 2:
            return ""
        one, other = self._wanted
        return compared(one, other, self._session.project.brief.house_n)

    def set_true_scale(self, px_per_mm: float | None) -> None:
        """Pixels to a millimetre, or None to fill the room."""
        self._true = px_per_mm
        self.refresh()

    def _path(self, piece: Piece) -> tuple[Outline, QPainterPath] | None:
        """The outline of a piece and its path, once it is known."""
        known = self._session.results[OUTLINES]
        rings = known.pieces.get(piece.id) if known else None
        if rings is None:
            return None
        kept = self._paths.get(piece.id)
        if kept is None or kept[0] is not rings:
            kept = self._paths[piece.id] = (rings, signs.path_of(rings, 1.0, 0.0, 0.0))
        return kept

    def _layout_spots(self) -> None:
        spots, x = [], GAP_MM / 2
        for piece in self._wanted:
            found = self._path(piece)
            if found is None:
                continue
            rings, path = found
            points = np.concatenate(rings)
            reading = self._session.results.one(READINGS, piece.id)
            grow = max(1.0, reading.wanted_mm / reading.measured_mm) if reading else 1.0
            width, height = float(np.ptp(points[:, 0])) * grow, float(points[:, 1].max()) * grow
            least = 112 / self._scale / 2
            width = max(width, least)
            spots.append(_Spot(piece, rings, path, x + width / 2, width, height))
            x += width + GAP_MM
        self._spots = spots
        theme = self._session.theme
        heights = sorted(s.height_mm for s in spots) or [50.0]
        # One crane among figures is drawn broken off, or nobody would see the figures.
        usual = heights[round(0.75 * (len(heights) - 1))]
        self._tall = max(h for h in heights if h <= BREAK * usual)
        room = self._room()
        frame = self.parentWidget()
        wide = frame.width() if frame is not None else self.width()
        self._scale = self._true or max(0.3, min(room / self._tall, MOST_WIDE * (wide - 8) / max(x, 1.0), 8.0))
        if self._true:
            self._tall = heights[-1]
        need = self._tall * self._scale + self._tags_height() + theme.px(58) if self._true else 0.0
        self.setMinimumSize(int(x * self._scale + 8), max(theme.px(LEAST_HEIGHT), int(need)))

    def _room(self) -> float:
        """How many pixels high the tallest may be."""
        return max(40.0, self.height() - self._tags_height() - self._session.theme.px(46) - 12)

    def _tags_height(self) -> int:
        return self._session.theme.px(46) * 2 + 14

    def resizeEvent(self, event: object) -> None:
        self._layout_spots()
        self._layout_spots()

    def _floor(self) -> float:
        return self.height() - self._session.theme.px(40)

    def _colour_role(self, piece: Piece) -> str:
        reading = self._session.results.one(READINGS, piece.id)
        return VERDICT[reading.verdict] if reading else "soft"

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        floor = self._floor()
        p.fillRect(QRectF(0, floor, self.width(), 6), theme.color("line"))
        draw_rule(p, theme, floor + 6, self.width(), self._scale)
        if not self._spots:
            p.setFont(theme.font(13))
            p.setPen(theme.color("soft"))
            text = "Nothing on the shelf yet. Add a figure, and take its height." if not self._wanted else ""
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, text)
            return
        chosen = self._session.chosen(PIECES)
        boxes = self._tag_boxes()
        if self.pair is not None:
            self._levels(p, floor)
        for spot in self._spots:
            self._silhouette(p, spot, floor, spot.piece.id == chosen)
        for spot, box in zip(self._spots, boxes, strict=True):
            self._cord(p, spot, box, floor)
        for spot, box in zip(self._spots, boxes, strict=True):
            self._tag(p, spot, box, spot.piece.id == chosen)
        signs.focus_ring(p, theme, self)

    def _levels(self, p: QPainter, floor: float) -> None:
        """Lines across at the top of both, so that the eye can compare them."""
        theme = self._session.theme
        for spot in self._spots:
            y = floor - float(np.concatenate(spot.rings)[:, 1].max()) * self._scale
            p.setPen(QPen(theme.color("slate"), 1, Qt.PenStyle.DotLine))
            p.drawLine(QPointF(0, y), QPointF(self.width(), y))

    def _silhouette(self, p: QPainter, spot: _Spot, floor: float, chosen: bool) -> None:
        theme = self._session.theme
        x = spot.x_mm * self._scale
        carried = self._carried is not None and self._grip is not None and self._grip[0] == spot.piece.id
        top = floor - self._tall * self._scale - 4
        broken = spot.height_mm > self._tall + 1e-6
        if broken:
            p.save()
            p.setClipRect(QRectF(0, top, self.width(), floor - top + 8))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("ink", 0.35 if carried else 1.0))
        draw_standing(p, spot.path, x, floor, self._scale)
        if broken:
            p.restore()
            break_line(p, self._session.theme, x, top, spot.width_mm * self._scale)
        if carried and self._carried is not None:
            p.setBrush(theme.color("curtain", 0.75))
            draw_standing(p, spot.path, self._carried.x(), floor, self._scale)
        reading = self._session.results.one(READINGS, spot.piece.id)
        if reading and abs(reading.off) > 0.015:
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(theme.color(self._colour_role(spot.piece)), 1.3, Qt.PenStyle.DashLine))
            scale = self._scale * reading.wanted_mm / reading.measured_mm
            if kind_of(spot.piece.shape).ring_alone:
                p.drawPath(signs.path_of(spot.rings[:1], scale, x, floor))
            else:
                draw_standing(p, spot.path, x, floor, scale)
        if chosen:
            p.fillRect(QRectF(x - spot.width_mm * self._scale / 2, floor, spot.width_mm * self._scale, 3), theme.color("curtain"))

    def _tag_boxes(self) -> list[QRectF]:
        """Tags in two rows, each as near above its piece as its neighbours in the row allow."""
        theme = self._session.theme
        height = theme.px(46)
        boxes: list[QRectF] = []
        ends = [0.0, 0.0]
        in_row = (len(self._spots) + 1) // 2
        width = min(theme.px(168.0), (self.width() - 3 - 6 * (in_row - 1)) / max(1, in_row))  # a pixel free at both ends
        for i, spot in enumerate(self._spots):
            row = i % 2
            left = min(max(spot.x_mm * self._scale - width * 0.35, ends[row]), self.width() - width - 1)
            ends[row] = left + width + 6
            boxes.append(QRectF(left, 1 + row * (height + 6), width, height))
        for row in (0, 1):
            mine = boxes[row::2]
            for k in range(len(mine) - 2, -1, -1):
                mine[k].moveLeft(min(mine[k].left(), mine[k + 1].left() - width - 6))
            boxes[row::2] = mine
        return boxes

    def _cord(self, p: QPainter, spot: _Spot, box: QRectF, floor: float) -> None:
        theme = self._session.theme
        top = QPointF(
            spot.x_mm * self._scale, floor - min(spot.height_mm, self._tall, float(np.concatenate(spot.rings)[:, 1].max())) * self._scale
        )
        cord = QPainterPath(signs.hole_of(box))
        start = signs.hole_of(box)
        cord.cubicTo(start + QPointF(-14, 26), QPointF(top.x(), box.bottom() + 4), top)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.color("soft"), 1))
        p.drawPath(cord)

    def _tag(self, p: QPainter, spot: _Spot, box: QRectF, chosen: bool) -> None:
        theme = self._session.theme
        reading = self._session.results.one(READINGS, spot.piece.id)
        edge = theme.color("curtain" if chosen else self._colour_role(spot.piece))
        signs.label_tag(p, theme, box, edge, chosen)
        inner = box.adjusted(17, 2, -4, -2)
        line = inner.height() / 3
        rows: list[tuple[str, int, str]] = [(spot.piece.name, 600, "ink")]
        if reading:
            rows.append((f"{show_mm(reading.measured_mm)}, {show_scale(reading.n)}", 400, "ink"))
            rows.append((reading.verdict if reading.verdict != "wrong" else "out of scale", 400, self._colour_role(spot.piece)))
        else:
            rows.append(("not measured" if spot.piece.measure is None else show_mm(spot.piece.measure.mm), 400, "soft"))
        for i, (text, weight, role) in enumerate(rows):
            font = theme.font(11.5, weight)
            p.setFont(font)
            p.setPen(theme.text(role))
            short = p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(inner.width()))
            p.drawText(QRectF(inner.left(), inner.top() + i * line, inner.width(), line), Qt.AlignmentFlag.AlignVCenter, short)

    def _spot_at(self, at: QPointF) -> _Spot | None:
        for spot, box in zip(self._spots, self._tag_boxes(), strict=True):
            body = abs(at.x() - spot.x_mm * self._scale) <= spot.width_mm * self._scale / 2 + 4
            if box.contains(at) or (body and at.y() > self._tags_height()):
                return spot
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        spot = self._spot_at(event.position())
        if spot is not None:
            self._grip = (spot.piece.id, event.position())
            self.chosen.emit(spot.piece.id)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is None or self.pair is not None:
            return
        if self._carried is not None or abs(event.position().x() - self._grip[1].x()) > CARRY_PX:
            self._carried = event.position()
            over = self._spot_at(event.position())
            mine = next((s.piece for s in self._spots if s.piece.id == self._grip[0]), None)
            if over is not None and mine is not None and over.piece.id != mine.id:
                QToolTip.showText(event.globalPosition().toPoint(), compared(mine, over.piece, self._session.project.brief.house_n), self)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        carried, grip = self._carried, self._grip
        self._carried = self._grip = None
        self.update()
        over = self._spot_at(event.position())
        if carried is not None and grip is not None and over is not None and over.piece.id != grip[0]:
            self.paired.emit(over.piece.id)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ids = [s.piece.id for s in self._spots]
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_Escape and self.pair is not None:
            self.paired.emit("")
            return
        if step is None or not ids:
            super().keyPressEvent(event)
            return
        now = self._session.chosen(PIECES)
        at = ids.index(now) if now in ids else 0
        self.chosen.emit(ids[max(0, min(len(ids) - 1, at + step))])
