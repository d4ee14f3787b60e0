"""The project as frozen models: the vocabulary of the house, one module a station."""

from fondale.core.model.base import Model
from fondale.core.model.bench import Bit, Detail, Fit, Join, Measure, Need, Piece
from fondale.core.model.brief import Brief, HouseRules, Machine
from fondale.core.model.coats import Step, Surface
from fondale.core.model.diary import Page
from fondale.core.model.lamps import Lamp, Meter, Moment, String, Supply
from fondale.core.model.photos import Frame, Horizon, Photo, Thread
from fondale.core.model.prints import Cut, PrintFile
from fondale.core.model.project import SCHEMA_VERSION, Accepted, Project
from fondale.core.model.shapes import Shape
from fondale.core.model.stage import Case, Place, Seat

__all__ = [
    "SCHEMA_VERSION",
    "Accepted",
    "Bit",
    "Brief",
    "Case",
    "Cut",
    "Detail",
    "Fit",
    "Frame",
    "Horizon",
    "HouseRules",
    "Join",
    "Lamp",
    "Machine",
    "Measure",
    "Meter",
    "Model",
    "Moment",
    "Need",
    "Page",
    "Photo",
    "Piece",
    "Place",
    "PrintFile",
    "Project",
    "Seat",
    "Shape",
    "Step",
    "String",
    "Supply",
    "Surface",
    "Thread",
]
