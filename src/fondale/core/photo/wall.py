"""A wall in a photograph: the homography from four corners of a rectangle of known sides."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from fondale.core.arrays import Floats
from fondale.core.troubles import Trouble

PIXEL_SIGMA = 1.0  # how well a point is set by hand; common practice, no source


class PhotoError(Trouble):
    """Points that no size can be read from; the text says what to set instead."""


def _normaliser(points: Floats) -> Floats:
    """Moves the mean to 0 and the mean distance to the square root of 2 [hartley1997]."""
    mean = points.mean(0)
    spread = np.linalg.norm(points - mean, axis=1).mean()
    if spread < 1e-9:
        raise PhotoError("The corners lie on one spot. Pull them apart.")
    s = np.sqrt(2) / spread
    return np.array([[s, 0, -s * mean[0]], [0, s, -s * mean[1]], [0, 0, 1.0]])


def homography(source: ArrayLike, target: ArrayLike) -> Floats:
    """The 3 x 3 matrix that maps ``source`` (n, 2) onto ``target`` (n, 2), n at least 4: normalised direct linear transform.

    Source of the method: [hartley1997]; [hartley2004], algorithm 4.2.
    Raises PhotoError when the points do not fix it: three on a line, or fewer than four.
    """
    src, dst = np.asarray(source, float), np.asarray(target, float)
    if src.shape != dst.shape or src.ndim != 2 or src.shape[1:] != (2,) or len(src) < 4:
        raise PhotoError("Set four corners.")
    if not (np.isfinite(src).all() and np.isfinite(dst).all()):
        raise PhotoError("A corner has no place in the picture. Set it again.")
    t_src, t_dst = _normaliser(src), _normaliser(dst)
    a, b = warp(t_src, src), warp(t_dst, dst)
    one, nil = np.ones(len(a)), np.zeros((len(a), 3))
    row = np.column_stack([a, one])
    rows = np.concatenate([np.hstack([-row, nil, row * b[:, :1]]), np.hstack([nil, -row, row * b[:, 1:]])])
    _u, s, v = np.linalg.svd(rows)
    if s[7] < 1e-7 * s[0]:
        raise PhotoError("Three of the corners lie on one line. Set them on the corners of a rectangle.")
    h = np.linalg.inv(t_dst) @ v[-1].reshape(3, 3) @ t_src
    if abs(h[2, 2]) < 1e-15:
        raise PhotoError("The corners cannot be those of a rectangle seen from in front. Set them again.")
    out: Floats = h / h[2, 2]
    return out


def warp(h: Floats, points: ArrayLike) -> Floats:
    """``points`` (..., 2) through the homography ``h``; points on its horizon become infinite."""
    p = np.asarray(points, float)
    w = p @ h[2, :2] + h[2, 2]
    with np.errstate(divide="ignore", invalid="ignore"):
        out: Floats = (p @ h[:2, :2].T + h[:2, 2]) / w[..., None]
    return out


def _turns(corners: Floats) -> Floats:
    d = np.roll(corners, -1, axis=0) - corners
    n = np.roll(d, -1, axis=0)
    out: Floats = d[:, 0] * n[:, 1] - d[:, 1] * n[:, 0]
    return out


@dataclass(frozen=True)
class Wall:
    """A straightened wall: ``corners`` (4, 2) in pixels (top left, top right, bottom right, bottom left), sides in mm."""

    corners: Floats
    width_mm: float
    height_mm: float

    @property
    def rectangle(self) -> Floats:
        """The corners on the wall in mm, y downwards."""
        w, h = self.width_mm, self.height_mm
        return np.array([[0, 0], [w, 0], [w, h], [0, h]], float)

    def matrix(self) -> Floats:
        """Pixels to mm on the wall. Raises PhotoError for corners that cross or fold."""
        turns = _turns(np.asarray(self.corners, float))
        if not (np.isfinite(turns).all() and ((turns > 0).all() or (turns < 0).all())):
            raise PhotoError("The frame crosses or folds over. Set its corners one after the other round the rectangle.")
        return homography(self.corners, self.rectangle)

    def length(self, a: ArrayLike, b: ArrayLike) -> tuple[float, float]:
        """Length in mm between two pixels on the wall, and its standard deviation for one pixel on every point set.

        Raises PhotoError where the line leaves what the camera sees of the wall, or is too far off the frame to be read.
        """
        ends = np.array([a, b], float)
        here = self._length(self.corners, ends)
        points = np.concatenate([np.asarray(self.corners, float), ends])
        variance = 0.0
        for i in range(12):
            step = np.zeros(12)
            step[i] = 0.5
            up, down = points + step.reshape(6, 2), points - step.reshape(6, 2)
            variance += (self._length(up[:4], up[4:]) - self._length(down[:4], down[4:])) ** 2
        if not (here > 0 and np.isfinite([here, variance]).all()):
            raise PhotoError("The frame is too small to read a line so far off. Set it round something larger.")
        return here, float(np.sqrt(variance)) * PIXEL_SIGMA

    def _length(self, corners: Floats, ends: Floats) -> float:
        h = Wall(corners, self.width_mm, self.height_mm).matrix()
        w = ends @ h[2, :2] + h[2, 2]
        inside = np.asarray(corners, float) @ h[2, :2] + h[2, 2]
        if (w * inside[0] <= 0).any():
            raise PhotoError("The line runs past the wall's horizon. Shorten it.")
        p = warp(h, ends)
        return float(np.linalg.norm(p[1] - p[0]))

    def angle(self, a: ArrayLike, corner: ArrayLike, b: ArrayLike) -> float:
        """The angle on the wall at ``corner`` between the ways to ``a`` and ``b``, in degrees."""
        p = warp(self.matrix(), np.array([a, corner, b], float))
        u, v = p[0] - p[1], p[2] - p[1]
        size = np.linalg.norm(u) * np.linalg.norm(v)
        if not size > 0:
            raise PhotoError("An angle needs two lines from one corner.")
        return float(np.degrees(np.arccos(np.clip(u @ v / size, -1, 1))))
