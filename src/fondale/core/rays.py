# SPDX-License-Identifier: MIT
"""Ray casting: Embree where its wheel is there, and a slow plain engine that says the same."""

from collections.abc import Iterable
from functools import cache
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Ints, rows
from fondale.core.side_by_side import in_parts

try:
    from embreex.mesh_construction import TriangleMesh
    from embreex.rtcore import EmbreeDevice
    from embreex.rtcore_scene import EmbreeScene
except ImportError:  # no wheel for this processor
    EmbreeScene = None

Prims = NDArray[np.int32]
LIFT_MM = 0.02  # rays start this far off their surface; float32 holds 0.001 mm at 10 m
_FAR = 1e30
# What Embree takes at most, by trial: it does not ask whether it was given what it asks for, and breaks the process where it was not.
_DEVICE_BYTES, _ENGINE_BYTES, _TRIANGLE_BYTES = 200_000_000, 16_000_000, 320


class Rays(Protocol):
    """Answers for a fixed set of triangles."""

    def hit(self, origins: Floats, ways: Floats) -> tuple[Prims, Floats]:
        """First triangle (-1: none) and distance in units of ``ways``, as precise as they are; origins and ways are (n, 3)."""
        ...

    def blocked(self, origins: Floats, targets: Floats) -> Bools:
        """Whether anything lies between each origin and target."""
        ...


def _shared(tris: NDArray[np.float32]) -> tuple[NDArray[np.float32], Prims]:
    """The points (k, 3) of triangles (n, 3, 3), each once, and the three of each (n, 3): the engine takes in one number after the other, so that half
    as many are worth some sorting.
    """
    points = tris.reshape(-1, 3)
    bits = points.view(np.int32).astype(np.int64)
    name = bits[:, 0] * 0x9E3779B97F4A7C1 + bits[:, 1] * 0x2545F4914F6CDD1D + bits[:, 2]  # equal points have equal ones
    order = np.argsort(name)
    new = np.ones(len(order), bool)
    np.not_equal(name[order[1:]], name[order[:-1]], out=new[1:])
    corners = np.empty(len(order), np.int32)
    corners[order] = np.cumsum(new, dtype=np.int32) - 1
    return rows(points, order[new]), corners.reshape(-1, 3)


def _room(size: int) -> None:
    """Raises MemoryError where the process may not have so many bytes more."""
    np.empty(size, np.uint8)


@cache
def _device() -> Any:
    """All engines of a process share one; the first takes 128 MB of what the process may have, and would give and take them with every engine."""
    _room(_DEVICE_BYTES)
    return EmbreeDevice()


class FastRays:
    """Embree, single precision, robust mode. Raises MemoryError where there is no room for so many triangles."""

    def __init__(self, tris: Floats) -> None:
        device = _device()
        _room(_ENGINE_BYTES + _TRIANGLE_BYTES * len(tris))
        self._scene: Any = EmbreeScene(device, robust=True)
        self._mesh: Any = TriangleMesh(self._scene, *_shared(np.ascontiguousarray(tris, np.float32)))
        self._scene.run(np.zeros((1, 3), np.float32), np.ones((1, 3), np.float32), output=1)  # built before threads ask it

    def hit(self, origins: Floats, ways: Floats) -> tuple[Prims, Floats]:
        o, w = np.ascontiguousarray(origins, np.float32), np.ascontiguousarray(ways, np.float32)
        found = in_parts(lambda a, b: self._scene.run(o[a:b], w[a:b], output=1), len(o))
        prim: Prims = np.concatenate([f["primID"] for f in found])
        far = np.concatenate([f["tfar"] for f in found])
        return prim, np.where(prim >= 0, far, _FAR).astype(np.result_type(origins, ways))

    def blocked(self, origins: Floats, targets: Floats) -> Bools:
        o = np.ascontiguousarray(origins, np.float32)
        w = np.ascontiguousarray(targets - origins, np.float32)
        far = np.full(len(o), 1.0 - 1e-4, np.float32)
        found = in_parts(lambda a, b: self._scene.run(o[a:b], w[a:b], dists=far[a:b], query="OCCLUDED"), len(o))
        out: Bools = np.concatenate(found) == 0
        return out


