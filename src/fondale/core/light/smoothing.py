# SPDX-License-Identifier: MIT
"""Noise taken out of what was received at points of surfaces: each is a mean over as many beside it as two halves of the rays bear out."""

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Ints, dot
from fondale.core.light.fits import falling, fitted

if TYPE_CHECKING:
    from scipy import sparse

MEANS = ((4, 1), (9, 1), (12, 2), (20, 2), (30, 2))  # how many others are in a mean, and of which order it follows the light
AROUND = 4  # which of the means tells over how many neighbours one is held against another
_ALIKE, _OFF_MM, _SLOPE = 0.9, 0.05, 0.1


def on_one_surface(way: Floats, normal: Floats, other: Floats, slope: float) -> Bools:
    """Whether points that lie a ``way`` apart (..., 3) can be of one smooth surface: they face nearly alike, and one lies off the plane of the other by no more
    than a ``slope`` of their distance.
    """
    out: Bools = (dot(normal, other) > _ALIKE) & (np.abs(dot(way, normal)) <= _OFF_MM + slope * np.sqrt(dot(way, way)))
    return out


def smoothing(points: Floats, normals: Floats, owner: Ints, halves: Floats) -> "sparse.csr_array":
    """Weights (k, k) of values in a better value at each of points (k, 3) on surfaces with their normals and whose they are (k,).

    ``halves`` (2, k): the values by two halves of the rays that know nothing of each other. Of means over more and more neighbours, that of one half is held
    against the other half itself, all around: the difference is the error of the mean with a noise that is the same for all means, so that the least tells the
    best one ([rousselle2012] chooses filters so). Where light changes from point to point that is the value alone.
    """
    from scipy import sparse

    means, (one, other) = _means(points, normals, owner), halves
    around = abs(means[min(AROUND, len(means) - 1)])
    best = np.argmin([around @ ((mean @ one - other) ** 2 + (mean @ other - one) ** 2) for mean in means], 0)
    out: sparse.csr_array = sparse.vstack(means, format="csr")[best * len(points) + np.arange(len(points))]
    return out


def _means(points: Floats, normals: Floats, owner: Ints) -> "list[sparse.csr_array]":
    """Weights (k, k) of means over more and more neighbours on the same surface, of points (k, 3) with normals and whose they are (k,); the value alone first.

    A mean is that of a plane, or of a surface of the second order, that fits the neighbours best, the farther ones less ([cleveland1979]).
    """
    from scipy import sparse
    from scipy.spatial import KDTree

    k = len(points)
    out: list[sparse.csr_array] = [sparse.eye_array(k, format="csr", dtype=np.float32)]
    if k < 2:
        return out
    # Twice as far apart as any two points are those that face apart, so that they are no neighbours.
    placed = np.concatenate([points, normals * 2 * (float(np.ptp(points, axis=0).max()) or 1.0)], 1)
    far, near = KDTree(placed).query(placed, min(MEANS[-1][0] + 2, k))
    way = points[near] - points[:, None]
    same = (owner[near] == owner[:, None]) & on_one_surface(way, normals[:, None], normals[near], _SLOPE)
    apart = np.where(same, far, np.inf)
    apart[near == np.arange(k)[:, None]] = -1.0  # itself first, also among others at the same place
    order = np.argsort(apart, 1, kind="stable")
    apart, near = np.take_along_axis(apart, order, 1), np.take_along_axis(near, order, 1)
    apart[:, 0] = 0.0
    along = np.cross(normals, np.where(np.abs(normals[:, :1]) < _ALIKE, [[1.0, 0.0, 0.0]], [[0.0, 1.0, 0.0]]))
    along /= np.sqrt(dot(along, along))[:, None]
    way = points[near] - points[:, None]
    plane = np.stack([dot(way, along[:, None]), dot(way, np.cross(normals, along)[:, None])], -1)
    count = np.isfinite(apart).sum(1)
    for most, power in MEANS:
        m = min(most + 2, near.shape[1])
        weight = _fitted(apart[:, :m], plane[:, :m], np.minimum(most + 1, count - 1), power)
        out.append(sparse.csr_array((weight.ravel(), near[:, :m].ravel(), np.arange(k + 1) * m), shape=(k, k)))
    return out


def _fitted(apart: Floats, plane: Floats, last: Ints, power: int) -> NDArray[np.float32]:
    """The weights (k, m) of neighbours in the fit at each point, which come to nothing at the ``last`` (k,) of them; they lie at ``plane`` (k, m, 2) about it."""
    reach = np.take_along_axis(apart, np.clip(last, 1, apart.shape[1] - 1)[:, None], 1)
    reach = np.where(np.isfinite(reach) & (reach > 0), reach, 1.0)
    weight = falling(apart, reach)
    weight[:, 0] = 1.0
    counts, solved = fitted(plane / reach[..., None], weight, power)
    out = (counts @ solved[..., :1])[..., 0]
    mean: NDArray[np.float32] = out / out.sum(1, keepdims=True)
    return mean
