# SPDX-License-Identifier: MIT
"""The maker's evenings as windows on one line of minutes."""

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from math import ceil

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model import Brief

DAY_MIN = 24 * 60


def evening_on(brief: Brief, day: date) -> tuple[int, int]:
    """First and last minute at the bench on a day, from midnight; no evening runs past midnight."""
    minutes = brief.evenings[day.weekday()]
    start = min(brief.evening_from, DAY_MIN - minutes)
    return start, start + minutes


@dataclass(frozen=True)
class Calendar:
    """Evenings as (start, end) minutes since ``origin`` 00:00, in order."""

    origin: date
    windows: tuple[tuple[int, int], ...]

    def when(self, minute: float) -> datetime:
        """The moment of a minute on the line."""
        return datetime.combine(self.origin, time()) + timedelta(minutes=float(minute))

    def minute_of(self, day: date) -> int:
        """The minute at which ``day`` begins."""
        return (day - self.origin).days * DAY_MIN

    def minute_at(self, moment: datetime) -> int:
        """The minute of a moment; below 0 before the line begins."""
        return ceil((moment - datetime.combine(self.origin, time())).total_seconds() / 60)

    def arrays(self) -> tuple[Floats, Floats]:
        """Starts and ends (windows,)."""
        both = np.array(self.windows, float).reshape(-1, 2)
        return both[:, 0], both[:, 1]


def calendar_of(brief: Brief, today: date, days: int = 730, spent: float = 0.0) -> Calendar:
    """The evenings from ``today`` (or the brief's start, if later) on; days off left out. ``spent`` minutes of today's are over."""
    origin = max(today, brief.start)
    off = set(brief.days_off)
    windows = []
    for k in range(days):
        day = origin + timedelta(days=k)
        start, end = evening_on(brief, day)
        start += ceil(spent) if day == today else 0
        if start < end and day not in off:
            windows.append((k * DAY_MIN + start, k * DAY_MIN + end))
    return Calendar(origin, tuple(windows))
