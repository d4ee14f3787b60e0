"""Names for array types."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]


def dot(a: NDArray[Any], b: NDArray[Any]) -> Floats:
    """Products of vectors along the last axis; several times faster than a product and a sum where vectors are short."""
    out: Floats = np.einsum("...i,...i->...", a, b)
    return out


def length(v: NDArray[Any]) -> Floats:
    """Lengths of vectors along the last axis."""
    out: Floats = np.sqrt(dot(v, v))
    return out
