"""What the window is asked to open."""

from dataclasses import dataclass
from datetime import date
from pathlib import Path


@dataclass(frozen=True)
class Window:
    """A file, a sample by name, or an empty project; a tour writes pictures of all stations to a folder and ends."""

    path: Path | None = None
    sample: str = ""
    tour: Path | None = None
    today: date = date.min
