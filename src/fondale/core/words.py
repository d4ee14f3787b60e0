# SPDX-License-Identifier: MIT
"""Words for numbers and names: digits, lengths, scales, hours, currents and days as a maker reads them."""

import math
import re
from datetime import date

from fondale.core.limits import NAME_MOST


def clipped(words: str, most: int) -> str:
    """Words with an ellipsis for what goes beyond ``most`` letters."""
    return words if len(words) <= most else f"{words[: most - 1].rstrip()}…"


def as_name(words: str) -> str:
    """A name made of others, never longer than a name may be."""
    return clipped(words, NAME_MOST)


_FORMULA = tuple("=+-@\t\r")


def _like_a_formula(text: str) -> bool:
    if not text.lstrip("'").startswith(_FORMULA):
        return False
    try:
        float(text)
    except ValueError:
        return True
    return False


def cell(text: str) -> str:
    """A cell of a table that no spreadsheet takes for a formula: what begins like one gets a mark before it."""
    return f"'{text}" if _like_a_formula(text) else text


def uncell(text: str) -> str:
    """The words of a cell, without that mark."""
    return text[1:] if text.startswith("'") and _like_a_formula(text) else text


def with_article(noun: str) -> str:
    """``a drum``, ``an oil drum``."""
    return f"{'an' if noun[:1].lower() in set('aeio') else 'a'} {noun}"


def digits(value: float, decimals: int) -> str:
    """A number with at most ``decimals`` places and no trailing zeros."""
    if not math.isfinite(value):
        return "–"
    text = f"{value:.{decimals}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text == "-0" else text


def show_mm(mm: float) -> str:
    """A model length: tenths below 100 mm, whole millimetres above."""
    return f"{digits(mm, 1 if abs(mm) < 100 else 0)} mm"


def show_real(mm: float) -> str:
    """A real length given in millimetres: centimetres from one metre up, metres from a hundred up."""
    return f"{mm / 1000:.{2 if abs(mm) < 99_995 else 0}f} m" if abs(mm) >= 995 else f"{digits(mm, 0)} mm"


def show_scale(n: float) -> str:
    """``1:35``, ``1:2.59``, with decimals only where they matter: what is left out is less than a hundredth."""
    return f"1:{digits(n, 0 if n >= 100 else 1 if n >= 5 else 2)}"


def percent(share: float, decimals: int = 0) -> str:
    """A share in percent, whole ones as a rule: ``91 %``."""
    return f"{share * 100:.{decimals}f} %"


def odds_words(share: float) -> str:
    """Odds as whole percent, and never as sure: ``over 99 %``, ``91 %``, ``under 1 %``."""
    if share > 0.99:
        return "over 99 %"
    return "under 1 %" if share < 0.01 else percent(share)


def hours_words(hours: float) -> str:
    """``2 h 40``, or ``35 min`` below an hour."""
    minutes = round(hours * 60)
    return f"{minutes} min" if minutes < 60 else f"{minutes // 60} h {minutes % 60:02d}"


def wait_words(hours: float) -> str:
    """A wait that nobody keeps to the minute: minutes below two hours, then hours, then days."""
    if hours < 2:
        return f"{digits(hours * 60, 0)} min"
    return f"{digits(hours, 0)} h" if hours < 48 else f"{digits(hours / 24, 0)} days"


def ma(amps: float) -> str:
    """Milliampere with sensible digits."""
    return f"{digits(amps * 1000, 1 if abs(amps) < 0.02 else 0)} mA"


def ohm_words(ohm: float) -> str:
    """A resistor as it is sold: ``2.7 Ω``, ``150 Ω``, ``4.7 kΩ``."""
    for size, unit in ((1e6, "MΩ"), (1e3, "kΩ")):
        if ohm >= size:
            return f"{digits(ohm / size, 2)} {unit}"
    return f"{digits(ohm, 1 if ohm < 100 else 0)} Ω"


def lux_words(lux: float) -> str:
    """Lux: whole from ten on, tenths below."""
    return f"{digits(lux, 0 if lux >= 10 else 1)} lx"


def lux_known(lux: float, error: float, refined: bool = True) -> str:
    """Illuminance with its standard error, rounded up, and whether it is still being refined; without light there is nothing to be off."""
    told = digits(math.ceil(error), 0) if error >= 1 else digits(max(0.1, math.ceil(error * 10 - 1e-9) / 10), 1)
    return f"{lux_words(lux)}{f' ± {told}' if lux > 0 else ''}{'' if refined else ', refining'}"


def words_in(name: str) -> set[str]:
    """The words of a name that tell it from others: in small letters, longer than two."""
    return {w for w in re.findall(r"[^\W_]+", name.lower()) if len(w) > 2}


def count_words(count: int, thing: str) -> str:
    """``1 evening``, ``3 evenings``."""
    return f"{count} {thing}{'' if count == 1 else 's'}"


def day_words(day: date) -> str:
    """``Sat 19 Dec``, in the language of the process's locale."""
    return f"{day:%a} {day:%d}".replace(" 0", " ") + f" {day:%b}"
