# SPDX-License-Identifier: MIT
"""Starting the application, and the tour that goes through all stations without a display."""

import os
import sys
import traceback
from collections.abc import Callable
from datetime import date
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QElapsedTimer, QEventLoop, QMessageLogContext, QTimer, QtMsgType, qInstallMessageHandler
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import QApplication

from fondale.app.document import Document
from fondale.app.results import Results
from fondale.app.settings import Settings, cache_folder, config_folder, state_folder
from fondale.app.window import Window
from fondale.app.workers import ProcessWorkers, Report, Workers, share_bodies
from fondale.core.edits import new_project
from fondale.demo import SAMPLES, sample_assets
from fondale.instruments import Instruments
from fondale.qt.frame.collector import Collector
from fondale.qt.frame.ending import Ending
from fondale.qt.frame.main_window import MainWindow
from fondale.qt.frame.projects import Projects
from fondale.qt.furniture.pages import PagedStation
from fondale.qt.session import Session
from fondale.qt.theme.palette import Theme, dress, load_fonts

PATIENCE_S = 120.0  # without any progress; while something gets on, the wait goes on
POLL_MS, QUIET_TURNS, SAY_MS = 50, 12, 5000
TOLD = 3  # of what is waited for
DRESSING_S, FIELDS = 60.0, 6  # a picture has so many fields along each side


def make_window(
    document: Document,
    settings: Settings,
    today: date,
    instruments: Instruments,
    state: Path,
    make_workers: Callable[[Callable[[Report], None]], Workers] = ProcessWorkers,
) -> MainWindow:
    """The one place where a window is put together. Unsaved work is kept below ``state``; nothing is computed yet."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    load_fonts()
    share_bodies(cache_folder())
    theme = Theme(settings.get("lighting"), settings.get("type"))
    dress(theme)
    session = Session(document, Results(document, today), settings, theme, instruments)
    session.connect_workers(make_workers)
    main = MainWindow(session, Projects(session, state))
    main.resize(1280, 800)
    main.wear()
    return main


def start(window: Window, instruments: Instruments) -> int:
    """Open the window as asked; returns the exit code."""
    app = QApplication.instance() or _application(window)
    app.setApplicationName("Fondale")
    assert isinstance(app, QApplication)
    app.setDesktopFileName("fondale")
    settings, state = Settings(config_folder()), state_folder()
    if window.tour is not None:
        settings, state = Settings(window.tour / "no-settings"), window.tour / "no-state"
    main = make_window(_document(window), settings, window.today, instruments, state)
    try:
        main.show()
        app.processEvents()  # the window is painted first, then the workers start
        Collector(main)
        if window.tour is not None:
            return tour(main, window.tour)
        main.projects.tell_notes()
        if window.trouble:
            main.session.said.emit(window.trouble)
        main.session.results.refresh()
        main.growth.start()
        QTimer.singleShot(0, main.projects.offer_left)
        sys.excepthook = own_up(main.session)
        with Ending(main.projects, lambda: app.exit(0)):
            return app.exec()
    finally:
        main.shut()


def _application(window: Window) -> QApplication:
    """Qt's own, which ends the process where there is no display that it can show itself on: in one line, with 2. A tour needs none."""
    if window.tour is not None and not any(os.environ.get(n) for n in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        os.environ["QT_QPA_PLATFORM"] = "offscreen"

    def hear(kind: QtMsgType, _where: QMessageLogContext, words: str) -> None:
        if kind == QtMsgType.QtFatalMsg:
            shown = os.environ.get("WAYLAND_DISPLAY") or os.environ.get("DISPLAY")
            why = f"the display {shown} does not answer, or a library of Qt’s is missing (./dev demo names it)"
            if not shown:
                why = "there is no display (DISPLAY and WAYLAND_DISPLAY are not set)"
            if wanted := os.environ.get("QT_QPA_PLATFORM"):
                why = f"Qt’s platform “{wanted}” (QT_QPA_PLATFORM) does not start"
            more = "" if "platform plugin" in words else f" ({words.splitlines()[0]})"
            print(
                f"fondale: The window cannot open: {why}{more}. Start it from a desktop; the other commands need none.",
                file=sys.stderr,
                flush=True,
            )
            os._exit(2)

    before = qInstallMessageHandler(hear)
    app = QApplication(sys.argv[:1])
    qInstallMessageHandler(before)
    return app


def own_up(session: Session) -> Callable[[type[BaseException], BaseException, TracebackType | None], None]:
    """What is done with an error that nobody foresaw: it is printed whole, and the maker is told that nothing is lost."""

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        traceback.print_exception(kind, error, trace)
        said = str(error).splitlines()[0] if str(error) else ""
        session.said.emit(
            f"That did not work, by a fault of Fondale’s own ({kind.__name__}: {said}). Your work is kept, and can be undone and saved."
        )

    return hook


def _document(window: Window) -> Document:
    if window.document is not None:
        return window.document
    if window.sample:
        return Document(SAMPLES[window.sample](window.today), assets=sample_assets(window.sample))
    return Document(new_project("New piece", window.today))


class Waiting:
    """Waits in an event loop until nothing is being computed. It gives up only when nothing gets on any more."""

    def __init__(self, session: Session, patience_s: float = PATIENCE_S, say: Callable[[str], None] | None = None) -> None:
        self._results, self._patience, self._say = session.results, patience_s, say
        self._quiet = 0
        self._seen: tuple[dict[str, tuple[float, str]], int] = ({}, 0)
        self._since = QElapsedTimer()
        self._told = QElapsedTimer()

    def settled(self) -> bool:
        """Wait; False when patience ran out."""
        loop, poll = QEventLoop(), QTimer()
        poll.timeout.connect(lambda: self._look(loop))
        self._since.start()
        self._told.start()
        poll.start(POLL_MS)
        loop.exec()
        poll.stop()
        return not self._results.busy

    def _look(self, loop: QEventLoop) -> None:
        busy = self._results.busy
        self._quiet = 0 if busy else self._quiet + 1
        state = (dict(busy), self._results.answers)
        if state != self._seen:
            self._seen = state
            self._since.restart()
        if self._quiet >= QUIET_TURNS or self._since.elapsed() > self._patience * 1000:
            loop.quit()
        elif busy and self._say is not None and self._told.elapsed() > SAY_MS:
            self._told.restart()
            waits = sorted({words for _share, words in busy.values()})
            more = f" and {len(waits) - TOLD} more" if len(waits) > TOLD else ""
            self._say(f"waiting: {', '.join(waits[:TOLD])}{more}")


def settle(session: Session, patience_s: float = PATIENCE_S, say: Callable[[str], None] | None = None) -> bool:
    """Wait until nothing is being computed; False when nothing got on for ``patience_s``. ``say`` hears what is waited for."""
    return Waiting(session, patience_s, say).settled()


def dressed_picture(main: MainWindow) -> QPixmap | None:
    """The window as it looks once it is dressed and drawn; None where it stays blank: while it changes its lighting nothing is painted."""
    since = QElapsedTimer()
    since.start()
    while since.elapsed() < DRESSING_S * 1000:
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, POLL_MS)
        if main.updatesEnabled():
            picture = main.grab()
            if shows_something(picture.toImage()):
                return picture
    return None


