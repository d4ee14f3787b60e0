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
