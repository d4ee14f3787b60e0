# SPDX-License-Identifier: MIT
"""Several measurements of one thing as one native scale, and what their disagreement means.

Each measurement gives ln n with a spread of its own; those of one body share the spread of its owner's stature.
They are combined by generalised least squares [aitken1935]; disagreement is judged by the chi-square of the residuals.
"""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from fondale.core.arrays import Floats

Kind = Literal["height", "head", "limb", "width", "thing"]
Z90 = 1.6449  # two-sided 90 % of a normal distribution
CHANCE = 0.05  # how often sizes that agree are said to disagree


@dataclass(frozen=True)
class Sighting:
    """One measurement in mm of something that is ``real_mm`` large, known with relative ``spread`` of its own."""

    name: str
    mm: float
    error_mm: float
    real_mm: float
    spread: float
    kind: Kind
    body: bool = True

    @property
    def n(self) -> float:
        """The scale that it gives alone."""
        return self.real_mm / self.mm

    @property
    def own(self) -> float:
        """Relative standard deviation that it does not share with the others."""
        return math.hypot(self.spread, self.error_mm / self.mm)


@dataclass(frozen=True)
class Combined:
    """Native scale 1:n with relative standard deviation ``sigma``; ``pulls`` are the standardised residuals, in order."""

    n: float
    sigma: float
    pulls: tuple[float, ...]
    agree: bool

    @property
    def low(self) -> float:
        """Lower end of the 90 % interval of n."""
        return self.n * math.exp(-Z90 * self.sigma)

    @property
    def high(self) -> float:
        """Upper end of the 90 % interval of n."""
        return self.n * math.exp(Z90 * self.sigma)


def combine(sightings: tuple[Sighting, ...], shared: float) -> Combined:
    """The common scale of ``sightings``; bodies share the relative spread ``shared``. Raises ValueError when there are none.

    Where they disagree beyond chance, the interval is widened by the Birge ratio.
    """
    if not sightings:
        raise ValueError("nothing was measured")
    y = np.log([s.n for s in sightings])
    own = np.maximum([s.own for s in sightings], 1e-6)
    body = np.array([s.body for s in sightings], float)
    cov = np.diag(own**2) + shared**2 * np.outer(body, body)
    weight = np.linalg.inv(cov)
    total = float(weight.sum())
    best = float(weight.sum(0) @ y) / total
    rest: Floats = y - best
    sigma = 1 / math.sqrt(total)
    dof = len(sightings) - 1
    chi2 = float(rest @ weight @ rest)
    agree = dof == 0 or _chance(dof, chi2) >= CHANCE
    if not agree:
        sigma *= math.sqrt(chi2 / dof)
    # Against each other the shared part cancels: the pull is by the own spread.
    return Combined(math.exp(best), sigma, tuple(float(r / o) for r, o in zip(rest, own, strict=True)), agree)


def _chance(dof: int, chi2: float) -> float:
    """How often a chi-square of so many degrees of freedom is larger."""
    from scipy.special import chdtrc  # slow to load, and a single measurement needs none

    return float(chdtrc(dof, chi2))


@dataclass(frozen=True)
class Oddity:
    """Why measurements disagree: what kind of disagreement, in words, and which sightings to leave out of the scale."""

    kind: Literal["heroic", "child", "dressed", "stretched", "slip"]
    words: str
    leave_out: tuple[Kind, ...] = ()


def _mean(sightings: tuple[Sighting, ...], kinds: tuple[Kind, ...]) -> float | None:
    logs = [math.log(s.n) for s in sightings if s.kind in kinds]
    return math.exp(sum(logs) / len(logs)) if logs else None


def explain(sightings: tuple[Sighting, ...], found: Combined) -> Oddity | None:
    """What makes ``sightings`` disagree, or None where they agree within their spreads.

    Heads and hands 12 to 40 % too large are heroic; a head too large on limbs that are not is a child's;
    shoulders alone up to 35 % too wide wear a coat; other widths off the heights by more than 8 % are stretched; anything else is a slip of the
    caliper (common practice, no source).
    """
    if found.agree or len(sightings) < 2:
        return None
    tall = _mean(sightings, ("height", "thing"))
    head, limb, width = (_mean(sightings, (k,)) for k in ("head", "limb", "width"))
    if tall is not None and head is not None:
        big = tall / head - 1
        hands = tall / limb - 1 if limb is not None else None
        if 0.12 <= big <= 0.60 and hands is not None and hands < 0.08:
            return Oddity("child", f"The head is {big * 100:.0f} % too large and the limbs are not: a child’s proportions.", ("head",))
        if 0.12 <= big <= 0.60:
            large = f"The head is {big * 100:.0f} % too large for the height"
            if hands is None:
                return Oddity(
                    "heroic",
                    f"{large}: heroic proportions, a child’s, or a hat or helmet in the measure. The length of a hand or a foot tells which.",
                    ("head",),
                )
            return Oddity("heroic", f"{large}, the hands and feet {hands * 100:.0f} %: heroic proportions.", ("head", "limb"))
    if tall is not None and width is not None and abs(tall / width - 1) > 0.08:
        by = tall / width - 1
        if 0 < by <= 0.35 and (head is None or tall / head - 1 < 0.12):
            return Oddity(
                "dressed", f"The shoulders are {by * 100:.0f} % too wide for the height: a coat, a cloak, or printed too wide. Heroic bodies have large heads too.", ("width",)
            )  # fmt: skip
        return Oddity("stretched", f"It is {abs(by) * 100:.0f} % {'wider' if by > 0 else 'narrower'} than its height asks: stretched.")
    worst = max(range(len(sightings)), key=lambda i: abs(found.pulls[i]))
    s = sightings[worst]
    side = "small" if found.pulls[worst] > 0 else "large"
    return Oddity("slip", f"“{s.name}” is too {side} for the rest ({s.n:.0f} against {found.n:.0f}): take it again.")
