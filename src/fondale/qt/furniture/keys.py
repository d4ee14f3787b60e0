# SPDX-License-Identifier: MIT
"""What keys mean wherever something is moved by them."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent

_ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}


def arrow(event: QKeyEvent) -> tuple[int, int] | None:
    """The way of an arrow key, up being above 0; None for other keys."""
    return _ARROWS.get(Qt.Key(event.key()))


def stride(event: QKeyEvent) -> int:
    """How many steps a key goes: ten with Shift."""
    return 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
