# SPDX-License-Identifier: MIT
"""Ground in relief: a height field that a membrane spans between contours, with strokes on it."""

from functools import lru_cache

import numpy as np
import shapely

from fondale.core.arrays import Bools, Floats
from fondale.core.model.shapes import Ground, GroundLine
from fondale.core.shapes.kind import ShapeKind
from fondale.core.shapes.solid import Outline, Solid, of_tris

CELLS = 48  # along the longer side
THIN_MM = 0.5  # what is dug leaves so much
TILE = 6  # cells along a patch of bounced light


class GroundKind(ShapeKind[Ground]):
    """A plate with hills and ditches: what stands on it stands at the height under its middle."""

    model, words, scenery, stepped = Ground, "Ground", True, True
    axes = {"width": 0, "depth": 1, "height": 2}  # noqa: RUF012

    def new(self) -> Ground:
        return Ground(width=160, depth=120)

    def solid(self, shape: Ground, height: float) -> Solid:
        return _solid(shape)

    def outline(self, shape: Ground, height: float) -> Outline:
        x, _y, z = relief(shape)
        skyline = np.column_stack([x, z.max(0)])
        return (np.concatenate([[[x[0], 0.0]], skyline, [[x[-1], 0.0]]]),)

    def top(self, shape: Ground, x: float, y: float) -> float | None:
        if abs(x) > shape.width / 2 or abs(y) > shape.depth / 2:
            return None
        _x, _y, z = relief(shape)
        rows, columns = z.shape[0] - 1, z.shape[1] - 1
        across, deep = (x / shape.width + 0.5) * columns, (y / shape.depth + 0.5) * rows
        i, j = min(int(across), columns - 1), min(int(deep), rows - 1)
        u, v = across - i, deep - j
        a, b, c, d = z[j, i], z[j, i + 1], z[j + 1, i + 1], z[j + 1, i]
        # As its triangles have it, which meet in the diagonal from the front left.
        return float(a + u * (b - a) + v * (c - b) if u >= v else a + v * (d - a) + u * (c - d))


@lru_cache(maxsize=64)
def relief(shape: Ground) -> tuple[Floats, Floats, Floats]:
    """x (nx,) and y (ny,) of an even grid about the middle, and the heights (ny, nx) over the base, in mm.

    Contours hold the grid where they run; between them lies the membrane of least energy (Laplace's equation on the grid, by five points): no
    place between two contours is higher than both, or lower. Strokes are added to it.
    """
    cell = max(shape.width, shape.depth) / CELLS
    columns, rows = (max(4, round(s / cell)) + 1 for s in (shape.width, shape.depth))
    x, y = np.linspace(-0.5, 0.5, columns) * shape.width, np.linspace(-0.5, 0.5, rows) * shape.depth
    fixed, z = np.zeros((rows, columns), bool), np.full((rows, columns), shape.height)
    if shape.rim == "held":
        fixed[[0, -1]] = fixed[:, [0, -1]] = True
    for line in shape.lines:
        if line.kind == "contour":
            at = _along(shape, line, min(x[1] - x[0], y[1] - y[0]) / 2)
            i = np.rint((at[:, 0] / shape.width + 0.5) * (columns - 1)).astype(int)
            j = np.rint((at[:, 1] / shape.depth + 0.5) * (rows - 1)).astype(int)
            on = (i >= 0) & (i < columns) & (j >= 0) & (j < rows)
            fixed[j[on], i[on]], z[j[on], i[on]] = True, line.height
    z = membrane(fixed, z, x[1] - x[0], y[1] - y[0])
    grid = shapely.points(*np.meshgrid(x, y))
    for line in shape.lines:
        if line.kind == "stroke":
            away = shapely.distance(grid, _drawn(shape, line)) / line.reach
            z = z + line.height * np.maximum(0.0, 1 - away**2) ** 2
    return x, y, np.maximum(z, THIN_MM)


