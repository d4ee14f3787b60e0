"""Walls and rooms: hollow, with openings."""

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model.shapes import Opening, Room, Wall
from fondale.core.shapes.kind import ShapeKind
from fondale.core.shapes.solid import NO_TRIS, Outline, Solid, block_ring, box_faces, centred, facing_groups


class WallKind(ShapeKind[Wall]):
    """A standing wall, running along its own x."""

    model, words, scenery, hollow = Wall, "Wall with an opening", True, True
    axes = {"length": 0, "thickness": 1, "height": 2}  # noqa: RUF012

    def new(self) -> Wall:
        return Wall(length=120, height=90, openings=(Opening(x=40, width=24, height=58),))

    def solid(self, shape: Wall, height: float) -> Solid:
        return centred(with_openings(shape.length, shape.height, shape.thickness, shape.openings), shape.length, shape.thickness)

    def outline(self, shape: Wall, height: float) -> Outline:
        holes = (block_ring(o.width, o.height, o.x + o.width / 2 - shape.length / 2, o.z) for o in shape.openings)
        return (block_ring(shape.length, shape.height), *holes)


class RoomKind(ShapeKind[Room]):
    """A hollow box with a roof and openings in its front."""

    model, words, scenery, hollow = Room, "Room with a window", True, True
    axes = {"width": 0, "depth": 1, "height": 2, "thickness": 1}  # noqa: RUF012

    def new(self) -> Room:
        return Room(width=70, depth=50, height=80, openings=(Opening(x=20, z=30, width=30, height=28),))

    def solid(self, shape: Room, height: float) -> Solid:
        return centred(_room(shape), shape.width, shape.depth)

    def top(self, shape: Room, x: float, y: float) -> float | None:
        if abs(x) > shape.width / 2 or abs(y) > shape.depth / 2:
            return None
        inside = abs(x) < shape.width / 2 - shape.thickness and abs(y) < shape.depth / 2 - shape.thickness
        return 0.0 if inside else shape.height


def with_openings(length: float, height: float, thickness: float, openings: tuple[Opening, ...]) -> Solid:
    """A wall from x 0..length, y 0..thickness, face by face. Of openings that overlap in x the left one counts."""
    t = thickness
    faces: list[list[list[float]]] = []
    tris: list[Floats] = []

    def both_sides(x0: float, x1: float, z0: float, z1: float) -> None:
        if x1 - x0 > 1e-6 and z1 - z0 > 1e-6:
            faces.append([[x0, 0, z0], [x1 - x0, 0, 0], [0, 0, z1 - z0]])
            faces.append([[x1, t, z0], [x0 - x1, 0, 0], [0, 0, z1 - z0]])

    edge = 0.0
    ends = {0.0: [(0.0, height)], length: [(0.0, height)]}
    for o in sorted(openings, key=lambda o: (o.x, o.width)):
        left, right = max(o.x, edge), min(o.x + o.width, length)
        low, top = min(o.z, height), min(o.z + o.height, height)
        if right - left < 1e-6 or top - low < 1e-6:
            continue
        rise = min((right - left) / 2, top - low) if o.arch else 0.0
        for x in (left, right):
            if x in ends:
                ends[x] = [(0.0, low), (top - rise, height)]
        both_sides(edge, left, 0, height)
        both_sides(left, right, 0, low)
        for x, inwards in ((left, t), (right, -t)):
            y = 0.0 if inwards > 0 else t
            if left > 0 if inwards > 0 else right < length:
                faces.append([[x, y, low], [0, inwards, 0], [0, 0, top - rise - low]])
        if low > 0:
            faces.append([[left, 0, low], [right - left, 0, 0], [0, t, 0]])
        if o.arch:
            tris.append(_arch(left, right, top - rise, rise, height, t))
        elif top < height:
            both_sides(left, right, top, height)
            faces.append([[left, 0, top], [0, t, 0], [right - left, 0, 0]])
        edge = right
    both_sides(edge, length, 0, height)
    for x, way in ((0.0, -t), (length, t)):
        y = t if way < 0 else 0.0
        faces += [[[x, y, z0], [0, way, 0], [0, 0, z1 - z0]] for z0, z1 in ends[x] if z1 - z0 > 1e-6]
    faces.append([[0, 0, height], [length, 0, 0], [0, t, 0]])
    mesh = np.concatenate(tris) if tris else NO_TRIS
    return Solid(np.array(faces, float), mesh, facing_groups(mesh, np.arange(len(mesh)) // 2))


def _arch(left: float, right: float, spring: float, rise: float, height: float, thickness: float) -> Floats:
    """The wall over a half-round opening: front, back and soffit as triangles, two to a flat quad."""
    n = 12
    t = np.linspace(np.pi, 0, n + 1)
    x = (left + right) / 2 + (right - left) / 2 * np.cos(t)
    z = spring + rise * np.sin(t)
    quads = []
    for i in range(n):
        a, b = (x[i], z[i]), (x[i + 1], z[i + 1])
        quads.append([[a[0], 0, a[1]], [b[0], 0, b[1]], [b[0], 0, height], [a[0], 0, height]])
        quads.append([[b[0], thickness, b[1]], [a[0], thickness, a[1]], [a[0], thickness, height], [b[0], thickness, height]])
        quads.append([[a[0], thickness, a[1]], [b[0], thickness, b[1]], [b[0], 0, b[1]], [a[0], 0, a[1]]])
    q = np.array(quads)
    return np.stack([q[:, [0, 1, 2]], q[:, [0, 2, 3]]], 1).reshape(-1, 3, 3)


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
