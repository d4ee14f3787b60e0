"""Starting the application, and the tour that goes through all stations without a display."""

import gc
import os
import signal
import sys
import traceback
from collections.abc import Callable
from datetime import date
from types import TracebackType

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QApplication

from fondale.app.document import Document
from fondale.app.results import Results
from fondale.app.settings import Settings, config_folder, state_folder
from fondale.app.window import Window
from fondale.app.workers import ProcessWorkers
from fondale.core.edits import new_project
from fondale.demo import SAMPLES, sample_assets
from fondale.qt.frame.main_window import MainWindow
from fondale.qt.frame.projects import Projects
from fondale.qt.furniture.pages import PagedStation
from fondale.qt.session import Session
from fondale.qt.theme.palette import Theme, dress, load_fonts
from fondale.storage import FileTrouble, Recovery, left_behind

PATIENCE_MS = 120_000


def make_session(document: Document, settings: Settings, today: date) -> Session:
    """A session with its results, not yet connected to workers."""
    theme = Theme(settings.get("lighting"))
    return Session(document, Results(document, today), settings, theme)


def start(window: Window) -> int:
    """Open the window as asked; returns the exit code."""
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("Fondale")
    app.setDesktopFileName("fondale")
    load_fonts()
    settings = Settings(config_folder())
    if window.tour is not None:
        settings = Settings(window.tour / "no-settings")
    try:
        document = _document(window)
    except FileTrouble as error:
        print(f"fondale: {error}", file=sys.stderr)
        return 2
    session = make_session(document, settings, window.today)
    dress(app, session.theme)
    workers = session.connect_workers(lambda tell: ProcessWorkers(tell))
    try:
        state = state_folder() if window.tour is None else window.tour / "no-state"
        recovery = Recovery(state / str(os.getpid()))
        projects = Projects(session, recovery)
        main = MainWindow(session, projects)
        projects.window = main
        main.resize(1280, 800)
        main.show()
        if window.tour is not None:
            return _tour(main, window)
        if window.path is None and not window.sample:
            projects.recover(left_behind(state))
        session.results.refresh()
        calm_collector()
        sys.excepthook = own_up(session)
        signal.signal(signal.SIGINT, lambda *_: app.quit())
        return app.exec()
    finally:
        workers.close()


def calm_collector() -> None:
    """What lives from the start on need not be looked through at every collection: a full one takes longer than a blink."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 100)


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
    if window.path is not None:
        return Document.opened(window.path)
    if window.sample:
        return Document(SAMPLES[window.sample](window.today), assets=sample_assets(window.sample))
    return Document(new_project("New piece", window.today))


def settle(session: Session, patience_ms: int = PATIENCE_MS) -> bool:
    """Wait in an event loop until nothing is being computed; False when patience runs out."""
    loop = QEventLoop()
    poll, end = QTimer(), QTimer()
    quiet = {"turns": 0}

    def look() -> None:
        quiet["turns"] = 0 if session.results.busy else quiet["turns"] + 1
        if quiet["turns"] >= 12:
            loop.quit()

    poll.timeout.connect(look)
    poll.start(50)
    end.setSingleShot(True)
    end.timeout.connect(loop.quit)
    end.start(patience_ms)
    loop.exec()
    return not session.results.busy


def _tour(main: MainWindow, window: Window) -> int:
    """Through all stations and their pages, a picture of each, in the lighting that suits it."""
    assert window.tour is not None
    window.tour.mkdir(parents=True, exist_ok=True)
    main.session.results.refresh()
    if not settle(main.session):
        print("fondale: the computations did not end in time.", file=sys.stderr)
        return 1
    written = []
    for number, station in enumerate(main.stations, 1):
        dark = station in ("stage", "lamps")
        if (main.session.theme.lighting == "down") != dark:
            main.session.theme.lighting = "down" if dark else "up"
            main._dress()
        main.go(station)
        place = main.stations[station]
        for k, title in enumerate(place.pages if isinstance(place, PagedStation) else ("",)):
            if isinstance(place, PagedStation):
                place.turn_to(title)
            settle(main.session)
            path = window.tour / f"{number}-{station}{'-' + title.lower().replace(' ', '-') if k else ''}.png"
            if not main.grab().save(str(path)):
                print(f"fondale: {path} could not be written.", file=sys.stderr)
                return 1
            written.append(path)
    print("Pictures of all stations:")
    for path in written:
        print(f"  {path}")
    return 0
