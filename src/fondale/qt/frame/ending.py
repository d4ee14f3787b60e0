# SPDX-License-Identifier: MIT
"""The window is ended from outside: by the end of the desktop's session, or by whoever asks its process to stop."""

import contextlib
import signal
import socket
from collections.abc import Callable
from typing import Self

from PySide6.QtCore import QObject, QSocketNotifier
from PySide6.QtGui import QGuiApplication, QSessionManager

from fondale.qt.frame.projects import Projects

ENDINGS = (signal.SIGTERM, signal.SIGHUP, signal.SIGINT)


class Ending(QObject):
    """Writes unsaved work down, what is being typed with it, before the window goes; the next start offers it."""

    def __init__(self, projects: Projects, leave: Callable[[], object]) -> None:
        super().__init__()
        self._projects, self._leave = projects, leave
        # A signal interrupts the window's loop through a pipe: Python alone would hear it at the next thing that happens.
        self._heard, self._told = socket.socketpair()
        for end in (self._heard, self._told):
            end.setblocking(False)
        signal.set_wakeup_fd(self._told.fileno())
        self._notifier = QSocketNotifier(self._heard.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self.end)
        self._before = {number: signal.signal(number, lambda *_: None) for number in ENDINGS}
        app = QGuiApplication.instance()
        if isinstance(app, QGuiApplication):
            app.commitDataRequest.connect(self.session_ends)

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_what: object) -> None:
        self._notifier.setEnabled(False)
        signal.set_wakeup_fd(-1)
        for number, before in self._before.items():
            signal.signal(number, before)
        for end in (self._heard, self._told):
            end.close()

    def end(self) -> None:
        """The process is asked to stop: nobody can be asked any more."""
        with contextlib.suppress(BlockingIOError):
            self._heard.recv(64)
        self._projects.keep_now()
        self._leave()

    def session_ends(self, manager: QSessionManager) -> None:
        """The desktop ends: where it lets one ask, the maker chooses, and may stay."""
        self._projects.keep_now()
        if manager.allowsInteraction():
            may = self._projects.may_leave()
            manager.release()
            if not may:
                manager.cancel()
