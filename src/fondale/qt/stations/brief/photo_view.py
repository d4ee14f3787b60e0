# SPDX-License-Identifier: MIT
"""The reference photograph with its threads, the frame of a wall and the horizon; everything on it is dragged in place."""

import math
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF, QWheelEvent
from PySide6.QtWidgets import QWidget

from fondale.core.model import Photo, Thread
from fondale.core.photo.reading import ThreadReading
from fondale.core.words import clipped, show_mm, show_real
from fondale.qt.furniture.keys import arrow, stride
from fondale.qt.session import Session
from fondale.qt.theme import signs
from fondale.qt.theme.palette import Theme

REACH_PX = 9.0
ROLE = {"plane": "lamp", "wall": "verdigris", "ground": "slate", "upright": "ink"}
PIXEL_MOST = 8.0  # of the screen to one of the photograph, enlarged as far as it goes
HAND = 0.5  # of a pixel, at the best
LOUPE, LOUPE_TIMES = 108, 4.0


@dataclass(frozen=True)
class Grip:
    """What is held: an end of a thread (its id, a or b), a corner of the frame (number) or an end of the horizon."""

    what: str
    ident: str
    end: str


def pulls(tool: str, grip: Grip, keys: Qt.KeyboardModifier) -> bool:
    """Whether a press on a grip takes hold: with the hand, with Ctrl, and of what the tool itself makes; never of another thread's end."""
    return tool in ("hand", grip.what) or bool(keys & Qt.KeyboardModifier.ControlModifier)


def _room_for(a: QPointF, b: QPointF, width: float, high: float, room: QRectF, others: list[QRectF]) -> QRectF:
    """Where the tag of a thread lies: beside its middle, else at an end, else further down; never on another tag while there is room."""
    middle = (a + b) / 2
    top, foot = min(a.y(), b.y()), max(a.y(), b.y())
    right, left = (middle.x() + 7, middle.y() - high / 2), (middle.x() - width - 7, middle.y() - high / 2)
    over, under = (middle.x() - width / 2, top - high - 7), (middle.x() - width / 2, foot + 7)
    upright = abs(b.y() - a.y()) > abs(b.x() - a.x())
    near = (
        (right, left, over, under)
        if upright
        else (under, over, (max(a.x(), b.x()) + 7, right[1]), (min(a.x(), b.x()) - width - 7, left[1]))
    )
    further = [(under[0], under[1] + k * (high + 4)) for k in range(1, 6)]
    boxes = [QRectF(x, y, width, high) for x, y in (*near, *further)]
    return next((x for x in boxes if room.contains(x) and not any(x.intersects(other) for other in others)), boxes[0])


def _dots(p: QPainter, theme: Theme, points: tuple[QPointF, ...], role: str) -> None:
    p.setBrush(theme.color("ground"))
    for at in points:
        p.setPen(QPen(theme.color(role), 1.6))
        p.drawEllipse(at, 4, 4)


def _draw_loupe(p: QPainter, theme: Theme, pixmap: QPixmap, box: QRectF, at: QPointF, wide: int) -> None:
    """What lies under the pointer while something is set, larger: in the corner that is further away."""
    side = theme.px(LOUPE)
    there = QRectF(6.0 if at.x() > wide / 2 else wide - side - 6.0, 6.0, side, side)
    share = pixmap.width() / box.width()  # of the shown picture to the screen
    seen = side / LOUPE_TIMES * share
    x, y = (at.x() - box.left()) * share, (at.y() - box.top()) * share
    p.save()
    p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
    p.fillRect(there, theme.color("ground"))
    p.drawPixmap(there, pixmap, QRectF(x - seen / 2, y - seen / 2, seen, seen))
    p.setPen(QPen(theme.color("lamp"), 1))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawRect(there)
    middle = there.center()
    p.drawLine(middle - QPointF(9, 0), middle + QPointF(9, 0))
    p.drawLine(middle - QPointF(0, 9), middle + QPointF(0, 9))
    p.restore()


