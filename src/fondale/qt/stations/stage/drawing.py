# SPDX-License-Identifier: MIT
"""Plan and section: the case drawn to scale, pieces that can be dragged, seats with their fans of sight."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QWidget

from fondale.core.arrays import Floats
from fondale.core.derived import OUTLINES, SEAMS, STAGE
from fondale.core.edits.moving import move
from fondale.core.model import PIECES, Case, Piece, Place
from fondale.core.shapes import kind_of
from fondale.core.shapes.solid import lift_of, placed, tilted
from fondale.core.stage.cases import cells, cells_on, dome_over, extent, storeys
from fondale.core.stage.clearance import room_of
from fondale.core.stage.gaps import Box, box_of, gaps, snap
from fondale.core.stage.scene import placed_solid, rest_places
from fondale.core.stage.solids import measured_height
from fondale.core.stage.together import going_along
from fondale.core.views.places import Found
from fondale.core.words import clipped, digits
from fondale.qt.furniture.keys import arrow, stride
from fondale.qt.session import Session
from fondale.qt.stations.stage.lamp_handles import Axis, LampHandles
from fondale.qt.stations.stage.seam_lines import draw_seams
from fondale.qt.stations.stage.sight_lines import SightLines
from fondale.qt.stations.stage.swing_lines import draw_swings
from fondale.qt.theme import signs


def _convex(axis: Axis, corners: np.ndarray) -> np.ndarray:
    hull = shapely.convex_hull(shapely.linestrings(corners[:, :2] if axis == "plan" else corners[:, 1:]))
    if hull.geom_type != "Polygon":
        hull = hull.buffer(0.3)
    return np.asarray(hull.exterior.coords)


SNAP_PX = 5.0  # how near an edge must come to snap

_POST = np.array([[x, y, z] for x in (-0.12, 0.12) for y in (-0.12, 0.12) for z in (0.0, 1.0)])


@lru_cache(maxsize=512)
def _scenery_in(axis: Axis, piece: Piece, place: Place) -> np.ndarray:
    return _convex(axis, placed_solid(piece, place).corners())


def outline_in(session: Session, axis: Axis, piece: Piece, place: Place) -> np.ndarray:
    """The convex outline (k, 2) of a placed piece: in plan (x, y), in section (y, z).

    What lives is built in the background: until its hull has come it stands there as a post.
    """
    if not kind_of(piece.shape).living:
        return _scenery_in(axis, piece, place)
    outlines, tall = session.results[OUTLINES], measured_height(piece)
    hull = outlines.hulls.get(piece.id, _POST) if outlines is not None else _POST
    key, ring = (axis, piece.id, place.turn_deg, place.tilt_deg, tall), _kept.get((axis, piece.id))
    if ring is None or ring[0] != key or ring[1] is not hull:
        body = tilted(hull * tall, place.tilt_deg)
        lifted = np.array([0.0, 0.0, lift_of(hull * tall, place.tilt_deg)])
        ring = key, hull, _convex(axis, placed(body, lifted, place.turn_deg))
        _kept[axis, piece.id] = ring
    at = (place.x, place.y) if axis == "plan" else (place.y, place.z or 0.0)
    out: np.ndarray = ring[2] + at
    return out


# Outlines of what lives about its own foot, with the hull that they are of: what is only moved keeps its outline.
_kept: dict[tuple[Axis, str], tuple[tuple[object, ...], np.ndarray, np.ndarray]] = {}


@dataclass
class _Grip:
    """What is being dragged: the piece, where it stood, and where the pointer took hold (mm)."""

    piece: str
    start: Place
    at: QPointF
    moved: bool = False


class Drawing(QWidget):
    """One of the two drawings. Drag with the mouse: it snaps to what is near, with Shift it does not; arrow keys move the chosen piece by 1 mm,
    with Shift by 10, [ and ] turn it by 5 degrees.
    """

    def __init__(self, session: Session, axis: Axis) -> None:
        super().__init__()
        self._session, self._axis = session, axis
        self._grip: _Grip | None = None
        self._lamps = LampHandles(session, axis, self.to_screen, self.to_mm)
        self._frame_key: object = None
        self._hatch: tuple[object, QPixmap] | None = None
        self._frame_value = (1.0, 0.0, 0.0)
        self.storey = 0.0
        self._sight = SightLines(session, axis, self.to_screen)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Plan" if axis == "plan" else "Section")

    def show_sight(self, found: Found | None) -> None:
        """Show from where something is seen, or nothing of the kind."""
        self._sight.found = found
        self.update()

    def _frame(self) -> tuple[float, float, float]:
        """Pixels a millimetre, and where the case's origin lies."""
        theme, case = self._session.theme, self._session.project.case
        key = (self.width(), self.height(), theme.scale, case)
        if key == self._frame_key:
            return self._frame_value
        (x0, y0), (x1, y1) = self._bounds()
        wide, high = x1 - x0, y1 - y0
        left, right, top, bottom = theme.px(30), theme.px(14), theme.px(22), theme.px(34)
        scale = min((self.width() - left - right) / wide, (self.height() - top - bottom) / high)
        x = left + (self.width() - left - right - wide * scale) / 2 - x0 * scale
        y = self.height() - bottom - (self.height() - top - bottom - high * scale) / 2 + y0 * scale
        self._frame_key, self._frame_value = key, (scale, x, y)
        return self._frame_value

    def _flat(self, point: Floats) -> tuple[float, float]:
        """A point (3,) as it lies in this drawing."""
        x, y, z = point.tolist()
        return (x, y) if self._axis == "plan" else (y, z)

    def _bounds(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """The lowest and the highest corner of the case in this drawing."""
        low, high = extent(self._session.project.case)
        return self._flat(low), self._flat(high)

    def to_screen(self, a: float, b: float) -> QPointF:
        """Millimetres of this drawing to the widget."""
        scale, x, y = self._frame()
        return QPointF(x + a * scale, y - b * scale)

    def _polygon(self, ring: np.ndarray) -> QPolygonF:
        """An outline (k, 2) in mm on the widget."""
        scale, x, y = self._frame()
        return QPolygonF([QPointF(a, b) for a, b in (ring * (scale, -scale) + (x, y)).tolist()])

    def to_mm(self, at: QPointF) -> QPointF:
        """The widget to millimetres of this drawing."""
        scale, x, y = self._frame()
        return QPointF((at.x() - x) / scale, (y - at.y()) / scale)

    def _outlines(self) -> list[tuple[Piece, np.ndarray]]:
        project = self._session.results.project
        places = rest_places(project)
        shown = [p for p in project.pieces if p.id in places and self._on_show(project.case, places[p.id])]
        return [(p, outline_in(self._session, self._axis, p, places[p.id])) for p in shown]

    def _on_show(self, case: Case, place: Place) -> bool:
        """Whether a piece is in this drawing: the plan is of one floor."""
        return self._axis == "section" or not case.rooms or room_of(case, place).ident in {c.ident for c in cells_on(case, self.storey)}

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), theme.color("ground"))
        p.setPen(QPen(theme.color("soft"), 1.2))
        p.setBrush(theme.color("card"))
        self._draw_case(p)
        (x0, y0), (x1, y1) = self._bounds()
        box = QRectF(self.to_screen(x0, y1), self.to_screen(x1, y0))
        if self._axis == "plan":
            self._hidden(p)
        self._sight.draw(p, box, self._bounds())
        chosen = self._session.chosen(PIECES)
        outlines = self._outlines()
        for scenery in (True, False):
            for piece, ring in outlines:
                if (piece.role == "scenery") == scenery:
                    self._piece(p, piece, ring, piece.id == chosen)
        if self._axis == "plan":
            places = rest_places(self._session.results.project)
            draw_swings(p, theme, self._polygon, [(piece, places[piece.id]) for piece, _ring in outlines])
        results = self._session.results
        if results.fresh(SEAMS):
            draw_seams(p, theme, self._axis, self._frame(), [s for s in results[SEAMS] or () if s.piece == chosen])
        self._lamps.draw(p)
        taken = QRectF()
        for piece, ring in outlines:
            if piece.id == chosen:
                taken = self._name(p, piece, ring)
        self._lamps.name(p, taken)
        signs.dimension(p, theme, box.bottomLeft() + QPointF(0, 12), box.bottomRight() + QPointF(0, 12), f"{digits(x1 - x0, 0)} mm", False)
        if self._grip and self._grip.moved:
            self._live(p)
        signs.focus_ring(p, theme, self)

    def _draw_case(self, p: QPainter) -> None:
        """Its rooms: in plan those of the floor on show; a dome is round, with its cap in section."""
        case = self._session.project.case
        for cell in cells_on(case, self.storey) if self._axis == "plan" else cells(case):
            (x0, y0), (x1, y1) = self._flat(cell.low), self._flat(cell.high)
            if case.kind != "dome" or cell.ident:
                p.drawRect(QRectF(self.to_screen(x0, y1), self.to_screen(x1, y0)))
                continue
            middle, radius, spring = dome_over(case)
            if self._axis == "plan":
                a = np.linspace(0, 2 * np.pi, 73)
                p.drawPolygon(self._polygon(middle + radius * np.column_stack([np.cos(a), np.sin(a)])))
            else:
                a = np.linspace(0, np.pi, 37)
                cap = np.column_stack([middle[1] + radius * np.cos(a), spring + (case.height - spring) * np.sin(a)])
                p.drawPolygon(self._polygon(np.concatenate([[[middle[1] + radius, 0.0]], cap, [[middle[1] - radius, 0.0]]])))

    def _piece(self, p: QPainter, piece: Piece, ring: np.ndarray, chosen: bool) -> None:
        theme = self._session.theme
        shape = self._polygon(ring)
        if piece.role == "scenery":
            p.setBrush(theme.color("line", 0.35))
            p.setPen(QPen(theme.color("curtain" if chosen else "soft"), 2 if chosen else 0.8))
        else:
            fill = signs.srgb(piece.paint)
            p.setBrush(fill)
            p.setPen(QPen(theme.color("curtain" if chosen else "ink"), 2.2 if chosen else 1))
        p.drawPolygon(shape)

    def _name(self, p: QPainter, piece: Piece, ring: np.ndarray) -> QRectF:
        """The name of the chosen piece, over everything else; what room it takes."""
        theme = self._session.theme
        bounds = self._polygon(ring).boundingRect()
        p.setFont(theme.font(11.5, 600))
        name = clipped(piece.name, 26)
        width = p.fontMetrics().horizontalAdvance(name) + 8
        left = min(max(2.0, bounds.center().x() - width / 2), self.width() - width - 2.0)
        box = QRectF(left, max(0.0, bounds.top() - theme.px(19)), width, theme.px(16))
        p.fillRect(box, theme.color("card", 0.85))
        p.setPen(theme.text("curtain"))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, name)
        return box

    def _hidden(self, p: QPainter) -> None:
        """The hatch over floor that the seat does not see, kept as a picture while neither it nor the frame changes."""
        stage = self._session.results[STAGE]
        if stage is None or not len(stage.hidden):
            return
        scale, left, bottom = self._frame()
        key = (id(stage), self._frame_key, self._session.theme.lighting, self.storey)
        if self._hatch is None or self._hatch[0] != key:
            layer = QPixmap(self.size())
            layer.fill(Qt.GlobalColor.transparent)
            painter = QPainter(layer)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(signs.hatch(self._session.theme, "soft", 0.45))
            floors = storeys(self._session.project.case)
            above = min((z for z in floors if z > self.storey), default=np.inf)
            mine = stage.hidden[(stage.hidden[:, 2] >= self.storey - 1) & (stage.hidden[:, 2] < above - 1)]
            boxes = (mine * (scale, -scale, 1, scale, scale) + (left, bottom, 0, 0, 0)).tolist()
            painter.drawRects([QRectF(x - w / 2, y - d / 2, w, d) for x, y, _z, w, d in boxes])
            painter.end()
            self._hatch = (key, layer)
        p.drawPixmap(0, 0, self._hatch[1])

    def _live(self, p: QPainter) -> None:
        theme, grip = self._session.theme, self._grip
        assert grip is not None
        piece = self._session.project.find(PIECES, grip.piece)
        if piece is None or piece.place is None:
            return
        self._draw_gaps(p, piece)
        text = f"x {digits(piece.place.x, 0)}, y {digits(piece.place.y, 0)} mm"
        z = rest_places(self._session.results.project)[piece.id].z or 0.0
        text += f", {digits(z, 0)} up"
        p.setFont(theme.font(11, 600))
        width = p.fontMetrics().horizontalAdvance(text) + 12
        box = QRectF(self.width() - width - 4, 2, width, theme.px(18))
        p.fillRect(box, theme.color("card"))
        p.setPen(theme.text("slate"))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _draw_gaps(self, p: QPainter, piece: Piece) -> None:
        """The air beside what is dragged, in mm and as the real length that it stands for."""
        theme, house = self._session.theme, self._session.project.brief.house_n
        place = rest_places(self._session.project)[piece.id]
        others, room = self._boxes(piece.id)
        for gap in gaps(box_of(outline_in(self._session, self._axis, piece, place)), others, room):
            a, b = self.to_screen(*gap.start), self.to_screen(*gap.end)
            if (a - b).manhattanLength() > theme.px(26):
                real = gap.mm * house / 1000
                signs.dimension(p, theme, a, b, f"{digits(gap.mm, 0)} mm, {digits(real, 2)} m", gap.side != "low")

    def piece_at(self, at: QPointF) -> Piece | None:
        """The piece under a point of the widget: small things before scenery, the last drawn first."""
        mm = self.to_mm(at)
        point = shapely.points(mm.x(), mm.y())
        near = 4 / self._frame()[0]
        hits = [p for p, ring in self._outlines() if shapely.distance(shapely.polygons(ring), point) <= (near if p.role == "piece" else 0)]
        hits.sort(key=lambda p: p.role == "piece")
        return hits[-1] if hits else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if self._lamps.press(event.position()):
            self.update()
            return
        piece = self.piece_at(event.position())
        if piece is None or piece.place is None:
            return
        self._session.select(PIECES, piece.id)
        if piece.fixed:
            return
        self._grip = _Grip(piece.id, piece.place, self.to_mm(event.position()))
        self._session.begin_drag()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._lamps.drag(event.position()):
            return
        if self._grip is None:
            over = self._lamps.at(event.position()) or self.piece_at(event.position())
            self.setCursor(Qt.CursorShape.OpenHandCursor if over else Qt.CursorShape.ArrowCursor)
            return
        delta = self.to_mm(event.position()) - self._grip.at
        start = self._grip.start
        if self._axis == "plan":
            place = start.but(x=round(start.x + delta.x(), 1), y=round(start.y + delta.y(), 1))
        else:
            place = start.but(y=round(start.y + delta.x(), 1), z=None if start.z is None else round(start.z + delta.y(), 1))
        self._grip.moved = True
        free = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self._move(self._grip.piece, place if free else self._snapped(self._grip.piece, place))

    def _boxes(self, ident: str) -> tuple[list[Box], Box]:
        """The boxes of all other pieces in this drawing, and that of the room that the piece stands in."""
        project = self._session.project
        piece = project.get(PIECES, ident)
        parts = {ident, *(p.id for p in going_along(project, ident))}
        others = [box_of(ring) for p, ring in self._outlines() if p.id not in parts and not kind_of(p.shape).open_above]
        cell = room_of(project.case, piece.place or Place(x=0, y=0))
        return others, (*self._flat(cell.low), *self._flat(cell.high))

    def _snapped(self, ident: str, place: Place) -> Place:
        """A place near by where the piece stands against something or in line with it, if there is one."""
        piece = self._session.project.get(PIECES, ident)
        high = place.z if place.z is not None else rest_places(self._session.project)[ident].z
        box = box_of(outline_in(self._session, self._axis, piece, place.but(z=high)))
        da, db = snap(box, *self._boxes(ident), SNAP_PX / self._frame()[0])
        if self._axis == "plan":
            return place.but(x=round(place.x + da, 2), y=round(place.y + db, 2))
        return place.but(y=round(place.y + da, 2), z=None if place.z is None else round(place.z + db, 2))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._lamps.release()
        if self._grip is not None:
            self._grip = None
            self._session.end_drag()
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way, step = arrow(event), stride(event)
        piece = self._session.project.find(PIECES, self._session.chosen(PIECES))
        turn = {Qt.Key.Key_BracketLeft: 1, Qt.Key.Key_BracketRight: -1}.get(Qt.Key(event.key()))
        if piece is not None and piece.place is not None and turn is not None:
            self._move(piece.id, piece.place.but(turn_deg=(piece.place.turn_deg + 5 * turn + 180) % 360 - 180))
            return
        if way is None or piece is None or piece.place is None:
            super().keyPressEvent(event)
            return
        place = piece.place
        if self._axis == "plan":
            place = place.but(x=place.x + way[0] * step, y=place.y + way[1] * step)
        elif way[0]:
            place = place.but(y=place.y + way[0] * step)
        else:  # up and down lift it off what it stands on
            now = rest_places(self._session.project)[piece.id].z or 0.0
            place = place.but(z=round(now + way[1] * step, 1))
        self._move(piece.id, place)

    def _move(self, ident: str, place: Place) -> None:
        edit = self._session.make(move, ident, place, f"move {ident}")
        if edit is not None:
            self._session.do(edit)