def _points(shape: Ground, line: GroundLine) -> Floats:
    """The corners (k, 2) of a line in mm from the middle."""
    points = np.array(line.points) * (shape.width, shape.depth)
    points = np.concatenate([points, points[:1]]) if line.closed and len(points) > 2 else points
    out: Floats = points[np.concatenate([[True], (np.diff(points, axis=0) != 0).any(1)])]  # a hand may rest on its way
    return out


def _drawn(shape: Ground, line: GroundLine) -> shapely.Geometry:
    points = _points(shape, line)
    return shapely.linestrings(points) if len(points) > 1 else shapely.points(points[0])


def _along(shape: Ground, line: GroundLine, step: float) -> Floats:
    """Points (k, 2) along a line, no further apart than ``step`` mm."""
    drawn = _drawn(shape, line)
    out: Floats = shapely.get_coordinates(shapely.segmentize(drawn, step))
    return out


def membrane(fixed: Bools, z: Floats, across: float, deep: float) -> Floats:
    """The heights (ny, nx) of a membrane that is held at ``z`` where it is ``fixed`` and free at its rim; cells ``across`` by ``deep`` mm.

    One that is held nowhere lies at ``z``.
    """
    if fixed.all() or not fixed.any():
        return z
    rows, columns = z.shape
    side, deeper = (
        deep / across * ~fixed,
        across / deep * ~fixed,
    )  # what pulls each free point to its neighbours in its row, and in the next
    pull = np.zeros((rows, columns, columns))
    i = np.arange(columns - 1)
    pull[:, i, i + 1], pull[:, i + 1, i] = -side[:, :-1], -side[:, 1:]
    up, down = deeper.copy(), deeper.copy()
    up[-1], down[0] = 0.0, 0.0
    ends = np.pad(np.full(columns - 2, 2.0), 1, constant_values=1.0)
    pull[:, np.arange(columns), np.arange(columns)] = np.where(fixed, 1.0, side * ends + up + down)
    # Row by row, each put into the next (block elimination); scipy would do it too, and takes 0.4 s to load in the window.
    want = np.where(fixed, z, 0.0)
    answer: list[tuple[Floats, Floats]] = []
    for j in range(rows):
        block, right = pull[j], want[j]
        if j:
            inverse, known = answer[-1]
            block = block - down[j][:, None] * inverse * up[j - 1]
            right = right + down[j] * known
        inverse = np.linalg.inv(block)
        answer.append((inverse, inverse @ right))
    out = np.empty_like(z)
    out[-1] = answer[-1][1]
    for j in range(rows - 2, -1, -1):
        inverse, known = answer[j]
        out[j] = known + inverse @ (up[j] * out[j + 1])
    return out


def _solid(shape: Ground) -> Solid:
    x, y, z = relief(shape)
    rows, columns = z.shape
    top = np.dstack([*np.meshgrid(x, y), z])
    a, b, c, d = top[:-1, :-1], top[:-1, 1:], top[1:, 1:], top[1:, :-1]
    faces = np.stack([np.stack([a, b, c], 2), np.stack([a, c, d], 2)], 2).reshape(-1, 3, 3)
    j, i = np.divmod(np.arange((rows - 1) * (columns - 1)), columns - 1)
    tile = np.repeat(j // TILE * (columns // TILE + 1) + i // TILE, 2)
    # The rim once round, from the front left, and the skirt below it.
    rim = np.concatenate([top[0], top[1:, -1], top[-1, -2::-1], top[-2:0:-1, 0]])
    foot, ahead = rim * (1.0, 1.0, 0.0), np.roll(rim, -1, axis=0)
    below = ahead * (1.0, 1.0, 0.0)
    skirt = np.concatenate([np.stack([foot, below, ahead], 1), np.stack([foot, ahead, rim], 1)])
    part = np.concatenate([tile, np.full(len(skirt), tile.max() + 1)])
    made = of_tris(np.concatenate([faces, skirt]), part)
    plate = np.array([[[x[0], y[0], 0.0], [0.0, shape.depth, 0.0], [shape.width, 0.0, 0.0]]])
    return Solid(plate, made.tris, made.groups)
