# SPDX-License-Identifier: MIT
"""The simulated caliper: jaws to drag, a display with its zero error, and a key that takes what it shows into the focused field."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fondale.app.actions import keyed
from fondale.instruments import Caliper
from fondale.qt.furniture.fields import Field
from fondale.qt.furniture.prose import Line, Prose
from fondale.qt.furniture.rows import action
from fondale.qt.session import Session
from fondale.qt.theme import signs

LONGEST_MM = 150.0
PX_PER_MM = 2.4
LEFT = 40.0


class Jaws(QWidget):
    """A beam with a fixed and a sliding jaw; drag the sliding one, or use the arrow keys (Shift: 0.1 mm)."""

    opened = Signal(float)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.opening = 0.0
        self.shown = 0.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Jaws of the caliper")

    def sizeHint(self) -> QSize:
        return QSize(int(LEFT + LONGEST_MM * PX_PER_MM + 90), 150)

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        beam = QRectF(12, 40, LEFT + LONGEST_MM * PX_PER_MM + 40, 22)
        p.setPen(QPen(theme.color("ink"), 1.2))
        p.setBrush(theme.color("shade"))
        p.drawRect(beam)
        p.setPen(theme.color("slate"))
        p.setFont(theme.font(10.5))
        for mm in range(0, int(LONGEST_MM) + 1, 5):
            x = LEFT + mm * PX_PER_MM
            p.drawLine(QPointF(x, beam.bottom()), QPointF(x, beam.bottom() - (9 if mm % 10 == 0 else 5)))
            if mm % 50 == 0:
                p.drawText(QRectF(x - 20, beam.top() - 15, 40, 14), Qt.AlignmentFlag.AlignCenter, str(mm))
        slide = LEFT + self.opening * PX_PER_MM
        p.setPen(QPen(theme.color("ink"), 1.2))
        p.setBrush(theme.color("line"))
        for x, way in ((LEFT, -1), (slide, 1)):
            p.drawPolygon(QPolygonF([QPointF(x, 36), QPointF(x, 132), QPointF(x + way * 10, 110), QPointF(x + way * 26, 66), QPointF(x + way * 26, 36)]))  # fmt: skip
        display = QRectF(slide + 8, 66, 92, 34)
        p.setBrush(theme.color("card"))
        p.drawRoundedRect(display, 3, 3)
        p.setFont(theme.font(18, 600))
        p.setPen(theme.text("ink"))
        p.drawText(display, Qt.AlignmentFlag.AlignCenter, f"{self.shown:.2f}")
        if self.opening > 0.5:
            p.setBrush(signs.hatch(theme, "slate"))
            p.setPen(QPen(theme.color("slate"), 1))
            p.drawRect(QRectF(LEFT, 84, slide - LEFT, 40))
        signs.focus_ring(p, theme, self)

    def _open(self, mm: float) -> None:
        self.opened.emit(max(0.0, min(LONGEST_MM, mm)))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._open((event.position().x() - LEFT) / PX_PER_MM)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
            return
        self._open(self.opening + way * (0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0))


class CaliperWindow(QWidget):
    """The instrument. What lies between the jaws follows the field that has the keyboard; Ctrl+M takes the reading into it."""

    def __init__(self, session: Session, caliper: Caliper, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Tool)
        self.setWindowTitle("Caliper (simulated)")
        self._caliper = caliper
        self.field: Field | None = None
        self.focused: Field | None = None
        self._session = session
        self._taken: float | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 12)
        self._what = Line()
        column.addWidget(self._what)
        self.jaws = Jaws(session)
        self.jaws.opened.connect(self.open_to)
        column.addWidget(self.jaws)
        row = QHBoxLayout()
        self.take = action(keyed("Take it", "caliper"), self.take_reading)
        self.close_jaws = action("Close the jaws", lambda: self.open_to(0.0))
        self.zero = action("Zero", self._zero, "Makes what it shows with closed jaws the new zero")
        for button in (self.take, self.close_jaws, self.zero):
            row.addWidget(button)
        row.addStretch(1)
        column.addLayout(row)
        self._note = Prose("soft", "Close the jaws first: it ought to show 0.00. Zero it there if it does not.")
        column.addWidget(self._note)
        self.open_to(0.0)
        self.follow(None)

    def attend(self, _old: QWidget | None, new: QWidget | None) -> None:
        """The keyboard went to ``new``: the field of a length that has it is the one to take into; this window keeps it so."""
        if new is None or new.window() is self:
            return
        field = new.parentWidget()
        self.focused = field if isinstance(field, Field) and field.takes_length else None
        if self.isVisible():
            self.follow(self.focused)

    def take_into(self, field: Field) -> None:
        """What it shows on a field's thing goes into the field; a zero error is told, for the maker to mend."""
        closed = self._caliper.closed_mm()
        self.follow(field)
        self.take_reading()
        if closed > 0.005:
            self._session.said.emit(f"With closed jaws the caliper shows {closed:.2f} mm: zero it first (Instruments), and take it again.")

    def follow(self, field: Field | None) -> None:
        """A field of a length got the keyboard: its thing lies between the jaws now."""
        self.field = field
        self.take.setEnabled(field is not None)
        if field is None:
            self._what.setText("Nothing lies between the jaws. Choose a field of a length.")
            return
        self._what.setText(f"Between the jaws: {field.edit.accessibleName() or 'the thing'}")
        value = field.value if isinstance(field.value, int | float) and field.value > 0 else None
        if value is not None and value == self._taken:
            return  # the thing has not changed because it was read: its error must not add up
        if value is None and field.expected is not None:
            value = field.expected()
        if value is not None:
            self.open_to(min(LONGEST_MM, float(value)))

    def open_to(self, mm: float) -> None:
        """Open the jaws this far; the display shows it with its zero error and jitter."""
        self.jaws.opening = mm
        self.jaws.shown = self._caliper.read_mm(mm) if mm > 0 else self._caliper.closed_mm()
        self.jaws.update()

    def _zero(self) -> None:
        if self.jaws.opening > 0:
            self._note.setText("Zero it with the jaws closed, or every reading will be off by what lies between them.")
            return
        self._caliper.zero()
        self.open_to(0.0)
        self._note.setText("It shows 0.00 with closed jaws.")

    def take_reading(self) -> None:
        """What it shows goes into the field, zero error and all."""
        if self.field is not None and self.jaws.shown > 0:
            self.open_to(self.jaws.opening)
            self._taken = round(self.jaws.shown, 2)
            self.field.take(self._taken)
