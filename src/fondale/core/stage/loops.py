# SPDX-License-Identifier: MIT
"""The loops of what moves: over rays that may have led through it."""

import numpy as np

from fondale.core.arrays import Bools, Singles
from fondale.core.compiled import compiled

_ALONG = np.float32(1e-20)  # mm: what goes along no axis but another goes so far along it; of what goes any way it changes nothing
_NONE, _ONE = np.float32(0), np.float32(1)


@compiled()
def _slab(low: np.float32, high: np.float32, rate: np.float32, enters: np.float32, leaves: np.float32) -> tuple[np.float32, np.float32]:
    """Where a way is between two faces, so far before it and so far on, and where it was between others, from ``enters`` to ``leaves``."""
    one, other = low * rate, high * rate
    first, last = (one, other) if one < other else (other, one)
    return first if first > enters else enters, last if last < leaves else leaves


@compiled()
def _meets(box: Singles, x: np.float32, y: np.float32, z: np.float32, u: np.float32, v: np.float32, w: np.float32, far: np.float32) -> bool:
    """Whether a way leads through a box (2, 3) within so many of its lengths."""
    enters, leaves = _slab(box[0, 0] - x, box[1, 0] - x, _ONE / (u + _ALONG), _NONE, far)
    enters, leaves = _slab(box[0, 1] - y, box[1, 1] - y, _ONE / (v + _ALONG), enters, leaves)
    enters, leaves = _slab(box[0, 2] - z, box[1, 2] - z, _ONE / (w + _ALONG), enters, leaves)
    return bool(enters <= leaves)


@compiled("void(f4[:,:,::1], f4[:,::1], f4[:,::1], f4[::1], b1[::1])")
def crossed(boxes: Singles, begin: Singles, way: Singles, far: Singles, out: Bools) -> None:
    """Fill ``out`` (k,) with which rays (k, 3) lead through one of the boxes (b, 2, 3) within so many lengths of their ways (k,)."""
    for k in range(len(out)):
        out[k] = False
    for b in range(len(boxes)):
        box = boxes[b]
        for k in range(len(out)):
            out[k] |= _meets(box, begin[k, 0], begin[k, 1], begin[k, 2], way[k, 0], way[k, 1], way[k, 2], far[k])


@compiled("void(f4[:,:,::1], f4[::1], f4[:,::1], b1[::1])")
def between(boxes: Singles, at: Singles, points: Singles, out: Bools) -> None:
    """Fill ``out`` (k,) with whether the way from one place (3,) to each of ``points`` (k, 3) leads through one of the boxes (b, 2, 3)."""
    x, y, z = at[0], at[1], at[2]
    for k in range(len(out)):
        out[k] = False
    for b in range(len(boxes)):
        box = boxes[b]
        for k in range(len(out)):
            out[k] |= _meets(box, x, y, z, points[k, 0] - x, points[k, 1] - y, points[k, 2] - z, _ONE)
