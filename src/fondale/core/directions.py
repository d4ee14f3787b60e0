# SPDX-License-Identifier: MIT
"""Directions as makers say them: up, down, or so far turned and so far down."""

import math
import re

from fondale.core.troubles import Trouble
from fondale.core.words import digits

Vector = tuple[float, float, float]
WORDS: dict[str, Vector] = {
    "down": (0, 0, -1), "up": (0, 0, 1), "right": (1, 0, 0), "left": (-1, 0, 0), "back": (0, 1, 0), "front": (0, -1, 0),
}  # fmt: skip


ALSO = {
    "forward": "front",
    "forwards": "front",
    "backward": "back",
    "backwards": "back",
    "rear": "back",
    "upward": "up",
    "upwards": "up",
    "downward": "down",
    "downwards": "down",
    "towards": "",
    "toward": "",
    "viewer": "front",
}


class DirectionError(Trouble):
    """What was typed is no direction; the text says what would be."""


def parse_direction(text: str) -> Vector:
    """A unit vector (x to the right, y to the back, z up) of words and degrees. Raises DirectionError.

    ``down``; ``back and down`` (halfway); ``30° down to the left``; ``30° down, turned 20°`` (from the right towards the back).
    """
    turned = re.search(r"turned\s*(-?\d+(?:\.\d+)?)\s*°?", text.lower())
    if turned:
        text = text.lower().replace(turned.group(0), " ")
    clean = text.lower().replace("to the", " ").replace("the ", " ").replace("and", " ").replace(",", " ").replace("°", " ")
    degrees = [float(x) for x in re.findall(r"-?\d+(?:\.\d+)?", clean)]
    words = [word for w in re.findall(r"[a-z]+", clean) if (word := ALSO.get(w, w))]
    if any(w not in WORDS for w in words) or not (words or turned) or len(degrees) > 1:
        raise DirectionError("A direction is down, up, left, right, back or front, two of them, or for example 30° down to the left.")
    flat = [WORDS[w] for w in words if WORDS[w][2] == 0]
    steep = [WORDS[w] for w in words if WORDS[w][2] != 0]
    x, y = sum(v[0] for v in flat), sum(v[1] for v in flat)
    if turned:
        x, y = math.cos(math.radians(float(turned.group(1)))), math.sin(math.radians(float(turned.group(1))))
    length = math.hypot(x, y)
    if len(steep) > 1 or (flat and length == 0) or (flat and turned):
        raise DirectionError("These words point both ways.")
    if not flat and not turned:
        return 0.0, 0.0, float(steep[0][2])
    angle = math.radians(degrees[0]) if degrees else (math.pi / 4 if steep else 0.0)
    way = steep[0][2] if steep else 1.0
    return x / length * math.cos(angle), y / length * math.cos(angle), way * math.sin(angle)


def show_direction(x: float, y: float, z: float) -> str:
    """``down``, ``left``, ``30° down to the left``, or with degrees round the vertical where no word fits."""
    length = math.sqrt(x * x + y * y + z * z)
    if length < 1e-9:
        return "nowhere"
    steep = math.degrees(math.asin(max(-1.0, min(1.0, z / length))))
    if abs(steep) > 89.5:
        return "up" if steep > 0 else "down"
    turn = math.degrees(math.atan2(y, x)) % 360
    names = ("right", "right back", "back", "left back", "left", "left front", "front", "right front")
    near = abs((turn + 22.5) % 45 - 22.5) < 1
    where = names[round(turn / 45) % 8] if near else f"turned {digits(turn, 0)}°"
    if abs(steep) < 0.5:
        return where
    return f"{digits(abs(steep), 0)}° {'up' if steep > 0 else 'down'}{' to the' if near else ','} {where}"
