# SPDX-License-Identifier: MIT
"""Days, hours and minutes as makers type them."""

import re
from datetime import date, datetime, timedelta

from fondale.core.lengths import LengthError, parse_number
from fondale.core.model import Setup
from fondale.core.model.brief import MOST_SETUP_MIN
from fondale.core.model.coats import MOST_MINUTES, MOST_WAIT_H
from fondale.core.words import digits

LONGEST_OFF = 366
LATEST_MIN = 23 * 60


_DAY = re.compile(
    r"(?P<d1>\d{1,2})(?:st|nd|rd|th)?\.?\s+(?P<m1>[a-z]{3,9})\.?(?:\s+(?P<y1>\d{4}))?|(?P<m2>[a-z]{3,9})\.?\s+(?P<d2>\d{1,2})(?:st|nd|rd|th)?(?:\s+(?P<y2>\d{4}))?"
)
MONTHS = ("january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november", "december")


def parse_day(text: str, today: date | None = None) -> date | None:
    """A date as 2026-12-19, 19 December or Dec 19 2026: without a year the next one from ``today`` on. Nothing typed means none.

    Raises LengthError.
    """
    clean = text.strip().lower()
    if not clean:
        return None
    said = _DAY.fullmatch(clean)
    try:
        if said is None:
            return date.fromisoformat(clean)
        name, day, year = said["m1"] or said["m2"], int(said["d1"] or said["d2"]), said["y1"] or said["y2"]
        month = next((k for k, m in enumerate(MONTHS, 1) if m.startswith(name)), 0)
        if year or today is None:
            return date(int(year or 0), month, day)
        return next(d for y in range(8) if (d := _day_in(today.year + y, month, day)) is not None and d >= today)
    except (ValueError, StopIteration):
        raise LengthError("Write the date as 2026-12-19 or 19 December.") from None


def _day_in(year: int, month: int, day: int) -> date | None:
    """The day of a year, where it has it; a leap day comes every fourth."""
    try:
        return date(year, month, day)
    except ValueError:
        return None


def parse_first_day(text: str, today: date | None = None) -> date:
    """A date that cannot be left out. Raises LengthError."""
    day = parse_day(text, today)
    if day is None:
        raise LengthError("It has to begin some day: year-month-day, for example 2026-12-19.")
    return day


def parse_days(text: str, today: date | None = None) -> tuple[date, ...]:
    """Dates and ranges as 2026-12-24 to 2026-12-27 or 10 to 20 December, with commas between; nothing typed means none.

    Raises LengthError.
    """
    return tuple(sorted({day for part in text.split(",") for day in _range(part, today)}))


def _range(text: str, today: date | None) -> tuple[date, ...]:
    if not text.strip():
        return ()
    parts = [p.strip() for p in re.split(r"\s+to\s+|\s*[–—]\s*|(?<=[a-z])\s*-\s*(?=\d)", text.strip().lower())]
    if len(parts) == 2 and re.fullmatch(r"\d{1,2}(?:st|nd|rd|th)?\.?", parts[0]) and (said := _DAY.fullmatch(parts[1])) and said["m1"]:
        parts[0] += f" {said['m1']} {said['y1'] or ''}".rstrip()
    first = parse_day(parts[0], today)
    rest = [parse_day(p, first if first is not None and today is not None else today) for p in parts[1:]]
    if first is None:
        return ()
    last = rest[0] if rest and rest[0] is not None else first
    if len(rest) > 1 or not first <= last <= first + timedelta(days=LONGEST_OFF):
        raise LengthError(f"Write a range as 2026-12-24 to 2026-12-27, the earlier day first, at most {LONGEST_OFF} days.")
    return tuple(first + timedelta(days=k) for k in range((last - first).days + 1))


def parse_clock(text: str) -> int:
    """The minute of the day: 19:30, 19, 7 pm. Raises LengthError."""
    found = re.fullmatch(r"(\d{1,2})(?:[:.](\d{2}))?\s*(am|pm)?", text.strip().lower())
    hour, minute = (int(found[1]), int(found[2] or 0)) if found else (99, 0)
    if found and found[3] and hour <= 12:
        hour = hour % 12 + (12 if found[3] == "pm" else 0)
    if hour * 60 + minute > LATEST_MIN or minute > 59:
        raise LengthError("Write the hour as 19:30 or 7 pm, at the latest 23:00.")
    return hour * 60 + minute


