# SPDX-License-Identifier: MIT
"""What the window is asked to open."""

from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from fondale.app.document import Document


@dataclass(frozen=True)
class Window:
    """A file that was read, a sample by name, or an empty project; a tour writes pictures of all stations to a folder and ends.

    ``trouble`` is said in the window: why the file that was asked for is not there.
    """

    document: "Document | None" = None
    sample: str = ""
    tour: Path | None = None
    today: date = date.min
    trouble: str = ""
