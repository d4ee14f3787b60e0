"""The shelf: everything at hand as silhouettes at true relative size over a millimetre rule."""

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from fondale.core.lengths import show_mm, show_scale
from fondale.core.model import Piece
from fondale.core.model import shapes as sh
from fondale.core.scale.mannequin import mannequin
from fondale.core.scale.outline import Outline, animal_outline, figure_outline
from fondale.core.stage.solids import measured_height
from fondale.qt.session import Session
from fondale.qt.theme import signs
from fondale.qt.theme.palette import VERDICT

GAP_MM = 9.0


@dataclass(frozen=True)
class _Spot:
    """One thing on the shelf: its outline at 1 mm a unit, centre and width in mm."""

    piece: Piece
    rings: Outline
    path: QPainterPath
    x_mm: float
    width_mm: float
    height_mm: float


def outline_of(piece: Piece) -> Outline:
    """The outline of a piece in mm, its base on y = 0 and centred on x = 0."""
    shape = piece.shape
    match shape:
        case sh.Figure():
            body = mannequin(shape.pose, shape.person, shape.extras, shape.heroic)
            factor = measured_height(piece) / body.crown
            rings = tuple(r * factor for r in figure_outline(shape.pose, shape.person, shape.extras, shape.heroic))
        case sh.Animal():
            rings = tuple(r * measured_height(piece) for r in animal_outline(shape.species))
        case sh.Wheel():
            rings = _wheel(shape)
        case sh.Cylinder():
            wide, high = (shape.diameter, shape.length) if shape.axis == "z" else (shape.length, shape.diameter)
            rings = (_block(wide, high),)
        case sh.Hull():
            rings = (np.array([[-0.5, 0.75], [-0.46, 0.1], [-0.3, 0.0], [0.3, 0.0], [0.5, 1.0], [0.1, 0.8]]) * [shape.length, shape.depth],)
        case sh.Wall():
            rings = (
                _block(shape.length, shape.height),
                *(_block(o.width, o.height, o.x + o.width / 2 - shape.length / 2, o.z) for o in shape.openings),
            )
        case _:
            rings = (_block(shape.width, shape.height),)
    points = np.concatenate(list(rings))
    middle = (points[:, 0].min() + points[:, 0].max()) / 2
    return tuple(r - [middle, 0] for r in rings)


def _block(width: float, height: float, x: float = 0.0, y: float = 0.0) -> np.ndarray:
    return np.array([[x - width / 2, y], [x + width / 2, y], [x + width / 2, y + height], [x - width / 2, y + height]])


def _wheel(shape: sh.Wheel) -> Outline:
    r, a = shape.diameter / 2, np.linspace(0, 2 * np.pi, 49)[:-1]
    circle = np.stack([np.cos(a), np.sin(a)], 1)
    rings = [circle * r + [0, r]]
    n = max(shape.spokes, 3)
    for k in range(n):
        b = np.linspace(2 * np.pi * k / n + 0.5 / n, 2 * np.pi * (k + 1) / n - 0.5 / n, 6)
        arc = np.stack([np.cos(b), np.sin(b)], 1)
        rings.append(np.concatenate((arc * r * 0.88, arc[::-1] * r * 0.2)) + np.array([0.0, r]))
    return tuple(rings)