def parse_minutes(text: str) -> tuple[float, float, float]:
    """``15``, or ``10 15 25`` (low, likely, high), or a batch: ``32 times 4 min, 10 min set-up``, ``32 x 4 + 10``. Raises LengthError."""
    batch = re.fullmatch(
        r"\s*(\d+)\s*(?:x|×|times)\s*(\d+(?:[.,]\d+)?)\s*(?:min)?\s*(?:(?:\+|,|and)?\s*(\d+(?:[.,]\d+)?)\s*(?:min)?\s*(?:set-?up|setup|to set up)?)?\s*",
        text.lower(),
    )
    if batch:
        each, extra = (parse_number(x or "0", "min", 0, MOST_MINUTES) for x in (batch[2], batch[3]))
        text = f"{int(batch[1]) * each + extra:g}"
    try:
        values = [parse_number(v, "min", 0, MOST_MINUTES) for v in text.replace("to", " ").replace("min", " ").split()]
    except ValueError:
        values = []
    if len(values) == 1 and 0 < values[0] <= 5000:
        return values[0] * 0.7, values[0], values[0] * 1.7
    if len(values) == 3 and 0 < values[0] <= values[1] <= values[2] <= 10_000:
        return values[0], values[1], values[2]
    raise LengthError("Write the likely minutes, or least, likely and most: 10 15 25; or a batch: 32 x 4 + 10.")


def parse_moment(text: str) -> datetime | None:
    """A moment as 2026-12-19 21:30, or a day, by its end; nothing typed means that nobody knows. Raises LengthError."""
    if not text.strip():
        return None
    try:
        moment = datetime.fromisoformat(text.strip().replace(" ", "T", 1))
    except ValueError:
        raise LengthError("Write the moment as year-month-day hour:minute, for example 2026-12-19 21:30.") from None
    return moment.replace(tzinfo=None) if ":" in text else moment.replace(hour=23, minute=59)


def show_moment(moment: datetime | None) -> str:
    """As it is typed."""
    return f"{moment:%Y-%m-%d %H:%M}" if moment is not None else ""


def show_days(days: tuple[date, ...]) -> str:
    """Days as they are typed, each stretch as a range."""
    out: list[list[date]] = []
    for day in sorted(days):
        if out and day - out[-1][-1] == timedelta(days=1):
            out[-1].append(day)
        else:
            out.append([day])
    return ", ".join(f"{r[0]} to {r[-1]}" if len(r) > 1 else f"{r[0]}" for r in out)


def parse_hours(text: str) -> float:
    """Hours: ``2``, ``2 h``, ``2 h 30``, ``30 min``, ``1 day``, ``2 days``. Raises LengthError."""
    both = re.fullmatch(r"(\d+)\s*(?:h|hours?)\s*([0-5]?\d)\s*(?:min|minutes?)?", text.strip().lower())
    if both is not None:
        text = f"{int(both[1]) * 60 + int(both[2])} min"
    found = re.fullmatch(r"(\d+(?:[.,]\d+)?)\s*(h|hours?|min|minutes?|days?|d)?", text.strip().lower())
    if found is None:
        raise LengthError("Write hours as 2 h, 30 min or 3 days.")
    unit = found[2] or "h"
    value = parse_number(found[1], unit, 0, MOST_WAIT_H)
    hours = value * (24 if unit[0] == "d" else 1 / 60 if unit[0] == "m" else 1)
    if not hours <= MOST_WAIT_H:
        raise LengthError(f"At most {digits(MOST_WAIT_H, 0)} hours.")
    return hours


def parse_setup(text: str) -> Setup:
    """Minutes to bring a tool out, to clean it, and to change its colour: ``8 10 3``. Raises LengthError."""
    found = [int(x) for x in re.findall(r"\d+", text)]
    if not 1 <= len(found) <= 3 or max(found) > MOST_SETUP_MIN:
        raise LengthError(
            f"Write minutes to bring it out, to clean it and to change its colour, each up to {MOST_SETUP_MIN}, for example 8 10 3."
        )
    out, clean, rinse = [*found, 0, 0][:3]
    return Setup(out=out, clean=clean, rinse=rinse)


def show_setup(setup: Setup | None) -> str:
    """As it is typed."""
    return f"{setup.out} {setup.clean} {setup.rinse}" if setup is not None else ""
