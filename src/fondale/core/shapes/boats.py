# SPDX-License-Identifier: MIT
"""Open boats, bow towards +x: one set of lines for the body, the plan of the inside and what can be stood on."""

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model.shapes import Hull
from fondale.core.shapes.kind import ShapeKind
from fondale.core.shapes.solid import Outline, Solid, of_tris

STATIONS = np.array([0.0, 0.12, 0.35, 0.6, 0.8, 0.93, 1.0])  # shares of the length, stern first
HALF_BEAM = np.array([0.62, 0.86, 1.0, 0.97, 0.74, 0.38, 0.04])  # at each, a share of half the beam
FLOOR = 0.22  # height of the boards, a share of the depth
SIDE = np.array([[-0.5, 0.75], [-0.46, 0.1], [-0.3, 0.0], [0.3, 0.0], [0.5, 1.0], [0.1, 0.8]])


class HullKind(ShapeKind[Hull]):
    """An open boat: figures stand in it."""

    model, words, scenery, open_above = Hull, "Boat", True, True
    axes = {"length": 0, "beam": 1, "depth": 1}  # noqa: RUF012

    def new(self) -> Hull:
        return Hull(length=110, beam=36, depth=18)

    def solid(self, shape: Hull, height: float) -> Solid:
        return of_tris(_hull(shape))

    def outline(self, shape: Hull, height: float) -> Outline:
        return (SIDE * [shape.length, shape.depth],)

    def top(self, shape: Hull, x: float, y: float) -> float | None:
        return shape.depth * FLOOR if abs(x) <= shape.length * 0.4 and abs(y) <= shape.beam * 0.35 else None


def plan(length: float, beam: float) -> Floats:
    """The plan (k, 2) of an open boat's inside, its stern at x = 0."""
    half = HALF_BEAM * beam / 2
    return np.concatenate(
        [np.column_stack([STATIONS * length, beam / 2 - half]), np.column_stack([STATIONS * length, beam / 2 + half])[::-1]]
    )


def _hull(s: Hull) -> Floats:
    """An open boat as one closed body: an outer and an inner skin of lofted frames, bow towards +x, rims, transom and stem between them."""
    t = STATIONS
    beam = HALF_BEAM * s.beam / 2
    sheer = (0.82 + 0.18 * (2 * t - 0.8) ** 2) * s.depth
    keel = np.array([0.12, 0.03, 0.0, 0.0, 0.06, 0.22, 0.55]) * s.depth
    wall = min(s.beam * 0.06, 3.0)

    def frames(inset: float, lift: float) -> Floats:
        rows = []
        for x, b, top, low in zip((t - 0.5) * s.length, np.maximum(beam - inset, 0.2), sheer, keel + lift, strict=True):
            low = min(low, top - 0.2)
            rows.append(
                [
                    [x, -b, top],
                    [x, -b * 0.86, low + (top - low) * 0.35],
                    [x, -b * 0.35, low],
                    [x, b * 0.35, low],
                    [x, b * 0.86, low + (top - low) * 0.35],
                    [x, b, top],
                ]
            )
        return np.array(rows)

    def skin(f: Floats, out: bool) -> Floats:
        a, b, c, d = f[:-1, :-1], f[1:, :-1], f[1:, 1:], f[:-1, 1:]
        q = np.stack([a, d, c, b] if out else [a, b, c, d], 2).reshape(-1, 4, 3)
        return np.stack([q[:, [0, 1, 2]], q[:, [0, 2, 3]]], 1).reshape(-1, 3, 3)

    outer, inner = frames(0.0, 0.0), frames(wall, s.depth * FLOOR)
    inner[0, :, 0] += min(wall, s.length * 0.05)  # the transom is as thick as the sides
    inner[-1, :, 0] -= min(wall, s.length * 0.03)
    rims = [quads(outer[:-1, e], outer[1:, e], inner[1:, e], inner[:-1, e], e != 0) for e in (0, -1)]
    ends = [fan(outer[0], True), fan(outer[-1], False), fan(inner[0], False), fan(inner[-1], True)]
    sills = [quads(outer[k, [0]], outer[k, [-1]], inner[k, [-1]], inner[k, [0]], k == 0) for k in (0, -1)]
    return np.concatenate([skin(outer, True), skin(inner, False), *rims, *ends, *sills])


def quads(a: Floats, b: Floats, c: Floats, d: Floats, turned: bool) -> Floats:
    """Two triangles for each row of four corners (n, 3); ``turned``: seen from the other side."""
    q = np.stack([a, d, c, b] if turned else [a, b, c, d], 1)
    return np.stack([q[:, [0, 1, 2]], q[:, [0, 2, 3]]], 1).reshape(-1, 3, 3)


def fan(ring: Floats, turned: bool) -> Floats:
    """A face (n, 3, 3) over a convex ring of corners (k, 3); ``turned``: seen from the other side."""
    k = np.arange(1, len(ring) - 1)
    a, b = (k + 1, k) if turned else (k, k + 1)
    return np.stack([np.broadcast_to(ring[0], (len(k), 3)), ring[a], ring[b]], 1)