def shows_something(picture: QImage) -> bool:
    """Whether a picture of the window has things all over it: of a grid of fields a third and more are not of one colour."""
    wide, high = picture.width() // FIELDS, picture.height() // FIELDS
    plain = 0
    for i in range(FIELDS):
        for k in range(FIELDS):
            seen = {picture.pixel(i * wide + x, k * high + y) for x in range(0, wide, 7) for y in range(0, high, 5)}
            plain += len(seen) < 2
    return plain <= FIELDS * FIELDS * 2 // 3


def tour(main: MainWindow, folder: Path) -> int:
    """Through all stations and their pages, a picture of each, in the lighting that suits it."""
    folder.mkdir(parents=True, exist_ok=True)
    session = main.session
    session.results.refresh()

    def wait() -> bool:
        if settle(session, say=lambda words: print(f"fondale: {words}", file=sys.stderr)):
            return True
        left = ", ".join(words for _share, words in session.results.busy.values())
        print(f"fondale: nothing got on for {PATIENCE_S:.0f} s; still waiting: {left}.", file=sys.stderr)
        return False

    if not wait():
        return 1
    written = []
    for number, station in enumerate(main.stations, 1):
        main.light("down" if station in ("stage", "lamps") else "up")
        main.go(station)
        place = main.stations[station]
        for k, title in enumerate(place.pages if isinstance(place, PagedStation) else ("",)):
            if isinstance(place, PagedStation):
                place.turn_to(title)
            wait()
            picture = dressed_picture(main)
            path = folder / f"{number}-{station}{'-' + title.lower().replace(',', '').replace(' ', '-') if k else ''}.png"
            if picture is None:
                print(f"fondale: {place.name} was still blank after {DRESSING_S:.0f} s; no picture of it was written.", file=sys.stderr)
                return 1
            if not picture.save(str(path)):
                print(f"fondale: {path} could not be written.", file=sys.stderr)
                return 1
            written.append(path)
    print("Pictures of all stations:")
    for path in written:
        print(f"  {path}")
    return 0
