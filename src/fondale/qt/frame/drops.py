# SPDX-License-Identifier: MIT
"""Files that are dropped on the window go where they belong."""

from collections.abc import Mapping
from pathlib import Path
from typing import Protocol

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QWidget

from fondale.qt.frame.projects import Projects
from fondale.qt.furniture.pages import P, PagedStation
from fondale.qt.furniture.workplace import Station
from fondale.storage.meshes import ENDINGS as BODIES
from fondale.storage.photos import ENDINGS as PICTURES

TABLES = (".csv", ".tsv")


class Host(Protocol):
    """What a window must offer whose files are dropped on it."""

    projects: Projects

    @property
    def stations(self) -> Mapping[str, Station]: ...

    def go(self, station: str) -> None: ...

    def say(self, words: str) -> None: ...


class Drops(QObject):
    """Bodies to the print shop, a picture to the photographs, a table to the bits box, a project into the window."""

    def __init__(self, window: QWidget, host: Host) -> None:
        super().__init__(window)
        self._window = host
        window.setAcceptDrops(True)
        window.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.DragEnter, QEvent.Type.Drop) and isinstance(event, QDropEvent):
            paths = [Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()]
            if paths:
                event.acceptProposedAction()
                if event.type() == QEvent.Type.Drop:
                    self.take(paths)
                return True
        return super().eventFilter(watched, event)

    def _page(self, name: str, kind: type[P]) -> P:
        self._window.go(name)
        station = self._window.stations[name]
        assert isinstance(station, PagedStation)
        station.turn_to(kind.title)
        return station.page_of(kind)

    def take(self, paths: list[Path]) -> None:
        """Bring these files; what is of no kind that is known is told."""
        from fondale.qt.stations.bench.bits_page import BitsPage
        from fondale.qt.stations.bench.print_page import PrintPage
        from fondale.qt.stations.brief.photo_page import PhotoPage

        by = {kind: [p for p in paths if p.suffix.lower() in endings] for kind, endings in (("bodies", BODIES), ("pictures", PICTURES), ("tables", TABLES), ("projects", (".fondale",)))}  # fmt: skip
        if by["projects"]:
            if self._window.projects.may_leave():
                self._window.projects.open_path(by["projects"][0])
        elif by["bodies"]:
            self._page("bench", PrintPage).files.bring(tuple(str(p) for p in by["bodies"]))
        elif by["pictures"]:
            self._page("brief", PhotoPage).bring(str(by["pictures"][0]))
        elif by["tables"]:
            self._page("bench", BitsPage).bring(by["tables"][0])
        else:
            self._window.say(
                f"{paths[0].name} is nothing that Fondale reads: bodies, photographs, tables of bits and projects can be dropped here."
            )
