# SPDX-License-Identifier: MIT
"""A piece as flat rectangles and triangles, in its own axes: footprint centred on the origin, base at z = 0."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from fondale.core.arrays import Floats, Ints
from fondale.core.bodies.outline import Outline as Outline

Bounds = tuple[float, float, float, float, float, float]


def placed(points: Floats, shift: Floats, turn_deg: float) -> Floats:
    """Points (..., 3) turned about the vertical, exactly by right angles, then shifted."""
    a = np.radians(turn_deg)
    turn = np.array([[np.cos(a), -np.sin(a), 0.0], [np.sin(a), np.cos(a), 0.0], [0.0, 0.0, 1.0]])
    if abs(turn_deg % 90) < 1e-9:
        turn = np.round(turn)
    out: Floats = (points.reshape(-1, 3) @ turn.T + shift).reshape(points.shape)
    return out


def tilted(points: Floats, tilt_deg: float) -> Floats:
    """Points (..., 3) about the x axis: their tops lean to +y."""
    if not tilt_deg:
        return points
    a = np.radians(tilt_deg)
    turn = np.array([[1.0, 0.0, 0.0], [0.0, np.cos(a), np.sin(a)], [0.0, -np.sin(a), np.cos(a)]])
    out: Floats = points @ turn.T
    return out


def lift_of(points: Floats, tilt_deg: float) -> float:
    """How far a body of these points (k, 3), standing on z = 0, must be raised when it is tilted, so that its lowest point is on the ground."""
    return -float(tilted(points, tilt_deg)[..., 2].min()) if tilt_deg and points.size else 0.0


@dataclass(frozen=True)
class Solid:
    """``rects`` (r, 3, 3): corner and two edges each, outward normal = edge x edge.

    ``tris`` (t, 3, 3) with a patch group per triangle: triangles of one group share their bounced light. A group is a part's number times
    six and the axis and side that it faces. ``smooth`` (t, 3, 3) are unit normals at their corners, where whoever made them knows them.
    """

    rects: Floats
    tris: Floats
    groups: Ints
    smooth: Floats | None = None

    def moved(self, shift: Floats, turn_deg: float, tilt_deg: float = 0.0) -> "Solid":
        """Tilted on to its lowest point, turned about the vertical, then shifted."""
        shift = shift + np.array([0.0, 0.0, lift_of(self.corners(), tilt_deg) if tilt_deg else 0.0])
        rects = placed(tilted(self.rects, tilt_deg), np.zeros(3), turn_deg)
        rects[:, 0] += shift
        smooth = None if self.smooth is None else placed(tilted(self.smooth, tilt_deg), np.zeros(3), turn_deg)
        return Solid(rects, placed(tilted(self.tris, tilt_deg), shift, turn_deg), self.groups, smooth)

    def triangles(self) -> Floats:
        """All faces as triangles (2 r + t, 3, 3)."""
        p, u, v = self.rects[:, 0], self.rects[:, 1], self.rects[:, 2]
        return np.concatenate([np.stack([p, p + u, p + u + v], 1), np.stack([p, p + u + v, p + v], 1), self.tris])

    @cached_property
    def rounded(self) -> Floats:
        """Unit normals (t, 3, 3) at the corners of the triangles: those that are known, or what lies between the faces that meet there."""
        return self.smooth if self.smooth is not None else creased(self.tris)

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


def of_tris(tris: Floats, part: Ints | None = None, smooth: Floats | None = None) -> Solid:
    """A solid of triangles (t, 3, 3) alone; those of one part that face one way share their bounced light. Parts are sheets of it, where
    whoever made it has none of its own.
    """
    return Solid(NO_RECTS.copy(), tris, facing_groups(tris, sheets(tris) if part is None else part), smooth)


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


SHEET_MM, SHEET_DEG = 30.0, 50.0  # how large a sheet may be, and at which edge it ends


def sheets(tris: Floats) -> Ints:
    """Number triangles (t, 3, 3) by the sheets that they belong to: what hangs together without a sharp edge, and lies within SHEET_MM.

    The inside of a boat and its outside are two sheets, though they face the same ways.
    """
    if not len(tris):
        return np.zeros(0, np.int64)
    normal = np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-30)
    where = np.unique(np.round(tris.reshape(-1, 3), 5), axis=0, return_inverse=True)[1].reshape(-1, 3)
    begin, end = where.ravel(), np.roll(where, -1, axis=1).ravel()
    edge = np.minimum(begin, end) * (int(where.max()) + 1) + np.maximum(begin, end)
    order = np.argsort(edge, kind="stable")
    a, b = order[:-1][np.diff(edge[order]) == 0] // 3, order[1:][np.diff(edge[order]) == 0] // 3
    flat = (normal[a] * normal[b]).sum(1) > np.cos(np.radians(SHEET_DEG))
    a, b = a[flat], b[flat]
    label = np.arange(len(tris))
    while (label[a] != label[b]).any():  # the least number wins, and is handed on by leaps
        least = np.minimum(label[a], label[b])
        np.minimum.at(label, label[a], least)
        np.minimum.at(label, label[b], least)
        label = label[label]
    tile = np.floor(tris.mean(1) / SHEET_MM).astype(np.int64)
    out: Ints = np.unique(np.column_stack([label, tile]), axis=0, return_inverse=True)[1].ravel().astype(np.int64)
    return out


def creased(tris: Floats, crease_deg: float = 40.0) -> Floats:
    """Unit normals (t, 3, 3) at the corners of triangles: the mean of the faces that meet there at less than the crease, each by its area."""
    normal = np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0])
    facing = normal / np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-30)
    where = np.unique(np.round(tris.reshape(-1, 3), 5), axis=0, return_inverse=True)[1].ravel()
    order = np.argsort(where, kind="stable")
    count = np.bincount(where)
    first = np.concatenate([[0], np.cumsum(count)])[:-1]
    # Every corner beside every other at its point.
    mine = np.repeat(order, count[where[order]])
    step = np.arange(len(mine)) - np.repeat(np.concatenate([[0], np.cumsum(count[where[order]])])[:-1], count[where[order]])
    other = order[first[where[mine]] + step]
    near = (facing[mine // 3] * facing[other // 3]).sum(1) > np.cos(np.radians(crease_deg))
    out = np.stack([np.bincount(mine[near], normal[other[near] // 3, k], len(where)) for k in range(3)], 1)
    length = np.linalg.norm(out, axis=1, keepdims=True)
    return np.where(length > 1e-30, out / np.maximum(length, 1e-30), np.repeat(facing, 3, axis=0)).reshape(tris.shape)


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
