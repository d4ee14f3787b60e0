# SPDX-License-Identifier: MIT
"""Posts, drums and wheels."""

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.bodies.lofts import loft
from fondale.core.model.shapes import Cylinder, Wheel
from fondale.core.shapes.kind import ShapeKind
from fondale.core.shapes.solid import Outline, Solid, block_ring, of_tris

SIDES = 24


class CylinderKind(ShapeKind[Cylinder]):
    """A post, drum or pipe along an axis."""

    model, words, main = Cylinder, "Post or drum", "length"
    sides = SIDES
    axes = {"diameter": 0, "length": 0}  # noqa: RUF012

    def new(self) -> Cylinder:
        return Cylinder(diameter=6, length=40)

    def solid(self, shape: Cylinder, height: float) -> Solid:
        return of_tris(_round(shape))

    def outline(self, shape: Cylinder, height: float) -> Outline:
        wide, high = (shape.diameter, shape.length) if shape.axis == "z" else (shape.length, shape.diameter)
        return (block_ring(wide, high),)


class WheelKind(ShapeKind[Wheel]):
    """A spoked wheel standing on its rim, axle along x."""

    sides = SIDES
    model, words, caption, main, ring_alone = Wheel, "Wheel", "diameter", "diameter", True
    axes = {"diameter": 0, "width": 0}  # noqa: RUF012

    def new(self) -> Wheel:
        return Wheel(diameter=30)

    def solid(self, shape: Wheel, height: float) -> Solid:
        return of_tris(wheel(shape))

    def outline(self, shape: Wheel, height: float) -> Outline:
        return _wheel_rings(shape)


def _round(s: Cylinder) -> Floats:
    r = s.diameter / 2
    path = np.linspace(0, s.length, 3)
    if s.axis == "z":
        line = np.stack([np.zeros(3), np.zeros(3), path], 1)
        return loft(line, np.full(3, r), np.full(3, r), np.array([1.0, 0, 0]), SIDES)
    flat = path - s.length / 2
    zeros, up = np.zeros(3), np.full(3, r)
    line = np.stack([flat, zeros, up], 1) if s.axis == "x" else np.stack([zeros, flat, up], 1)
    return loft(line, np.full(3, r), np.full(3, r), np.array([0, 0, 1.0]), SIDES)


def wheel(s: Wheel) -> Floats:
    """Rim, hub and spokes; the axle lies along x, the wheel stands on z = 0."""
    r, w, n = s.diameter / 2, s.width, SIDES
    rim, a = s.diameter * 0.05, np.linspace(0, 2 * np.pi, n, endpoint=False)
    out = []
    ring = np.stack([np.zeros(n), np.cos(a), np.sin(a)], 1)
    for i in range(n):
        j = (i + 1) % n
        quads = []
        for side, radius_a, radius_b in ((1, r, r - rim), (-1, r - rim, r)):
            x = np.array([side * w / 2, 0, 0])
            quads.append([x + ring[i] * radius_a, x + ring[j] * radius_a, x + ring[j] * radius_b, x + ring[i] * radius_b])
        h = np.array([w / 2, 0, 0])
        quads.append([ring[i] * r - h, ring[j] * r - h, ring[j] * r + h, ring[i] * r + h])
        quads.append([ring[i] * (r - rim) + h, ring[j] * (r - rim) + h, ring[j] * (r - rim) - h, ring[i] * (r - rim) - h])
        q = np.array(quads)
        out.append(np.stack([q[:, [0, 1, 2]], q[:, [0, 2, 3]]], 1).reshape(-1, 3, 3))
    line = np.array([[-w * 0.7, 0, 0], [0, 0, 0], [w * 0.7, 0, 0]])
    out.append(loft(line, np.full(3, r * 0.14), np.full(3, r * 0.14), np.array([0, 0, 1.0]), 10))
    for k in range(s.spokes):
        way = np.array([0, np.cos(2 * np.pi * k / s.spokes), np.sin(2 * np.pi * k / s.spokes)])
        out.append(
            loft(np.outer([0.1 * r, 0.5 * r, r - rim * 0.5], way), np.full(3, w * 0.16), np.full(3, r * 0.022), np.array([1.0, 0, 0]), 4)
        )
    whole: Floats = np.concatenate(out) + np.array([0, 0, r])
    return whole


def _wheel_rings(shape: Wheel) -> Outline:
    r, a = shape.diameter / 2, np.linspace(0, 2 * np.pi, 49)[:-1]
    circle = np.stack([np.cos(a), np.sin(a)], 1)
    rings = [circle * r + [0, r]]
    n = max(shape.spokes, 3)
    for k in range(n):
        b = np.linspace(2 * np.pi * k / n + 0.5 / n, 2 * np.pi * (k + 1) / n - 0.5 / n, 6)
        arc = np.stack([np.cos(b), np.sin(b)], 1)
        rings.append(np.concatenate((arc * r * 0.88, arc[::-1] * r * 0.2)) + np.array([0.0, r]))
    return tuple(rings)
