# SPDX-License-Identifier: MIT
"""Sparse matrices of weights: rows are receivers, columns texels or patches."""

from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Floats, Ints
from fondale.core.light.texels import Texels

if TYPE_CHECKING:
    from scipy import sparse


def bearing(found: "sparse.csr_array", shine: NDArray[Any], rays: Any) -> Floats:
    """How many of the ``rays`` (k,) of receivers bear their light, as a share (k,): of so many alike it would be known as well. NaN where there is none."""
    row, value = np.repeat(np.arange(found.shape[0]), np.diff(found.indptr)), lit_by(found, shine).data
    total, squares = (np.bincount(row, x, found.shape[0]) for x in (value, value * value))
    out: Floats = np.where(squares > 0, total**2 / np.maximum(rays * squares, 1e-300), np.nan)
    return out


def replaced(found: "sparse.csr_array", which: Ints, by: "sparse.csr_array") -> "sparse.csr_array":
    """The weights with these rows (k,) as they are in another (k, n)."""
    where = np.arange(found.shape[0])
    where[which] = found.shape[0] + np.arange(len(which))
    return stacked([found, by])[where]


def lit_by(found: "sparse.csr_array", light: NDArray[Any]) -> "sparse.csr_array":
    """Weights (k, n) times what comes from each column (n,)."""
    return sparse_of((found.data * light[found.indices].astype(np.float32), found.indices, found.indptr), found.shape)


def by_patch(found: "sparse.csr_array", texels: Texels) -> "sparse.csr_array":
    """Weights (k, n) of texels as those of their patches (k, patches)."""
    from fondale.core.light import loops

    begins, texel = (x.astype(np.int32, copy=False) for x in (found.indptr, found.indices))
    first, patch, total = loops.by_patch(begins, texel, found.data, texels.patch, texels.patches.n)
    return sparse_of((total, patch, first), (found.shape[0], texels.patches.n))


# No face sees more than all round it; but rows cut off at just that would be too small in the mean, and pale rooms too dark.
ROW_MOST = 1.05


def at_most(found: "sparse.csr_array", most: float) -> "sparse.csr_array":
    """Weights whose sum in each row is no more than ``most``."""
    total = np.asarray(found.sum(1)).ravel()
    share = (most / np.maximum(total, most)).astype(np.float32)
    return sparse_of((found.data * np.repeat(share, np.diff(found.indptr)), found.indices, found.indptr), found.shape)


def sparse_of(entries: Any, shape: tuple[int, int]) -> "sparse.csr_array":
    from scipy import sparse

    out: Any = sparse.csr_array(entries, shape=shape)
    return out  # type: ignore[no-any-return]


def stacked(parts: "list[sparse.csr_array]") -> "sparse.csr_array":
    """Rows one after the other."""
    from scipy import sparse

    out: Any = sparse.vstack(parts, format="csr")
    return out  # type: ignore[no-any-return]
