# SPDX-License-Identifier: MIT
"""What a turn of the window has done already: it hears its maker between two, so what can wait is left to one in which little was done."""

import time

from PySide6.QtCore import QAbstractEventDispatcher, QObject

ENOUGH_S = 0.006  # of the processor: a turn that took this has done its work


class Breath(QObject):
    """Drawn whenever the loop of events of this thread begins another turn."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._drawn = time.thread_time()
        loop = QAbstractEventDispatcher.instance()
        loop.awake.connect(self._draw)
        loop.aboutToBlock.connect(self._draw)  # while it waits no time of the processor goes

    def _draw(self) -> None:
        self._drawn = time.thread_time()

    @property
    def short(self) -> bool:
        """Whether this turn has done enough."""
        return time.thread_time() - self._drawn > ENOUGH_S
