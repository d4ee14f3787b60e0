# SPDX-License-Identifier: MIT
"""A wall in a photograph: the homography from four corners of a rectangle of known sides [hartley2004]."""

import numpy as np
from numpy.typing import ArrayLike

from fondale.core.arrays import Bools, Floats
from fondale.core.troubles import Trouble


class PhotoError(Trouble):
    """Points that no size can be read from; the text says what to set instead."""


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


def straightening(corners: Floats, sides: Floats) -> Floats:
    """The matrices (n, 3, 3) from pixels to mm on the wall, y downwards, by corners (n, 4, 2) in pixels (top left, top right, bottom right,
    bottom left) of frames with sides (n, 2) in mm. Corners must not cross or fold.
    """
    found: Floats = np.linalg.inv(_square_to(corners)).astype(float)
    found[:, :2] *= sides[:, :, None]
    return found


def wall_angle(corners: ArrayLike, sides: ArrayLike, a: ArrayLike, corner: ArrayLike, b: ArrayLike) -> float:
    """The angle in degrees on the wall at the pixel ``corner`` between the ways to ``a`` and ``b``; ``corners`` (4, 2) and ``sides`` (2,) of its
    frame as in ``straightening``. Raises PhotoError for corners that cross or fold, and for two points on one spot.
    """
    frame = np.asarray(corners, float)[None]
    _unfolded(frame)
    p = warp(straightening(frame, np.asarray(sides, float)[None]), np.array([[a, corner, b]], float))[0]
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
    found = straightening(safe, sides)
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
