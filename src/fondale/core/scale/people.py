# SPDX-License-Identifier: MIT
"""Who is measured: a person of the table, or one whose stature or age the maker knows, and what is worn in the measure."""

import re
from dataclasses import dataclass

import numpy as np

from fondale.core.lengths import LengthError, parse_real
from fondale.knowledge import table

OWN_SPREAD = 0.01  # how well makers know a size in life: common practice, no source
OWN_SOURCE = "as you gave it"
_AGE = re.compile(r"(?:age\s*)?(\d+(?:[.,]\d+)?)\s*(?:years?|yrs?|y)(?:\s*old)?\.?|age\s*(\d+(?:[.,]\d+)?)")


@dataclass(frozen=True)
class Person:
    """Who is measured: the row of the people, the stature in mm where the maker knows it (0: as such people are), and what is worn."""

    row: str = "man"
    own_mm: float = 0.0
    worn: tuple[str, ...] = ()

    @property
    def stature(self) -> tuple[float, float]:
        """Mean stature in mm, and its relative standard deviation."""
        row = table("body")["people"][self.row]
        return (self.own_mm, OWN_SPREAD) if self.own_mm else (row["mean_mm"], row["sd_mm"] / row["mean_mm"])

    @property
    def worn_mm(self) -> float:
        """What dress adds to the height, in real mm."""
        rows = table("body")["worn"]
        return float(sum(rows[k]["real_mm"] for k in self.worn if k in rows))

    @property
    def gear_mm(self) -> float:
        """What is worn on the head, in real mm: it lies within the measure of a head too."""
        rows = table("body")["worn"]
        return float(sum(rows[k]["real_mm"] for k in self.worn if k in rows and rows[k].get("on_head")))

    @property
    def source(self) -> str:
        """Where the stature is from."""
        return OWN_SOURCE if self.own_mm else str(table("body")["people"][self.row]["source"])


def stature_at(years: float) -> float:
    """Median stature in mm at an age, girls and boys together [cdc2000]. Raises LengthError outside of what the charts hold."""
    rows = {float(k): float(v) for k, v in table("body")["growth"]["mm"].items()}
    ages = sorted(rows)
    if not ages[0] <= years <= ages[-1]:
        raise LengthError(f"Ages from {ages[0]:.0f} to {ages[-1]:.0f} years are known. Type the stature of others.")
    return float(np.interp(years, ages, [rows[a] for a in ages]))


def parse_stature(text: str, house_n: float) -> float:
    """Read a person's stature in real mm, for example ``1.83 m``, ``6 ft`` or ``9 years``. Raises LengthError."""
    match = _AGE.fullmatch(text.strip().lower())
    if match:
        return stature_at(float((match[1] or match[2]).replace(",", ".")))
    return parse_real(text, house_n)
