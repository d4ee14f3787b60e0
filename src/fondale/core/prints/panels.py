# SPDX-License-Identifier: MIT
"""Panels that lift off: cut along an outline drawn on one side of a body, as deep as is said, with air all round."""

from typing import Any

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model.prints import Panel, Side, Vector
from fondale.core.prints.body import Body, BodyError
from fondale.core.prints.manifolds import from_manifold, to_manifold

OUT_MM = 1.0  # the tool starts so far outside
# Of each side: the axes of its outline, the axis that goes in, and whether it goes in from the high end.
AXES: dict[Side, tuple[int, int, int, bool]] = {"front": (0, 2, 1, False), "back": (0, 2, 1, True), "left": (1, 2, 0, False), "right": (1, 2, 0, True), "bottom": (0, 1, 2, False), "top": (0, 1, 2, True)}  # fmt: skip


def outwards(side: Side) -> Floats:
    """The way in which a side looks, (3,)."""
    _u, _v, w, high = AXES[side]
    out: Floats = np.zeros(3)
    out[w] = 1.0 if high else -1.0
    return out


def panel_size(panel: Panel, size: Vector) -> Vector:
    """The box in mm that a panel of a body of ``size`` lies within."""
    u, v, w, _high = AXES[panel.side]
    ring = np.array(panel.outline)
    out = [0.0, 0.0, 0.0]
    out[u], out[v] = (np.ptp(ring, axis=0) * [size[u], size[v]]).tolist()
    out[w] = min(panel.deep_mm or size[w], size[w])
    return out[0], out[1], out[2]


def _tool(panel: Panel, low: Floats, size: Floats, grow: float) -> Any:
    """What is cut away: the outline, grown all round, drawn in from its side."""
    import manifold3d

    u, v, w, high = AXES[panel.side]
    ring = np.array(panel.outline) * [size[u], size[v]] + [low[u], low[v]]
    if np.sum(ring[:, 0] * np.roll(ring[:, 1], -1) - ring[:, 1] * np.roll(ring[:, 0], -1)) < 0:
        ring = ring[::-1]
    flat = manifold3d.CrossSection([np.ascontiguousarray(ring)])
    if grow:
        flat = flat.offset(grow, manifold3d.JoinType.Miter)
    deep = (panel.deep_mm + grow if panel.deep_mm else size[w] + OUT_MM) + OUT_MM
    place = np.zeros((3, 4))
    place[u, 0] = place[v, 1] = 1.0
    place[w, 2] = -1.0 if high else 1.0
    place[w, 3] = low[w] + size[w] + OUT_MM if high else low[w] - OUT_MM
    return manifold3d.Manifold.extrude(flat, deep).transform(place)


def lift_off(body: Body, panels: tuple[Panel, ...], air: float) -> tuple[Body, tuple[Body, ...]]:
    """The body without its panels, and each panel, ``air`` mm smaller than its hole all round.

    Raises BodyError for a body that is not closed, an outline that meets nothing, or panels that leave nothing.
    """
    rest = to_manifold(body)
    low, size = body.vertices.min(axis=0).astype(float), np.ptp(body.vertices, axis=0).astype(float)
    out = []
    for panel in panels:
        lid = rest ^ _tool(panel, low, size, 0.0)
        if lid.is_empty() or lid.volume() <= 0:
            raise BodyError(f"The panel drawn on the {panel.side} meets nothing. Draw it over the body.")
        rest = rest - _tool(panel, low, size, air)
        if rest.is_empty():
            raise BodyError(f"The panel drawn on the {panel.side} takes all of the body. Draw it smaller, or less deep.")
        out.append(from_manifold(lid))
    return from_manifold(rest), tuple(out)
