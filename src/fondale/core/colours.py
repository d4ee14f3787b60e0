"""Colours as makers type and read them."""

import re

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
    """Red, green and blue from 0 to 1 of ``#rrggbb``, three numbers up to 255, or a word such as ``dark green``. Raises ColourError."""
    clean = " ".join(text.lower().replace("gray", "grey").split())
    clean = WORDS.get(clean, clean)
    if found := re.fullmatch(r"#?([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})", clean):
        r, g, b = (int(x, 16) / 255 for x in found.groups())
        return round(r, 4), round(g, 4), round(b, 4)
    if found := re.fullmatch(r"(\d{1,3})[ ,;]+(\d{1,3})[ ,;]+(\d{1,3})", clean):
        r, g, b = (int(x) / 255 for x in found.groups())
        if max(r, g, b) <= 1:
            return round(r, 4), round(g, 4), round(b, 4)
    raise ColourError("A colour is #rrggbb, three numbers up to 255, or a word such as dark green.")


def show_colour(colour: Rgb) -> str:
    """``#rrggbb``."""
    return "#" + "".join(f"{round(255 * min(1.0, max(0.0, c))):02x}" for c in colour)
