"""Building a sample through edits, so that it holds only what a maker could have entered."""

from typing import Any

from fondale.core.edits import Edit, apply, put
from fondale.core.model import Model, Project


class Builder:
    """Applies edits one after the other."""

    def __init__(self, project: Project) -> None:
        self.project = project

    def set(self, *path: str, to: Any) -> None:
        """Set one value."""
        self.do(put(path, to, f"Set {path[-1]}"))

    def add(self, field: str, *things: Model) -> None:
        """Append to one of the project's lists."""
        for thing in things:
            self.do(Edit("add", f"Add to {field}", {"field": field, "thing": thing}))

    def do(self, *edits: Edit) -> None:
        """Apply edits."""
        for edit in edits:
            self.project = apply(self.project, edit)

    def remove(self, field: str, ident: str) -> None:
        """Take one thing out."""
        self.do(Edit("remove", "Remove", {"field": field, "ident": ident}))

    def clear(self, field: str) -> None:
        """Take out what a new project comes with."""
        for thing in getattr(self.project, field):
            self.remove(field, thing.id)
