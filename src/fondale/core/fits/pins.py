"""The rod in a standing figure's foot."""

import math
from dataclasses import dataclass

from fondale.core.fits.drills import drill_words
from fondale.core.how import How, Told
from fondale.core.words import digits
from fondale.knowledge import table

ANKLE = 0.045  # thickness of an ankle as a share of stature: half of foot breadth [drillis1966] and more; common practice
DENSITY = {"resin": 1.15, "filament": 1.24, "styrene": 1.05, "metal": 7.3, "wood": 0.6}  # g/cm3, from memory; white metal


@dataclass(frozen=True)
class Pin:
    """Diameter and length in mm, the drill, and what bends it: moment in N mm and stress in MPa."""

    mm: float
    length_mm: float
    drill: str
    moment_nmm: float
    stress_mpa: float
    rod: str
    words: str
    formula: str


def pin_for(height_mm: float, weight_g: float, lean_deg: float = 0.0, feet: int = 1) -> Pin:
    """The thinnest rod that a figure of ``height_mm`` and ``weight_g`` needs when a finger brushes its head.

    Bending stress of a round rod 32 M / (pi d^3), M = push x height + weight x lean. Raises ValueError for sizes not above zero.
    """
    if not (height_mm > 0 and weight_g >= 0 and feet >= 1):
        raise ValueError("sizes are above zero")
    rods = table("fits")["rods"]
    lean = weight_g / 1000 * 9.81 * height_mm * 0.55 * math.sin(math.radians(lean_deg))
    moment = (rods["push_n"] * height_mm + lean) / feet
    thickest = height_mm * ANKLE * 0.6
    # Makers use 0.8 mm at 1:72 to 2 mm at 1:12: about a fortieth of the height (common practice, no source).
    usual = min(max(height_mm / 45, 0.5), 3.0)
    best, rod = None, "brass"
    for material in ("brass", "steel"):
        for d in rods["mm"]:
            stress = 32 * moment / (math.pi * d**3)
            if stress <= rods[f"{material}_mpa"] and d >= min(usual, thickest) - 0.15 and (d <= thickest or d == rods["mm"][0]):
                best, rod = d, material
                break
        if best is not None:
            break
    if best is None:
        best, rod = max((d for d in rods["mm"] if d <= thickest), default=rods["mm"][0]), "steel"
    stress = 32 * moment / (math.pi * best**3)
    length = 2 * max(4.0, 5 * best)
    over = stress > rods[f"{rod}_mpa"]
    words = f"{feet if feet > 1 else 'One'} {rod} rod{'s' if feet > 1 else ''} of {digits(best, 1)} mm, {digits(length, 0)} mm long, half in the foot and half in the base."
    if over:
        words += " It would still bend: pin both feet, or let something behind hold the figure."
    formula = (
        f"bending moment = push {digits(rods['push_n'], 1)} N × {digits(height_mm, 1)} mm"
        f"{f' + leaning weight {digits(lean, 1)} N mm' if lean else ''} over {feet} foot = {digits(moment, 1)} N mm\n"
        f"stress = 32 M ÷ π d³ = {digits(stress, 0)} MPa; {rod} stands {digits(rods[f'{rod}_mpa'], 0)}\n"
        f"an ankle is about {digits(height_mm * ANKLE, 1)} mm thick; the rod takes at most 60 % of it"
    )
    return Pin(best, length, drill_words(best + 0.05), moment, stress, rod, words, formula)


def pin_told(pin: Pin) -> Told:
    """The rod that holds a figure."""
    said = f"{digits(pin.mm, 1)} mm"
    formula = f"{pin.formula}\nthe thinnest rod that bears it and suits the height"
    return Told(f"{said} {pin.rod} rod", How("The pin", formula, said, table("fits")["rods"]["source"]))
