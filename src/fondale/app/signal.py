# SPDX-License-Identifier: MIT
"""Telling whoever listens that something changed, without a window."""

from collections.abc import Callable


class Signal:
    """``listen`` to it, and be called whenever it is ``told``."""

    def __init__(self) -> None:
        self._listeners: list[Callable[[], None]] = []

    def listen(self, listener: Callable[[], None]) -> None:
        """Call ``listener`` from now on."""
        self._listeners.append(listener)

    def tell(self) -> None:
        """Call all who listen, in the order in which they came."""
        for listener in self._listeners:
            listener()


class Once:
    """Something that is done once, however often it is asked for before its turn. ``soon`` says when that is: at once, or in a window’s next turn."""

    def __init__(self, do: Callable[[], object]) -> None:
        self._do = do
        self.soon: Callable[[], object] = self.now
        self.pending = False

    def ask(self) -> None:
        """Have it done."""
        self.pending = True
        self.soon()

    def now(self) -> None:
        """Do it, if it was asked for."""
        if self.pending:
            self.pending = False
            self._do()
