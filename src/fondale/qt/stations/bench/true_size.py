# SPDX-License-Identifier: MIT
"""True size: how many pixels of a screen make a millimetre, found with a bank card."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QVBoxLayout, QWidget

from fondale.app.settings import Settings
from fondale.core.lengths import INCH_MM
from fondale.core.words import digits
from fondale.qt.furniture.prose import Prose
from fondale.qt.session import Session
from fondale.qt.theme import signs

CARD_MM = (85.60, 53.98)  # [iso7810], ID-1
LEAST, MOST = 1.5, 30.0


def px_per_mm(settings: Settings, screen: str) -> float | None:
    """What was found for a screen, or None."""
    value = settings.get("screens").get(screen)
    return float(value) if isinstance(value, int | float) and LEAST <= value <= MOST else None


class CardOutline(QWidget):
    """A card drawn on the screen; drag its right edge, or use the arrow keys, until a real one covers it."""

    def __init__(self, session: Session, scale: float) -> None:
        super().__init__()
        self._session = session
        self.scale = scale
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Outline of a bank card: arrow keys make it larger and smaller")

    def sizeHint(self) -> QSize:
        return QSize(720, 440)

    def _box(self) -> QRectF:
        return QRectF(20, 20, CARD_MM[0] * self.scale, CARD_MM[1] * self.scale)

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, p = self._session.theme, QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = self._box()
        p.setPen(QPen(theme.color("curtain"), 1.5))
        p.setBrush(theme.color("card"))
        radius = 3.18 * self.scale
        p.drawRoundedRect(box, radius, radius)
        p.setFont(theme.font(13))
        p.setPen(theme.text("ink"))
        words = f"85.60 × 53.98 mm\n{digits(self.scale, 2)} pixels to a millimetre"
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        signs.focus_ring(p, theme, self)

    def set_scale(self, scale: float) -> None:
        """Pixels to a millimetre."""
        self.scale = max(LEAST, min(MOST, scale))
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.set_scale((QPointF(event.position()).x() - 20) / CARD_MM[0])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.mouseMoveEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Up: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Down: -1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        else:
            self.set_scale(self.scale + step / CARD_MM[0])


class CardDialog(QDialog):
    """Hold a card against the screen."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("True size")
        column = QVBoxLayout(self)
        words = Prose(
            "",
            "Hold a bank card against the screen, its upper left corner on the outline’s. Drag, or press the arrow keys, until the outline is just covered.",
        )
        column.addWidget(words)
        screen = parent.screen()
        guess = screen.physicalDotsPerInchX() / INCH_MM
        known = px_per_mm(session.settings, screen.name())
        self.card = CardOutline(session, known or max(LEAST, min(MOST, guess)))
        column.addWidget(self.card, 1)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)


def calibrate(session: Session, parent: QWidget) -> bool:
    """Ask the maker to hold a card against the screen; False when they would rather not."""
    dialog = CardDialog(session, parent)
    if dialog.exec() != QDialog.DialogCode.Accepted:
        return False
    session.settings.set("screens", {**session.settings.get("screens"), parent.screen().name(): round(dialog.card.scale, 3)})
    return True
