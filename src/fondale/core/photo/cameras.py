# SPDX-License-Identifier: MIT
"""Cameras that may have taken a photograph: the likeliest one, and many others drawn by what is known of its lens and of how it was held.

A size is read by each of them; how far they scatter is what is told with it. What tells how the camera was held (a horizon, things that stand
upright) is laid on each camera that was drawn as it may have been set by the hand (randomise, then optimise [bardsley2014]).
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from zlib import crc32

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model import Photo, Thread

COUNT = 1200
DIAGONAL_MM = 43.27  # of the picture that a 35 mm equivalent is told for
WIDEST, LONGEST = 24.0, 85.0  # lenses that people use, as equally likely by their logarithm: common practice, no source
SHORTEST = 5.0  # mm: what a file says below it is no lens
LENS = 0.03  # how well the focal length in a file is known
TILT_DEG, ROLL_DEG, YAW_DEG = 8.0, 1.7, 3.0  # how far cameras are held from level, upright and square: common practice, no source
MIDDLE = 0.01  # of its width: how far a lens looks beside the middle of the picture
BARREL = 0.03  # how far a lens may bend the corners inwards, as a share
STANDS = 0.002  # how upright things stand, in radians
STEPS = 3
FINEST_PX = 0.02  # no point of a picture is set better (common practice, no source); what is divided by less than this loses all else


@dataclass(frozen=True)
class Cameras:
    """Row 0 is the likeliest camera. Focal lengths (n,) and middles (n, 2) in pixels, bends (n,), which way is down (n, 3) in the camera's own axes
    (right, down, ahead), how far a plane is turned from square (n,) in radians, and how likely each is (n,).
    """

    focal: Floats
    middle: Floats
    bend: Floats
    down: Floats
    yaw: Floats
    weight: Floats
    half_px: float
    pitch: Floats

    def straight(self, points: Floats) -> Floats:
        """Pixels (n, ..., 2) without the bend of the lens."""
        shape = (-1,) + (1,) * (points.ndim - 2)
        away = points - self.middle.reshape(*shape, 2)
        out: Floats = self.middle.reshape(*shape, 2) + away * (
            1 - self.bend.reshape(*shape, 1) * np.einsum("...i,...i->...", away, away)[..., None] / self.half_px**2
        )
        return out

    def rays(self, points: Floats) -> Floats:
        """The ways (n, 3) in which pixels (n, 2) are seen, in the camera's axes, one ahead."""
        flat = (self.straight(points) - self.middle) / self.focal[:, None]
        return np.concatenate([flat, np.ones((len(flat), 1))], 1)

    def level(self, rays: Floats, turned: bool = False) -> Floats:
        """Rays (n, 3) right, down and level ahead in the world; ``turned``: ahead is square to the plane that each camera supposes."""
        ahead = np.array([0.0, 0.0, 1.0]) - self.down[:, 2:] * self.down
        ahead /= np.sqrt(_dot(ahead, ahead))[:, None]
        right = np.cross(self.down, ahead)
        if turned:
            c, s = np.cos(self.yaw)[:, None], np.sin(self.yaw)[:, None]
            right, ahead = c * right - s * ahead, s * right + c * ahead
        return np.stack([_dot(rays, right), _dot(rays, self.down), _dot(rays, ahead)], 1)


def hand_of(px: float) -> float:
    """How well a point was set, in pixels of the file: as it is told, at least ``FINEST_PX``; one pixel where it is not told."""
    return max(px, FINEST_PX) if px else 1.0


def shaken(point: tuple[float, float], sigma: float, name: str) -> Floats:
    """A point (n, 2) as it may have been meant: row 0 is where it was set. The same name shakes alike."""
    out: Floats = np.array(point, float) + sigma * _shake(name)
    return out


@lru_cache(maxsize=1024)
def _shake(name: str) -> Floats:
    return _with_none(np.random.default_rng(crc32(name.encode())).normal(size=(COUNT, 2)))


@dataclass(frozen=True)
class _Upright:
    """A line that stands upright: its ends (n, 2), how well it shows which way is down, in radians."""

    a: Floats
    b: Floats
    sigma: float


