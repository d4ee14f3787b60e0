# SPDX-License-Identifier: MIT
"""Weight, centre of mass and whether a printed part stands."""

import math
from dataclasses import dataclass

from shapely.geometry import MultiPoint, Point

from fondale.core.how import PRACTICE, How, Told
from fondale.core.model import PrintFile
from fondale.core.words import digits, show_mm

SAFE_DEG = 15.0  # common practice, no source


@dataclass(frozen=True)
class Balance:
    """``tip_deg``: how far it may lean before it falls; 0 when its weight is not over its base. Lengths in mm.

    ``edge_mm`` from the foot of the centre of mass to the nearest edge; ``base_mm`` the round base that would make it safe.
    """

    tip_deg: float
    edge_mm: float
    height_mm: float
    base_mm: float
    words: str
    formula: str


def balance(file: PrintFile, centre: tuple[float, float, float] | None = None) -> Balance:
    """Tip angle = atan(distance to the nearest edge of the base / height of the centre of mass), as printed and standing on its own base."""
    t = file.times
    x, y, z = (c * k for c, k in zip(centre or file.centre, t, strict=True))
    hull = MultiPoint([(bx * t[0], by * t[1]) for bx, by in file.base] or [(x, y)]).convex_hull
    foot = Point(x, y)
    inside = hull.geom_type == "Polygon" and hull.covers(foot)
    edge = float(hull.exterior.distance(foot)) if inside else 0.0
    tip = math.degrees(math.atan2(edge, max(z, 1e-9))) if inside else 0.0
    need = 2 * (z * math.tan(math.radians(SAFE_DEG)))
    if inside and tip >= SAFE_DEG:
        words = f"It stands: it may lean {digits(tip, 0)} degrees before it tips."
    elif inside:
        words = (
            f"It tips at {digits(tip, 0)} degrees. A base {show_mm(need)} across under its centre of mass makes it {digits(SAFE_DEG, 0)}."
        )
    else:
        words = f"Its weight is not over its base: it falls. Pin it, or give it a base {show_mm(need)} across under its centre of mass."
    formula = f"asked: {digits(SAFE_DEG, 0)}°\ntip angle = atan(edge {digits(edge, 1)} mm ÷ centre of mass {digits(z, 1)} mm high)"
    return Balance(tip, edge, z, need, words, formula)


def tip_told(found: Balance) -> Told:
    """How far a print may lean."""
    said = f"{digits(found.tip_deg, 0)}°"
    return Told(
        f"tips at {said}", How("Does it stand?", found.formula, said, f"geometry of the body as printed; what is asked: {PRACTICE}")
    )
