# SPDX-License-Identifier: MIT
"""Building a sample through edits, so that it holds only what a maker could have entered."""

from typing import Any, TypeVar

from fondale.core.edits import Add, Edit, Remove, apply, put
from fondale.core.model import Listing, Model, Project, Spot

T = TypeVar("T")
M = TypeVar("M", bound=Model)


class Builder:
    """Applies edits one after the other."""

    def __init__(self, project: Project) -> None:
        self.project = project

    def set(self, spot: Spot[T], to: T) -> None:
        """Set one value."""
        self.do(put(spot, to, "Set a value"))

    def add(self, listing: Listing[M], *things: M) -> None:
        """Append to one of the project's lists."""
        self.do(*(Add(f"Add to the {listing.name}", listing, thing) for thing in things))

    def do(self, *edits: Edit) -> None:
        """Apply edits."""
        self.project = apply(self.project, *edits)

    def clear(self, listing: Listing[Any]) -> None:
        """Take out what a new project comes with."""
        self.do(*(Remove("Remove", listing, thing.id) for thing in listing.members(self.project)))
