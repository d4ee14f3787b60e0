"""The face of a wall or a room with its openings, to be dragged and sized."""

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from fondale.core.model import PIECES, Piece
from fondale.core.model import shapes as sh
from fondale.core.words import digits
from fondale.qt.session import Session
from fondale.qt.stations.stage.rows import WALLED, StageRows, Walled, face_width, openings_put
from fondale.qt.theme import signs

GRAB = 7.0  # pixels from a corner that take hold of it


@dataclass
class _Hold:
    """What is dragged: the opening as it was, where the pointer took hold (mm), and whether its upper right corner is held."""

    index: int
    start: sh.Opening
    at: QPointF
    corner: bool


class Face(QWidget):
    """Drag an opening to move it, its upper right corner to size it; arrow keys move it by 1 mm, with Shift by 10."""

    def __init__(self, session: Session, rows: StageRows) -> None:
        super().__init__()
        self._session, self._rows = session, rows
        self._hold: _Hold | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Face with its openings")
        self.setMinimumSize(QSize(200, 130))

    @property
    def piece(self) -> Piece | None:
        """The chosen piece, where it has openings or may have some."""
        piece = self._session.project.find(PIECES, self._session.chosen(PIECES))
        return piece if piece is not None and isinstance(piece.shape, WALLED) else None

    def _frame(self, shape: Walled) -> tuple[float, float, float]:
        wide, pad = face_width(shape), self._session.theme.px(24)
        scale = min((self.width() - 2 * pad) / wide, (self.height() - 2 * pad) / shape.height)
        return scale, (self.width() - wide * scale) / 2, (self.height() + shape.height * scale) / 2

    def box_of(self, shape: Walled, o: sh.Opening) -> QRectF:
        """Where an opening lies in the widget."""
        scale, x, y = self._frame(shape)
        return QRectF(x + o.x * scale, y - (o.z + o.height) * scale, o.width * scale, o.height * scale)

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p, piece = self._session.theme, QPainter(self), self.piece
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), theme.color("ground"))
        if piece is None or not isinstance(piece.shape, WALLED):
            return
        shape = piece.shape
        scale, x, y = self._frame(shape)
        wide = face_width(shape)
        whole = QRectF(x, y - shape.height * scale, wide * scale, shape.height * scale)
        p.setPen(QPen(theme.color("ink"), 1.2))
        p.setBrush(theme.color("card"))
        p.drawRect(whole)
        p.setClipRect(whole)
        for i, o in enumerate(shape.openings):
            box, mine = self.box_of(shape, o), i == self._rows.opening
            path = QPainterPath()
            if o.arch and box.height() > box.width() / 2:
                path.moveTo(box.bottomLeft())
                path.lineTo(box.left(), box.top() + box.width() / 2)
                path.arcTo(QRectF(box.left(), box.top(), box.width(), box.width()), 180, -180)
                path.lineTo(box.bottomRight())
                path.closeSubpath()
            else:
                path.addRect(box)
            p.setBrush(theme.color("line"))
            p.setPen(QPen(theme.color("curtain" if mine else "soft"), 2 if mine else 1))
            p.drawPath(path)
            if mine:
                p.setBrush(theme.color("curtain"))
                p.drawEllipse(box.topRight(), 4, 4)
        p.setClipping(False)
        p.setFont(theme.font(11))
        signs.dimension(p, theme, whole.bottomLeft() + QPointF(0, 10), whole.bottomRight() + QPointF(0, 10), f"{digits(wide, 0)} mm", False)
        if self._rows.opening < len(shape.openings):
            o = shape.openings[self._rows.opening]
            words = f"{digits(o.width, 1)} × {digits(o.height, 1)} mm, {digits(o.x, 1)} from the left, sill {digits(o.z, 1)}"
            p.setPen(theme.text("slate"))
            p.drawText(QRectF(0, 0, self.width(), theme.px(18)), Qt.AlignmentFlag.AlignCenter, words)
        signs.focus_ring(p, theme, self)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        piece = self.piece
        if piece is None or not isinstance(piece.shape, WALLED):
            return
        scale, x, y = self._frame(piece.shape)
        at = event.position()
        for i, o in reversed(list(enumerate(piece.shape.openings))):
            box = self.box_of(piece.shape, o)
            corner = (at - box.topRight()).manhattanLength() < 2 * GRAB
            if corner or box.contains(at):
                self._rows.opening = i
                self._hold = _Hold(i, o, QPointF((at.x() - x) / scale, (y - at.y()) / scale), corner)
                self._session.begin_drag()
                self._session.selection_changed.emit()
                return

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        piece, hold = self.piece, self._hold
        if hold is None or piece is None or not isinstance(piece.shape, WALLED):
            return
        scale, x, y = self._frame(piece.shape)
        dx, dz = (event.position().x() - x) / scale - hold.at.x(), (y - event.position().y()) / scale - hold.at.y()
        start = hold.start
        new = (
            start.but(width=max(1.0, round(start.width + dx, 1)), height=max(1.0, round(start.height + dz, 1)))
            if hold.corner
            else start.but(x=round(start.x + dx, 1), z=max(0.0, round(start.z + dz, 1)))
        )
        self._put(piece, hold.index, new)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._hold is not None:
            self._hold = None
            self._session.end_drag()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        way, piece = ways.get(Qt.Key(event.key())), self.piece
        if way is None or piece is None or not isinstance(piece.shape, WALLED) or self._rows.opening >= len(piece.shape.openings):
            super().keyPressEvent(event)
            return
        step = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        o = piece.shape.openings[self._rows.opening]
        self._put(piece, self._rows.opening, o.but(x=o.x + way[0] * step, z=max(0.0, o.z + way[1] * step)))

    def _put(self, piece: Piece, index: int, new: sh.Opening) -> None:
        assert isinstance(piece.shape, WALLED)
        openings = tuple(new if i == index else o for i, o in enumerate(piece.shape.openings))
        self._session.do(openings_put(piece, openings, "Opening", f"opening {piece.id}"))