class Shelf(QWidget):
    """Silhouettes, ghosts of the right size, tags with cords. Click or arrow keys choose; outlines are made one a turn."""

    chosen = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._outlines: dict[tuple[object, object], Outline] = {}
        self._paths: dict[tuple[object, object], QPainterPath] = {}
        self._wanted: list[Piece] = []
        self._spots: list[_Spot] = []
        self._scale = 3.0
        self._warm = QTimer(self)
        self._warm.setInterval(0)
        self._warm.timeout.connect(self._make_one)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The shelf")
        self.setMinimumHeight(250)

    def sizeHint(self) -> QSize:
        return QSize(900, 380)

    def refresh(self) -> None:
        """Lay the shelf out anew."""
        self._wanted = [p for p in self._session.project.pieces if p.role == "piece"]
        self._layout_spots()
        if any(self._key(p) not in self._outlines for p in self._wanted):
            self._warm.start()
        self.update()

    @staticmethod
    def _key(piece: Piece) -> tuple[object, object]:
        return piece.shape, piece.measure

    def _make_one(self) -> None:
        missing = next((p for p in self._wanted if self._key(p) not in self._outlines), None)
        if missing is None:
            self._warm.stop()
        else:
            rings = outline_of(missing)
            self._outlines[self._key(missing)] = rings
            self._paths[self._key(missing)] = signs.path_of(rings, 1.0, 0.0, 0.0)
            self._layout_spots()
            self.update()

    def _layout_spots(self) -> None:
        spots, x = [], GAP_MM / 2
        for piece in self._wanted:
            rings = self._outlines.get(self._key(piece))
            if rings is None:
                continue
            points = np.concatenate(rings)
            reading = self._session.results.quick and self._session.results.quick.readings.get(piece.id)
            grow = max(1.0, reading.wanted_mm / reading.measured_mm) if reading else 1.0
            width, height = float(np.ptp(points[:, 0])) * grow, float(points[:, 1].max()) * grow
            least = 112 / self._scale / 2
            width = max(width, least)
            spots.append(_Spot(piece, rings, self._paths[self._key(piece)], x + width / 2, width, height))
            x += width + GAP_MM
        self._spots = spots
        theme = self._session.theme
        tall = max((s.height_mm for s in spots), default=50.0)
        room = self.height() - self._tags_height() - theme.px(46) - 12
        self._scale = max(0.3, min(room / tall, (self.width() - 8) / max(x, 1.0), 8.0))

    def _tags_height(self) -> int:
        return self._session.theme.px(46) * 2 + 14

    def resizeEvent(self, event: object) -> None:
        self._layout_spots()
        self._layout_spots()

    def _floor(self) -> float:
        return self.height() - self._session.theme.px(40)

    def _colour_role(self, piece: Piece) -> str:
        quick = self._session.results.quick
        reading = quick.readings.get(piece.id) if quick else None
        return VERDICT[reading.verdict] if reading else "soft"

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        floor = self._floor()
        p.fillRect(QRectF(0, floor, self.width(), 6), theme.color("line"))
        self._rule(p, floor + 6)
        if not self._spots:
            p.setPen(theme.color("soft"))
            text = "Nothing on the shelf yet. Add a figure, and take its height." if not self._wanted else ""
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, text)
            return
        chosen = self._session.chosen("pieces")
        boxes = self._tag_boxes()
        for spot in self._spots:
            self._silhouette(p, spot, floor, spot.piece.id == chosen)
        for spot, box in zip(self._spots, boxes, strict=True):
            self._cord(p, spot, box, floor)
        for spot, box in zip(self._spots, boxes, strict=True):
            self._tag(p, spot, box, spot.piece.id == chosen)
        signs.focus_ring(p, theme, self)

    def _silhouette(self, p: QPainter, spot: _Spot, floor: float, chosen: bool) -> None:
        theme = self._session.theme
        x = spot.x_mm * self._scale
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("ink"))
        self._draw(p, spot.path, x, floor, self._scale)
        quick = self._session.results.quick
        reading = quick.readings.get(spot.piece.id) if quick else None
        if reading and abs(reading.off) > 0.015:
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(theme.color(self._colour_role(spot.piece)), 1.3, Qt.PenStyle.DashLine))
            scale = self._scale * reading.wanted_mm / reading.measured_mm
            if spot.piece.shape.kind == "wheel":
                p.drawPath(signs.path_of(spot.rings[:1], scale, x, floor))
            else:
                self._draw(p, spot.path, x, floor, scale)
        if chosen:
            p.fillRect(QRectF(x - spot.width_mm * self._scale / 2, floor, spot.width_mm * self._scale, 3), theme.color("curtain"))

    @staticmethod
    def _draw(p: QPainter, path: QPainterPath, x: float, floor: float, scale: float) -> None:
        """A path in mm, standing at (x, floor); the pen keeps its width."""
        pen = p.pen()
        pen.setCosmetic(True)
        p.save()
        p.setPen(pen)
        p.translate(x, floor)
        p.scale(scale, scale)
        p.drawPath(path)
        p.restore()

    def _tag_boxes(self) -> list[QRectF]:
        """Tags in two rows, each as near above its piece as its neighbours in the row allow."""
        theme = self._session.theme
        height = theme.px(46)
        boxes: list[QRectF] = []
        ends = [0.0, 0.0]
        in_row = (len(self._spots) + 1) // 2
        width = min(theme.px(168.0), (self.width() - 2 - 6 * (in_row - 1)) / max(1, in_row))
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
        top = QPointF(spot.x_mm * self._scale, floor - min(spot.height_mm, float(np.concatenate(spot.rings)[:, 1].max())) * self._scale)
        cord = QPainterPath(signs.hole_of(box))
        start = signs.hole_of(box)
        cord.cubicTo(start + QPointF(-14, 26), QPointF(top.x(), box.bottom() + 4), top)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.color("soft"), 1))
        p.drawPath(cord)

    def _tag(self, p: QPainter, spot: _Spot, box: QRectF, chosen: bool) -> None:
        theme = self._session.theme
        quick = self._session.results.quick
        reading = quick.readings.get(spot.piece.id) if quick else None
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

    def _rule(self, p: QPainter, top: float) -> None:
        theme = self._session.theme
        p.setFont(theme.font(11))
        p.setPen(theme.color("slate"))
        last = int(self.width() / self._scale)
        for mm in range(0, last + 1, 1 if self._scale >= 2.5 else 5):
            x = mm * self._scale
            tall = 10 if mm % 50 == 0 else 7 if mm % 10 == 0 else 4
            p.drawLine(QPointF(x, top), QPointF(x, top + tall))
            if mm % 50 == 0:
                p.drawText(
                    QRectF(x - 30 if mm else 0, top + 10, 60, theme.px(15)),
                    Qt.AlignmentFlag.AlignHCenter if mm else Qt.AlignmentFlag.AlignLeft,
                    f"{mm} mm",
                )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        for spot, box in zip(self._spots, self._tag_boxes(), strict=True):
            body = abs(at.x() - spot.x_mm * self._scale) <= spot.width_mm * self._scale / 2 + 4
            if box.contains(at) or (body and at.y() > self._tags_height()):
                self.chosen.emit(spot.piece.id)
                return

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ids = [s.piece.id for s in self._spots]
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None or not ids:
            super().keyPressEvent(event)
            return
        now = self._session.chosen("pieces")
        at = ids.index(now) if now in ids else 0
        self.chosen.emit(ids[max(0, min(len(ids) - 1, at + step))])
