# SPDX-License-Identifier: MIT
"""Colours as makers type and read them: displays are coded, reflectances are linear."""

import re
from collections.abc import Iterable

from fondale.core.troubles import Trouble

Rgb = tuple[float, float, float]
# Everyday words for paints, as sRGB; a maker's own shades are typed as #rrggbb. Common practice, no source.
WORDS: dict[str, str] = {
    "black": "#1a1a1a", "white": "#f2f2ee", "grey": "#808080", "dark grey": "#4a4a4a", "light grey": "#b8b8b8", "red": "#a32a24",
    "dark red": "#6e1c1a", "brick": "#8c4a38", "orange": "#c8692a", "yellow": "#d9b23a", "ochre": "#b58a3c", "sand": "#c9b48a",
    "brown": "#5f4330", "dark brown": "#3d2c22", "rust": "#8a4b2a", "green": "#4a6b3f", "dark green": "#2f4530", "olive": "#5c5b37",
    "sea green": "#4d7f78", "blue": "#35577f", "dark blue": "#24324d", "light blue": "#8fb0c6", "purple": "#5d3f66", "pink": "#d0949a",
    "skin": "#c99a7c", "leather": "#7a5535", "wood": "#8a6a48", "steel": "#8b9096", "brass": "#b08d4a", "copper": "#a5643f", "gold": "#b8963e",
    "silver": "#b4b8bc", "cream": "#e4dcc2", "bone": "#d8cdb0",
}  # fmt: skip


class ColourError(Trouble):
    """What was typed is no colour; the text says what would be."""


def parse_colour(text: str) -> Rgb:
    """The reflectances, linear from 0 to 1, of ``#rrggbb``, three numbers up to 255, or a word such as ``dark green``. Raises ColourError."""
    clean = " ".join(text.lower().replace("gray", "grey").split())
    clean = WORDS.get(clean, clean)
    if found := re.fullmatch(r"#?([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})", clean):
        return linear(tuple(int(x, 16) / 255 for x in found.groups()))
    if found := re.fullmatch(r"(\d{1,3})[ ,;]+(\d{1,3})[ ,;]+(\d{1,3})", clean):
        coded_ones = tuple(int(x) / 255 for x in found.groups())
        if max(coded_ones) <= 1:
            return linear(coded_ones)
    raise ColourError("A colour is #rrggbb, three numbers up to 255, or a word such as dark green.")


def linear(shown: Iterable[float]) -> Rgb:
    """Reflectances of what a display shows, each from 0 to 1 [iec61966]."""
    r, g, b = (round(v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4, 6) for v in shown)
    return r, g, b


def shown(colour: Iterable[float]) -> Rgb:
    """What a display is told to show reflectances, each from 0 to 1 [iec61966]."""
    coded = (12.92 * v if v <= 0.0031308 else 1.055 * v ** (1 / 2.4) - 0.055 for v in colour)
    r, g, b = (min(1.0, max(0.0, v)) for v in coded)
    return r, g, b


def show_colour(colour: Rgb) -> str:
    """``#rrggbb``, as a display shows it."""
    return "#" + "".join(f"{round(255 * c):02x}" for c in shown(colour))
