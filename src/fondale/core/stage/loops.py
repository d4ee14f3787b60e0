"""The loops of what moves: over rays that may have led through it."""

import numpy as np

from fondale.core.arrays import Bools
from fondale.core.compiled import Singles, compiled

_ALONG = np.float32(1e-20)  # mm: what goes along no axis but another goes so far along it; of what goes any way it changes nothing
_NONE, _ONE = np.float32(0), np.float32(1)


@compiled("void(f4[:,:,::1], f4[:,::1], f4[:,::1], f4[::1], b1[::1])")
def through(boxes: Singles, begin: Singles, way: Singles, far: Singles, out: Bools) -> None:
    """Fill ``out`` (k,) with which rays (k, 3) lead through one of the boxes (b, 2, 3) within so many lengths of their ways (k,); all from one place where there is one
    ``begin`` alone (1, 3).
    """
    one = len(begin) == 1
    for k in range(len(way)):
        from_ = 0 if one else k
        x, y, z = begin[from_, 0], begin[from_, 1], begin[from_, 2]
        u, v, w = _ONE / (way[k, 0] + _ALONG), _ONE / (way[k, 1] + _ALONG), _ONE / (way[k, 2] + _ALONG)
        met = False
        for b in range(len(boxes)):
            a, c = (boxes[b, 0, 0] - x) * u, (boxes[b, 1, 0] - x) * u
            enters, leaves = min(a, c), max(a, c)
            a, c = (boxes[b, 0, 1] - y) * v, (boxes[b, 1, 1] - y) * v
            enters, leaves = max(enters, min(a, c)), min(leaves, max(a, c))
            a, c = (boxes[b, 0, 2] - z) * w, (boxes[b, 1, 2] - z) * w
            enters, leaves = max(enters, min(a, c)), min(leaves, max(a, c))
            met |= max(enters, _NONE) <= min(leaves, far[k])
        out[k] = met
