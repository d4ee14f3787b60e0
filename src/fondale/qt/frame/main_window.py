# SPDX-License-Identifier: MIT
"""The window: menu bar, playbill, stations, prompt corner, footlights."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QKeySequence
from PySide6.QtWidgets import QApplication, QHBoxLayout, QMainWindow, QMenu, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from fondale.app.actions import DEEDS, Here
from fondale.app.settings import TYPE_SIZES
from fondale.core.model import Listing
from fondale.demo import SAMPLES
from fondale.qt.frame.breath import Breath
from fondale.qt.frame.caliper_window import CaliperWindow
from fondale.qt.frame.corner import PromptCorner
from fondale.qt.frame.drops import Drops
from fondale.qt.frame.exchange import Exchange
from fondale.qt.frame.footlights import STATIONS, Footlights
from fondale.qt.frame.hands import Hands
from fondale.qt.frame.places import BETWEEN_PARTS_MS, MAKERS, Growth, way_to
from fondale.qt.frame.playbill import Playbill
from fondale.qt.frame.projects import Projects
from fondale.qt.frame.tailor import Tailor
from fondale.qt.furniture.later import Later
from fondale.qt.furniture.prose import Prose, on_a_button
from fondale.qt.furniture.rows import hold
from fondale.qt.furniture.workplace import Station
from fondale.qt.session import Session
from fondale.qt.theme.palette import dress

if TYPE_CHECKING:
    from fondale.qt.frame.tables_window import TablesWindow

# What scrolls shows the ground of the window; this never changes, so that nothing inside is dressed anew for it.
_BARE = "QScrollArea { border: 0; background: transparent; } QScrollArea > QWidget > QWidget { background: transparent; } QAbstractScrollArea::corner { background: transparent; border: 0; }"
SAID_MS = 6000
INTO_FIELDS = ("caliper",)  # what it brings takes the place of what is typed


class MainWindow(QMainWindow):
    """One document, six stations."""

    def __init__(self, session: Session, projects: Projects) -> None:
        super().__init__()
        self.session = session
        self.projects = projects
        self.caliper = session.instruments.caliper
        self.breath = Breath(self)
        self.stations: Later[Station] = Later({name: partial(self._make_station, name) for name in MAKERS})
        projects.taking.window = self
        self.playbill = projects.window = Playbill(session)  # dialogs that open from there are dressed as it is
        self.footlights = Footlights(session)
        self.prompts = PromptCorner(session, self.breath)
        self._stack = QStackedWidget()
        self._frames = {name: QScrollArea() for name in MAKERS}
        for frame in self._frames.values():
            frame.setWidgetResizable(True)
            frame.setStyleSheet(_BARE)
            frame.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            self._stack.addWidget(frame)
        self.tailor = Tailor(
            self, session.theme, lambda: [p for st in self.stations.made.values() for p in st.parts()], BETWEEN_PARTS_MS, self.breath
        )
        session.dress_asked.connect(self.tailor.dress)
        session.came_on.connect(self.tailor.lay_out)
        session.project_changed.connect(self.tailor.wait)
        session.results_changed.connect(self.tailor.wait)
        session.selection_changed.connect(self.tailor.wait)
        self.growth = Growth(self)
        self._said = Prose("bold")
        self._said.setContentsMargins(24, 4, 16, 4)
        self._said.hide()
        self._hush = QTimer(self)
        self._hush.setSingleShot(True)
        self._hush.setInterval(SAID_MS)
        self._hush.timeout.connect(self._said.hide)
        self._lay_out()
        self.caliper_window = CaliperWindow(session, self.caliper, self)
        self.tables_window: TablesWindow | None = None
        self.hands = Hands(self)
        self.exchange = Exchange(self, session)
        self._actions: dict[str, QAction] = {}
        self._make_menus()
        self.drops = Drops(self, self)
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self.caliper_window.attend)
        session.take_asked.connect(self.hands.take_height)
        self.footlights.chosen.connect(self.visit)
        self.playbill.went.connect(self.visit)
        self.prompts.went.connect(self.visit)
        session.said.connect(self.say)
        session.shown.connect(self._show_subject)
        session.project_changed.connect(self._follow)
        session.results_changed.connect(self._tell_trouble)
        session.results_changed.connect(self._allow)
        self.prompts.setVisible(bool(session.settings.get("corner")))
        self.go("brief")
        self._follow()

    def _lay_out(self) -> None:
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.playbill)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self._stack, 1)
        middle.addWidget(self.prompts)
        column.addLayout(middle, 1)
        column.addWidget(self._said)
        column.addWidget(self.footlights)
        self.setCentralWidget(whole)

    def _make_menus(self) -> None:
        slots: dict[str, Callable[[], object]] = {
            "new": self.projects.new, "open": self.projects.open, "save": self.projects.save, "save_as": self.projects.save_as,
            "papers": self.projects.print_sheet, "export": self.exchange.export, "floor": self.exchange.bring, "copy": self.exchange.copy, "paste": self.exchange.paste, "unsaved": self.projects.unsaved, "quit": self.close, "undo": self.undo, "redo": self.redo, "lights": self.switch_lights,
            "corner": self.switch_corner, "larger": lambda: self.enlarge(1), "smaller": lambda: self.enlarge(-1),
            "caliper": self.hands.take_reading, "caliper_window": self.hands.show_caliper, "zero": self.hands.zero_caliper, "lux": self.hands.take_lux, "timer": self.hands.toggle_timer, "earlier": partial(self.hands.shift_step, -1), "later": partial(self.hands.shift_step, 1),
            "first": self.projects.first_minutes, "tables": self.hands.show_tables, "keys": self.projects.keys, "about": self.projects.about,
            **{f"go_{s}": partial(self.visit, s) for s in STATIONS},
        }  # fmt: skip
        menus: dict[str, QMenu] = {}
        for deed in DEEDS:
            menu = menus.get(deed.menu) or menus.setdefault(deed.menu, self.menuBar().addMenu(deed.menu))
            if not deed.words:
                menu.addSeparator()
            elif deed.name == "samples":
                samples = menu.addMenu(deed.words)
                for name in SAMPLES:
                    samples.addAction(name, partial(self.projects.open_sample, name))
            elif deed.name == "recent":
                self._recent = menu.addMenu(deed.words)
                self._recent.aboutToShow.connect(self._fill_recent)
            else:
                action = QAction(deed.words, self)
                if deed.key:
                    action.setShortcut(QKeySequence(deed.key))
                action.triggered.connect(lambda _checked=False, name=deed.name: self._do(name, slots[name]))
                self._actions[deed.name] = action
                menu.addAction(action)

    def _do(self, name: str, deed: Callable[[], object]) -> None:
        """What a menu or a key asks for; what is being typed is part of the work by then, and what cannot be is told with what was done."""
        left = "" if name in INTO_FIELDS else self.projects.taking.take()
        if left:
            self._said.hide()
        deed()
        if left:
            self.say(f"{self.said()} {left}".strip())

    def _fill_recent(self) -> None:
        self._recent.clear()
        for name in self.session.settings.get("recent"):
            self._recent.addAction(on_a_button(Path(name).name), partial(self.projects.open_path, Path(name)))
        if self._recent.isEmpty():
            self._recent.addAction("nothing yet").setEnabled(False)

    def _make_station(self, name: str) -> Station:
        station = MAKERS[name](self.session)
        hold(self._frames[name], station)
        self.tailor.dress(())
        return station

    @property
    def station(self) -> str:
        """The station on show."""
        return next(name for name, frame in self._frames.items() if frame is self._stack.currentWidget())

    def visit(self, station: str) -> None:
        """Show a station as its maker goes there: turn by turn, so that the window never stops to hear."""
        self.session.leaving.emit()
        self.tailor.wait()
        self.session.turns.run(way_to(self, station))

    def go(self, station: str) -> None:
        """Show a station."""
        self.session.turns.stop()
        self.session.leaving.emit()
        place = self.stations[station]
        self.tailor.dress(place.undressed())
        self.tailor.lay_out()
        self.tailor.wait()
        self._stack.setCurrentWidget(self._frames[place.name])
        self.footlights.go(station)
        self.prompts.show_station(station)
        self._allow()

    def say(self, words: str) -> None:
        """Say something above the footlights for a while."""
        self._said.setText(words)
        self._said.show()
        self._hush.start()

    def said(self) -> str:
        """What is being said, or an empty text."""
        return self._said.text() if self._said.isVisibleTo(self) else ""

    def undo(self) -> None:
        """Take back the last step."""
        self.session.document.undo()

    def redo(self) -> None:
        """Bring it back."""
        self.session.document.redo()

    def switch_lights(self) -> None:
        """House lights up or down."""
        self.light("down" if self.session.theme.lighting == "up" else "up")
        self.session.settings.set("lighting", self.session.theme.lighting)

    def light(self, lighting: str) -> None:
        """Let the house lights up or down, this once."""
        if self.session.theme.lighting != lighting:
            self.session.theme.lighting = lighting
            self._dress()

    def enlarge(self, way: int) -> None:
        """Larger or smaller type."""
        theme = self.session.theme
        at = min(range(len(TYPE_SIZES)), key=lambda i: abs(TYPE_SIZES[i] - theme.scale)) + way
        theme.scale = TYPE_SIZES[max(0, min(len(TYPE_SIZES) - 1, at))]
        self.session.settings.set("type", theme.scale)
        self._dress()

    def _dress(self) -> None:
        dress(self.session.theme)
        self.wear()
        self.session.theme_changed.emit()

    def wear(self) -> None:
        """Dress what is on show; the rest follows bit by bit. The least size is that at which playbill and footlights are whole."""
        px = self.session.theme.px
        self.setMinimumSize(min(1000, px(780)), min(640, px(480)))
        bars = [b for f in self._frames.values() for b in (f.verticalScrollBar(), f.horizontalScrollBar())]
        self.tailor.dress(
            (
                self.menuBar(),
                self.playbill,
                self._said,
                self.footlights,
                self.caliper_window,
                *([self.tables_window] if self.tables_window else []),
                *bars,
            )
        )
        # The prompts come last: their cards are made anew, and those from before are gone by then.
        self.tailor.dress((*self.stations[self.station].undressed(), self.prompts))

    def switch_corner(self) -> None:
        """Show or hide the prompt corner."""
        shown = not self.prompts.isVisible()
        self.prompts.setVisible(shown)
        self.session.settings.set("corner", shown)

    def _show_subject(self, listing: Listing[Any], ident: str) -> None:
        self.stations[self.station].show_subject(listing, ident)

    def _follow(self) -> None:
        document = self.session.document
        for name, label in (("undo", document.undo_label), ("redo", document.redo_label)):
            words = name.capitalize()
            self._actions[name].setText(on_a_button(f"{words} “{label}”") if label else words)
        self._allow()
        self.setWindowTitle(f"{document.project.name}{' ·' if document.modified else ''} – Fondale")

    def _allow(self) -> None:
        """What can be done now, as the data of the actions tells it."""
        here = Here(self.session.results, self.station)
        for deed in DEEDS:
            if deed.when is not None:
                self._actions[deed.name].setEnabled(deed.when(here))

    def _tell_trouble(self) -> None:
        if self.session.results.trouble:
            self.say(
                "Something could not be computed; the last good result is still shown. "
                + self.session.results.trouble.strip().splitlines()[-1]
            )
            self.session.results.trouble = ""

    def shut(self) -> None:
        """End what runs beside the window."""
        self._hush.stop()
        self.growth.stop()
        self.tailor.timer.stop()
        self.projects.close()
        self.session.close()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.projects.may_leave():
            event.accept()
        else:
            event.ignore()
