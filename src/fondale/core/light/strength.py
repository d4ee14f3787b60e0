# SPDX-License-Identifier: MIT
"""How strong lamps are, and of which colour: axial intensity in three bands."""

import math

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.emitters import emitter_of
from fondale.core.model import Lamp
from fondale.knowledge import table

LUMINOUS = np.array([0.2126, 0.7152, 0.0722])  # weights of linear sRGB [iec61966]
ROW_FLUX_LM = math.pi  # of one candela at the table's half-intensity angle of 60 degrees: cos^1, 2 pi / (1 + 1)


def bands_at_rated(lamp: Lamp) -> Floats:
    """Axial intensity (3,) in the three bands at the row's rated current, in candela.

    The row's flux is kept when the lamp's angle differs from the row's 120 degrees.
    """
    row = table("electric")["led"][lamp.led]
    axial = row["candela"] * package_share(lamp) * ROW_FLUX_LM / emitter_of(lamp).flux_lm
    rgb = np.array(row["rgb"], float)
    out: Floats = rgb / float(LUMINOUS @ rgb) * axial
    return out


def package_share(lamp: Lamp) -> float:
    """How much of the light of its row a lamp gives at the same current, by what it is built as; kinds with a body of their own give all of it."""
    tables = table("electric")
    if "body" in tables["led"][lamp.led]:
        return 1.0
    return float(tables["package"].get(lamp.package, {}).get("share", 1.0))


def rated_a(lamp: Lamp) -> float:
    """The current in ampere that the row's candela belong to: its last point."""
    return float(table("electric")["led"][lamp.led]["points"][-1][1]) / 1000.0


def lux(bands: Floats) -> Floats:
    """Photometric value of three-band values (..., 3)."""
    out: Floats = bands @ LUMINOUS
    return out
