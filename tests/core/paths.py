"""A judge of light that knows only rays and paints: plain paths, no patches, no texels, no aim."""

import numpy as np

from fondale.core.emitters import Emitter
from fondale.core.light.picture import paint_of
from fondale.core.stage.scene import Scene

LIFT_MM, GO_ON, SURE = 0.02, 0.6, 3  # after so many bounces a path goes on with this chance


def by_paths(
    scene: Scene, lamp: Emitter, points: np.ndarray, normals: np.ndarray, count: int, seed: int = 0
) -> tuple[np.ndarray, np.ndarray]:
    """Illuminance (k,) in the middle band, and its standard error, by ``count`` paths a point that ask for the lamp at each of their corners."""
    rng, k = np.random.default_rng(seed), len(points)
    rho = paint_of(scene)[:, 1]
    rounds = max(16, count * k // 300_000)
    found = []
    for _ in range(rounds):
        each = count // rounds
        at, n = np.repeat(points, each, 0), np.repeat(normals, each, 0)
        whose, share, total = np.repeat(np.arange(k), each), np.ones(each * k), np.zeros(k)
        for bounce in range(60):
            way = rng.normal(size=at.shape)
            way = way / np.linalg.norm(way, axis=1, keepdims=True) + n  # the sum of a unit way and the normal is spread by the cosine
            way /= np.linalg.norm(way, axis=1, keepdims=True)
            start = at + n * LIFT_MM
            prim, far = scene.rays.hit(start, way)
            kept = (prim >= 0) & ((scene.normal[np.maximum(prim, 0)] * way).sum(1) < 0)
            at, prim, whose = (start + way * far[:, None])[kept], prim[kept], whose[kept]
            n, share = scene.normal[prim], share[kept] * rho[prim]
            if not len(at):
                break
            total += np.bincount(whose, share * lamp.direct(scene, at, n), k)
            if bounce >= SURE:
                on = rng.random(len(at)) < GO_ON
                at, n, whose, share = at[on], n[on], whose[on], share[on] / GO_ON
        found.append(total / each)
    each_round = np.array(found)
    return lamp.direct(scene, points, normals) + each_round.mean(0), each_round.std(0, ddof=1) / np.sqrt(rounds)
