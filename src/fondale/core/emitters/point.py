# SPDX-License-Identifier: MIT
"""Point LEDs: intensity cos(theta)^m about an axis, ((1 + cos(theta)) / 2)^m where they shine backwards too, or the same all round."""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from fondale.core.arrays import Floats, rows
from fondale.core.emitters.emitter import M2_PER_MM2, Emitter
from fondale.core.model import Lamp
from fondale.core.rays import LIFT_MM
from fondale.core.side_by_side import in_parts
from fondale.core.stage.paths import images, legs
from fondale.core.stage.scene import Scene

ALL_ROUND_DEG, WIDE_DEG = 300.0, 180.0  # from where on a lamp shines the same all round, and backwards too
BULB_MM = 2.5
BULB = np.array([[0, 0, 0], [0, 0, -1], [0, 0, 1], [-1, 0, 0], [1, 0, 0], [0, -1, 0]]) * BULB_MM


@dataclass(frozen=True)
class Point(Emitter):
    """A point source: intensity cos(theta)^m about ``axis``; where it is ``wide``, ((1 + cos(theta)) / 2)^m, which ends nowhere short of
    right behind it; ``m`` None: the same in all directions.
    """

    at: tuple[float, float, float]
    axis: tuple[float, float, float]
    m: float | None
    wide: bool = False

    def shape(self, cos_theta: Floats) -> Floats:
        """Relative intensity at these cosines off the axis."""
        if self.m is None:
            return np.ones_like(cos_theta)
        if self.wide:
            return np.clip((1 + cos_theta) / 2, 0.0, 1.0) ** self.m
        out: Floats = np.where(cos_theta > 0, np.maximum(cos_theta, 1e-12) ** self.m, 0.0)
        return out

    def direct(self, scene: Scene, points: NDArray[Any], normals: NDArray[Any]) -> Floats:
        """E = I(theta) cos(incidence) / d^2, through what panes let pass."""
        return np.concatenate(in_parts(lambda a, b: self._straight(scene, points[a:b], normals[a:b]), len(points)))

    def _straight(self, scene: Scene, points: NDArray[Any], normals: NDArray[Any]) -> Floats:
        out = self._open(self.at, self.axis, points, normals)
        live = np.flatnonzero(out)
        if len(live):
            start = rows(points, live) + rows(normals, live) * LIFT_MM
            goal = np.broadcast_to(np.array(self.at, points.dtype), start.shape)
            out[live] *= scene.panes.through(start, goal)
            out[live[scene.rays.blocked(start, goal)]] = 0.0
        return out

    def thrown(self, scene: Scene, points: NDArray[Any], normals: NDArray[Any]) -> Floats:
        """The same of its images in panes and mirrors."""
        return np.concatenate(in_parts(lambda a, b: self._thrown(scene, points[a:b], normals[a:b]), len(points)))

    def _thrown(self, scene: Scene, points: NDArray[Any], normals: NDArray[Any]) -> Floats:
        at, out = np.array(self.at), np.zeros(len(points))
        for met, place, way in images(scene, at, np.array(self.axis)):
            more = self._open(place, way, points, normals)
            lit = np.flatnonzero(more)
            there, share = legs(scene, rows(points, lit) + rows(normals, lit) * LIFT_MM, at, met)
            out[lit[there]] += more[lit[there]] * share
        return out

    def _open(self, at: ArrayLike, axis: ArrayLike, points: NDArray[Any], normals: NDArray[Any]) -> Floats:
        """Its light where nothing stands between, in the precision of ``points``."""
        # Axis by axis, each in one piece: this is done for every point and lamp.
        to_lamp = [place - points[:, k] for k, place in enumerate(np.asarray(at, points.dtype))]
        d2, cos_in, along = (np.zeros(len(points), points.dtype) for _ in range(3))
        for k, (way, forth) in enumerate(zip(to_lamp, np.asarray(axis, points.dtype), strict=True)):
            d2 += way * way
            cos_in += way * normals[:, k]
            along -= way * forth
        np.maximum(d2, 1e-6, out=d2)
        d = np.sqrt(d2)
        along /= d
        out: Floats = self.shape(along)
        out *= np.maximum(cos_in, 0.0, out=cos_in)
        d2 *= d
        d2 *= points.dtype.type(M2_PER_MM2)
        out /= d2
        return out

    @property
    def flux_lm(self) -> float:
        """2 pi I0 / (m + 1), twice that where it is wide, or 4 pi I0 all round."""
        return 4 * math.pi if self.m is None else (4 if self.wide else 2) * math.pi / (self.m + 1)

    def seen(self) -> Floats:
        out: Floats = np.array(self.at) + BULB
        return out

    def outline(self) -> Floats:
        return np.array([self.at])


def exponent(angle_deg: float) -> float | None:
    """m for the full angle between half intensities: ln 0.5 / ln cos(half); from WIDE_DEG on ln 0.5 / ln((1 + cos(half)) / 2). None: all round."""
    if angle_deg >= ALL_ROUND_DEG:
        return None
    cos_half = math.cos(math.radians(angle_deg / 2))
    return math.log(0.5) / math.log((1 + cos_half) / 2 if angle_deg >= WIDE_DEG else cos_half)


def point_of(lamp: Lamp) -> Point:
    """The point source of a lamp; a lamp without a direction looks down."""
    axis = np.array([lamp.ax, lamp.ay, lamp.az])
    length = float(np.linalg.norm(axis))
    axis = axis / length if length > 1e-9 else np.array([0.0, 0.0, -1.0])
    return Point(
        (lamp.x, lamp.y, lamp.z),
        (float(axis[0]), float(axis[1]), float(axis[2])),
        exponent(lamp.angle_deg),
        WIDE_DEG <= lamp.angle_deg < ALL_ROUND_DEG,
    )
