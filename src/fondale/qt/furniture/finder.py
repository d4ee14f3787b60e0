# SPDX-License-Identifier: MIT
"""Long lists are found by typing: any of the words, in any order, narrow them."""

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from fondale.core.words import clipped
from fondale.qt.furniture.prose import literal, on_a_button

MOST_SHOWN, WIDTH, HEIGHT = 400, 300, 320
Option = tuple[Any, str]


def matches(words: str, text: str) -> bool:
    """Whether every typed word stands in the text."""
    low = text.lower()
    return all(w in low for w in words.lower().split())


class Finder(QFrame):
    """A list that opens below what was pressed. ``chosen`` gets values; with ``marks`` several may be chosen, and it stays open."""

    def __init__(
        self, owner: QWidget, options: Sequence[Option], chosen: Callable[[Any], object], marks: Callable[[], Sequence[Any]] | None = None
    ) -> None:
        super().__init__(owner, Qt.WindowType.Popup)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setProperty("role", "finder")
        self._options, self._chosen, self._marks = list(options), chosen, marks
        column = QVBoxLayout(self)
        column.setContentsMargins(6, 6, 6, 6)
        column.setSpacing(4)
        self.line = QLineEdit()
        self.line.setPlaceholderText("type to find")
        self.line.setAccessibleName("Find")
        self.line.textChanged.connect(self._fill)
        self.line.installEventFilter(self)
        column.addWidget(self.line)
        self.list = QListWidget()
        self.list.setAccessibleName("Found")
        self.list.itemClicked.connect(self._take)
        column.addWidget(self.list, 1)
        self._fill("")

    def open_below(self, widget: QWidget) -> None:
        """Show it under a widget, with the keys in its line."""
        scale = max(1.0, self.fontMetrics().height() / 17)
        self.resize(max(widget.width(), round(WIDTH * scale)), round(HEIGHT * scale))
        corner = widget.mapToGlobal(QPoint(0, widget.height()))
        room = widget.screen().availableGeometry()
        corner.setX(max(room.left(), min(corner.x(), room.right() - self.width())))
        if corner.y() + self.height() > room.bottom():
            corner.setY(max(room.top(), widget.mapToGlobal(QPoint(0, 0)).y() - self.height()))
        self.move(corner)
        self.show()
        self.line.setFocus()

    def _fill(self, words: str) -> None:
        marked = set(self._marks()) if self._marks is not None else set()
        found = [o for o in self._options if matches(words, o[1])]
        if marked and not words.strip():
            found.sort(key=lambda o: o[0] not in marked)
        self.list.clear()
        for value, text in found[:MOST_SHOWN]:
            item = QListWidgetItem(clipped(text, 70))
            item.setToolTip(literal(text))
            item.setData(Qt.ItemDataRole.UserRole, value)
            if self._marks is not None:
                item.setCheckState(Qt.CheckState.Checked if value in marked else Qt.CheckState.Unchecked)
            self.list.addItem(item)
        if not found:
            item = QListWidgetItem("nothing of that name" if words.strip() else "nothing yet")
            item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        elif len(found) > MOST_SHOWN:
            item = QListWidgetItem(f"and {len(found) - MOST_SHOWN} more: type more of the name")
            item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _take(self, item: QListWidgetItem | None) -> None:
        if item is None or not item.flags() & Qt.ItemFlag.ItemIsEnabled:
            return
        value = item.data(Qt.ItemDataRole.UserRole)
        if self._marks is None:
            self.close()
            self._chosen(value)
            return
        self._chosen(value)
        marked = self._marks()
        for i in range(self.list.count()):
            one = self.list.item(i)
            if one.flags() & Qt.ItemFlag.ItemIsEnabled:
                one.setCheckState(Qt.CheckState.Checked if one.data(Qt.ItemDataRole.UserRole) in marked else Qt.CheckState.Unchecked)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Up and down move through what is found, Enter takes it, Escape closes."""
        if watched is self.line and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            key = Qt.Key(event.key())
            if key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
                step = 1 if key == Qt.Key.Key_Down else -1
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, self.list.currentRow() + step)))
                return True
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._take(self.list.currentItem())
                return True
        return super().eventFilter(watched, event)


class Several(QPushButton):
    """A word that says which things of a list are chosen, and opens the list to choose others."""

    def __init__(
        self, caption: str, options: Callable[[], Sequence[Option]], marked: Callable[[], Sequence[Any]], put: Callable[[Any], object]
    ) -> None:
        super().__init__(caption)
        self.setProperty("role", "action")
        self.caption, self._options, self._marked, self._put = caption, options, marked, put
        self.clicked.connect(self._open)

    def _open(self) -> None:
        self.finder = Finder(self, self._options(), self._put, self._marked)
        self.finder.open_below(self)

    def set_value(self, _value: object) -> None:
        """As a field of a ticket is told to follow."""
        self.follow()

    def follow(self) -> None:
        """Say what is chosen."""
        names = dict(self._options())
        named = [names[v] for v in self._marked() if v in names]
        first = clipped(named[0][:1].lower() + named[0][1:], 26) if named else "nothing"
        self.setText(f"{self.caption} {on_a_button(first)}" + (f" and {len(named) - 1} more" if len(named) > 1 else ""))
        self.setToolTip(literal(", ".join(named)))
