# SPDX-License-Identifier: MIT
"""What a garment is: one entry of one module, and nothing else knows of it."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from fondale.core.arrays import Floats
from fondale.core.bodies.cloth import Wearer
from fondale.core.bodies.parts import Part


@dataclass(frozen=True)
class Grip:
    """Where a hand holds: a point in the fist, and the ways of the thumb, the palm and the hand."""

    at: Floats
    thumb: Floats
    palm: Floats
    along: Floats


Grips = tuple[Grip, Grip]


@dataclass(frozen=True)
class Garment:
    """``words`` name it in the window, ``make`` gives its parts. ``instead`` are the plain parts that it takes the place of: shirt,
    trousers, shoes; ``tucks``: trousers end in it; ``skirts``: an apron lies over it. ``holds`` are the arms (0 left, 1 right) that hold it and what they do then.
    """

    words: str
    make: Callable[[Wearer, Grips], list[Part]]
    instead: frozenset[str] = frozenset()
    tucks: bool = False
    skirts: bool = False
    holds: dict[int, dict[str, Any]] = field(default_factory=dict)
