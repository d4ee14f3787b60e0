"""Ray casting: Embree where its wheel is there, and a slow plain engine that says the same."""

from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats

try:
    from embreex.mesh_construction import TriangleMesh
    from embreex.rtcore_scene import EmbreeScene
except ImportError:  # no wheel for this processor
    EmbreeScene = None

Prims = NDArray[np.int32]
LIFT_MM = 0.02  # rays start this far off their surface; float32 holds 0.001 mm at 10 m
_FAR = 1e30


class Rays(Protocol):
    """Answers for a fixed set of triangles."""

    def hit(self, origins: Floats, ways: Floats) -> tuple[Prims, Floats]:
        """First triangle (-1: none) and distance in units of ``ways``; origins and ways are (n, 3)."""
        ...

    def blocked(self, origins: Floats, targets: Floats) -> Bools:
        """Whether anything lies between each origin and target."""
        ...


class FastRays:
    """Embree, single precision, robust mode."""

    def __init__(self, tris: Floats) -> None:
        self._scene: Any = EmbreeScene(robust=True)
        self._mesh: Any = TriangleMesh(self._scene, np.ascontiguousarray(tris, np.float32))

    def hit(self, origins: Floats, ways: Floats) -> tuple[Prims, Floats]:
        o, w = np.ascontiguousarray(origins, np.float32), np.ascontiguousarray(ways, np.float32)
        found = self._scene.run(o, w, output=1)
        prim: Prims = found["primID"]
        return prim, np.where(prim >= 0, found["tfar"], _FAR).astype(np.float64)

    def blocked(self, origins: Floats, targets: Floats) -> Bools:
        o = np.ascontiguousarray(origins, np.float32)
        w = np.ascontiguousarray(targets - origins, np.float32)
        far = np.full(len(o), 1.0 - 1e-4, np.float32)
        found = self._scene.run(o, w, dists=far, query="OCCLUDED")
        out: Bools = np.asarray(found) == 0
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
        return prim, dist

    def blocked(self, origins: Floats, targets: Floats) -> Bools:
        _prim, t = self.hit(origins, targets - origins)
        out: Bools = t < 1.0 - 1e-4
        return out


def rays_for(tris: Floats) -> Rays:
    """The fastest engine at hand for these triangles (n, 3, 3)."""
    if EmbreeScene is None or len(tris) == 0:
        return PlainRays(tris)
    return FastRays(tris)
