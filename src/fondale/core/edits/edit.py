# SPDX-License-Identifier: MIT
"""An edit is a small frozen class: what it does is told by its fields, and ``apply`` does it. The project given is never changed."""

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import wraps
from typing import Any, Generic, ParamSpec, TypeVar

from pydantic import ValidationError

from fondale.core.model import Listing, Model, Project, Spot
from fondale.core.model.references import loose_ends, without
from fondale.core.troubles import Trouble

T = TypeVar("T")
M = TypeVar("M", bound=Model)
P = ParamSpec("P")
R = TypeVar("R")


class EditError(Trouble):
    """An edit that cannot be done; the text says why, for the maker."""


# What the model asks of a value, by pydantic's kinds of error; in braces what it was declared with.
_ASKS = {
    "greater_than_equal": "at least {ge}", "less_than_equal": "at most {le}", "greater_than": "more than {gt}", "less_than": "less than {lt}",
    "string_too_long": "of at most {max_length} letters", "string_too_short": "some words", "too_long": "at most {max_length}", "too_short": "at least {min_length}",
    "finite_number": "a number", "float_type": "a number", "float_parsing": "a number", "int_type": "a whole number", "int_parsing": "a whole number",
    "int_from_float": "a whole number", "bool_type": "yes or no", "bool_parsing": "yes or no", "string_type": "words", "literal_error": "{expected}",
    "date_type": "a day", "date_parsing": "a day", "date_from_datetime_parsing": "a day", "datetime_type": "a moment", "datetime_parsing": "a moment",
    "missing": "given", "string_pattern_mismatch": "of small letters, digits, - and _", "union_tag_invalid": "one of {expected_tags}",
}  # fmt: skip


def words_of(error: ValidationError) -> str:
    """What cannot be, in words: the field, and what it asks for."""
    first = error.errors()[0]
    where = " ".join(str(p).replace("_", " ") for p in first["loc"])
    asked = _ASKS.get(first["type"])
    if asked is None:
        return f"{where}: {first['msg'].removeprefix('Value error, ')}".strip(": ")
    bounds = {k: f"{v:,.12g}" if isinstance(v, int | float) else str(v).replace("'", "") for k, v in first.get("ctx", {}).items()}
    return f"{where or 'it'} must be {asked.format_map(bounds)}"


def maker(make: Callable[P, R]) -> Callable[P, R]:
    """A function that makes edits raises EditError, in words for the maker, for what cannot be."""

    @wraps(make)
    def made(*args: P.args, **more: P.kwargs) -> R:
        try:
            return make(*args, **more)
        except ValidationError as error:
            raise EditError(words_of(error)) from error

    return made


@dataclass(frozen=True)
class Edit(ABC):
    """``label`` names the edit in the undo menu; edits that share a ``gesture`` in a row are one step."""

    label: str
    gesture: str = field(default="", kw_only=True)

    def apply(self, project: Project) -> Project:
        """The project after this edit. Raises EditError, in words for the maker."""
        try:
            return self.done(project)
        except ValidationError as error:
            raise EditError(words_of(error)) from error
        except LookupError as error:
            raise EditError(f"“{self.label}” does not fit this project any more: {error}") from error

    @abstractmethod
    def done(self, project: Project) -> Project:
        """The project after this edit. Raises LookupError for what is gone and ValidationError for what cannot be."""


def apply(project: Project, *edits: Edit) -> Project:
    """The project after these edits, one after the other, and what follows from them; they name nothing that is not there.

    Raises EditError.
    """
    from fondale.core.edits import handing, printing, threads  # they are made of edits themselves

    before = project
    for edit in edits:
        project = edit.apply(project)
    for made in (handing, printing, threads):
        project = made.follow(before, project)
    if ends := loose_ends(project):
        known = {(end.field, end.value) for end in loose_ends(before)}  # what is reckoned with may have less in it than is named
        new = next((end for end in ends if (end.field, end.value) not in known), None)
        if new is not None:
            raise EditError(f"“{edits[-1].label}” names “{new.value}”, which is not in the project.")
    return project


@dataclass(frozen=True)
class Put(Edit, Generic[T]):
    """Set one value."""

    spot: Spot[T]
    value: T

    def done(self, project: Project) -> Project:
        return self.spot.set(project, self.value)


def put(spot: Spot[T], value: T, label: str, gesture: str = "") -> Put[T]:
    """The edit that sets one value, for example ``put(LAMPS.at("moon").then(lambda m: m.level), 0.4, "Dim the moon")``."""
    return Put(label, spot, value, gesture=gesture)


@dataclass(frozen=True)
class Together(Edit):
    """Several edits that are one: nobody asks what follows from them before all are done."""

    edits: tuple[Edit, ...]

    def done(self, project: Project) -> Project:
        for edit in self.edits:
            project = edit.done(project)
        return project


@dataclass(frozen=True)
class Add(Edit, Generic[M]):
    """Append to one of the lists."""

    listing: Listing[M]
    thing: M

    def done(self, project: Project) -> Project:
        return self.listing.spot.set(project, (*self.listing.members(project), self.thing))


@dataclass(frozen=True)
class Remove(Edit):
    """Take a thing out of its list, and out of whatever named it."""

    listing: Listing[Any]
    ident: str

    def done(self, project: Project) -> Project:
        return without(project, self.listing, self.ident)


def remove(listing: Listing[Any], thing: Any) -> Remove:
    """The edit that takes out a thing that has a name."""
    return Remove(f"Remove {thing.name}", listing, thing.id)
