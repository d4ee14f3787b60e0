# SPDX-License-Identifier: MIT
"""A window on a project, with workers that answer when told to: no waiting by the clock."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog, QPushButton, QWidget

from fondale.app.document import Document
from fondale.app.settings import Settings
from fondale.app.workers import Given, Report, Request
from fondale.core.derived import BY_NAME, FINE_LIGHT, FINE_PICTURE
from fondale.core.model import Project
from fondale.core.reckoning import Look
from fondale.instruments import simulated
from fondale.qt.application import make_window
from fondale.qt.frame.corner import PromptCard
from fondale.qt.frame.main_window import MainWindow
from tests.conftest import TODAY
from tests.kept_workers import KeptWorkers

FINE = (FINE_LIGHT.name, FINE_PICTURE.name)


class HeldWorkers(KeptWorkers):
    """Keeps requests until ``run``; of two for one thing the newer counts."""

    def __init__(self, tell: Callable[[Report], None]) -> None:
        super().__init__(tell)
        self.held: list[tuple[str, Request]] = []
        self.newest: dict[str, int] = {}
        self.asked: list[str] = []
        self.tickets = 0

    def _hold(self, name: str, request: Request) -> int:
        self.tickets = request.ticket
        self.held.append((name, request))
        self.newest |= dict.fromkeys(request.names or (request.errand,), request.ticket)
        self.asked.extend(request.names or (request.errand,))
        return request.ticket

    def reckon(self, names: tuple[str, ...], project: Project, look: Look, given: Given) -> int:
        lane = "quick" if BY_NAME[names[0]].lane == "quick" else names[0]
        return self._hold(lane, Request(self.tickets + 1, names, project, look, given))

    def ask(self, errand: str, *args: Any) -> int:
        return self._hold(errand, Request(self.tickets + 1, errand=errand, args=args))

    def stop(self, name: str) -> None:
        self.newest.pop(name, None)

    def run(self, *names: str) -> None:
        """Answer what is held (only these, if any are named: results, errands, or ``quick``; refined light only then), and what comes of it."""
        while mine := [one for one in self.held if (one[0] in names if names else one[0] not in FINE)]:
            self.held.remove(mine[0])
            request = mine[0][1]
            wanted = tuple(n for n in request.names if self.newest.get(n) == request.ticket)
            if wanted or self.newest.get(request.errand) == request.ticket:
                self.fulfil(replace(request, names=wanted))


class Desk:
    """The window, and hands to use it."""

    def __init__(self, window: MainWindow, workers: HeldWorkers) -> None:
        self.window, self.workers, self.session = window, workers, window.session

    @property
    def project(self) -> Project:
        return self.session.project

    def hear(self) -> None:
        """Let the window do what was asked of it, however many turns it takes."""
        QApplication.processEvents()
        while self.session.turns.busy:
            QApplication.processEvents()

    def settle(self, *tasks: str) -> None:
        """Let timers fire and answers arrive."""
        for _ in range(4):
            self.hear()
            self.workers.run(*tasks)
            self.session._slow.stop()
            QApplication.processEvents()

    def refresh(self) -> None:
        """Ask for everything, and get it."""
        self.session.results.refresh()
        self.settle()

    def station(self, name: str) -> Any:
        self.window.go(name)
        QApplication.processEvents()
        return self.window.stations[name]

    def card(self, code: str) -> PromptCard:
        return next(c for c in self.window.prompts.cards() if c.finding.code == code)

    def type(self, widget: QWidget, text: str, enter: bool = True) -> None:
        widget.setFocus()
        QTest.keyClick(widget, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        QTest.keyClicks(widget, text)
        if enter:
            QTest.keyClick(widget, Qt.Key.Key_Return)

    def click(self, widget: QWidget, at: QPointF | None = None) -> None:
        point = at.toPoint() if at is not None else QPoint()
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, point)
        self.hear()

    def drag(self, widget: QWidget, start: QPointF, end: QPointF, steps: int = 5) -> None:
        left = Qt.MouseButton.LeftButton
        QTest.mousePress(widget, left, Qt.KeyboardModifier.NoModifier, start.toPoint())
        for k in range(1, steps + 1):
            QTest.mouseMove(widget, (start + (end - start) * (k / steps)).toPoint())
            QApplication.processEvents()
        QTest.mouseRelease(widget, left, Qt.KeyboardModifier.NoModifier, end.toPoint())
        self.hear()

    def key(self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier, on: QWidget | None = None) -> None:
        QTest.keyClick(on or self.window, key, modifier)
        self.hear()

    def button(self, parent: QWidget, text: str) -> QPushButton:
        return next(b for b in parent.findChildren(QPushButton) if b.text() == text or b.toolTip() == text)


@pytest.fixture
def desk(qtbot, tmp_path) -> Callable[..., Desk]:
    made: list[Desk] = []

    def build(
        project: Project, path: Path | None = None, width: int = 1280, height: int = 800, scale: float = 1.0, lighting: str = "up"
    ) -> Desk:
        settings = Settings(tmp_path)
        settings.set("lighting", lighting)
        settings.set("type", scale)
        window = make_window(Document(project, path), settings, TODAY, simulated(), tmp_path / "state", HeldWorkers)
        session = window.session
        session.view_width = 96
        session.results.look_from(width=96)
        window.resize(width, height)
        window.show()
        QTest.qWaitForWindowExposed(window)
        with qtbot.waitActive(window):
            window.activateWindow()
        assert isinstance(session._workers, HeldWorkers)
        out = Desk(window, session._workers)
        made.append(out)
        return out

    yield build
    for one in made:
        one.session.replaced.emit()  # what was being typed is let go
        one.session.document._clean = one.session.document._project
        one.window.close()
        one.window.shut()
        one.window.deleteLater()
    # Windows that live on would share the shortcuts of the next one, and be styled anew with it.
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QApplication.processEvents()


@pytest.fixture
def answers(monkeypatch) -> list[str]:
    """What is typed into the next dialogs that ask for a line."""
    waiting: list[str] = []
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: (waiting.pop(0), True))
    return waiting