@lru_cache(maxsize=4)
def cameras_of(photo: Photo) -> Cameras:
    """The cameras that may have taken a photograph, by its lens, its horizon, its upright threads and the sides of its frame."""
    rng = np.random.default_rng(1)
    diagonal = math.hypot(photo.width, photo.height)
    logs = rng.uniform(math.log(WIDEST), math.log(LONGEST), COUNT)
    lens = max(photo.f35_mm, SHORTEST) if photo.f35_mm else 0.0
    known = math.log(lens) + LENS * rng.normal(size=COUNT) if lens else logs
    likeliest = lens or math.sqrt(WIDEST * LONGEST)
    focal = np.concatenate([[likeliest], np.exp(known)]) / DIAGONAL_MM * diagonal
    middle = np.array([photo.width, photo.height]) / 2 + _with_none(rng.normal(0, MIDDLE, (COUNT, 2))) * photo.width
    bend = _with_none(rng.uniform(-BARREL, 0, COUNT))
    held = _with_none(np.radians(rng.normal(0, (TILT_DEG, ROLL_DEG), (COUNT, 2))))
    yaw = _with_none(np.radians(rng.normal(0, YAW_DEG, COUNT)))
    plain = Cameras(focal, middle, bend, _down(held), yaw, np.ones(COUNT + 1), diagonal / 2, held[:, 0])
    uprights = uprights_of(photo)
    if not uprights and photo.horizon is None:
        return plain
    weight = np.ones(COUNT + 1)
    if len(uprights) + 2 * (photo.horizon is not None) > 2 and not photo.f35_mm:  # they tell of the lens too
        set_so = [_Upright(np.broadcast_to(u.a[:1], u.a.shape), np.broadcast_to(u.b[:1], u.b.shape), u.sigma) for u in uprights]
        _held_so, misfit = _held(plain, held * 0, held, photo, set_so, still=True)
        weight = np.exp(-0.5 * np.minimum(misfit - misfit[1:].min(), 60.0))
        focal[0] = np.exp(np.average(np.log(focal[1:]), weights=weight[1:]))
    found, _misfit = _held(plain, held, held, photo, uprights)
    return Cameras(focal, middle, bend, _down(found), yaw, weight, diagonal / 2, found[:, 0])


def uprights_of(photo: Photo) -> list[_Upright]:
    """Threads that stand upright, and the upright sides of the frame."""
    lines = [(t.a, t.b, hand_of(t.hand_px), t.id) for t in photo.threads if t.on == "upright"]
    if photo.frame is not None:
        c = photo.frame.corners
        lines += [(c[k], c[j], hand_of(photo.frame.hand_px), f"frame {k}") for k, j in ((0, 3), (1, 2))]
    out = []
    for a, b, sigma, name in lines:
        long = math.dist(a, b)
        if long >= 4 * sigma:
            out.append(
                _Upright(shaken(a, sigma, f"{name} a"), shaken(b, sigma, f"{name} b"), math.hypot(math.sqrt(2) * sigma / long, STANDS))
            )
    return out


def _dot(a: Floats, b: Floats) -> Floats:
    """Row by row: sums over two or three columns are slow."""
    out: Floats = np.einsum("ij,ij->i", a, b)
    return out


def _with_none(drawn: Floats) -> Floats:
    return np.concatenate([np.zeros((1, *drawn.shape[1:])), drawn])


def _down(held: Floats) -> Floats:
    """Which way is down (n, 3) for a camera tilted and rolled (n, 2), in radians."""
    p, r = held[:, 0], held[:, 1]
    return np.stack([-np.sin(r) * np.cos(p), np.cos(r) * np.cos(p), np.sin(p)], 1)


def _held(
    cameras: Cameras, start: Floats, drawn: Floats, photo: Photo, uprights: list[_Upright], still: bool = False
) -> tuple[Floats, Floats]:
    """Tilt and roll (n, 2) that fit best what shows how the camera was held, and how badly they fit (n,): Gauss and Newton, each camera by itself."""
    sigma = np.radians([TILT_DEG, ROLL_DEG])
    prior = drawn * 0 if still else drawn
    planes = []
    for u in uprights:
        normal = np.cross(cameras.rays(u.a), cameras.rays(u.b))
        planes.append((normal / np.maximum(np.sqrt(_dot(normal, normal)), 1e-12)[:, None], u.sigma))
    edges: list[tuple[Floats, float, float]] = []
    if photo.horizon is not None:
        hand = hand_of(photo.horizon.hand_px)
        for x, y, name in ((0.0, photo.horizon.left, "left"), (float(photo.width), photo.horizon.right, "right")):
            at = shaken((x, y), 0.0 if still else hand, f"horizon {name}")
            edges.append((at[:, 1], x, hand))
    found = start.copy()

    def misfit(held: Floats) -> Floats:
        down = _down(held)
        rows = [(held - prior) / sigma]
        rows += [(_dot(normal, down) / s)[:, None] for normal, s in planes]
        for y, x, hand in edges:
            seen = cameras.middle[:, 1] - (down[:, 0] * (x - cameras.middle[:, 0]) + down[:, 2] * cameras.focal) / down[:, 1]
            rows.append(((seen - y) / hand)[:, None])
        return np.concatenate(rows, 1)

    step = 1e-5
    for _ in range(STEPS):
        here = misfit(found)
        tilt, roll = ((misfit(found + step * np.eye(2)[k]) - here) / step for k in (0, 1))
        aa, ab, bb = _dot(tilt, tilt), _dot(tilt, roll), _dot(roll, roll)
        a, b = _dot(tilt, here), _dot(roll, here)
        whole = aa * bb - ab * ab  # above zero: how cameras are held tells a little of both
        found = np.clip(found - np.stack([(bb * a - ab * b) / whole, (aa * b - ab * a) / whole], 1), -1.2, 1.2)
    left = misfit(found)
    return found, _dot(left, left)


def pixels_of(thread: Thread) -> float:
    """How long a thread is in the picture."""
    return math.dist(thread.a, thread.b)
