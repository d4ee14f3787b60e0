# SPDX-License-Identifier: MIT
"""Panels that lift off a file, as they are typed and shown."""

import re
from typing import get_args

from fondale.core.lengths import LengthError
from fondale.core.model.prints import Panel, Side
from fondale.core.words import digits

SIDES: tuple[str, ...] = get_args(Side)
HELP = "Say the side, its outline in percent and how deep: front 20-80 x 30-70, 3 mm; or by corners: top 10/10 90/10 50/80, 2 mm"
_BOX = re.compile(r"([\d.]+)\s*-\s*([\d.]+)\s*x\s*([\d.]+)\s*-\s*([\d.]+)")
_CORNER = re.compile(r"([\d.]+)\s*/\s*([\d.]+)")
_DEEP = re.compile(r"([\d.]+)\s*mm")


def parse_panels(text: str) -> tuple[Panel, ...]:
    """``front 20-80 x 30-70, 3 mm; top 10/10 90/10 50/80``: panels by their side; without a depth they go right through. Raises LengthError."""
    out: list[Panel] = []
    for part in (p.strip().lower().replace("%", "").replace("×", "x") for p in text.split(";")):
        if not part:
            continue
        side = next((s for s in SIDES if part.startswith(s)), "")
        deep, body = _DEEP.search(part), _DEEP.sub("", part)
        try:
            box = _BOX.search(body)
            if box is not None:
                u0, u1, v0, v1 = (round(float(g) / 100, 6) for g in box.groups())
                corners = ((u0, v0), (u1, v0), (u1, v1), (u0, v1))
            else:
                corners = tuple((round(float(u) / 100, 6), round(float(v) / 100, 6)) for u, v in _CORNER.findall(body))  # type: ignore[assignment]
            if not side or len(corners) < 3 or not all(0 <= c <= 1 for corner in corners for c in corner):
                raise ValueError
            out.append(Panel(id=f"panel-{len(out) + 1}", side=side, outline=corners, deep_mm=float(deep[1]) if deep else 0.0))  # type: ignore[arg-type]
        except ValueError:
            raise LengthError(f"{HELP}.") from None
    if len(out) > 20:
        raise LengthError("At most 20 panels.")
    return tuple(out)


def show_panels(panels: tuple[Panel, ...] | None) -> str:
    """Panels as they are typed."""
    said = []
    for panel in panels or ():
        percent = [(digits(u * 100, 1), digits(v * 100, 1)) for u, v in panel.outline]
        ring = panel.outline
        box = (
            len(ring) == 4
            and ring[0][1] == ring[1][1]
            and ring[1][0] == ring[2][0]
            and ring[2][1] == ring[3][1]
            and ring[3][0] == ring[0][0]
        )
        shape = f"{percent[0][0]}-{percent[1][0]} x {percent[0][1]}-{percent[2][1]}" if box else " ".join(f"{u}/{v}" for u, v in percent)
        said.append(f"{panel.side} {shape}{f', {digits(panel.deep_mm, 2)} mm' if panel.deep_mm else ''}")
    return "; ".join(said)
