# SPDX-License-Identifier: MIT
"""Walls and rooms: hollow, with openings."""

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model.shapes import Opening, Room, Wall
from fondale.core.shapes.kind import ShapeKind
from fondale.core.shapes.pierced import face, ring_of
from fondale.core.shapes.solid import NO_TRIS, Outline, Solid, block_ring, box_faces, centred, facing_groups


class WallKind(ShapeKind[Wall]):
    """A standing wall, running along its own x."""

    model, words, scenery, hollow = Wall, "Wall with an opening", True, True
    axes = {"length": 0, "thickness": 1, "height": 2}  # noqa: RUF012

    def new(self) -> Wall:
        return Wall(length=120, height=90, openings=(Opening(x=40, width=24, height=58),))

    def solid(self, shape: Wall, height: float) -> Solid:
        return centred(with_openings(shape.length, shape.height, shape.thickness, shape.openings), shape.length, shape.thickness)

    def pierced(self, shape: Wall) -> tuple[Floats, Floats]:
        return _middles(shape.length, shape.height, 0.0, shape.openings)

    def outline(self, shape: Wall, height: float) -> Outline:
        return (block_ring(shape.length, shape.height), *(ring_of(o) - [shape.length / 2, 0.0] for o in shape.openings))


class RoomKind(ShapeKind[Room]):
    """A hollow box with a roof and openings in its front."""

    model, words, scenery, hollow = Room, "Room with a window", True, True
    axes = {"width": 0, "depth": 1, "height": 2, "thickness": 1}  # noqa: RUF012

    def new(self) -> Room:
        return Room(width=70, depth=50, height=80, openings=(Opening(x=20, z=30, width=30, height=28),))

    def solid(self, shape: Room, height: float) -> Solid:
        return centred(_room(shape), shape.width, shape.depth)

    def pierced(self, shape: Room) -> tuple[Floats, Floats]:
        _wall, holes = _middles(shape.width, shape.height - shape.thickness, (shape.thickness - shape.depth) / 2, shape.openings)
        return holes[:0], holes

    def top(self, shape: Room, x: float, y: float) -> float | None:
        if abs(x) > shape.width / 2 or abs(y) > shape.depth / 2:
            return None
        inside = abs(x) < shape.width / 2 - shape.thickness and abs(y) < shape.depth / 2 - shape.thickness
        return 0.0 if inside else shape.height


def _middles(length: float, height: float, y: float, openings: tuple[Opening, ...]) -> tuple[Floats, Floats]:
    """The plane in the middle of a wall about the origin, and what is open in it."""
    wall = np.array([[[-length / 2, y, 0.0], [length, 0.0, 0.0], [0.0, 0.0, height]]])
    holes = [[[o.x - length / 2, y, o.z], [o.width, 0.0, 0.0], [0.0, 0.0, o.height]] for o in openings]
    return wall, np.array(holes).reshape(-1, 3, 3)


def with_openings(length: float, height: float, thickness: float, openings: tuple[Opening, ...]) -> Solid:
    """A wall from x 0..length, y 0..thickness, without a sole: front, back, and what is seen in the thickness of its edges."""
    t, left = thickness, face(length, height, openings)
    faces: list[list[list[float]]] = []
    tris: list[Floats] = []
    for x0, x1, z0, z1 in left.rects.tolist():
        faces += [[[x0, 0, z0], [x1 - x0, 0, 0], [0, 0, z1 - z0]], [[x1, t, z0], [x0 - x1, 0, 0], [0, 0, z1 - z0]]]
    if len(left.tris):
        flat = np.insert(left.tris, 1, 0.0, axis=2)
        tris += [flat, flat[:, ::-1] + [0.0, t, 0.0]]
    for ring in left.rings:
        for a, b in zip(ring, np.roll(ring, -1, axis=0), strict=True):
            if max(a[1], b[1]) < 1e-6:
                continue  # it stands there
            edge = np.array([[a[0], 0, a[1]], [0, t, 0], [b[0] - a[0], 0, b[1] - a[1]]])
            if 0 in np.abs(b - a).round(6):
                faces.append(edge.tolist())
            else:
                p, u, v = edge
                tris.append(np.array([[p, p + u, p + u + v], [p, p + u + v, p + v]]))
    mesh = np.concatenate(tris) if tris else NO_TRIS
    return Solid(np.array(faces, float), mesh, facing_groups(mesh, np.arange(len(mesh)) // 2))


def _room(s: Room) -> Solid:
    t = s.thickness
    front = with_openings(s.width, s.height - t, t, s.openings)
    parts = [
        box_faces((0, t, 0, t, s.depth - t, s.height - t), bottom=False),
        box_faces((s.width - t, t, 0, s.width, s.depth - t, s.height - t), bottom=False),
        box_faces((0, s.depth - t, 0, s.width, s.depth, s.height - t), bottom=False),
        box_faces((0, 0, s.height - t, s.width, s.depth, s.height)),
    ]
    return Solid(np.concatenate([front.rects, *parts]), front.tris, front.groups)
