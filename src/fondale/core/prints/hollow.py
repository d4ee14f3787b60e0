# SPDX-License-Identifier: MIT
"""Hollowing a body: the inner skin lies a wall's thickness under the outer one, and holes let the resin out.

Distances from the skin are taken on a grid; the inner skin is where they are the wall's thickness, by marching tetrahedra: always closed.
"""

import math
from dataclasses import dataclass
from itertools import permutations
from typing import Any

import numpy as np

from fondale.core.arrays import Bools, Floats, Ints
from fondale.core.prints.body import Body, BodyError
from fondale.core.prints.manifolds import from_manifold, to_manifold
from fondale.core.prints.supports import turned
from fondale.core.prints.walls import spread
from fondale.core.progress import Progress, Quiet

MOST_NODES = 1_200_000
LEAST_STEPS = 3.0  # of the grid in a wall
DRAIN_SIDES = 24
DRAINS = 2  # one lets resin out, the other lets air in


@dataclass(frozen=True)
class Hollowed:
    """``body`` with its hollow and holes; ``volume`` in mm3, that of the ``whole``, and where the ``drains`` come out (n, 3) in mm."""

    body: Body
    volume: float
    whole: float
    drains: Floats


# A cube's six tetrahedra along its main diagonal: corners by their bits (x 1, y 2, z 4), all turned the same way.
def _tetrahedra() -> Ints:
    out = []
    for order in permutations(range(3)):
        path = [0]
        for axis in order:
            path.append(path[-1] | 1 << axis)
        corners = np.array([[c & 1, c >> 1 & 1, c >> 2 & 1] for c in path], float)
        if np.linalg.det(corners[1:] - corners[0]) < 0:
            path[1], path[2] = path[2], path[1]
        out.append(path)
    return np.array(out, np.int64)


_TETS = _tetrahedra()
# By which corners of a tetrahedron lie inside: the triangles as pairs of corners whose edge is crossed, seen from outside.
_EVEN = {p for p in permutations(range(4)) if np.linalg.det(np.eye(4)[list(p)]) > 0}


def _cases() -> dict[int, list[list[tuple[int, int]]]]:
    cases: dict[int, list[list[tuple[int, int]]]] = {}
    for code in range(1, 15):
        inside = [i for i in range(4) if code >> i & 1]
        outside = [i for i in range(4) if not code >> i & 1]
        if len(inside) == 1:
            order = (inside[0], *outside)
            a, b, c = outside if order in _EVEN else (outside[0], outside[2], outside[1])
            cases[code] = [[(inside[0], a), (inside[0], b), (inside[0], c)]]
        elif len(inside) == 3:
            order = (outside[0], *inside)
            a, b, c = inside if order not in _EVEN else (inside[0], inside[2], inside[1])
            cases[code] = [[(a, outside[0]), (b, outside[0]), (c, outside[0])]]
        else:
            (a, b), (c, d) = inside, outside
            if (a, b, c, d) not in _EVEN:
                c, d = d, c
            cases[code] = [[(a, c), (a, d), (b, d)], [(a, c), (b, d), (b, c)]]
    return cases


_CASES = _cases()


def surface(field: Floats, level: float) -> tuple[Floats, Ints]:
    """Vertices (n, 3) in steps of the grid and faces (m, 3) of where ``field`` (i, j, k) is ``level``; normals point to where it is less.

    Closed as long as the field is less all round its rim.
    """
    ny, nz = field.shape[1:]
    inside = field > level
    cell = np.zeros([n - 1 for n in field.shape], np.int64)
    for c in range(8):
        x, y, z = c & 1, c >> 1 & 1, c >> 2 & 1
        cell += inside[x : x + cell.shape[0], y : y + cell.shape[1], z : z + cell.shape[2]]
    mixed = np.argwhere((cell > 0) & (cell < 8))
    flat, values = (mixed[:, 0] * ny + mixed[:, 1]) * nz + mixed[:, 2], field.ravel()
    steps = np.array([((c & 1) * ny + (c >> 1 & 1)) * nz + (c >> 2 & 1) for c in range(8)])
    edges = []
    for tet in _TETS:
        nodes = flat[:, None] + steps[tet]
        code = ((values[nodes] > level) * [1, 2, 4, 8]).sum(1)
        for case, triangles in _CASES.items():
            mine = nodes[code == case]
            for triangle in triangles:
                edges.append(np.stack([mine[:, list(pair)] for pair in triangle], 1))
    crossed = np.concatenate(edges).reshape(-1, 2) if edges else np.zeros((0, 2), np.int64)
    low, high = crossed.min(1), crossed.max(1)
    unique, faces = np.unique(low * field.size + high, return_inverse=True)
    a, b = unique // field.size, unique % field.size
    # Never on a node itself: there points of several edges would fall together.
    share = np.clip((level - values[a]) / (values[b] - values[a]), 1e-4, 1 - 1e-4)[:, None]
    start, end = (np.stack(np.unravel_index(i, field.shape), 1).astype(float) for i in (a, b))
    return start + share * (end - start), faces.reshape(-1, 3)


