# SPDX-License-Identifier: MIT
"""The view from the chosen seat: look round in it, choose what is seen, and move it there."""

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen

from fondale.core.arrays import Floats
from fondale.core.derived import READINGS, STAGE, VIEWS
from fondale.core.edits.moving import move
from fondale.core.light.composition import Hint
from fondale.core.model import PIECES, SEATS, Place, Seat
from fondale.core.stage.scene import rest_places
from fondale.core.views.sight import eye_of
from fondale.core.words import clipped, percent
from fondale.qt.furniture.keys import arrow
from fondale.qt.furniture.seat_picture import SeatPicture
from fondale.qt.session import Session
from fondale.qt.theme.palette import Theme

HEAD_STEP = 0.1  # of a seat's range, a press of an arrow key


@dataclass
class _Grip:
    """What is dragged in the view: the piece, where it stood, how high it stands, and where on that level it was taken hold of."""

    piece: str
    start: Place
    level: float
    at: Floats


class SeatView(SeatPicture):
    """The view under work light; a click chooses what is seen there, a drag moves it over the level that it stands on; arrow keys move the head."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._grip: _Grip | None = None
        self.hints: tuple[Hint, ...] = ()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("View from the seat")

    def eye(self, seat: Seat) -> Floats:
        return eye_of(self._session.project, seat, *self._session.results.look.head)

    def png(self) -> bytes | None:
        """The picture as PNG; None where there is none."""
        if self._image is None:
            return None
        data = QByteArray()
        buffer = QBuffer(data)
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        self._image.save(buffer, "PNG")  # type: ignore[call-overload]
        return bytes(data.data())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way, project = arrow(event), self._session.project
        seat = project.find(SEATS, self._session.results.look.seat_of(project))
        if way is None or seat is None:
            super().keyPressEvent(event)
            return
        if not (seat.range if way[0] else seat.rise):
            words = ("sideways", "range") if way[0] else ("up and down", "rise")
            self._session.said.emit(f"At {seat.name} the head does not move {words[0]}: give the seat a {words[1]}.")
            return
        head = self._session.results.look.head
        moved = (head[0] + way[0] * HEAD_STEP, head[1] + way[1] * 2 * HEAD_STEP)
        self._session.move_head((round(min(0.5, max(-0.5, moved[0])), 3), round(min(0.5, max(-0.5, moved[1])), 3)))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        stage = self._session.results[STAGE]
        if stage is None or self._image is None:
            return
        box, height = self.box(), stage.owners.shape[0]
        x = int((event.position().x() - box.left()) / box.width() * stage.owners.shape[1])
        y = int((event.position().y() - box.top()) / box.height() * height)
        if not (0 <= x < stage.owners.shape[1] and 0 <= y < height and 0 <= stage.owners[y, x] < len(self._session.project.pieces)):
            return
        piece = self._session.project.pieces[stage.owners[y, x]]
        self._session.select(PIECES, piece.id)
        level = (rest_places(self._session.project)[piece.id].z or 0.0) if piece.place is not None else None
        at = self.on_plane(event.position(), 2, level) if level is not None else None
        if at is not None and piece.place is not None and level is not None and piece.role == "piece" and not piece.fixed:
            self._grip = _Grip(piece.id, piece.place, level, at)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        grip = self._grip
        to = self.on_plane(event.position(), 2, grip.level) if grip is not None else None
        if grip is None or to is None:
            return
        if not self._session.results.dragging:
            self._session.begin_drag()
        place = grip.start.but(x=round(grip.start.x + to[0] - grip.at[0], 1), y=round(grip.start.y + to[1] - grip.at[1], 1))
        edit = self._session.make(move, grip.piece, place, f"move {grip.piece}")
        if edit is not None:
            self._session.do(edit)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._grip is not None:
            self._grip = None
            if self._session.results.dragging:
                self._session.end_drag()

    def _draw_hints(self, p: QPainter) -> None:
        """The thirds of the picture, and what the numbered hints speak of."""
        theme, box = Theme("down", self._session.theme.scale), self.box()
        p.setPen(QPen(theme.color("soft", 0.5), 1, Qt.PenStyle.DotLine))
        for k in (1, 2):
            p.drawLine(QPointF(box.left() + box.width() * k / 3, box.top()), QPointF(box.left() + box.width() * k / 3, box.bottom()))
            p.drawLine(QPointF(box.left(), box.top() + box.height() * k / 3), QPointF(box.right(), box.top() + box.height() * k / 3))
        p.setFont(theme.font(12, 600))
        for k, hint in enumerate(self.hints):
            for left, top, right, bottom in hint.boxes:
                part = QRectF(
                    box.left() + left * box.width(),
                    box.top() + top * box.height(),
                    (right - left) * box.width(),
                    (bottom - top) * box.height(),
                ).adjusted(-3, -3, 3, 3)
                p.setPen(QPen(theme.color("lamp"), 1.4, Qt.PenStyle.DashLine))
                p.drawRect(part)
                p.setPen(theme.color("lamp"))
                p.drawText(part.topLeft() + QPointF(3, theme.px(13)), str(k + 1))

    def draw_over(self, p: QPainter) -> None:
        if self.hints:
            self._draw_hints(p)
        stage, project = self._session.results[STAGE], self._session.project
        chosen = self._session.chosen(PIECES)
        index = next((i for i, piece in enumerate(project.pieces) if piece.id == chosen), -1)
        if stage is None or index < 0:
            return
        ys, xs = np.nonzero(stage.owners == index)
        piece = project.pieces[index]
        if not len(xs) or piece.role == "scenery":
            return
        box = self.box()
        sx, sy = box.width() / stage.owners.shape[1], box.height() / stage.owners.shape[0]
        left, top = box.left() + xs.min() * sx - 3, box.top() + ys.min() * sy - 3
        right, bottom = box.left() + xs.max() * sx + 4, box.top() + ys.max() * sy + 4
        p.setPen(QPen(self._session.theme.color("lamp"), 1.3))
        for x, dx in ((left, 8), (right, -8)):
            for y, dy in ((top, 8), (bottom, -8)):
                p.drawLine(QPointF(x, y), QPointF(x + dx, y))
                p.drawLine(QPointF(x, y), QPointF(x, y + dy))
        reading = self._session.results.one(READINGS, piece.id)
        views = self._session.results[VIEWS] or ()
        view = next((v for v in views if v.piece == piece.id and v.seat == stage.seat), None)
        lines = [clipped(piece.name, 30)]
        if reading is not None:
            lines.append(f"reads as {reading.words}")
        if view is not None:
            lines.append(f"{percent(view.seen)} seen")
        self.ticket(p, QPointF((left + right) / 2, top), 2, lines)
