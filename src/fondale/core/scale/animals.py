"""Simple animal bodies, in fractions of the height by which the kind is known; facing -y."""

from functools import lru_cache

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.scale.lofts import ball, loft

_X = np.array([1.0, 0.0, 0.0])


def _tube(points: list[list[float]], radii: list[float], flat: float = 1.0) -> Floats:
    r = np.array(radii)
    return loft(np.array(points), r * flat, r, _X, 8)


def _four_legs(leg: float, half: float, front: float, back: float, r: float) -> list[Floats]:
    return [
        _tube(
            [[sx * half, y, leg], [sx * half, y + 0.02, leg * 0.5], [sx * half, y, 0.03], [sx * half, y - 0.06, 0.0]],
            [r * 1.5, r, r, r * 0.8],
        )
        for sx in (1, -1)
        for y in (front, back)
    ]


def _cat() -> list[Floats]:
    return [
        _tube([[0, -0.55, 0.80], [0, -0.30, 0.78], [0, 0.25, 0.80], [0, 0.52, 0.78]], [0.10, 0.22, 0.22, 0.10], 0.8),
        _tube([[0, -0.46, 0.86], [0, -0.60, 0.94], [0, -0.72, 1.0]], [0.17, 0.13, 0.12]),
        ball(np.array([0, -0.74, 1.02]), np.array([0, 0, 1.0]), 0.17, 0.17, 0.19, _X),
        _tube([[0.09, -0.72, 1.12], [0.10, -0.72, 1.27]], [0.06, 0.01]),
        _tube([[-0.09, -0.72, 1.12], [-0.10, -0.72, 1.27]], [0.06, 0.01]),
        _tube([[0, 0.50, 0.80], [0, 0.78, 0.95], [0, 0.86, 1.30], [0, 0.78, 1.55]], [0.06, 0.05, 0.045, 0.03]),
        *_four_legs(0.75, 0.13, -0.42, 0.40, 0.06),
    ]


def _dog() -> list[Floats]:
    return [
        _tube([[0, -0.52, 0.80], [0, -0.30, 0.76], [0, 0.25, 0.82], [0, 0.48, 0.82]], [0.14, 0.24, 0.18, 0.10], 0.8),
        _tube([[0, -0.46, 0.88], [0, -0.66, 1.15]], [0.14, 0.11]),
        _tube([[0, -0.58, 1.22], [0, -0.72, 1.20], [0, -0.95, 1.12]], [0.13, 0.13, 0.05]),
        _tube([[0, 0.46, 0.88], [0, 0.72, 1.05]], [0.05, 0.02]),
        *_four_legs(0.75, 0.13, -0.38, 0.36, 0.06),
    ]


def _heron() -> list[Floats]:
    return [
        _tube([[0, -0.16, 0.58], [0, -0.05, 0.56], [0, 0.12, 0.50], [0, 0.30, 0.42]], [0.03, 0.10, 0.09, 0.015], 0.8),
        _tube([[0, -0.10, 0.60], [0, -0.20, 0.68], [0, -0.12, 0.80], [0, -0.13, 0.965]], [0.05, 0.03, 0.024, 0.024]),
        _tube([[0, -0.08, 0.965], [0, -0.15, 0.97], [0, -0.22, 0.96], [0, -0.42, 0.93]], [0.02, 0.032, 0.022, 0.004]),
        _tube([[0.04, 0.02, 0.50], [0.04, 0.05, 0.26], [0.04, 0.0, 0.02]], [0.022, 0.012, 0.012]),
        _tube([[-0.04, 0.02, 0.50], [-0.04, -0.02, 0.26], [-0.04, 0.02, 0.02]], [0.022, 0.012, 0.012]),
        _tube([[0.04, 0.02, 0.008], [0.04, -0.10, 0.008]], [0.014, 0.008]),
        _tube([[-0.04, 0.04, 0.008], [-0.04, -0.08, 0.008]], [0.014, 0.008]),
    ]


@lru_cache(maxsize=8)
def animal(species: str) -> Floats:
    """Triangles (n, 3, 3) with the kind's own measure (shoulder for cat and dog, whole for the heron) as 1."""
    tris = np.concatenate({"cat": _cat, "dog": _dog, "heron": _heron}[species]())
    shift = np.array([0, 0, tris[..., 2].min()])
    out: Floats = tris - shift
    return out
