"""The whole project: one immutable value."""

from collections.abc import Iterable
from typing import Any, Self

from pydantic import model_validator

from fondale.core.model.base import Id, Model, Name, Text
from fondale.core.model.bench import Bit, Fit, Join, Need, Piece
from fondale.core.model.brief import Brief
from fondale.core.model.coats import Step, Surface
from fondale.core.model.diary import Page
from fondale.core.model.lamps import Lamp, Meter, Moment, String, Supply
from fondale.core.model.photos import Photo
from fondale.core.model.prints import PrintFile
from fondale.core.model.stage import Case, Seat

SCHEMA_VERSION = 2


LISTS = (
    "photos", "needs", "pieces", "bits", "fits", "joins", "prints", "seats", "lamps", "supplies", "strings", "moments", "meters",
    "surfaces", "steps", "pages",
)  # fmt: skip


class Accepted(Model):
    """A prompt that the maker leaves as it is, and why."""

    key: str
    reason: Text


def _unique(things: Iterable[Any], what: str) -> None:
    ids = [thing.id for thing in things]
    if len(set(ids)) < len(ids):
        twice = next(ident for k, ident in enumerate(ids) if ident in ids[:k])
        raise ValueError(f"two {what} share the id “{twice}”")


class Project(Model):
    """Everything that is saved. Derived results are never part of it."""

    schema_version: int = SCHEMA_VERSION
    id: Id
    name: Name
    brief: Brief
    case: Case = Case()
    photos: tuple[Photo, ...] = ()
    needs: tuple[Need, ...] = ()
    pieces: tuple[Piece, ...] = ()
    bits: tuple[Bit, ...] = ()
    fits: tuple[Fit, ...] = ()
    joins: tuple[Join, ...] = ()
    prints: tuple[PrintFile, ...] = ()
    seats: tuple[Seat, ...] = ()
    lamps: tuple[Lamp, ...] = ()
    supplies: tuple[Supply, ...] = ()
    strings: tuple[String, ...] = ()
    moments: tuple[Moment, ...] = ()
    meters: tuple[Meter, ...] = ()
    surfaces: tuple[Surface, ...] = ()
    steps: tuple[Step, ...] = ()
    pages: tuple[Page, ...] = ()
    accepted: tuple[Accepted, ...] = ()
    moment: str = ""

    @model_validator(mode="after")
    def _ids_are_unique(self) -> Self:
        for field in LISTS:
            _unique(getattr(self, field), field)
        return self

    def find(self, field: str, ident: str) -> Any:
        """The member of ``field`` (for example ``"pieces"``) with this id, or None."""
        return next((m for m in getattr(self, field) if m.id == ident), None)
