"""Edits: pure functions project -> project, each with a name for the undo menu."""

from fondale.core.edits.edit import Edit, EditError, apply, put
from fondale.core.edits.ids import new_id
from fondale.core.edits.new_things import new_project

__all__ = ["Edit", "EditError", "apply", "new_id", "new_project", "put"]