class PlainRays:
    """[moller1997]: every ray against every triangle in blocks: slow, readable, double precision."""

    def __init__(self, tris: Floats) -> None:
        self._a, self._e1, self._e2 = tris[:, 0], tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0]

    def hit(self, origins: Floats, ways: Floats) -> tuple[Prims, Floats]:
        prim = np.full(len(origins), -1, np.int32)
        dist = np.full(len(origins), _FAR)
        block = max(1, 4_000_000 // max(1, len(self._a)))
        for i in range(0, len(origins), block):
            o, w = origins[i : i + block, None], ways[i : i + block, None]
            p = np.cross(w, self._e2)
            det = (p * self._e1).sum(-1)
            inv = 1.0 / np.where(np.abs(det) < 1e-14, np.inf, det)
            s = o - self._a
            u = (s * p).sum(-1) * inv
            q = np.cross(s, self._e1)
            v = (w * q).sum(-1) * inv
            t = (self._e2 * q).sum(-1) * inv
            ok = (np.abs(det) >= 1e-14) & (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9) & (t > 0)
            t = np.where(ok, t, _FAR)
            best = t.argmin(1) if t.shape[1] else np.zeros(len(t), int)
            found = t[np.arange(len(t)), best] if t.shape[1] else np.full(len(t), _FAR)
            prim[i : i + block] = np.where(found < _FAR, best, -1)
            dist[i : i + block] = found
        return prim, dist.astype(np.result_type(origins, ways))

    def blocked(self, origins: Floats, targets: Floats) -> Bools:
        _prim, t = self.hit(origins, targets - origins)
        out: Bools = t < 1.0 - 1e-4
        return out


def rays_for(tris: Floats) -> Rays:
    """The fastest engine at hand for these triangles (n, 3, 3)."""
    if EmbreeScene is None or len(tris) == 0:
        return PlainRays(tris)
    return FastRays(tris)


class PartedRays:
    """Several engines that answer as one; each with the numbers (n,) that its triangles have in the whole."""

    def __init__(self, parts: list[tuple[Rays, Ints]]) -> None:
        self._parts = parts

    def hit(self, origins: Floats, ways: Floats) -> tuple[Prims, Floats]:
        o, w = np.asarray(origins, np.float32), np.asarray(ways, np.float32)
        prim, dist = np.full(len(o), -1, np.int32), np.full(len(o), _FAR)
        for rays, numbers in self._parts:
            found, far = rays.hit(o, w)  # type: ignore[arg-type]
            nearer = np.flatnonzero(far < dist)
            prim[nearer], dist[nearer] = numbers[found[nearer]], far[nearer]
        return prim, dist.astype(np.result_type(origins, ways))

    def blocked(self, origins: Floats, targets: Floats) -> Bools:
        out = np.zeros(len(origins), bool)
        for rays, _numbers in self._parts:
            free = np.flatnonzero(~out)
            out[free] = rays.blocked(origins[free], targets[free])
        return out


_PARTED_FROM = 40_000  # triangles; fewer are built anew within a tenth of a second


class Stills:
    """Builds engines for scenes that follow each other: what stays where it was keeps its engine, which takes longest to build."""

    def __init__(self) -> None:
        self._before: set[tuple[int, int]] = set()
        self._kept: tuple[tuple[int, int], ...] = ()
        self._engine: Rays | None = None

    def rays_of(self, tris: Floats, owner: Ints) -> Rays:
        """The engine for triangles (n, 3, 3) and whose they are (n,)."""
        if EmbreeScene is None or len(tris) < _PARTED_FROM:
            return rays_for(tris)
        order = np.argsort(owner, kind="stable")
        blocks: dict[tuple[int, int], Ints] = {}
        for mine in np.split(order, np.flatnonzero(np.diff(owner[order])) + 1):
            name, twin = hash(tris[mine].tobytes()), 0
            while (name, twin) in blocks:
                twin += 1
            blocks[name, twin] = mine

        def size(keys: Iterable[tuple[int, int]]) -> int:
            return sum(len(blocks[key]) for key in keys)

        still = [key for key in blocks if key in self._before]
        # Also where most of what stands still has come since the engine was built.
        if self._engine is None or not set(self._kept) <= blocks.keys() or 2 * size(self._kept) < size(still):
            if 2 * size(still) < len(tris):
                still = list(blocks)
            self._kept = tuple(still)
            self._engine = rays_for(tris[np.concatenate([blocks[key] for key in still])])
        self._before = set(blocks)
        parts = [(self._engine, np.concatenate([blocks[key] for key in self._kept]))]
        moved = [mine for key, mine in blocks.items() if key not in self._kept]
        if moved:
            parts.append((rays_for(tris[np.concatenate(moved)]), np.concatenate(moved)))
        return PartedRays(parts)
