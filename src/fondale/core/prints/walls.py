# SPDX-License-Identifier: MIT
"""The thinnest places of a body: from points all over its skin a ray goes in, and the wall ends where it comes out again.

Only where the other side faces away (within some 18 degrees) is it a wall; an edge that is merely sharp, even as sharp as that of a wedge, is none.
"""

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model.prints import Thin, Vector
from fondale.core.prints.body import Body
from fondale.core.rays import rays_for

SAMPLES = 200_000
MOST = 12
APART = 0.06  # of the largest side: nearer ones are one place
FACING = -0.95  # cosine between the two sides of a wall


def _points(tris: Floats, area: Floats, count: int) -> tuple[Floats, np.ndarray]:
    """Points (n, 3) on a skin, at least one a triangle and more on large ones, and the triangle of each; the same every time."""
    each = np.maximum(1, np.floor(area / max(float(area.sum()), 1e-30) * count)).astype(np.int64)
    owner = np.repeat(np.arange(len(tris)), each)
    k = np.arange(len(owner)) - np.repeat(np.cumsum(each) - each, each)
    # The first lies in the middle; the others on the plastic-number sequence, folded into the triangle.
    u, v = (0.5 + (k + 1) * 0.7548776662466927) % 1, (0.5 + (k + 1) * 0.5698402909980532) % 1
    u, v = np.where(u + v > 1, 1 - u, u), np.where(u + v > 1, 1 - v, v)
    u, v = np.where(k == 0, 1 / 3, u)[:, None], np.where(k == 0, 1 / 3, v)[:, None]
    a, b, c = (tris[owner, i] for i in range(3))
    return a + u * (b - a) + v * (c - a), owner


def spread(body: Body, apart: float) -> Floats:
    """Points (n, 3) in mm all over the skin: none of it is much further than ``apart`` from one. Long edges are halved until short."""
    tris = body.vertices.astype(float)[body.faces]
    done = [body.vertices.astype(float)]
    while len(tris):
        edges = np.linalg.norm(np.roll(tris, -1, axis=1) - tris, axis=2)
        longest = edges.argmax(1)
        long = edges.max(1) > apart
        done.append(tris[~long].mean(1))
        a, b, c = (np.take_along_axis(tris[long], ((longest[long] + k) % 3)[:, None, None], 1)[:, 0] for k in range(3))
        middle = (a + b) / 2
        tris = np.concatenate([np.stack([a, middle, c], 1), np.stack([middle, b, c], 1)])
    points = np.concatenate(done)
    # Slivers leave thousands of points where one would do.
    cell = np.floor((points - points.min(0)) / (apart / 3)).astype(np.int64)
    wide, deep = (cell[:, 1].max() + 1, cell[:, 2].max() + 1)
    return points[np.unique((cell[:, 0] * wide + cell[:, 1]) * deep + cell[:, 2], return_index=True)[1]]


def thicknesses(body: Body, samples: int = SAMPLES) -> tuple[Floats, Floats]:
    """Points (n, 3) in mm all over the skin and how thick the body is there (n,); infinite where there is no wall."""
    tris = body.vertices.astype(float)[body.faces]
    cross = np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0])
    twice = np.linalg.norm(cross, axis=1)
    there = twice > 1e-12
    tris, twice, cross = tris[there], twice[there], cross[there]
    normal = cross / twice[:, None]
    points, owner = _points(tris, twice / 2, samples)
    step = 1e-5 * float(np.ptp(body.vertices, axis=0).max())
    inwards = -normal[owner]
    prim, far = rays_for(tris).hit(points + step * inwards, inwards)
    wall = (prim >= 0) & ((normal[prim] * normal[owner]).sum(1) < FACING)
    return points, np.where(wall, far + step, np.inf)


def thinnest(body: Body, most: int = MOST) -> tuple[Thin, ...]:
    """The thinnest places of a body at 100 %, thinnest first, none near another."""
    if not len(body.faces):
        return ()
    low, size = body.vertices.min(axis=0).astype(float), np.ptp(body.vertices, axis=0).astype(float)
    points, mm = thicknesses(body)
    order = np.argsort(mm, kind="stable")
    order = order[np.isfinite(mm[order])][:20_000]
    out: list[Thin] = []
    taken = np.zeros((0, 3))
    for i in order:
        if len(taken) and np.linalg.norm(taken - points[i], axis=1).min() < APART * size.max():
            continue
        x, y, z = np.clip((points[i] - low) / size, 0, 1).tolist()
        at: Vector = (round(x, 4), round(y, 4), round(z, 4))
        out.append(Thin(at=at, mm=round(float(mm[i]), 4)))
        taken = np.concatenate([taken, points[i][None]])
        if len(out) == most:
            break
    return tuple(out)
