"""Point LEDs: intensity cos(theta)^m about an axis, ((1 + cos(theta)) / 2)^m where they shine backwards too, or the same all round."""

import math
from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Floats, dot
from fondale.core.emitters.emitter import M2_PER_MM2, Emitter
from fondale.core.model import Lamp
from fondale.core.rays import LIFT_MM
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

    def direct(self, scene: Scene, points: Floats, normals: Floats) -> Floats:
        """E = I(theta) cos(incidence) / d^2, through what panes let pass."""
        at = np.array(self.at)
        out = self._open(at, np.array(self.axis), points, normals)
        live = np.flatnonzero(out > 0)
        if len(live):
            start = points[live] + normals[live] * LIFT_MM
            goal = np.broadcast_to(at, start.shape)
            out[live] *= np.where(scene.rays.blocked(start, goal), 0.0, scene.panes.through(start, goal))
        return out

    def thrown(self, scene: Scene, points: Floats, normals: Floats) -> Floats:
        """The same of its images in panes and mirrors."""
        at, out = np.array(self.at), np.zeros(len(points))
        for met, place, way in images(scene, at, np.array(self.axis)):
            more = self._open(place, way, points, normals)
            lit = np.flatnonzero(more > 0)
            there, share = legs(scene, points[lit] + normals[lit] * LIFT_MM, at, met)
            out[lit[there]] += more[lit[there]] * share
        return out

    def _open(self, at: Floats, axis: Floats, points: Floats, normals: Floats) -> Floats:
        """Its light where nothing stands between."""
        to_lamp = at - points
        d2 = np.maximum(dot(to_lamp, to_lamp), 1e-6)
        d = np.sqrt(d2)
        cos_in = dot(to_lamp, normals) / d
        strength = self.shape(-(to_lamp @ axis) / d)
        out: Floats = np.where(cos_in > 0, strength * cos_in / (d2 * M2_PER_MM2), 0.0)
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
