# SPDX-License-Identifier: MIT
"""level(t) of each named motion, 0 to 1, repeatable from its seed."""

from functools import lru_cache

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model import Lamp

FRAME_S = 0.02


def level(lamp: Lamp, seconds: Floats) -> Floats:
    """Level (k,) of a lamp's motion at ``seconds``, as a share of the moment's level."""
    rng = np.random.default_rng(lamp.seed)
    t = np.asarray(seconds, float)
    match lamp.motion:
        case "steady":
            return np.ones_like(t)
        case "breathing":
            breath: Floats = 0.575 + 0.425 * np.sin(2 * np.pi * (t / 5.0 + rng.random()))
            return breath
        case "candle":
            # Slow sway and a quicker tremble, both below three swings a second.
            phases, speeds = rng.random(6) * 2 * np.pi, rng.uniform(0.3, 2.2, 6)
            sway = np.sin(2 * np.pi * speeds * t[..., None] + phases).mean(-1)
            flame: Floats = np.clip(0.78 + 0.45 * sway, 0.35, 1.0)
            return flame
        case "failing tube":
            length = 24.0
            starts = np.sort(rng.uniform(0, length, 9))
            dark = rng.uniform(0.04, 0.30, 9)
            at = np.mod(t, length)[..., None]
            out = ((at >= starts) & (at < starts + dark)).any(-1)
            return np.where(out, 0.08, 1.0)
        case "beacon":
            return np.where(np.mod(t * lamp.flashes_per_s, 1.0) < 0.25, 1.0, 0.05)


def mean_level(lamp: Lamp, length_s: float = 48.0) -> float:
    """Average level over time: what counts for cells and for average current."""
    return float(level(lamp, np.arange(0, length_s, FRAME_S)).mean())


@lru_cache(maxsize=256)
def most_flashes(lamp: Lamp, length_s: float = 48.0) -> int:
    """The most flashes within any one second: pairs of opposing changes of at least 10 % ([wcag22], 2.3.1)."""
    values = level(lamp, np.arange(0, length_s, FRAME_S))
    turns: list[int] = []
    low = high = values[0]
    rising = True
    for i, v in enumerate(values):
        if rising:
            high = max(high, v)
            if v < high - 0.1:
                rising, low = False, v
        else:
            low = min(low, v)
            if v > low + 0.1:
                turns.append(i)
                rising, high = True, v
    ends = np.array(turns) * FRAME_S
    if not len(ends):
        return 0
    return int((np.searchsorted(ends, ends + 1.0 - 1e-9, side="left") - np.arange(len(ends))).max())
