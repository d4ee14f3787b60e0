"""Bench: pieces, what was measured on them and what they claim to be."""

from typing import Annotated, Literal

from pydantic import Field

from fondale.core.model.base import Id, Model, Name, PositiveMm, Rgb, Text
from fondale.core.model.shapes import Shape
from fondale.core.model.stage import Place

Claim = Annotated[str, Field(max_length=40)]


class Measure(Model):
    """One height taken with the caliper: crown of a figure, or the named size of a thing."""

    mm: PositiveMm
    error_mm: Annotated[float, Field(ge=0, le=100)] = 0.1


class Piece(Model):
    """Anything placed in the scene, or waiting on the bench for it (``place`` is None)."""

    id: Id
    name: Name
    shape: Shape
    origin: Literal["bought", "printed file", "gaming", "kitbash", "scratch"] = "scratch"
    claim: Claim = ""
    measure: Measure | None = None
    thing: str = ""
    printed_percent: Annotated[float, Field(gt=0, le=10_000)] = 100.0
    role: Literal["piece", "scenery"] = "piece"
    stands: Literal["beside", "apart"] = "beside"
    place: Place | None = None
    paint: Rgb = (0.35, 0.33, 0.30)
    weight_g: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    cost: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    note: Text = ""
