# SPDX-License-Identifier: MIT
"""Edits: small frozen classes that turn one project into the next, each with a name for the undo menu."""

from fondale.core.edits.edit import Add, Edit, EditError, Put, Remove, Together, apply, put, remove
from fondale.core.edits.ids import new_id
from fondale.core.edits.new_things import new_project

__all__ = ["Add", "Edit", "EditError", "Put", "Remove", "Together", "apply", "new_id", "new_project", "put", "remove"]
