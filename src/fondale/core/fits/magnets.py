# SPDX-License-Identifier: MIT
"""A magnet in its seat: whether it lies under the face, and how hard it pulls through what lies between."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.fits.air import TINY_MM, air_of
from fondale.core.how import How, Told
from fondale.core.model import SURFACES, Fit, Project
from fondale.core.prints.jobs import PrintJob
from fondale.core.stage.weights import grams_of
from fondale.core.words import digits
from fondale.knowledge import table

MU0 = 4e-7 * math.pi
GRAVITY = 9.81
CLOSEST = 1e-6  # of the radius: two faces that touch


@dataclass(frozen=True)
class Pull:
    """``under_mm``: how far the magnet lies under the face (below zero it stands proud); ``gap_mm`` from it to what it pulls.

    ``newton`` is the pull there, ``touching`` that of the two face to face, ``load_g`` what hangs on it (0: not known), ``deep`` the
    depth of seat that would do.
    """

    under_mm: float
    gap_mm: float
    newton: float
    touching: float
    load_g: float
    deep: float
    words: str
    formula: str


def discs(z: Floats, r1: float, r2: float) -> Floats:
    """The pull of two coaxial discs of magnetic charge, one charged with 1 T each, at distances ``z`` (n,); radii in m, answer in N.

    Closed form by complete elliptic integrals [robertson2011]. At z = 0 and equal radii it is pi r^2 / (2 mu0).
    """
    from scipy.special import elliprf, elliprj  # slow to load: only where magnets pull

    z = np.maximum(np.asarray(z, float), CLOSEST * max(r1, r2))
    m2 = (r1 - r2) ** 2 / z**2 + 1
    m3 = np.sqrt((r1 + r2) ** 2 + z**2)
    m4 = 4 * r1 * r2 / m3**2
    k = elliprf(0.0, 1 - m4, 1.0)
    e = k - m4 / 3 * elliprj(0.0, 1 - m4, 1.0, 1.0)
    if r1 == r2:
        third = np.zeros_like(z)
    else:
        n = m4 / (1 - m2)
        third = k + n / 3 * elliprj(0.0, 1 - m4, 1.0, 1 - n)
    lost = z * m2 * m3 * (k - e / m2 + (z**2 / m3**2 - 1) * third)
    out: Floats = (math.pi * min(r1, r2) ** 2 - lost) / (2 * MU0)
    return out


def pull_n(diameter: float, ring: float, thick: float, gap: float, tesla: float, steel: bool = False) -> float:
    """Newtons between two alike round magnets ``gap`` mm apart, or a magnet and thick steel, which mirrors it.

    Raises ValueError for sizes not above zero, or a ring whose hole is all of it.
    """
    if not (diameter > 0 and thick > 0 and gap >= 0 and 0 <= ring < diameter and tesla > 0):
        raise ValueError("sizes are above zero, and the hole of a ring is smaller than the ring")
    between = np.array([1.0, -2.0, 1.0])
    apart = (2 * gap if steel else gap) / 1000 + np.array([0.0, 1.0, 2.0]) * thick / 1000
    outer, inner = diameter / 2000, ring / 2000
    force = discs(apart, outer, outer)
    if inner:
        force = force - 2 * discs(apart, outer, inner) + discs(apart, inner, inner)
    return max(0.0, float(between @ force)) * tesla**2


def magnet_of(fit: Fit, project: Project | None = None, jobs: Mapping[str, PrintJob] | None = None) -> Pull | None:
    """How the magnet of a fit sits and pulls, with the prints by file, by which printed pieces weigh something; None for any other fit, one whose thickness nobody told, and a ring that is all hole."""
    mag = fit.magnet
    if fit.kind != "magnet" or mag.ring >= fit.peg or not mag.thick:
        return None
    facts = table("fits")["magnets"]
    grade = table("fits")["grade"].get(mag.grade) or table("fits")["grade"]["N42"]
    film = air_of(fit, project=project).hole_film
    needs = mag.thick + facts["glue_mm"]
    deep = mag.deep or needs
    under = deep - needs
    steel = mag.other == "steel"
    gap = (1 if steel else 2) * max(0.0, under + film) + mag.between
    newton, touching = (pull_n(fit.peg, mag.ring, mag.thick, x, grade["tesla"], steel) for x in (gap, 0.0))
    surface = project.find(SURFACES, fit.peg_on) if project is not None and fit.peg_on else None
    load = (
        next((grams_of(p, jobs or {})[0] for p in project.pieces if surface is not None and p.id == surface.piece), 0.0)
        if project is not None
        else 0.0
    )
    grams = newton / GRAVITY * 1000
    words = (
        f"It stands {digits(-under, 2)} mm proud: the faces will not close. Make the seat {digits(needs, 2)} mm deep."
        if under < -TINY_MM
        else f"It lies {digits(under, 2)} mm under the face." if under > TINY_MM else "It lies flush."
    )  # fmt: skip
    words += (
        f" Through {digits(gap, 2)} mm it pulls {digits(newton, 1)} N, {_grams(grams)}; touching, {digits(touching, 1)} N."
        if gap > TINY_MM else f" The two touch: it pulls {digits(newton, 1)} N, {_grams(grams)}."
    )  # fmt: skip
    if load:
        enough = grams >= facts["safe"] * load
        words += f" What hangs on it weighs {_grams(load)}: {'enough' if enough else 'too little'}, {digits(grams / load, 1)} times."
    else:
        words += f" Hang no more than {_grams(grams / facts['safe'])} on it."
    words += " Mark one face of each before glueing, like poles push apart; never sand or cut a magnet."
    formula = (
        f"under the face = depth {digits(deep, 2)} − thickness {digits(mag.thick, 2)} − glue {digits(facts['glue_mm'], 2)} = {digits(under, 2)} mm\n"
        f"between = {'' if steel else '2 × '}(under {digits(max(0.0, under), 2)} + coats {digits(film, 3)}) + {digits(mag.between, 2)} = {digits(gap, 2)} mm\n"
        f"{'ring' if mag.ring else 'disc'} {digits(fit.peg, 2)} × {digits(mag.thick, 2)} mm, {grade['name']}, {digits(grade['tesla'], 2)} T, "
        f"against {'thick steel, as a mirror' if steel else 'its like'}: {digits(newton, 2)} N"
    )
    return Pull(under, gap, newton, touching, load, needs, words, formula)


def _grams(g: float) -> str:
    return f"{digits(g / 1000, 1)} kg" if g >= 1000 else f"{digits(g, 0)} g"


def pull_told(pull: Pull) -> Told:
    """The pull of a magnet through what lies between."""
    said = f"{digits(pull.newton, 1)} N"
    return Told(f"{said} of pull", How("The pull of the magnet", pull.formula, said, table("fits")["magnets"]["source"]))
