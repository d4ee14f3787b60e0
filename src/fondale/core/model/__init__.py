"""The project as frozen models: the vocabulary of the house, one module a station."""

from fondale.core.model.base import Model
from fondale.core.model.bench import Measure, Piece
from fondale.core.model.brief import Brief, HouseRules
from fondale.core.model.coats import Step, Surface
from fondale.core.model.diary import Page
from fondale.core.model.lamps import Lamp, Meter, Moment, String, Supply
from fondale.core.model.project import SCHEMA_VERSION, Accepted, Project
from fondale.core.model.shapes import Shape
from fondale.core.model.stage import Case, Place, Seat

__all__ = [
    "SCHEMA_VERSION",
    "Accepted",
    "Brief",
    "Case",
    "HouseRules",
    "Lamp",
    "Measure",
    "Meter",
    "Model",
    "Moment",
    "Page",
    "Piece",
    "Place",
    "Project",
    "Seat",
    "Shape",
    "Step",
    "String",
    "Supply",
    "Surface",
]
