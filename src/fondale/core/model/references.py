# SPDX-License-Identifier: MIT
"""What names what: everything here follows from the marks in the models, so that a new reference is told in one place, its field."""

from collections.abc import Iterator
from typing import Any

from fondale.core.model.base import Model, Names
from fondale.core.model.marks import Marked, changed, marked, reading
from fondale.core.model.project import LISTS, Project
from fondale.core.model.spots import Listing

BY_NAME: dict[str, Listing[Any]] = {listing.name: listing for listing in LISTS}


def _all(thing: Model) -> Iterator[Marked]:
    return marked(thing, Names)


def _listing(found: Marked) -> str:
    assert isinstance(found.mark, Names)
    return found.mark.listing


def loose_ends(project: Project) -> tuple[Marked, ...]:
    """Every reference to something that is not there."""
    there = {name: {m.id for m in listing.members(project)} for name, listing in BY_NAME.items()}
    with reading(Names):
        return tuple(found for found in _all(project) if found.value not in there[_listing(found)])


def is_named(project: Project, listing: Listing[Any], ident: str) -> bool:
    """Whether anything names this one."""
    with reading(Names):
        return any((_listing(found), found.value) == (listing.name, ident) for found in _all(project))


def tied_up(project: Project) -> Project:
    """The project without loose ends: what names nothing is let go, and what cannot be without it goes too, until all hold."""
    while ends := {(_listing(end), end.value) for end in loose_ends(project)}:
        project = changed(project, Names, lambda found: None if (_listing(found), found.value) in ends else found.value)
    return project


def without(project: Project, listing: Listing[Any], ident: str) -> Project:
    """The project without one thing, and without whatever named it. Prompts that were left and speak of it speak again.

    Raises LookupError where it is not there.
    """
    members = listing.members(project)
    rest = tuple(m for m in members if m.id != ident)
    if len(rest) == len(members):
        raise LookupError(f"{ident} is not there")
    kept = tuple(a for a in project.accepted if ident not in a.key.split(":")[1:])
    project = tied_up(listing.spot.set(project, rest))
    return project if len(kept) == len(project.accepted) else project.but(accepted=kept)


def renamed(project: Project, listing: Listing[Any], old: str, new: str) -> Project:
    """The project where one thing has another id, and whatever names it follows. Raises LookupError and ValidationError."""
    members = listing.members(project)
    if not any(m.id == old for m in members):
        raise LookupError(f"{old} is not there")
    project = listing.spot.set(project, tuple(m.but(id=new) if m.id == old else m for m in members))
    return changed(project, Names, lambda found: new if (_listing(found), found.value) == (listing.name, old) else found.value)
