# SPDX-License-Identifier: MIT
"""A judge of light that knows only rays and paints: plain paths, no patches, no texels, no aim."""

from collections.abc import Sequence

import numpy as np

from fondale.core.emitters import Emitter
from fondale.core.stage.scene import Scene

Rect = tuple[tuple[float, float, float], tuple[float, float, float], tuple[float, float, float]]  # a corner and two sides from it
LIFT_MM, GO_ON, SURE = 0.02, 0.6, 3  # after so many bounces a path goes on with this chance
GUIDED = 20


def by_paths(
    scene: Scene, lamp: Emitter, points: np.ndarray, normals: np.ndarray, count: int, seed: int = 0, guides: Sequence[Rect] = ()
) -> tuple[np.ndarray, np.ndarray]:
    """Illuminance (k,) in the middle band, and its standard error, by ``count`` paths a point that ask for the lamp at each of their corners.

    ``guides`` are rectangles that much of the light comes through or from. They change nothing but how soon the judge is sure: half of the first
    ways of each path go to points on them, and count for as much less as they are more frequent.
    """
    rng, k = np.random.default_rng(seed), len(points)
    rho = scene.paint[:, 1]
    rounds = max(16, count * k // 300_000)
    found = []
    for _ in range(rounds):
        each = count // rounds
        at, n = np.repeat(points, each, 0), np.repeat(normals, each, 0)
        whose, share, total = np.repeat(np.arange(k), each), np.ones(each * k), np.zeros(k)
        for bounce in range(60):
            way, weight = _ways(rng, at, n, guides if bounce < GUIDED else ())
            start = at + n * LIFT_MM
            prim, far = scene.rays.hit(start, way)
            kept = (prim >= 0) & (weight > 0) & ((scene.normal[np.maximum(prim, 0)] * way).sum(1) < 0)
            at, prim, whose = (start + way * far[:, None])[kept], prim[kept], whose[kept]
            n, share = scene.normal[prim], (share * weight)[kept] * rho[prim]
            if not len(at):
                break
            total += np.bincount(whose, share * lamp.direct(scene, at, n), k)
            if bounce >= SURE:
                on = rng.random(len(at)) < GO_ON
                at, n, whose, share = at[on], n[on], whose[on], share[on] / GO_ON
        found.append(total / each)
    each_round = np.array(found)
    return lamp.direct(scene, points, normals) + each_round.mean(0), each_round.std(0, ddof=1) / np.sqrt(rounds)


def _ways(rng: np.random.Generator, at: np.ndarray, n: np.ndarray, guides: Sequence[Rect]) -> tuple[np.ndarray, np.ndarray]:
    """Unit ways (m, 3) from points, and for how much each counts (m,)."""
    way = rng.normal(size=at.shape)
    way = way / np.linalg.norm(way, axis=1, keepdims=True) + n  # the sum of a unit way and the normal is spread by the cosine
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    if not guides:
        return way, np.ones(len(at))
    which = rng.integers(0, 2 * len(guides), len(at))  # the first half: by the cosine
    for k, (corner, one, other) in enumerate(np.array(guides, float)):
        mine = np.flatnonzero(which == len(guides) + k)
        to = corner + rng.random((len(mine), 1)) * one + rng.random((len(mine), 1)) * other - at[mine]
        way[mine] = to / np.maximum(np.linalg.norm(to, axis=1, keepdims=True), 1e-9)
    cosine = np.maximum((way * n).sum(1), 0) / np.pi
    density = cosine / 2
    for corner, one, other in np.array(guides, float):
        across = np.cross(one, other)
        steep = way @ across
        far = ((corner - at) @ across) / np.where(np.abs(steep) < 1e-9, 1e-9, steep)
        there = at + way * far[:, None] - corner
        s, t = there @ one / (one @ one), there @ other / (other @ other)
        meets = (far > 1e-6) & (s > 0) & (s < 1) & (t > 0) & (t < 1)
        # The area is the length of ``across``, and so is what its cosine lacks.
        density += np.where(meets, far**2 / np.maximum(np.abs(steep), 1e-9), 0.0) / (2 * len(guides))
    return way, cosine / np.maximum(density, 1e-30)
