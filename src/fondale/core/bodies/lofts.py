# SPDX-License-Identifier: MIT
"""Closed surfaces swept through elliptical rings: the one building stone of bodies and boats."""

import numpy as np

from fondale.core.arrays import Floats


def loft(path: Floats, half_u: Floats, half_v: Floats, u_dir: Floats, sides: int = 8) -> Floats:
    """Triangles (n, 3, 3) of a tube through the points ``path`` (k, 3), closed at both ends.

    Ring i is an ellipse with half axes ``half_u[i]`` along ``u_dir`` (made square to the path) and
    ``half_v[i]`` across. Normals point outwards.
    """
    path = np.asarray(path, float)
    tangent = np.gradient(path, axis=0)
    tangent /= np.linalg.norm(tangent, axis=1, keepdims=True)
    u = np.asarray(u_dir, float) - tangent * (tangent @ np.asarray(u_dir, float))[:, None]
    u /= np.linalg.norm(u, axis=1, keepdims=True)
    v = np.cross(tangent, u)
    turn = np.linspace(0, 2 * np.pi, sides, endpoint=False)
    rings = (
        path[:, None]
        + np.cos(turn)[None, :, None] * (u * np.asarray(half_u)[:, None])[:, None]
        + np.sin(turn)[None, :, None] * (v * np.asarray(half_v)[:, None])[:, None]
    )
    a, b = rings[:-1], rings[1:]
    a2, b2 = np.roll(a, -1, axis=1), np.roll(b, -1, axis=1)
    side = np.concatenate([np.stack([a, a2, b2], 2).reshape(-1, 3, 3), np.stack([a, b2, b], 2).reshape(-1, 3, 3)])
    low, high = np.broadcast_to(path[0], rings[0].shape), np.broadcast_to(path[-1], rings[0].shape)
    caps = np.concatenate(
        [np.stack([low, np.roll(rings[0], -1, axis=0), rings[0]], 1), np.stack([high, rings[-1], np.roll(rings[-1], -1, axis=0)], 1)]
    )
    return np.concatenate([side, caps])


def ball(centre: Floats, up: Floats, half_up: float, half_u: float, half_v: float, u_dir: Floats) -> Floats:
    """An ellipsoid as a loft of seven rings along ``up``."""
    t = np.array([-0.98, -0.8, -0.45, 0.0, 0.45, 0.8, 0.98])
    ring = np.sqrt(1 - t**2)
    up = np.asarray(up, float) / np.linalg.norm(up)
    scale = half_up / 0.98
    return loft(np.asarray(centre) + np.outer(t * scale, up), ring * half_u, ring * half_v, u_dir, 10)
