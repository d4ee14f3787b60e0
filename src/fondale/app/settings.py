# SPDX-License-Identifier: MIT
"""What the application remembers between runs, declared once: name, default, words, allowed values."""

import json
import os
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from platformdirs import user_cache_path, user_config_path, user_state_path

from fondale.storage.disk import PRIVATE, private_folder, put_file, read_small


@dataclass(frozen=True)
class Setting:
    """One remembered value."""

    name: str
    default: Any
    words: str
    allowed: tuple[Any, ...] = ()


TYPE_SIZES = (0.85, 1.0, 1.15, 1.3, 1.5, 1.75)
SETTINGS = (
    Setting("lighting", "up", "House lights: up or down", ("up", "down")),
    Setting("type", 1.0, "Size of the type, as a factor", TYPE_SIZES),
    Setting("corner", True, "Prompt corner shown", (True, False)),
    Setting("screens", {}, "Pixels to a millimetre, by screen"),
    Setting("recent", [], "Projects opened lately"),
)


def config_folder() -> Path:
    """Where settings live; FONDALE_HOME moves everything into one folder."""
    home = os.environ.get("FONDALE_HOME")
    return Path(home) if home else user_config_path("fondale")


def state_folder() -> Path:
    """Where unsaved work is kept for recovery."""
    home = os.environ.get("FONDALE_HOME")
    return Path(home) / "state" if home else user_state_path("fondale")


def cache_folder() -> Path:
    """Where what can be made again is kept."""
    home = os.environ.get("FONDALE_HOME")
    return Path(home) / "cache" if home else user_cache_path("fondale")


class Settings:
    """Reads a JSON file leniently, writes it best-effort: settings never stand in the way of work."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._file = folder / "settings.json"
        self._values: dict[str, Any] = {s.name: s.default for s in SETTINGS}
        try:
            raw = json.loads(read_small(self._file))
        except (OSError, ValueError, RecursionError):
            raw = {}
        for setting in SETTINGS:
            value = raw.get(setting.name, setting.default) if isinstance(raw, dict) else setting.default
            fits = value in setting.allowed if setting.allowed else isinstance(value, type(setting.default))
            self._values[setting.name] = value if fits else setting.default

    def get(self, name: str) -> Any:
        """The value of a declared setting."""
        return self._values[name]

    def set(self, name: str, value: Any) -> None:
        """Change a declared setting and write the file."""
        self._values[name] = value
        try:
            private_folder(self._file.parent)
            put_file(self._file, json.dumps(self._values, indent=1).encode(), PRIVATE)
        except OSError:
            return

    def opened(self, path: Path) -> None:
        """Put a file first among those opened lately."""
        name = str(path.resolve())
        self.set("recent", [name, *(r for r in self._values["recent"] if r != name)][:8])
