# SPDX-License-Identifier: MIT
"""What nothing holds any more is looked for on the window's thread alone."""

import ctypes
import gc

from PySide6.QtCore import QObject, QTimer

AFTER = (10_000, 2, 2)  # how many new things, and how many looks through the younger, call for a look through each generation
BETWEEN_MS = 200
HAND_BACK = getattr(ctypes.CDLL(None), "malloc_trim", None)  # of the C library of GNU


def hand_back() -> None:
    """Give the system the memory that was let go of between what lives: the C library keeps it, and a window used for an hour seems to grow."""
    if HAND_BACK is not None:
        HAND_BACK(0)


class Collector(QObject):
    """Takes the place of Python's own: that one runs on whichever thread makes the next thing, and a part of the window that is let go
    of on a thread that hears a worker brings the program down.

    What lives from the start on is not looked through: a full look takes longer than a blink.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.freeze()
        gc.disable()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)
        self._timer.start(BETWEEN_MS)

    def look(self) -> None:
        """Look through the oldest generation that it is time for."""
        counts = gc.get_count()
        for generation in (2, 1, 0):
            if counts[generation] > AFTER[generation]:
                gc.collect(generation)
                if generation == 2:
                    hand_back()
                return
