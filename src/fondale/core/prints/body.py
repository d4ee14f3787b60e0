# SPDX-License-Identifier: MIT
"""What a body of triangles is: size, volume, area, centre of mass, whether it is closed, how many bodies it holds.

Volume and centre of mass by the divergence theorem over signed tetrahedra (Mirtich 1996, for a uniform body).
Arrays are walked in slabs, so that a million triangles need little more memory than they take themselves.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Floats
from fondale.core.troubles import Trouble

SLAB = 65_536
Faces = NDArray[np.integer]


class BodyError(Trouble):
    """A body that cannot be used; the text says what is wrong with it."""


@dataclass(frozen=True)
class Body:
    """``vertices`` (n, 3) in mm and ``faces`` (m, 3) of indices, normals outwards."""

    vertices: NDArray[np.floating]
    faces: Faces

    @property
    def nbytes(self) -> int:
        """Memory of both arrays."""
        return self.vertices.nbytes + self.faces.nbytes


@dataclass(frozen=True)
class Facts:
    """Sizes in mm, mm2, mm3. ``centre`` from the lower corner; ``open_edges`` 0 for a closed body; ``turned`` faces look inwards."""

    low: tuple[float, float, float]
    size: tuple[float, float, float]
    volume: float
    area: float
    centre: tuple[float, float, float]
    triangles: int
    bodies: int
    open_edges: int
    turned: int
    base: tuple[tuple[float, float], ...]

    @property
    def watertight(self) -> bool:
        """Closed, and every face looks outwards."""
        return self.open_edges == 0 and self.turned == 0 and self.volume > 0


def _sums(body: Body, low: Floats) -> tuple[float, float, Floats]:
    volume, area, moment = 0.0, 0.0, np.zeros(3)
    for at in range(0, len(body.faces), SLAB):
        t = body.vertices[body.faces[at : at + SLAB]].astype(float) - low
        normal = np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])
        area += float(np.sqrt((normal**2).sum(1)).sum()) / 2
        each = (t[:, 0] * normal).sum(1) / 6
        volume += float(each.sum())
        moment += each @ (t.sum(1) / 4)
    return volume, area, moment


def _edge_keys(faces: Faces, count: int) -> NDArray[np.int64]:
    """Every directed edge as one sorted number: (low * count + high) * 2 + direction."""
    key = np.empty(3 * len(faces), np.int64)
    for at in range(0, len(faces), SLAB):
        slab = faces[at : at + SLAB].astype(np.int64)
        for i in range(3):
            a, b = slab[:, i], slab[:, (i + 1) % 3]
            here = key[i * len(faces) + at : i * len(faces) + at + len(slab)]
            np.minimum(a, b, out=here)
            here *= count
            here += np.maximum(a, b)
            here *= 2
            here += a > b
    key.sort()
    return key


def _edges(faces: Faces, count: int) -> tuple[int, int, int]:
    """Open edges, turned edges and connected bodies. One sort of the directed edges tells all three."""
    key = _edge_keys(faces, count)
    # same[i]: edge i + 1 lies on the same two points as edge i; alike[i]: and runs the same way.
    same, alike = np.zeros(len(key) + 1, bool), np.zeros(len(key), bool)
    for at in range(0, len(key) - 1, SLAB):
        differ = key[at : min(at + SLAB, len(key) - 1)] ^ key[at + 1 : at + 1 + SLAB]
        same[at + 1 : at + 1 + len(differ)] = differ <= 1
        alike[at : at + len(differ)] = differ == 0
    start, again = ~same[:-1], same[1:]
    third = np.concatenate([again[1:], [False]])
    open_edges = int((start & ~again).sum() + (start & again & third).sum())
    turned = int((start & again & ~third & alike).sum())
    unique = key[start]
    del key, same, alike, start, again, third
    unique >>= 1
    a, b = (unique // count).astype(np.int32), (unique % count).astype(np.int32)
    del unique
    return open_edges, turned, _components(a, b, count)


def _components(a: NDArray[np.int32], b: NDArray[np.int32], count: int) -> int:
    """How many connected bodies the edges a-b make of the points that they use: labels sink to the lowest, by pointer jumping."""
    label = np.arange(count, dtype=np.int32)
    while True:
        moved = False
        for at in range(0, len(a), SLAB * 4):
            la, lb = label[a[at : at + SLAB * 4]], label[b[at : at + SLAB * 4]]
            apart = la != lb
            if apart.any():
                moved = True
                low, high = np.minimum(la[apart], lb[apart]), np.maximum(la[apart], lb[apart])
                np.minimum.at(label, high, low)
        while True:
            jumped = label[label]
            if np.array_equal(jumped, label):
                break
            label = jumped
        if not moved:
            used = np.zeros(count, bool)
            used[a] = used[b] = True
            return len(np.unique(label[used]))


def _base(body: Body, low: Floats, height: float) -> tuple[tuple[float, float], ...]:
    """The outline of what touches the ground, within 0.2 mm or half a percent of the height."""
    from shapely.geometry import MultiPoint

    z = body.vertices[:, 2]
    feet = np.unique(np.round((body.vertices[z <= low[2] + max(0.2, height * 0.005)][:, :2] - low[:2]).astype(float), 3), axis=0)
    hull = MultiPoint(feet).convex_hull
    if hull.geom_type != "Polygon":
        return tuple((float(x), float(y)) for x, y in feet[:2])
    ring = np.asarray(hull.simplify(0.02).exterior.coords)[:-1]
    return tuple((round(float(x), 3), round(float(y), 3)) for x, y in ring[:: max(1, len(ring) // 64)])


def measure(body: Body) -> Facts:
    """All facts of a body. Raises BodyError for one that has no triangle, a size of nothing, or places that are not numbers."""
    if len(body.faces) == 0 or len(body.vertices) < 3:
        raise BodyError("There is no triangle in it.")
    low, high = (np.asarray(f(body.vertices, axis=0), float) for f in (np.min, np.max))
    if not (np.isfinite(low).all() and np.isfinite(high).all()):
        raise BodyError("Some of its points are not numbers. Export it again.")
    size = high - low
    if (size <= 0).any():
        raise BodyError("It is flat: it has no thickness in one direction, so it cannot be printed.")
    volume, area, moment = _sums(body, low)
    open_edges, turned, bodies = _edges(body.faces, len(body.vertices))
    centre = moment / volume if abs(volume) > 1e-9 * float(np.prod(size)) else size / 2
    w, d, h = (float(v) for v in size)
    x, y, z = (float(v) for v in centre)
    lx, ly, lz = (float(v) for v in low)
    return Facts((lx, ly, lz), (w, d, h), volume, area, (x, y, z), len(body.faces), bodies, open_edges, turned, _base(body, low, h))


def scaled(body: Body, times: tuple[float, float, float]) -> Body:
    """The body with each axis multiplied, standing with its lower corner at the origin."""
    low = body.vertices.min(axis=0)
    out = (body.vertices - low).astype(np.float64)
    out *= np.asarray(times)
    return Body(out, body.faces)


def skin(body: Body, most: int = 900) -> tuple[tuple[tuple[float, float, float], ...], tuple[tuple[int, int, int], ...]]:
    """A simplified skin of at most about ``most`` triangles in shares of the sizes: x and y from -0.5, z from 0, and its faces."""
    low, high = body.vertices.min(axis=0).astype(float), body.vertices.max(axis=0).astype(float)
    points = ((body.vertices - low) / (high - low)).astype(np.float64)
    faces = body.faces
    if len(faces) > 60_000:
        points, faces = _clustered(points, faces)
    if len(faces) > most:
        import fast_simplification

        points, faces = fast_simplification.simplify(points.astype(np.float32), faces.astype(np.int32), target_count=most)
        if len(faces) > 3500 or len(faces) == 0:
            # Soups of loose triangles cannot be thinned edge by edge: the box stands for them.
            points = np.array([[x, y, z] for x in (0.0, 1.0) for y in (0.0, 1.0) for z in (0.0, 1.0)])
            faces = _CUBE
    used, index = np.unique(faces, return_inverse=True)
    points = np.clip(np.asarray(points, float)[used] - [0.5, 0.5, 0.0], [-0.6, -0.6, -0.1], [0.6, 0.6, 1.1])
    index = index.reshape(-1, 3)
    return (
        tuple((round(float(x), 4), round(float(y), 4), round(float(z), 4)) for x, y, z in points),
        tuple((int(a), int(b), int(c)) for a, b, c in index),
    )


_CUBE = np.array(
    [[0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1], [2, 3, 7], [2, 7, 6], [0, 2, 6], [0, 6, 4], [1, 5, 7], [1, 7, 3]]
)


def _clustered(points: Floats, faces: Faces, cells: int = 72) -> tuple[Floats, Faces]:
    """Points that share a cell of a grid become one; faces that fall together go."""
    cell = np.minimum((points * cells).astype(np.int64), cells - 1)
    code = (cell[:, 0] * cells + cell[:, 1]) * cells + cell[:, 2]
    _used, index = np.unique(code, return_inverse=True)
    count = np.bincount(index)
    middle = np.stack([np.bincount(index, points[:, k]) / count for k in range(3)], axis=1)
    new = index[faces]
    keep = (new[:, 0] != new[:, 1]) & (new[:, 1] != new[:, 2]) & (new[:, 0] != new[:, 2])
    new = new[keep]
    _ids, first = np.unique(np.sort(new, axis=1), axis=0, return_index=True)
    return middle, new[first]
