"""A window on a project, with workers that answer when told to: no waiting by the clock."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton, QWidget

from fondale.app.document import Document
from fondale.app.settings import Settings
from fondale.app.workers import DirectWorkers, Report
from fondale.core.model import Project
from fondale.qt.application import make_session
from fondale.qt.frame.corner import PromptCard
from fondale.qt.frame.main_window import MainWindow
from fondale.qt.frame.projects import Projects
from fondale.qt.theme.palette import dress, load_fonts
from fondale.storage import Recovery
from tests.conftest import TODAY


class HeldWorkers(DirectWorkers):
    """Keeps the newest request of each task until ``run``."""

    def __init__(self, tell: Callable[[Report], None]) -> None:
        super().__init__(tell)
        self.held: dict[str, tuple[int, tuple[Any, ...]]] = {}
        self.tickets = 0

    def ask(self, task: str, *args: Any) -> int:
        self.tickets += 1
        self.held[task] = (self.tickets, args)
        return self.tickets

    def stop(self, task: str) -> None:
        self.held.pop(task, None)

    def run(self, *tasks: str) -> None:
        """Answer what is held (only these tasks, if any are named), and what comes of it."""
        while mine := [t for t in self.held if not tasks or t in tasks]:
            task = mine[0]
            ticket, args = self.held.pop(task)
            self._ticket = ticket - 1
            super().ask(task, *args)


class Desk:
    """The window, and hands to use it."""

    def __init__(self, window: MainWindow, workers: HeldWorkers) -> None:
        self.window, self.workers, self.session = window, workers, window.session

    @property
    def project(self) -> Project:
        return self.session.project

    def settle(self, *tasks: str) -> None:
        """Let timers fire and answers arrive."""
        for _ in range(4):
            QApplication.processEvents()
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
        QApplication.processEvents()

    def drag(self, widget: QWidget, start: QPointF, end: QPointF, steps: int = 5) -> None:
        left = Qt.MouseButton.LeftButton
        QTest.mousePress(widget, left, Qt.KeyboardModifier.NoModifier, start.toPoint())
        for k in range(1, steps + 1):
            QTest.mouseMove(widget, (start + (end - start) * (k / steps)).toPoint())
            QApplication.processEvents()
        QTest.mouseRelease(widget, left, Qt.KeyboardModifier.NoModifier, end.toPoint())
        QApplication.processEvents()

    def key(self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier, on: QWidget | None = None) -> None:
        QTest.keyClick(on or self.window, key, modifier)
        QApplication.processEvents()

    def button(self, parent: QWidget, text: str) -> QPushButton:
        return next(b for b in parent.findChildren(QPushButton) if b.text() == text or b.toolTip() == text)


@pytest.fixture
def desk(qtbot, tmp_path) -> Callable[..., Desk]:
    load_fonts()
    made: list[Desk] = []

    def build(
        project: Project, path: Path | None = None, width: int = 1280, height: int = 800, scale: float = 1.0, lighting: str = "up"
    ) -> Desk:
        session = make_session(Document(project, path), Settings(tmp_path), TODAY)
        session.theme.scale, session.theme.lighting = scale, lighting
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        dress(app, session.theme)
        workers = session.connect_workers(lambda tell: HeldWorkers(tell))
        assert isinstance(workers, HeldWorkers)
        session.results.view_width = 96
        projects = Projects(session, Recovery(tmp_path / "state"))
        window = MainWindow(session, projects)
        projects.window = window
        window.resize(width, height)
        window.show()
        QTest.qWaitForWindowExposed(window)
        with qtbot.waitActive(window):
            window.activateWindow()
        out = Desk(window, workers)
        made.append(out)
        return out

    yield build
    for one in made:
        one.window.projects._autosave.stop()
        one.session.document._clean = one.session.document._project
        one.window.close()
        one.window.deleteLater()
    # Windows that live on would share the shortcuts of the next one, and be styled anew with it.
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QApplication.processEvents()
