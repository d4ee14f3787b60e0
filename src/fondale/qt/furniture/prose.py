# SPDX-License-Identifier: MIT
"""Sentences on the window."""

import re
from html import escape
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QSize, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtGui import Qt as Rich
from PySide6.QtWidgets import QLabel, QPushButton, QSizePolicy

_UNIT = re.compile(
    r"(?<=[\d±]) (?=(?:mm|cm|m|in|ft|µm|ml|g|kg|h|min|s|days?|evenings|%|°C|Ω|V|mA|A|W|lx|lm|cd|€|ppm)(?![\w]))|(?<=\bno\.) (?=\d)|(?<=±) (?=\d)"
)


def literal(text: str) -> str:
    """The text for tips and dialogs, which take what looks like markup for it: shown as it stands."""
    return f"<qt>{escape(text).replace(chr(10), '<br>')}</qt>" if Rich.mightBeRichText(text) else text


def on_a_button(text: str) -> str:
    """The text for buttons and menus, where a single & is swallowed."""
    return text.replace("&", "&&")


_LONG = re.compile(r"\S{13}(?=\S{8})")


def kept_together(text: str) -> str:
    """The text with numbers that are never parted from their units at the end of a line; words too long for a line may break."""
    return _LONG.sub(lambda found: found[0] + "\u200b", _UNIT.sub("\u00a0", text))


class GivesWay(QPushButton if TYPE_CHECKING else object):  # type: ignore[misc]
    """What a button has before its kind, to give way where it has no room for its words: the rest becomes an ellipsis, and the whole is in the tip."""

    _whole = ""

    def give_way(self) -> None:
        """From now on it does."""
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)

    def say(self, text: str) -> None:
        """Other words."""
        if text != self._whole:
            self._whole = text
            self.setToolTip(literal(text))
            self.setText(on_a_button(text))
            self.updateGeometry()

    def _around(self) -> int:
        """What stands beside the words."""
        return int(super().sizeHint().width() - self.fontMetrics().horizontalAdvance(self.text()))

    def sizeHint(self) -> QSize:
        return QSize(self._around() + self.fontMetrics().horizontalAdvance(self._whole) + 2, super().sizeHint().height())

    def minimumSizeHint(self) -> QSize:
        return QSize(min(self.sizeHint().width(), 6 * self.fontMetrics().height()), super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() in (QEvent.Type.FontChange, QEvent.Type.StyleChange) and self._whole:
            self._fit()

    def _fit(self) -> None:
        room = self.width() - self._around() - 1  # what stands beside the words is a pixel more or less by what they round to
        self.setText(on_a_button(self.fontMetrics().elidedText(self._whole, Qt.TextElideMode.ElideRight, room)))


class Line(QLabel):
    """A line of words. ``role`` is the kind of type: head, soft, note, bold, or plain. A maker's words are never taken for markup."""

    def __init__(self, role: str = "", text: str = "") -> None:
        super().__init__(text)
        self.setTextFormat(Qt.TextFormat.PlainText)
        if role:
            self.setProperty("role", role)


class Short(Line):
    """A line that gives way when it has no room for its words: the rest becomes an ellipsis, and the whole is in the tip."""

    def __init__(self, role: str = "", text: str = "") -> None:
        super().__init__(role, text)
        self._whole = text

    def sizeHint(self) -> QSize:
        return QSize(self.fontMetrics().horizontalAdvance(self._whole) + 2, super().sizeHint().height())

    def minimumSizeHint(self) -> QSize:
        return QSize(min(self.sizeHint().width(), 4 * self.fontMetrics().height()), super().minimumSizeHint().height())

    def setText(self, text: str) -> None:
        if text != self._whole:
            self._whole = text
            self.updateGeometry()
            self._fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() in (QEvent.Type.FontChange, QEvent.Type.StyleChange) and hasattr(self, "_whole"):
            self._fit()

    def _fit(self) -> None:
        shown = self.fontMetrics().elidedText(self._whole, Qt.TextElideMode.ElideRight, self.width())
        super().setText(shown)
        self.setToolTip(literal(self._whole) if shown != self._whole else "")


class Prose(Line):
    """Sentences that break at the end of a line, with numbers and their units kept together."""

    def __init__(self, role: str = "", text: str = "") -> None:
        super().__init__(role, kept_together(text))
        self.setWordWrap(True)

    def setText(self, text: str) -> None:
        super().setText(kept_together(text))
