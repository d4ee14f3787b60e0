# SPDX-License-Identifier: MIT
"""How derived results are declared, computed, kept and handed on. Which there are is told in ``derived``.

A result is a function of a snapshot. It is computed again only when what it depends on has changed, and it is never parted from the
snapshot that it is of.
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import TYPE_CHECKING, Any, Generic, Literal, TypeVar, cast

from fondale.core.model import Project
from fondale.core.progress import Progress, Quiet
from fondale.core.unknown import Unknown, reckonable

if TYPE_CHECKING:
    from fondale.core.light.desk import FineDesk

T = TypeVar("T")
T_co = TypeVar("T_co", covariant=True)
Lane = Literal["quick", "view", "plan", "light"]
Key = tuple[Any, ...]


@dataclass(frozen=True)
class Look:
    """What is looked at besides the project: the day, the seat (empty: the first), how wide pictures are, in pixels, and where in its range
    and rise the head is, from -0.5 to 0.5.
    """

    today: date
    seat: str = ""
    width: int = 640
    head: tuple[float, float] = (0.0, 0.0)

    def seat_of(self, project: Project) -> str:
        """The seat looked from, or an empty text where there is none."""
        ids = [s.id for s in project.seats]
        return self.seat if self.seat in ids else (ids[0] if ids else "")


@dataclass(frozen=True, eq=False)
class Result(Generic[T_co]):
    """One derived result: its name, what is said while it is computed, which lane it runs in, and how it is computed.

    ``depends`` are the parts of the project and of the look that it is a function of; ``needs`` the results that it builds on.
    ``slow``: it is left alone while something is dragged. ``finer`` is the same thing again, better and later: whoever asks for this one is
    given that, where it is known.
    """

    name: str
    words: str
    lane: Lane
    compute: Callable[["Reckoning"], T_co]
    depends: Callable[[Project, Look], Key]
    needs: tuple["Result[Any]", ...] = ()
    slow: bool = False
    finer: "Result[Any] | None" = None

    def key(self, project: Project, look: Look, told: dict[str, Key] | None = None) -> Key:
        """What the result depends on, with what its needs depend on: equal keys mean an equal result. By their names, those of the same snapshot that
        were ``told`` before are taken, and others added: many build on the same.
        """
        told = {} if told is None else told
        if self.name not in told:
            told[self.name] = (*self.depends(project, look), *(n.key(project, look, told) for n in self.needs))
        return told[self.name]


class NotKnown(LookupError):
    """A result that has not been computed, or could not be."""


@dataclass(frozen=True)
class Derived:
    """A snapshot, as it is reckoned with, and results that are of it; ``unknown`` are the keys that were left out."""

    project: Project
    values: Mapping[str, Any] = field(default_factory=dict)
    unknown: tuple[Unknown, ...] = ()

    def __getitem__(self, result: Result[T]) -> T:
        """The value of a result. Raises NotKnown."""
        if result.name not in self.values:
            raise NotKnown(f"{result.name} is not known")
        return cast(T, self.get(result))

    def get(self, result: Result[T]) -> T | None:
        """The value of a result, or None where it is not known."""
        known = self.values.get(result.name)
        return known if result.finer is None else self.values.get(result.finer.name, known)


class Reckoner:
    """Keeps the last value of every result, and what is dear to build for the light."""

    def __init__(self) -> None:
        self._kept: dict[str, tuple[Key, Any]] = {}
        self._desk: FineDesk | None = None

    @property
    def fine_desk(self) -> "FineDesk":
        """The light that has been solved so far: refined, and as ``first`` answered."""
        from fondale.core.light.desk import FineDesk  # only where light is reckoned

        if self._desk is None:
            self._desk = FineDesk()
        return self._desk

    def branch(self) -> "Reckoner":
        """Another one that knows what this one does, and keeps to itself what it finds."""
        out = Reckoner()
        out._kept.update(self._kept)
        return out

    def give(self, result: Result[T], key: Key, value: T) -> None:
        """Take a value that was computed elsewhere."""
        self._kept[result.name] = (key, value)

    def compute(self, result: Result[T], project: Project, look: Look, progress: Progress | None = None) -> T:
        """The value of a result: kept where it is of an equal key, computed otherwise. Raises whatever goes wrong."""
        key = result.key(project, look)
        kept = self._kept.get(result.name)
        if kept is None or kept[0] != key:
            kept = (key, result.compute(Reckoning(self, project, look, progress or Quiet())))
            self._kept[result.name] = kept
        return cast(T, kept[1])

    def derive(self, project: Project, look: Look, results: Iterable[Result[Any]], progress: Progress | None = None) -> Derived:
        """Several results of one snapshot, as far as its keys are known. Raises whatever goes wrong."""
        sure, unknown = reckonable(project)
        return Derived(sure, {r.name: self.compute(r, sure, look, progress) for r in results}, unknown)


@dataclass(frozen=True)
class Reckoning:
    """What the function of a result is given."""

    reckoner: Reckoner
    project: Project
    look: Look
    progress: Progress

    def __getitem__(self, result: Result[T]) -> T:
        """A result that this one builds on."""
        return self.reckoner.compute(result, self.project, self.look, self.progress)
