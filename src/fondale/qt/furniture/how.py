# SPDX-License-Identifier: MIT
"""*How?*: every computed number can be asked where it came from."""

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from fondale.core.how import How, Told
from fondale.qt.furniture.prose import GivesWay, Prose, on_a_button


class HowCard(QFrame):
    """The explanation, as a card over the window; any key or click beside it closes it."""

    def __init__(self, how: How, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setProperty("role", "card")
        self.setAccessibleName(f"How: {how.title}")
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 12)
        column.setSpacing(8)
        for text, role in ((how.title, "head"), (how.text, ""), (f"Source: {how.source}", "note")):
            label = Prose(role, text)
            label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            column.addWidget(label)
        self.setFixedWidth(400)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self.close()


class HowButton(QPushButton):
    """A number with a dotted underline: click, Enter or F1 tells how it was found."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(text, parent)
        self.setProperty("role", "how")
        self.setCursor(Qt.CursorShape.WhatsThisCursor)
        self.how: How | None = None
        self.setAccessibleName("Computed value")
        self.clicked.connect(self.tell)

    def show_told(self, told: Told) -> None:
        """Show a number, and explain it when asked."""
        self.how = told.how
        if on_a_button(told.shown) != self.text():
            self.setText(on_a_button(told.shown))
            self.setAccessibleName(told.shown)
        self.setAccessibleDescription("Press to see how this was computed")

    def tell(self) -> None:
        """Open the explanation below the number."""
        if self.how is None:
            return
        card = HowCard(self.how, self.window())
        card.setStyleSheet(self._sheet())
        card.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        card.adjustSize()
        corner = self.mapToGlobal(QPoint(0, self.height() + 4))
        screen = self.screen().availableGeometry()
        corner.setX(max(screen.left(), min(corner.x(), screen.right() - card.width() - 8)))
        if corner.y() + card.height() > screen.bottom():
            corner.setY(self.mapToGlobal(QPoint(0, -card.height() - 4)).y())
        card.move(corner)
        card.show()

    def _sheet(self) -> str:
        """That of the part of the window which it stands in."""
        part: QWidget | None = self
        while part is not None and not part.styleSheet():
            part = part.parentWidget()
        return part.styleSheet() if part is not None else ""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_F1, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.tell()
        else:
            super().keyPressEvent(event)


class ShortHow(GivesWay, HowButton):
    """One that gives way where it has no room for its words: the card tells all."""

    def __init__(self) -> None:
        super().__init__()
        self.give_way()

    def show_told(self, told: Told) -> None:
        super().show_told(told)
        self.say(told.shown)
