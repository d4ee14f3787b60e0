# SPDX-License-Identifier: MIT
"""Names for array types."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
Singles = NDArray[np.float32]
Shorts = NDArray[np.int32]


def folded(with_: np.ufunc, a: NDArray[Any]) -> NDArray[Any]:
    """What a ufunc of two makes of the numbers along the last axis, which is short: one after the other, which is ten times faster than to reduce it."""
    out: NDArray[Any] = a[..., 0].copy()
    for k in range(1, a.shape[-1]):
        with_(out, a[..., k], out=out)
    return out


def dot(a: NDArray[Any], b: NDArray[Any]) -> Floats:
    """Products of vectors along the last axis, which is short: number by number, which is several times faster than one sum over it."""
    out: Floats = a[..., 0] * b[..., 0]
    for axis in range(1, a.shape[-1]):
        out += a[..., axis] * b[..., axis]
    return out


def rows(a: NDArray[Any], which: NDArray[Any]) -> Any:
    """The rows of these numbers; three times faster than by an index where rows are short."""
    return np.take(a, which, axis=0)


def scaled(v: NDArray[Any], by: NDArray[Any]) -> Floats:
    """Vectors (..., 3) times numbers (...), which may be of fewer or more axes that fit; twice as fast as a product where vectors are short."""
    out = np.empty((*np.broadcast_shapes(v.shape[:-1], by.shape), v.shape[-1]), np.result_type(v, by))
    for axis in range(v.shape[-1]):
        np.multiply(v[..., axis], by, out=out[..., axis])
    return out


def crossed(a: NDArray[Any], b: NDArray[Any]) -> Floats:
    """Vectors (n, 3) that stand on both; several times faster than ``np.cross`` where there are many."""
    out: Floats = np.empty(a.shape, np.result_type(a, b))
    for axis in range(3):
        i, j = (axis + 1) % 3, (axis + 2) % 3
        np.subtract(a[:, i] * b[:, j], a[:, j] * b[:, i], out=out[:, axis])
    return out


def length(v: NDArray[Any]) -> Floats:
    """Lengths of vectors along the last axis."""
    out: Floats = np.sqrt(dot(v, v))
    return out
