"""Projects as the commands open them."""

from pathlib import Path

from fondale.core.model import Project
from fondale.core.tables import in_force
from fondale.storage import load


def opened(path: Path) -> Project:
    """The project of a file, its own rows in the tables. Raises FileTrouble."""
    project = load(path)
    in_force(project)
    return project
