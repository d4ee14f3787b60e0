"""Every action of the menus, declared once: name, words, key, and when it can be used."""

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Deed:
    """One entry of a menu. ``menu`` empty text in ``words`` makes a line. ``when`` tells whether it can be used."""

    menu: str
    name: str
    words: str
    key: str = ""
    when: str = ""


DEEDS = (
    Deed("Project", "new", "New project", "Ctrl+N"),
    Deed("Project", "open", "Open…", "Ctrl+O"),
    Deed("Project", "samples", "Samples"),
    Deed("Project", "recent", "Opened lately"),
    Deed("Project", "line1", ""),
    Deed("Project", "save", "Save", "Ctrl+S"),
    Deed("Project", "save_as", "Save as…", "Ctrl+Shift+S"),
    Deed("Project", "papers", "Print the build sheet…", "Ctrl+P"),
    Deed("Project", "line2", ""),
    Deed("Project", "quit", "Quit", "Ctrl+Q"),
    Deed("Edit", "undo", "Undo", "Ctrl+Z", "undo"),
    Deed("Edit", "redo", "Redo", "Ctrl+Shift+Z", "redo"),
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
    Deed("Instruments", "lux", "Read the lux meter at every meter", "Ctrl+L"),
    Deed("Instruments", "timer", "Start or stop the timer", "F6"),
    Deed("Help", "first", "First five minutes"),
    Deed("Help", "keys", "Keys"),
    Deed("Help", "about", "About Fondale"),
)

Slots = dict[str, Callable[[], None]]
