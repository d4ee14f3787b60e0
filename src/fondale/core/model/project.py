# SPDX-License-Identifier: MIT
"""The whole project: one immutable value."""

from collections.abc import Iterable
from typing import Annotated, Any, Self, TypeVar

from pydantic import Field, model_validator

from fondale.core.model.base import Id, Key, Model, Name, Names, Text
from fondale.core.model.bench import Bit, Fit, Join, Need, Piece
from fondale.core.model.brief import Brief, Machine
from fondale.core.model.coats import Step, Surface
from fondale.core.model.diary import Draft, Page
from fondale.core.model.lamps import Area, Lamp, Meter, Moment, String, Supply
from fondale.core.model.own import OwnRow
from fondale.core.model.photos import Photo
from fondale.core.model.prints import PrintFile
from fondale.core.model.spots import Listing, Spot
from fondale.core.model.stage import Case, CaseRoom, Depth, Layout, Seat

SCHEMA_VERSION = 6
M = TypeVar("M", bound=Model)


class Accepted(Model):
    """A prompt that the maker leaves as it is, and why."""

    key: Key
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
    depth: Depth = Depth()
    photos: tuple[Photo, ...] = ()
    needs: tuple[Need, ...] = ()
    pieces: tuple[Piece, ...] = ()
    bits: tuple[Bit, ...] = ()
    fits: tuple[Fit, ...] = ()
    joins: tuple[Join, ...] = ()
    prints: tuple[PrintFile, ...] = ()
    seats: tuple[Seat, ...] = ()
    layouts: tuple[Layout, ...] = ()
    lamps: tuple[Lamp, ...] = ()
    supplies: tuple[Supply, ...] = ()
    strings: tuple[String, ...] = ()
    moments: tuple[Moment, ...] = ()
    meters: tuple[Meter, ...] = ()
    areas: Annotated[tuple[Area, ...], Field(max_length=24)] = ()
    surfaces: tuple[Surface, ...] = ()
    steps: tuple[Step, ...] = ()
    pages: tuple[Page, ...] = ()
    tonight: Draft = Draft()
    accepted: tuple[Accepted, ...] = ()
    moment: Annotated[str, Names("moments")] = ""
    own: Annotated[tuple[OwnRow, ...], Field(max_length=500)] = ()

    @model_validator(mode="after")
    def _ids_are_unique(self) -> Self:
        for listing in LISTS:
            _unique(listing.members(self), listing.name)
        return self

    def find(self, listing: Listing[M], ident: str) -> M | None:
        """The member of a list with this id, or None."""
        return next((m for m in listing.members(self) if m.id == ident), None)  # type: ignore[attr-defined]

    def get(self, listing: Listing[M], ident: str) -> M:
        """The member of a list with this id. Raises Gone."""
        return listing.at(ident).read(self)

    def lead_of(self, file: PrintFile) -> PrintFile:
        """The file on whose plates a file is printed: its own, unless it lies beside one that has plates of its own; what is ordered has none."""
        lead = next((f for f in self.prints if f.id == file.beside), None)
        return lead if lead is not None and not (lead.beside or lead.ordered or file.ordered) else file


PROJECT: Spot[Project] = Spot()
PHOTOS = Listing[Photo].of(lambda p: p.photos)
NEEDS = Listing[Need].of(lambda p: p.needs)
PIECES = Listing[Piece].of(lambda p: p.pieces)
BITS = Listing[Bit].of(lambda p: p.bits)
FITS = Listing[Fit].of(lambda p: p.fits)
JOINS = Listing[Join].of(lambda p: p.joins)
PRINTS = Listing[PrintFile].of(lambda p: p.prints)
SEATS = Listing[Seat].of(lambda p: p.seats)
LAYOUTS = Listing[Layout].of(lambda p: p.layouts)
LAMPS = Listing[Lamp].of(lambda p: p.lamps)
SUPPLIES = Listing[Supply].of(lambda p: p.supplies)
STRINGS = Listing[String].of(lambda p: p.strings)
MOMENTS = Listing[Moment].of(lambda p: p.moments)
METERS = Listing[Meter].of(lambda p: p.meters)
AREAS = Listing[Area].of(lambda p: p.areas)
SURFACES = Listing[Surface].of(lambda p: p.surfaces)
STEPS = Listing[Step].of(lambda p: p.steps)
PAGES = Listing[Page].of(lambda p: p.pages)
ROOMS = Listing[CaseRoom].of(lambda p: p.case.rooms)
MACHINES = Listing[Machine].of(lambda p: p.brief.machines)
OWN = Listing[OwnRow].of(lambda p: p.own)

LISTS: tuple[Listing[Any], ...] = (
    PHOTOS, NEEDS, PIECES, BITS, FITS, JOINS, PRINTS, SEATS, LAYOUTS, LAMPS, SUPPLIES, STRINGS, MOMENTS, METERS, AREAS, SURFACES, STEPS, PAGES, ROOMS, MACHINES, OWN,
)  # fmt: skip
