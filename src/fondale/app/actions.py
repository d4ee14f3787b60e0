# SPDX-License-Identifier: MIT
"""Every action of the menus, declared once: name, words, key, and when it can be used."""

from collections.abc import Callable
from dataclasses import dataclass

from fondale.app.results import Results


@dataclass(frozen=True)
class Here:
    """What tells whether something can be done: the results with their document, and the station on show."""

    results: Results
    station: str


@dataclass(frozen=True)
class Deed:
    """One entry of a menu; an empty text in ``words`` makes a line. ``when`` tells whether it can be used; without it, it always can."""

    menu: str
    name: str
    words: str
    key: str = ""
    when: Callable[["Here"], bool] | None = None


PLACES = ("bench", "stage")  # where pieces are chosen


DEEDS = (
    Deed("Project", "new", "New project", "Ctrl+N"),
    Deed("Project", "open", "Open…", "Ctrl+O"),
    Deed("Project", "samples", "Samples"),
    Deed("Project", "recent", "Opened lately"),
    Deed("Project", "unsaved", "Unsaved work…"),
    Deed("Project", "line1", ""),
    Deed("Project", "save", "Save", "Ctrl+S"),
    Deed("Project", "save_as", "Save as…", "Ctrl+Shift+S"),
    Deed("Project", "papers", "Print the build sheet…", "Ctrl+P"),
    Deed("Project", "export", "Write the scene…"),
    Deed("Project", "floor", "Bring a floor plan…"),
    Deed("Project", "line2", ""),
    Deed("Project", "quit", "Quit", "Ctrl+Q"),
    Deed("Edit", "undo", "Undo", "Ctrl+Z", lambda h: bool(h.results.document.undo_label)),
    Deed("Edit", "redo", "Redo", "Ctrl+Shift+Z", lambda h: bool(h.results.document.redo_label)),
    Deed("Edit", "line5", ""),
    Deed("Edit", "copy", "Copy the chosen piece", "Ctrl+C", lambda h: h.station in PLACES and bool(h.results.document.project.pieces)),
    Deed("Edit", "paste", "Paste a piece", "Ctrl+V", lambda h: h.station in PLACES),
    Deed("Edit", "line4", ""),
    Deed("Edit", "earlier", "Step one place earlier", "Ctrl+Up", lambda h: h.station == "coats" and bool(h.results.document.project.steps)),
    Deed("Edit", "later", "Step one place later", "Ctrl+Down", lambda h: h.station == "coats" and bool(h.results.document.project.steps)),
    Deed("View", "go_brief", "Brief", "Alt+1"),
    Deed("View", "go_bench", "Bench", "Alt+2"),
    Deed("View", "go_stage", "Stage", "Alt+3"),
    Deed("View", "go_lamps", "Lamps", "Alt+4"),
    Deed("View", "go_coats", "Coats", "Alt+5"),
    Deed("View", "go_diary", "Diary", "Alt+6"),
    Deed("View", "line3", ""),
    Deed("View", "lights", "House lights", "F9"),
    Deed("View", "corner", "Prompt corner", "F8"),
    Deed("View", "larger", "Larger type", "Ctrl++"),
    Deed("View", "smaller", "Smaller type", "Ctrl+-"),
    Deed("Instruments", "caliper_window", "Caliper…", "Ctrl+K"),
    Deed("Instruments", "caliper", "Take what the caliper shows", "Ctrl+M"),
    Deed("Instruments", "zero", "Close the caliper and zero it"),
    Deed("Instruments", "lux", "Read the lux meter at every meter", "Ctrl+L", lambda h: bool(h.results.document.project.meters)),
    Deed("Instruments", "timer", "Start or stop the timer", "F6"),
    Deed("Help", "first", "First five minutes"),
    Deed("Help", "tables", "What the tables say…", "Ctrl+T"),
    Deed("Help", "keys", "Keys"),
    Deed("Help", "about", "About Fondale"),
)

KEYS = {deed.name: deed.key for deed in DEEDS}


def keyed(words: str, name: str) -> str:
    """Words for a tip, with the key of the action that does the same."""
    return f"{words} ({KEYS[name]})" if words else KEYS[name]
