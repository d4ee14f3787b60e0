# SPDX-License-Identifier: MIT
"""Rows, headings and words to press, from which every page is laid out."""

from collections.abc import Callable, Collection, Sequence
from typing import Any

from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QLabel, QLayout, QMenu, QPushButton, QScrollArea, QVBoxLayout, QWidget

from fondale.qt.furniture.prose import GivesWay, Line, literal, on_a_button


def heading(text: str, note: str = "") -> tuple[QHBoxLayout, QLabel]:
    """A row with a heading and a soft note; things may be added at its end. Returns the row and the note."""
    row = QHBoxLayout()
    row.setSpacing(16)
    head = Line("head", text)
    row.addWidget(head)
    soft = Line("soft", note)
    row.addWidget(soft)
    row.addStretch(1)
    return row, soft


def headed(text: str, spacing: int = 6) -> QVBoxLayout:
    """A column that begins with a heading."""
    column = QVBoxLayout()
    column.setSpacing(spacing)
    column.addLayout(heading(text)[0])
    return column


def line_of(*widgets: QWidget) -> QHBoxLayout:
    """Widgets side by side on the left of a line."""
    line = QHBoxLayout()
    line.setSpacing(6)
    for widget in widgets:
        line.addWidget(widget)
    line.addStretch(1)
    return line


def action(text: str, slot: Callable[..., object], tip: str = "") -> QPushButton:
    """A main action as a word."""
    button = QPushButton(text)
    button.setProperty("role", "action")
    button.setToolTip(tip)
    button.clicked.connect(slot)
    return button


def pick(text: str, slot: Callable[..., object], group: QButtonGroup, role: str = "pick") -> QPushButton:
    """One of several words of which one is chosen."""
    button = QPushButton(text)
    button.setProperty("role", role)
    button.setCheckable(True)
    button.clicked.connect(slot)
    group.addButton(button)
    return button


class ShortAction(GivesWay, QPushButton):
    """A word to press that gives way where it has no room for its words."""

    def __init__(self, text: str, slot: Callable[..., object], role: str = "action") -> None:
        super().__init__()
        self.give_way()
        self.setProperty("role", role)
        self.clicked.connect(slot)
        self.say(text)


def hold(area: QScrollArea, widget: QWidget) -> None:
    """Let an area scroll a widget. On its ground: one that fills its own is painted twice each time that it comes on show."""
    area.setWidget(widget)
    widget.setAutoFillBackground(False)


Entries = Sequence[tuple[str, Callable[[], object]]]


def menu_button(text: str, entries: Entries | Callable[[], Entries]) -> QPushButton:
    """A word that opens a short list; a function makes the list anew each time."""
    button = QPushButton(text)
    button.setProperty("role", "action")
    menu = QMenu(button)

    def fill() -> None:
        menu.clear()
        found = entries() if callable(entries) else entries
        for words, slot in found:
            menu.addAction(on_a_button(words), slot)
        if not found:
            menu.addAction("nothing yet").setEnabled(False)

    def show() -> None:
        fill()
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))

    button.clicked.connect(show)
    return button


def clear(layout: QLayout, keep: Collection[QWidget] = ()) -> None:
    """Take everything out of a row or a column; what is not kept goes for good."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None and widget not in keep:
            widget.hide()
            widget.deleteLater()


class Picks(QHBoxLayout):
    """A row of words of which one is chosen; built anew only where what can be chosen has changed."""

    def __init__(self, choose: Callable[[Any], object]) -> None:
        super().__init__()
        self.setSpacing(2)
        self._choose = choose
        self._entries: Sequence[tuple[Any, str]] = ()
        self._words: dict[Any, ShortAction] = {}

    def show_words(self, entries: Sequence[tuple[Any, str]], at: Any, tip: str = "") -> None:
        """Show these (value, words), the one of ``at`` chosen; ``tip`` and the words are its tip."""
        if list(entries) != list(self._entries):
            self._entries = entries
            clear(self)
            self._words = {value: self._word(value, said, tip) for value, said in entries}
        for value, button in self._words.items():
            button.setChecked(value == at)

    def _word(self, value: Any, said: str, tip: str) -> ShortAction:
        button = ShortAction(said, lambda _checked=False: self._choose(value), role="pick")
        button.setCheckable(True)
        if tip:
            button.setToolTip(literal(f"{tip} {said}"))
        self.addWidget(button)
        return button