def _draw_thread(p: QPainter, theme: Theme, a: QPointF, b: QPointF, role: str, mine: bool) -> None:
    p.setPen(QPen(theme.color("ground", 0.8), 4.5 if mine else 3.5))
    p.drawLine(a, b)
    p.setPen(QPen(theme.color(role), 2.4 if mine else 1.6))
    p.drawLine(a, b)
    _dots(p, theme, (a, b), role)


class PhotoView(QWidget):
    """``tool`` says what a drag on empty ground makes: a thread on the plane, the wall or the ground, the frame, the horizon, or nothing."""

    chosen = Signal(str)
    stretched = Signal(object, object)
    framed = Signal(object)
    levelled = Signal(float, float)
    moved = Signal(object, object)
    released = Signal()
    dropped = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.photo: Photo | None = None
        self.readings: dict[str, ThreadReading] = {}
        self.at = ""
        self.tool = "plane"
        self._pixmap: QPixmap | None = None
        self._zoom, self._centre = 1.0, QPointF(0.5, 0.5)
        self._grip: Grip | None = None
        self._hand: Grip | None = None
        self._labels: list[QRectF] = []
        self._start: QPointF | None = None
        self._now: QPointF | None = None
        self._pulled: QPointF | None = None  # where the pointer is while it pulls
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Reference photograph")

    def minimumSizeHint(self) -> QSize:
        return QSize(self._session.theme.px(320), self._session.theme.px(250))

    def sizeHint(self) -> QSize:
        return QSize(620, 320)

    def show_photo(self, photo: Photo | None, pixmap: QPixmap | None, readings: dict[str, ThreadReading], at: str) -> None:
        """Show a photograph with its threads; ``at`` is the chosen one."""
        if photo is None or self.photo is None or photo.id != self.photo.id:
            self._zoom, self._centre = 1.0, QPointF(0.5, 0.5)
        self.photo, self._pixmap, self.readings, self.at = photo, pixmap, readings, at
        house = self._session.project.brief.house_n
        thread = next((t for t in photo.threads if t.id == at), None) if photo else None
        reading = readings.get(at)
        self.setAccessibleDescription(f"{thread.name}: {reading.words(house)}" if thread and reading else "")
        self.update()

    def box(self) -> QRectF:
        """Where the whole picture lies in the widget, part of it outside when enlarged."""
        if self.photo is None:
            return QRectF(self.rect())
        scale = min(self.width() / self.photo.width, self.height() / self.photo.height) * self._zoom
        w, h = self.photo.width * scale, self.photo.height * scale
        x = self.width() / 2 - self._centre.x() * w if w > self.width() else (self.width() - w) / 2
        y = self.height() / 2 - self._centre.y() * h if h > self.height() else (self.height() - h) / 2
        return QRectF(x, y, w, h)

    @property
    def hand_px(self) -> float:
        """How well a point is set as the picture is shown now, in pixels of the photograph: to a pixel of the screen."""
        return max(HAND, self.photo.width / max(self.box().width(), 1.0)) if self.photo is not None else 1.0

    def to_screen(self, point: tuple[float, float]) -> QPointF:
        """Pixels of the photograph to the widget."""
        box = self.box()
        assert self.photo is not None
        return QPointF(box.left() + point[0] / self.photo.width * box.width(), box.top() + point[1] / self.photo.height * box.height())

    def to_photo(self, at: QPointF) -> tuple[float, float]:
        """The widget to pixels of the photograph, half a pixel fine."""
        box = self.box()
        assert self.photo is not None
        x = (at.x() - box.left()) / box.width() * self.photo.width
        y = (at.y() - box.top()) / box.height() * self.photo.height
        x, y = max(0.0, min(float(self.photo.width), x)), max(0.0, min(float(self.photo.height), y))
        return round(2 * x) / 2, round(2 * y) / 2

    def _handles(self) -> list[tuple[Grip, QPointF]]:
        photo = self.photo
        if photo is None:
            return []
        out = []
        for t in sorted(photo.threads, key=lambda t: t.id != self.at):
            out += [(Grip("thread", t.id, "a"), self.to_screen(t.a)), (Grip("thread", t.id, "b"), self.to_screen(t.b))]
        if photo.frame is not None:
            out += [(Grip("frame", "", str(k)), self.to_screen(c)) for k, c in enumerate(photo.frame.corners)]
        if photo.horizon is not None:
            # The ends lie on the edges of what is seen, so that they can be held at any enlargement.
            out += [
                (Grip("horizon", "", "left"), self.to_screen((0.0, photo.horizon.left))),
                (Grip("horizon", "", "right"), self.to_screen((float(photo.width), photo.horizon.right))),
            ]
        return out

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        p.fillRect(self.rect(), theme.color("shade"))
        photo = self.photo
        if photo is None:
            p.setFont(theme.font(13))
            p.setPen(theme.color("soft"))
            words = "Bring a photograph of the thing itself. Stretch a thread over something of known length, and read the rest."
            p.drawText(self.rect().adjusted(24, 0, -24, 0), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
            signs.focus_ring(p, theme, self)
            return
        if self._pixmap is not None:
            p.drawPixmap(self.box(), self._pixmap, QRectF(self._pixmap.rect()))
        else:
            p.setPen(theme.color("soft"))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Reading the photograph…")
        dark = Theme("down", theme.scale)
        self._draw_frame(p, dark)
        self._labels = []
        threads = sorted(photo.threads, key=lambda t: t.id != self.at)
        for t in threads:
            _draw_thread(p, dark, self.to_screen(t.a), self.to_screen(t.b), "curtain" if t.id == self.at else ROLE[t.on], t.id == self.at)
        for t in threads:
            self._draw_tag(p, dark, t)
        if self._start is not None and self._now is not None and self.tool != "hand":
            p.setPen(QPen(dark.color("lamp"), 1.5, Qt.PenStyle.DashLine))
            if self.tool == "frame":
                p.drawRect(QRectF(self._start, self._now).normalized())
            else:
                p.drawLine(self._start, self._now)
        at = self._now if self._start is not None else self._pulled
        if at is not None and self._pixmap is not None and (self.tool != "hand" or self._grip is not None):
            _draw_loupe(p, dark, self._pixmap, self.box(), at, self.width())
        held = self._held()
        if self.hasFocus() and held is not None:
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(dark.color("lamp"), 1.6))
            p.drawEllipse(self.to_screen(self._point_of(held)), 8, 8)
        signs.focus_ring(p, theme, self)

    def _draw_frame(self, p: QPainter, theme: Theme) -> None:
        photo = self.photo
        assert photo is not None
        if photo.horizon is not None:
            a, b = self.to_screen((0.0, photo.horizon.left)), self.to_screen((float(photo.width), photo.horizon.right))
            p.setPen(QPen(theme.color("slate"), 1.4, Qt.PenStyle.DashDotLine))
            p.drawLine(a, b)
            p.setFont(theme.font(11))
            note = QRectF(a.x() + 10, a.y() - theme.px(19), p.fontMetrics().horizontalAdvance("horizon") + 10, theme.px(16))
            p.fillRect(note, theme.color("ground", 0.85))
            p.drawText(note, Qt.AlignmentFlag.AlignCenter, "horizon")
            _dots(p, theme, (a, b), "slate")
        if photo.frame is not None:
            corners = [self.to_screen(c) for c in photo.frame.corners]
            p.setPen(QPen(theme.color("verdigris"), 1.4))
            p.setBrush(theme.color("verdigris", 0.10))
            p.drawPolygon(QPolygonF(corners))
            _dots(p, theme, tuple(corners), "verdigris")

    def _draw_tag(self, p: QPainter, theme: Theme, t: Thread) -> None:
        a, b = self.to_screen(t.a), self.to_screen(t.b)
        mine = t.id == self.at
        reading = self.readings.get(t.id)
        if reading is None:
            return
        house = self._session.project.brief.house_n
        known = t.known_mm is not None
        if reading.real_mm is None:
            lines = [clipped(t.name, 30)] if mine else []
        else:
            lines = [f"{show_real(reading.real_mm)}{' known' if known else ''}"] + ([show_mm(reading.real_mm / house)] if mine else [])
        if not lines:
            return
        p.setFont(theme.font(11, 600 if mine else 400))
        metrics = p.fontMetrics()
        width, high = max(metrics.horizontalAdvance(s) for s in lines) + 10, theme.px(15)
        box, middle = _room_for(a, b, width, high * len(lines) + 3, QRectF(self.rect()), self._labels), (a + b) / 2
        self._labels.append(box)
        if not box.adjusted(-12, -12, 12, 12).contains(middle):
            p.setPen(QPen(theme.color("curtain" if mine else ROLE[t.on]), 1, Qt.PenStyle.DotLine))
            p.drawLine(middle, QPointF(box.center().x(), box.top() if box.top() > middle.y() else box.bottom()))
        p.fillRect(box, theme.color("ground", 0.85))
        p.setPen(theme.text("ink"))
        for k, text in enumerate(lines):
            p.drawText(QRectF(box.left(), box.top() + k * high, box.width(), high + 2), Qt.AlignmentFlag.AlignCenter, text)

    def _grip_at(self, at: QPointF) -> Grip | None:
        near = [(math.dist((at.x(), at.y()), (q.x(), q.y())), k, g) for k, (g, q) in enumerate(self._handles())]
        return min(near)[2] if near and min(near)[0] <= REACH_PX else None

    def _thread_at(self, at: QPointF) -> str:
        photo = self.photo
        for t in photo.threads if photo else ():
            a, b = self.to_screen(t.a), self.to_screen(t.b)
            way = b - a
            length = way.x() ** 2 + way.y() ** 2
            share = max(0.0, min(1.0, QPointF.dotProduct(at - a, way) / length)) if length else 0.0
            foot = a + way * share
            if math.dist((at.x(), at.y()), (foot.x(), foot.y())) <= 6:
                return t.id
        return ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.photo is None or event.button() != Qt.MouseButton.LeftButton:
            return
        at = event.position()
        end = self._grip_at(at)
        if end is not None and pulls(self.tool, end, event.modifiers()):
            self._grip = self._hand = end
            if end.what == "thread":
                self.chosen.emit(end.ident)
            return
        # A thread that starts where another one ends starts exactly there, and leaves that one be.
        starts_at = self.to_screen(self._point_of(end)) if end is not None and end.what != "horizon" and self.tool in ROLE else at
        self._start = self._now = starts_at

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.photo is None:
            return
        at = event.position()
        if self._grip is not None:
            self._pulled = at
            self.moved.emit(self._grip, self.to_photo(at))
        elif self._start is not None:
            if self.tool == "hand" and self._now is not None:
                self._pan(at - self._now)
            self._now = at
            self.update()
        else:
            over = (grip := self._grip_at(at)) is not None and pulls(self.tool, grip, event.modifiers())
            self.setCursor(Qt.CursorShape.SizeAllCursor if over else Qt.CursorShape.CrossCursor)

    def _pan(self, by: QPointF) -> None:
        box = self.box()
        x = self._centre.x() - by.x() / box.width()
        y = self._centre.y() - by.y() / box.height()
        self._centre = QPointF(max(0.0, min(1.0, x)), max(0.0, min(1.0, y)))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        start, self._start, self._now = self._start, None, None
        if self._grip is not None:
            self._grip = self._pulled = None
            self.update()
            self.released.emit()
            return
        if start is None or self.photo is None:
            return
        end = event.position()
        self.update()
        if math.dist((start.x(), start.y()), (end.x(), end.y())) < 5:
            grip = self._grip_at(end)
            if there := grip.ident if grip is not None and grip.what == "thread" else self._thread_at(end):
                self.chosen.emit(there)
            return
        a, b = self.to_photo(start), self.to_photo(end)
        if self.tool == "frame":
            x0, x1 = sorted((a[0], b[0]))
            y0, y1 = sorted((a[1], b[1]))
            if x1 - x0 > 1 and y1 - y0 > 1:
                self.framed.emit(((x0, y0), (x1, y0), (x1, y1), (x0, y1)))
        elif self.tool == "horizon":
            slope = (b[1] - a[1]) / (b[0] - a[0]) if abs(b[0] - a[0]) > 1 else 0.0
            self.levelled.emit(a[1] - slope * a[0], a[1] + slope * (self.photo.width - a[0]))
        elif self.tool != "hand":
            self.stretched.emit(a, b)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.photo is None:
            return
        under = self.to_photo(event.position())
        self.zoom_by(1.2 if event.angleDelta().y() > 0 else 1 / 1.2)
        # What lies under the pointer stays there.
        self._pan(event.position() - self.to_screen(under))
        self.update()

    def zoom_by(self, factor: float) -> None:
        """Enlarge or reduce; the whole picture is the least."""
        most = 1.0
        if self.photo is not None:  # to single pixels
            most = max(1.0, PIXEL_MOST / min(self.width() / self.photo.width, self.height() / self.photo.height))
        self._zoom = max(1.0, min(most, self._zoom * factor))
        self.update()

    def _hands(self) -> list[Grip]:
        """What the keyboard can hold, in order: the ends of the chosen thread, the corners of the frame, the ends of the horizon."""
        return [g for g, _q in self._handles() if g.what != "thread" or g.ident == self.at]

    def _held(self) -> Grip | None:
        """What the keyboard holds now; at first the far end of the chosen thread."""
        hands = self._hands()
        if self._hand in hands:
            return self._hand
        return next((g for g in hands if g.end == "b"), hands[0] if hands else None)

    def _point_of(self, grip: Grip) -> tuple[float, float]:
        """Where a grip lies on the photograph."""
        photo = self.photo
        assert photo is not None
        if grip.what == "thread":
            found: tuple[float, float] = getattr(next(t for t in photo.threads if t.id == grip.ident), grip.end)
            return found
        if grip.what == "frame" and photo.frame is not None:
            return photo.frame.corners[int(grip.end)]
        assert photo.horizon is not None
        return (0.0, photo.horizon.left) if grip.end == "left" else (float(photo.width), photo.horizon.right)

    def _make_in_the_middle(self) -> None:
        """What the tool makes, in the middle of the picture: for those who do not drag."""
        photo = self.photo
        assert photo is not None
        w, h = float(photo.width), float(photo.height)
        if self.tool == "frame":
            self.framed.emit(((w * 0.4, h * 0.35), (w * 0.6, h * 0.35), (w * 0.6, h * 0.65), (w * 0.4, h * 0.65)))
        elif self.tool == "horizon":
            self.levelled.emit(h / 2, h / 2)
        elif self.tool in ("ground", "upright"):
            self.stretched.emit((w / 2, h * 0.75), (w / 2, h * 0.45))
        elif self.tool != "hand":
            self.stretched.emit((w * 0.4, h / 2), (w * 0.6, h / 2))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        way, step = arrow(event), stride(event)
        thread = next((t for t in self.photo.threads if t.id == self.at), None) if self.photo else None
        if key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.zoom_by(1.2)
        elif key == Qt.Key.Key_Minus:
            self.zoom_by(1 / 1.2)
        elif way is not None and self.photo is not None and (hand := self._held()) is not None:
            at = self._point_of(hand)
            self.moved.emit(hand, (at[0] + way[0] * step, at[1] - way[1] * step))  # pixels of the photograph
            self.released.emit()
        elif key == Qt.Key.Key_Space and (hands := self._hands()):
            now = hands.index(hand) if (hand := self._held()) in hands else -1
            self._hand = hands[(now + 1) % len(hands)]
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Insert) and self.photo is not None:
            self._make_in_the_middle()
        elif thread is not None and key == Qt.Key.Key_Delete:
            self.dropped.emit(thread.id)
        else:
            super().keyPressEvent(event)