def _deep(tree_points: Floats, low: Floats, step: float, shape: tuple[int, ...], wall: float) -> Floats:
    """Distance from the skin at every node (i, j, k): exact within two steps of the wall's thickness, rough elsewhere."""
    from scipy import ndimage  # slow to load: only where bodies are hollowed
    from scipy.spatial import cKDTree

    marks = np.ones(shape, bool)
    index = np.clip(np.rint((tree_points - low) / step).astype(int), 0, np.array(shape) - 1)
    marks[index[:, 0], index[:, 1], index[:, 2]] = False
    rough: Floats = ndimage.distance_transform_edt(marks) * step
    near = np.abs(rough - wall) < 2.5 * step
    nodes = np.argwhere(near) * step + low
    rough[near] = cKDTree(tree_points, balanced_tree=False).query(nodes, workers=-1)[0]
    return rough


def _outside(deep: Floats, wall: float, step: float, solid: Any, low: Floats) -> Bools:
    """Which nodes deeper than the wall lie outside the body: such nodes on two sides of its skin are two walls apart, and no neighbours."""
    import manifold3d
    from scipy import ndimage

    islands, count = ndimage.label(deep > wall)
    outside = np.ones(count + 1, bool)
    outside[0] = False
    rim = np.unique(np.concatenate([islands[[0, -1]].ravel(), islands[:, [0, -1]].ravel(), islands[:, :, [0, -1]].ravel()]))
    for k, at in enumerate(ndimage.maximum_position(deep, islands, range(1, count + 1)), 1):
        if k not in rim:
            probe = manifold3d.Manifold.cube((step * 1e-3,) * 3).translate(tuple(np.array(at) * step + low))
            outside[k] = (probe ^ solid).volume() <= 0
    out: Bools = outside[islands]
    return out


def hollowed(
    body: Body, wall: float, drain_mm: float = 0.0, up: str = "z", tilt_deg: float = 0.0, progress: Progress | None = None
) -> Hollowed:
    """The body with a hollow ``wall`` mm under its skin and drain holes that open downwards as it lies on the machine (0 mm: none).

    Raises BodyError for a body that is not closed, is nowhere thicker than two walls, or is too large for its wall to be found.
    """
    watch = progress or Quiet()
    solid = to_manifold(body)
    low, high = body.vertices.min(axis=0).astype(float), body.vertices.max(axis=0).astype(float)
    step = max(wall / LEAST_STEPS, float(np.prod(high - low) / MOST_NODES) ** (1 / 3))
    if step > wall * 0.9:
        raise BodyError(f"A wall of {wall:g} mm is too thin for so large a body: take at least {step / 0.9:.1f} mm.")
    watch.step(0.1, "measuring how deep it is")
    low, shape = low - 2 * step, tuple(math.ceil(s / step) + 5 for s in high - low)
    deep = _deep(spread(body, step * 0.75), low, step, shape, wall)
    watch.step(0.5, "drawing its inner skin")
    deep = np.where(_outside(deep, wall, step, solid, low), 0.0, deep)
    vertices, faces = surface(deep, wall)
    if len(faces) == 0:
        raise BodyError(
            f"It is nowhere thicker than two walls of {wall:g} mm: there is nothing to hollow. Print it solid, or take a thinner wall."
        )
    inner = to_manifold(Body(vertices * step + low, faces)).simplify(wall * 0.005)
    made = solid - inner
    drains = np.zeros((0, 3))
    if drain_mm > 0:
        watch.step(0.8, "drilling the drain holes")
        made, drains = _drained(made, inner, solid, drain_mm, wall, turned(up, tilt_deg))
    out = from_manifold(made)
    return Hollowed(out, float(made.volume()), float(solid.volume()), drains)


def _drained(made: Any, inner: Any, solid: Any, drain_mm: float, wall: float, turn: Floats) -> tuple[Any, Floats]:
    """Holes from the hollow down through the wall, where the way out is shortest among its lowest places, and one far from the first."""
    import manifold3d

    tall = float(np.ptp(from_manifold(solid).vertices @ turn.T, axis=0)[2])
    back = np.zeros((3, 4))
    back[:, :3] = turn.T
    holes: list[Floats] = []
    for body in inner.decompose():
        places = from_manifold(body).vertices @ turn.T
        lowest = places[places[:, 2] <= places[:, 2].min() + max(0.15 * np.ptp(places[:, 2]), wall)]
        for k in range(DRAINS):
            far = np.linalg.norm(lowest[:, None, :2] - np.array(holes[-k:])[None, :, :2], axis=2).min(1) if k else -lowest[:, 2]
            at = lowest[int(far.argmax())]
            if k and far.max() < 2 * drain_mm:
                break
            tool = manifold3d.Manifold.cylinder(tall + 2 * wall, drain_mm / 2, drain_mm / 2, DRAIN_SIDES)
            tool = tool.translate((at[0], at[1], at[2] - tall - 2 * wall + 0.5 * drain_mm))
            # Out through the first wall only: what stands below it keeps its own.
            pieces = [p for p in (tool.transform(back) ^ solid).decompose() if (p ^ body).volume() > 0]
            for piece in pieces:
                made = made - piece
            holes.append(at)
    return made, np.array(holes) @ turn
