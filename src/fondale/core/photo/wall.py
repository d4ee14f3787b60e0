"""A wall in a photograph: the homography from four corners of a rectangle of known sides."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from fondale.core.arrays import Bools, Floats
from fondale.core.troubles import Trouble


class PhotoError(Trouble):
    """Points that no size can be read from; the text says what to set instead."""


def _normaliser(points: Floats) -> Floats:
    """Moves the mean to 0 and the mean distance to the square root of 2 [hartley1997], for each set of points."""
    mean = points.mean(-2)
    spread = np.linalg.norm(points - mean[..., None, :], axis=-1).mean(-1)
    if (spread < 1e-9).any():
        raise PhotoError("The corners lie on one spot. Pull them apart.")
    s = np.sqrt(2) / spread
    out = np.zeros((*spread.shape, 3, 3))
    out[..., 0, 0] = out[..., 1, 1] = s
    out[..., :2, 2] = -s[..., None] * mean
    out[..., 2, 2] = 1.0
    return out


def homography(source: ArrayLike, target: ArrayLike) -> Floats:
    """The 3 x 3 matrix that maps ``source`` (..., n, 2) onto ``target`` (..., n, 2), n at least 4: normalised direct linear transform.

    Source of the method: [hartley1997]; [hartley2004], algorithm 4.2.
    Raises PhotoError when the points do not fix it: three on a line, or fewer than four.
    """
    src, dst = np.asarray(source, float), np.asarray(target, float)
    if src.shape != dst.shape or src.ndim < 2 or src.shape[-1] != 2 or src.shape[-2] < 4:
        raise PhotoError("Set four corners.")
    if not (np.isfinite(src).all() and np.isfinite(dst).all()):
        raise PhotoError("A corner has no place in the picture. Set it again.")
    t_src, t_dst = _normaliser(src), _normaliser(dst)
    a, b = warp(t_src, src), warp(t_dst, dst)
    row = np.concatenate([a, np.ones((*a.shape[:-1], 1))], -1)
    nil = np.zeros_like(row)
    rows = np.concatenate([np.concatenate([-row, nil, row * b[..., :1]], -1), np.concatenate([nil, -row, row * b[..., 1:]], -1)], -2)
    _u, s, v = np.linalg.svd(rows)
    if (s[..., 7] < 1e-7 * s[..., 0]).any():
        raise PhotoError("Three of the corners lie on one line. Set them on the corners of a rectangle.")
    h = np.linalg.inv(t_dst) @ v[..., -1, :].reshape(*v.shape[:-2], 3, 3) @ t_src
    if (np.abs(h[..., 2, 2]) < 1e-15).any():
        raise PhotoError("The corners cannot be those of a rectangle seen from in front. Set them again.")
    out: Floats = h / h[..., 2:, 2:]
    return out


def warp(h: Floats, points: ArrayLike) -> Floats:
    """``points`` (..., n, 2) through the homographies ``h`` (..., 3, 3); points on a horizon become infinite."""
    p = np.asarray(points, float)
    with np.errstate(divide="ignore", invalid="ignore"):
        out: Floats = (p @ np.swapaxes(h[..., :2, :2], -1, -2) + h[..., None, :2, 2]) / _depth(h, p)[..., None]
    return out


def _depth(h: Floats, points: Floats) -> Floats:
    """The third coordinate of ``points`` (..., n, 2): of one sign on each side of the horizon of ``h`` (..., 3, 3)."""
    out: Floats = (points @ h[..., 2, :2, None])[..., 0] + h[..., 2:, 2]
    return out


def _unfolded(corners: Floats) -> Bools:
    """Which frames (n,) of corners (n, 4, 2) turn one way all round. Raises PhotoError where the first does not."""
    d = np.roll(corners, -1, axis=-2) - corners
    n = np.roll(d, -1, axis=-2)
    turns = d[..., 0] * n[..., 1] - d[..., 1] * n[..., 0]
    out: Bools = np.asarray(np.isfinite(turns).all(-1) & ((turns > 0).all(-1) | (turns < 0).all(-1)))
    if not out[0]:
        raise PhotoError("The frame crosses or folds over. Set its corners one after the other round the rectangle.")
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
        corners = np.asarray(self.corners, float)
        _unfolded(corners[None])
        return homography(corners, self.rectangle)

    def angle(self, a: ArrayLike, corner: ArrayLike, b: ArrayLike) -> float:
        """The angle on the wall at ``corner`` between the ways to ``a`` and ``b``, in degrees."""
        p = warp(self.matrix(), np.array([a, corner, b], float))
        u, v = p[0] - p[1], p[2] - p[1]
        size = np.linalg.norm(u) * np.linalg.norm(v)
        if not size > 0:
            raise PhotoError("An angle needs two lines from one corner.")
        return float(np.degrees(np.arccos(np.clip(u @ v / size, -1, 1))))


def lengths(corners: Floats, ends: Floats, sides: Floats) -> Floats:
    """Lengths in mm (n,) on walls between two pixels each (n, 2, 2), by four corners (n, 4, 2) of frames with sides (n, 2) in mm; not a number
    where a frame folds over or the line leaves what is seen of the wall. Raises PhotoError where the first frame is none.
    """
    good = _unfolded(corners)
    safe = np.where(good[:, None, None], corners, corners[:1])
    found: Floats = np.linalg.inv(_square_to(safe)).astype(float)
    found[:, :2] *= sides[:, :, None]
    depth = _depth(found, np.concatenate([safe, ends], 1))
    seen = (depth * depth[:, :1] > 1e-6 * depth[:, :1] ** 2).all(1)
    with np.errstate(over="ignore", invalid="ignore"):
        out: Floats = np.linalg.norm(np.diff(warp(found, ends), axis=1)[:, 0], axis=-1)
    return np.where(good & seen, out, np.nan)


def _square_to(corners: Floats) -> Floats:
    """The matrices (n, 3, 3) that map the unit square onto four corners (n, 4, 2): the closed form of four points [heckbert1989]."""
    x, y = corners[..., 0].T, corners[..., 1].T
    ax, bx, cx = x[1] - x[2], x[3] - x[2], x[0] - x[1] + x[2] - x[3]
    ay, by, cy = y[1] - y[2], y[3] - y[2], y[0] - y[1] + y[2] - y[3]
    whole = ax * by - bx * ay
    g, h = (cx * by - bx * cy) / whole, (ax * cy - cx * ay) / whole
    rows = (
        (x[1] - x[0] + g * x[1], x[3] - x[0] + h * x[3], x[0]),
        (y[1] - y[0] + g * y[1], y[3] - y[0] + h * y[3], y[0]),
        (g, h, np.ones_like(g)),
    )
    out: Floats = np.stack([np.stack(row, -1) for row in rows], -2)
    return out
