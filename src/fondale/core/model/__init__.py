"""The project as frozen models: the vocabulary of the house, one module a station."""

from fondale.core.model.base import Model
from fondale.core.model.bench import Bit, Detail, Fit, Join, Measure, Need, Piece
from fondale.core.model.brief import Brief, HouseRules, Machine
from fondale.core.model.coats import Step, Surface
from fondale.core.model.diary import Page
from fondale.core.model.lamps import Lamp, Meter, Moment, String, Supply
from fondale.core.model.photos import Frame, Horizon, Photo, Thread
from fondale.core.model.prints import Cut, PrintFile
from fondale.core.model.project import (
    BITS,
    FITS,
    JOINS,
    LAMPS,
    LISTS,
    MACHINES,
    METERS,
    MOMENTS,
    NEEDS,
    PAGES,
    PHOTOS,
    PIECES,
    PRINTS,
    PROJECT,
    SCHEMA_VERSION,
    SEATS,
    STEPS,
    STRINGS,
    SUPPLIES,
    SURFACES,
    Accepted,
    Project,
)
from fondale.core.model.shapes import Shape
from fondale.core.model.spots import Gone, Listing, Spot
from fondale.core.model.stage import Case, Place, Seat

__all__ = [
    "BITS",
    "FITS",
    "JOINS",
    "LAMPS",
    "LISTS",
    "MACHINES",
    "METERS",
    "MOMENTS",
    "NEEDS",
    "PAGES",
    "PHOTOS",
    "PIECES",
    "PRINTS",
    "PROJECT",
    "SCHEMA_VERSION",
    "SEATS",
    "STEPS",
    "STRINGS",
    "SUPPLIES",
    "SURFACES",
    "Accepted",
    "Bit",
    "Brief",
    "Case",
    "Cut",
    "Detail",
    "Fit",
    "Frame",
    "Gone",
    "Horizon",
    "HouseRules",
    "Join",
    "Lamp",
    "Listing",
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
    "Spot",
    "Step",
    "String",
    "Supply",
    "Surface",
    "Thread",
]
