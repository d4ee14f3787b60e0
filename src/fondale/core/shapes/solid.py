"""A piece as flat rectangles and triangles, in its own axes: footprint centred on the origin, base at z = 0."""

from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Floats, Ints
from fondale.core.bodies.outline import Outline as Outline

Bounds = tuple[float, float, float, float, float, float]


@dataclass(frozen=True)
class Solid:
    """``rects`` (r, 3, 3): corner and two edges each, outward normal = edge x edge.

    ``tris`` (t, 3, 3) with a patch group per triangle: triangles of one group share their bounced light.
    """

    rects: Floats
    tris: Floats
    groups: Ints

    def moved(self, shift: Floats, turn_deg: float) -> "Solid":
        """Turned about the vertical, then shifted."""
        a = np.radians(turn_deg)
        turn = np.array([[np.cos(a), -np.sin(a), 0.0], [np.sin(a), np.cos(a), 0.0], [0.0, 0.0, 1.0]])
        if abs(turn_deg % 90) < 1e-9:
            turn = np.round(turn)
        rects = self.rects @ turn.T
        rects[:, 0] += shift
        return Solid(rects, self.tris @ turn.T + shift, self.groups)

    def area(self) -> float:
        """Area of all faces in mm²."""
        rects = np.linalg.norm(np.cross(self.rects[:, 1], self.rects[:, 2]), axis=1).sum() if len(self.rects) else 0.0
        a, b, c = (self.tris[:, k] for k in range(3)) if len(self.tris) else (np.zeros((0, 3)),) * 3
        return float(rects + np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)

    def corners(self) -> Floats:
        """Every corner point (n, 3)."""
        r = self.rects
        quads = np.concatenate([r[:, 0], r[:, 0] + r[:, 1], r[:, 0] + r[:, 2], r[:, 0] + r[:, 1] + r[:, 2]])
        return np.concatenate([quads, self.tris.reshape(-1, 3)])


NO_TRIS, NO_GROUPS, NO_RECTS = np.zeros((0, 3, 3)), np.zeros(0, np.int64), np.zeros((0, 3, 3))


def of_rects(rects: Floats) -> Solid:
    """A solid of rectangles (r, 3, 3) alone."""
    return Solid(rects, NO_TRIS.copy(), NO_GROUPS)


def of_tris(tris: Floats, part: Ints | None = None) -> Solid:
    """A solid of triangles (t, 3, 3) alone; those of one part that face one way share their bounced light."""
    return Solid(NO_RECTS.copy(), tris, facing_groups(tris, np.zeros(len(tris), np.int64) if part is None else part))


def centred(solid: Solid, width: float, depth: float) -> Solid:
    """A solid that was built from its corner, with its footprint about the origin."""
    return solid.moved(np.array([-width / 2, -depth / 2, 0.0]), 0.0)


def facing_groups(tris: Floats, part: Ints) -> Ints:
    """Group triangles by part and by the axis that they face most: six groups a part."""
    normal = np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0])
    axis = np.abs(normal).argmax(1)
    sign = np.take_along_axis(normal, axis[:, None], 1)[:, 0] > 0
    out: Ints = (part * 6 + axis * 2 + sign).astype(np.int64)
    return out


def box_faces(b: Bounds, bottom: bool = True) -> Floats:
    """Six (or five) outward faces of the block from (x0, y0, z0) to (x1, y1, z1)."""
    x0, y0, z0, x1, y1, z1 = b
    dx, dy, dz = [x1 - x0, 0, 0], [0, y1 - y0, 0], [0, 0, z1 - z0]
    faces = [
        [[x0, y0, z0], dx, dz],
        [[x1, y1, z0], [x0 - x1, 0, 0], dz],
        [[x0, y1, z0], [0, y0 - y1, 0], dz],
        [[x1, y0, z0], dy, dz],
        [[x0, y0, z1], dx, dy],
    ]
    if bottom:
        faces.append([[x0, y0, z0], dy, dx])
    return np.array(faces, float)


def block_ring(width: float, height: float, x: float = 0.0, y: float = 0.0) -> Floats:
    """The ring (4, 2) of a block standing on ``y``, its middle at ``x``."""
    return np.array([[x - width / 2, y], [x + width / 2, y], [x + width / 2, y + height], [x - width / 2, y + height]])
