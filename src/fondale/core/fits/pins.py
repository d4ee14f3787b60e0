# SPDX-License-Identifier: MIT
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
    """Diameter and length in mm, the drill, and what bends it: moment in N mm and stress in MPa. ``holds_n``: the push that bends it."""

    mm: float
    length_mm: float
    drill: str
    moment_nmm: float
    stress_mpa: float
    holds_n: float
    rod: str
    words: str
    formula: str


def pin_for(height_mm: float, weight_g: float, lean_deg: float = 0.0, feet: int = 1, own_mm: float = 0.0) -> Pin:
    """The rod that a figure of ``height_mm`` and ``weight_g`` needs when a finger brushes its head: the softest kind that bears it, then the
    thinnest. ``own_mm`` is the diameter that the maker uses: then the kind that it takes.

    Bending stress of a round rod 32 M / (pi d^3), M = push x height + weight x lean. Raises ValueError for sizes not above zero.
    """
    if not (height_mm > 0 and weight_g >= 0 and feet >= 1 and own_mm >= 0):
        raise ValueError("sizes are above zero")
    rods = table("fits")["rods"]
    kinds: dict[str, float] = rods["kind"]
    lean = weight_g / 1000 * 9.81 * height_mm * 0.55 * math.sin(math.radians(lean_deg))
    moment = (rods["push_n"] * height_mm + lean) / feet
    thickest = height_mm * ANKLE * 0.6
    # Makers use 0.6 mm at 28 mm, 0.8 mm at 1:72 to 2 mm at 1:12: about a fortieth of the height (common practice, no source).
    usual = min(max(height_mm / 45, 0.4), 3.0)
    sold = [own_mm] if own_mm else [d for d in rods["mm"] if d >= min(usual, thickest) - 0.05 and d <= thickest] or rods["mm"][:1]
    bears = ((rod, d) for rod in kinds for d in sold if 32 * moment / (math.pi * d**3) <= kinds[rod])
    rod, best = next(bears, (list(kinds)[-1], sold[-1]))
    stress = 32 * moment / (math.pi * best**3)
    holds = max(0.0, (kinds[rod] * math.pi * best**3 / 32 * feet - lean) / height_mm)
    length = 2 * max(4.0, 5 * best)
    words = f"{feet if feet > 1 else 'One'} {rod} rod{'s' if feet > 1 else ''} of {digits(best, 1)} mm, {digits(length, 0)} mm long, half in the foot and half in the base."
    words += f" A push of {digits(holds, 1)} N at the head bends it."
    if stress > kinds[rod]:
        words += " A finger in passing is more than that: pin both feet, or let something behind hold the figure."
    if own_mm > thickest:
        words += f" It is thick for the ankle, which takes {digits(thickest, 1)} mm."
    formula = (
        f"bending moment = push {digits(rods['push_n'], 1)} N × {digits(height_mm, 1)} mm"
        f"{f' + leaning weight {digits(lean, 1)} N mm' if lean else ''} over {feet} foot = {digits(moment, 1)} N mm\n"
        f"stress = 32 M ÷ π d³ = {digits(stress, 0)} MPa; {', '.join(f'{k} stands {digits(v, 0)}' for k, v in kinds.items())}\n"
        f"an ankle is about {digits(height_mm * ANKLE, 1)} mm thick; the rod takes at most 60 % of it"
    )
    return Pin(best, length, drill_words(best + 0.05), moment, stress, holds, rod, words, formula)


def pin_told(pin: Pin) -> Told:
    """The rod that holds a figure."""
    said = f"{digits(pin.mm, 1)} mm"
    formula = f"{pin.formula}\nthe softest rod that bears it, and of these the thinnest that suits the height"
    return Told(f"{said} {pin.rod} rod", How("The pin", formula, said, table("fits")["rods"]["source"]))
