# SPDX-License-Identifier: MIT
"""Spots: single values of a project, told by the model's own attributes.

``LAMPS.at("moon").then(lambda m: m.level)`` is the level of one lamp: it can be read off any project, and an edit can set it.
The names in it are the model's, so that a reader, a search and mypy can follow a value from the field on the screen to the number
that it changes. A spot is data: it can be compared, kept and sent.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Generic, Self, TypeVar, cast

from fondale.core.model.base import Model

if TYPE_CHECKING:
    from fondale.core.model.project import Project

T = TypeVar("T")
U = TypeVar("U")
M = TypeVar("M", bound=Model)


class Gone(LookupError):
    """What a spot speaks of is not in the project (any more)."""


@dataclass(frozen=True)
class Attribute:
    """A field of a model."""

    name: str


@dataclass(frozen=True)
class Member:
    """The member of a list that has this id."""

    ident: str


@dataclass(frozen=True)
class Key:
    """A value of a dictionary."""

    key: str


@dataclass(frozen=True)
class Kind:
    """The value as long as it is of this model."""

    model: type[Any]


Step = Attribute | Member | Key | Kind


class _Trace:
    """Stands for a model while a getter says which attributes it takes."""

    def __init__(self, names: list[str]) -> None:
        self._names = names

    def __getattr__(self, name: str) -> "_Trace":
        self._names.append(name)
        return self


def _attributes(get: Callable[[Any], Any]) -> tuple[Attribute, ...]:
    names: list[str] = []
    trace = _Trace(names)
    if get(trace) is not trace:
        raise TypeError("a spot is told by attributes alone")
    return tuple(Attribute(n) for n in names)


@dataclass(frozen=True)
class Spot(Generic[T]):
    """One value of a project. ``path`` leads to it from the project."""

    path: tuple[Step, ...] = ()

    def then(self, get: Callable[[T], U]) -> "Spot[U]":
        """The value that ``get`` takes from here by attributes."""
        return Spot((*self.path, *_attributes(get)))

    def member(self: "Spot[tuple[M, ...]]", ident: str) -> "Spot[M]":
        """The member of a list by its id."""
        return Spot((*self.path, Member(ident)))

    def value_of(self: "Spot[dict[str, U]]", key: str) -> "Spot[U]":
        """The value of a key; it can be set where there is none yet."""
        return Spot((*self.path, Key(key)))

    def narrowed(self, model: type[U]) -> "Spot[U]":
        """The same value, as long as it is a ``model``."""
        return Spot((*self.path, Kind(model)))

    def read(self, project: "Project") -> T:
        """The value in a project. Raises Gone."""
        here: Any = project
        for step in self.path:
            here = _step(here, step)
        return cast(T, here)

    def find(self, project: "Project") -> T | None:
        """The value in a project, or None where it is gone."""
        try:
            return self.read(project)
        except Gone:
            return None

    def set(self, project: "Project", value: T) -> "Project":
        """The project with another value here. Raises Gone and ValidationError."""
        return cast("Project", _put(project, self.path, value))


def _step(owner: Any, step: Step) -> Any:
    match step:
        case Attribute(name):
            if not isinstance(owner, Model) or name not in owner.__dict__:
                raise Gone(f"There is no “{name}” here.")
            return owner.__dict__[name]
        case Member(ident):
            found = next((m for m in owner if m.id == ident), None)
            if found is None:
                raise Gone(f"“{ident}” is not in the project any more.")
            return found
        case Key(key):
            if key not in owner:
                raise Gone(f"“{key}” has no value here.")
            return owner[key]
        case Kind(model):
            if not isinstance(owner, model):
                raise Gone(f"This is no {model.__name__.lower()} any more.")
            return owner


def _put(owner: Any, path: tuple[Step, ...], value: Any) -> Any:
    if not path:
        return value
    step, rest = path[0], path[1:]
    if isinstance(step, Key):
        return {**owner, step.key: _put(owner.get(step.key), rest, value)}
    new = _put(_step(owner, step), rest, value)
    match step:
        case Attribute(name):
            return owner.but(**{name: new})
        case Member(ident):
            return tuple(new if m.id == ident else m for m in owner)
        case Kind():
            return new


@dataclass(frozen=True)
class Listing(Generic[M]):
    """One of the project's lists: what find, add, remove and choose are told."""

    name: str
    spot: Spot[tuple[M, ...]]

    @classmethod
    def of(cls, get: "Callable[[Project], tuple[M, ...]]") -> Self:
        """The list that ``get`` takes from a project."""
        path = _attributes(get)
        return cls(path[-1].name, Spot(path))

    def at(self, ident: str) -> Spot[M]:
        """The spot of one member."""
        return self.spot.member(ident)

    def members(self, project: "Project") -> tuple[M, ...]:
        """All members in a project."""
        return self.spot.read(project)
