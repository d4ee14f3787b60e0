"""Pieces as flat rectangles and triangles, in their own axes: footprint centred on the origin, base at z = 0."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fondale.core.arrays import Floats, Ints
from fondale.core.model import Case, Piece
from fondale.core.model import shapes as sh
from fondale.core.scale.animals import animal
from fondale.core.scale.lofts import loft
from fondale.core.scale.mannequin import mannequin
from fondale.core.scale.reading import main_size


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

    def corners(self) -> Floats:
        """Every corner point (n, 3)."""
        r = self.rects
        quads = np.concatenate([r[:, 0], r[:, 0] + r[:, 1], r[:, 0] + r[:, 2], r[:, 0] + r[:, 1] + r[:, 2]])
        return np.concatenate([quads, self.tris.reshape(-1, 3)])


_NO_TRIS, _NO_GROUPS = np.zeros((0, 3, 3)), np.zeros(0, np.int64)
_NO_RECTS = np.zeros((0, 3, 3))
Bounds = tuple[float, float, float, float, float, float]


def _box(b: Bounds, bottom: bool = True) -> Floats:
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


def _wall_with_openings(length: float, height: float, thickness: float, openings: tuple[sh.Opening, ...]) -> Solid:
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
    mesh = np.concatenate(tris) if tris else _NO_TRIS
    return Solid(np.array(faces, float), mesh, np.arange(len(mesh)) // 2)


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


def _stairs(s: sh.Stairs) -> Floats:
    going, rise = s.depth / s.steps, s.height / s.steps
    parts = []
    for i in range(s.steps):
        block = _box((0, i * going, 0, s.width, s.depth, (i + 1) * rise), bottom=False)
        front, _back, left, right, top = block
        front[0, 2], front[2, 2] = i * rise, rise
        top[2, 1] = going
        for side in (left, right):
            side[0, 2], side[2, 2] = i * rise, rise
        parts += [front, left, right, top]
    parts.append(_box((0, 0, 0, s.width, s.depth, s.height), bottom=False)[1])
    return np.array(parts)


def _room(s: sh.Room) -> Solid:
    t = s.thickness
    front = _wall_with_openings(s.width, s.height - t, t, s.openings)
    parts = [
        _box((0, t, 0, t, s.depth - t, s.height - t), bottom=False),
        _box((s.width - t, t, 0, s.width, s.depth - t, s.height - t), bottom=False),
        _box((0, s.depth - t, 0, s.width, s.depth, s.height - t), bottom=False),
        _box((0, 0, s.height - t, s.width, s.depth, s.height)),
    ]
    return Solid(np.concatenate([front.rects, *parts]), front.tris, front.groups)


def _round(s: sh.Cylinder) -> Floats:
    r = s.diameter / 2
    path = np.linspace(0, s.length, 3)
    if s.axis == "z":
        line = np.stack([np.zeros(3), np.zeros(3), path], 1)
        return loft(line, np.full(3, r), np.full(3, r), np.array([1.0, 0, 0]), 16)
    flat = path - s.length / 2
    zeros, up = np.zeros(3), np.full(3, r)
    line = np.stack([flat, zeros, up], 1) if s.axis == "x" else np.stack([zeros, flat, up], 1)
    return loft(line, np.full(3, r), np.full(3, r), np.array([0, 0, 1.0]), 16)


def wheel(s: sh.Wheel) -> Floats:
    """Rim, hub and spokes; the axle lies along x, the wheel stands on z = 0."""
    r, w, n = s.diameter / 2, s.width, 24
    rim, a = s.diameter * 0.05, np.linspace(0, 2 * np.pi, n, endpoint=False)
    out = []
    ring = np.stack([np.zeros(n), np.cos(a), np.sin(a)], 1)
    for i in range(n):
        j = (i + 1) % n
        quads = []
        for side, radius_a, radius_b in ((1, r, r - rim), (-1, r - rim, r)):
            x = np.array([side * w / 2, 0, 0])
            quads.append([x + ring[i] * radius_a, x + ring[j] * radius_a, x + ring[j] * radius_b, x + ring[i] * radius_b])
        h = np.array([w / 2, 0, 0])
        quads.append([ring[i] * r - h, ring[j] * r - h, ring[j] * r + h, ring[i] * r + h])
        quads.append([ring[i] * (r - rim) + h, ring[j] * (r - rim) + h, ring[j] * (r - rim) - h, ring[i] * (r - rim) - h])
        q = np.array(quads)
        out.append(np.stack([q[:, [0, 1, 2]], q[:, [0, 2, 3]]], 1).reshape(-1, 3, 3))
    line = np.array([[-w * 0.7, 0, 0], [0, 0, 0], [w * 0.7, 0, 0]])
    out.append(loft(line, np.full(3, r * 0.14), np.full(3, r * 0.14), np.array([0, 0, 1.0]), 10))
    for k in range(s.spokes):
        way = np.array([0, np.cos(2 * np.pi * k / s.spokes), np.sin(2 * np.pi * k / s.spokes)])
        out.append(
            loft(np.outer([0.1 * r, 0.5 * r, r - rim * 0.5], way), np.full(3, w * 0.16), np.full(3, r * 0.022), np.array([1.0, 0, 0]), 4)
        )
    whole: Floats = np.concatenate(out) + np.array([0, 0, r])
    return whole


def _hull(s: sh.Hull) -> Floats:
    """An open boat as an outer and an inner skin of lofted frames, bow towards +x."""
    t = np.array([0.0, 0.12, 0.35, 0.6, 0.8, 0.93, 1.0])
    beam = np.array([0.62, 0.86, 1.0, 0.97, 0.74, 0.38, 0.04]) * s.beam / 2
    sheer = (0.82 + 0.18 * (2 * t - 0.8) ** 2) * s.depth
    keel = np.array([0.12, 0.03, 0.0, 0.0, 0.06, 0.22, 0.55]) * s.depth
    wall = min(s.beam * 0.06, 3.0)

    def frames(inset: float, lift: float) -> Floats:
        rows = []
        for x, b, top, low in zip((t - 0.5) * s.length, np.maximum(beam - inset, 0.2), sheer, keel + lift, strict=True):
            low = min(low, top - 0.2)
            rows.append(
                [
                    [x, -b, top],
                    [x, -b * 0.86, low + (top - low) * 0.35],
                    [x, -b * 0.35, low],
                    [x, b * 0.35, low],
                    [x, b * 0.86, low + (top - low) * 0.35],
                    [x, b, top],
                ]
            )
        return np.array(rows)

    def skin(f: Floats, out: bool) -> Floats:
        a, b, c, d = f[:-1, :-1], f[1:, :-1], f[1:, 1:], f[:-1, 1:]
        q = np.stack([a, d, c, b] if out else [a, b, c, d], 2).reshape(-1, 4, 3)
        return np.stack([q[:, [0, 1, 2]], q[:, [0, 2, 3]]], 1).reshape(-1, 3, 3)

    outer, inner = frames(0.0, 0.0), frames(wall, s.depth * 0.22)
    stern = np.array([[outer[0, 0], outer[0, i + 1], outer[0, i]] for i in range(1, 5)])[:, [0, 2, 1]]
    rims = []
    for edge in (0, -1):
        q = np.stack([outer[:-1, edge], outer[1:, edge], inner[1:, edge], inner[:-1, edge]], 1)
        q = q if edge == 0 else q[:, ::-1]
        rims.append(np.stack([q[:, [0, 1, 2]], q[:, [0, 2, 3]]], 1).reshape(-1, 3, 3))
    transom = inner[0] + np.array([wall, 0, 0])
    back = np.array([[transom[0], transom[i], transom[i + 1]] for i in range(1, 5)])
    return np.concatenate([skin(outer, True), skin(inner, False), stern, back, *rims])


def mesh_tris(shape: sh.Mesh) -> Floats:
    """The simplified skin in mm (t, 3, 3), standing on z = 0."""
    out: Floats = (np.array(shape.points) * [shape.width, shape.depth, shape.height])[np.array(shape.faces)]
    return out


def _facing_groups(tris: Floats, part: Ints) -> Ints:
    """Group triangles by part and by the axis that they face most: six groups a part."""
    normal = np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0])
    axis = np.abs(normal).argmax(1)
    sign = np.take_along_axis(normal, axis[:, None], 1)[:, 0] > 0
    out: Ints = (part * 6 + axis * 2 + sign).astype(np.int64)
    return out


def _figure(shape: sh.Figure, height: float) -> Solid:
    body = mannequin(shape.pose, shape.person, shape.extras, shape.heroic, shape.build)
    tris = body.tris * (height / body.crown)
    coarse = np.array([0, 1, 1, 2, 3])[body.part]
    return Solid(_NO_RECTS.copy(), tris, _facing_groups(tris, coarse))


def _centred(solid: Solid, width: float, depth: float) -> Solid:
    return solid.moved(np.array([-width / 2, -depth / 2, 0.0]), 0.0)


def measured_height(piece: Piece) -> float:
    """The measured height in mm; until it is measured, that of a mid-sized figure or cat at 1:35."""
    if (mm := main_size(piece)) is not None:
        return mm
    return 7.0 if isinstance(piece.shape, sh.Animal) else 50.0


def solid_of(piece: Piece) -> Solid:
    """The solid of a piece in its own axes, in mm."""
    return _solid(piece.shape, measured_height(piece))


@lru_cache(maxsize=512)
def _solid(shape: sh.Shape, height: float) -> Solid:
    none = Solid(_NO_RECTS.copy(), _NO_TRIS.copy(), _NO_GROUPS)
    match shape:
        case sh.Figure():
            return _figure(shape, height)
        case sh.Animal():
            tris = animal(shape.species) * height
        case sh.Box():
            block = _box((0, 0, 0, shape.width, shape.depth, shape.height))
            return _centred(Solid(block, none.tris, none.groups), shape.width, shape.depth)
        case sh.Wall():
            wall = _wall_with_openings(shape.length, shape.height, shape.thickness, shape.openings)
            return _centred(wall, shape.length, shape.thickness)
        case sh.Room():
            return _centred(_room(shape), shape.width, shape.depth)
        case sh.Stairs():
            return _centred(Solid(_stairs(shape), none.tris, none.groups), shape.width, shape.depth)
        case sh.Cylinder():
            tris = _round(shape)
        case sh.Wheel():
            tris = wheel(shape)
        case sh.Hull():
            tris = _hull(shape)
        case sh.Mesh():
            tris = mesh_tris(shape)
    return Solid(none.rects, tris, _facing_groups(tris, np.zeros(len(tris), np.int64)))


def top_at(piece: Piece, x: float, y: float) -> float | None:
    """Height over the piece's base on which something can stand at (x, y) of its own axes, or None beside it."""
    s = piece.shape
    if isinstance(s, sh.Box) and abs(x) <= s.width / 2 and abs(y) <= s.depth / 2:
        return s.height
    if isinstance(s, sh.Stairs) and abs(x) <= s.width / 2 and abs(y) <= s.depth / 2:
        step = min(int((y + s.depth / 2) / s.depth * s.steps), s.steps - 1)
        return (step + 1) * s.height / s.steps
    if isinstance(s, sh.Room) and abs(x) <= s.width / 2 and abs(y) <= s.depth / 2:
        inside = abs(x) < s.width / 2 - s.thickness and abs(y) < s.depth / 2 - s.thickness
        return 0.0 if inside else s.height
    if isinstance(s, sh.Hull) and abs(x) <= s.length * 0.4 and abs(y) <= s.beam * 0.35:
        return s.depth * 0.22
    return None


def case_faces(case: Case) -> tuple[Floats, Floats]:
    """Inward rectangles of the case (r, 3, 3) and their paint (r, 3); glass is left out: light leaves there."""
    w, d, h = case.width, case.depth, case.height
    floor = [[0, 0, 0], [w, 0, 0], [0, d, 0]]
    faces, paints = [floor], [case.floor_paint]
    if case.kind in ("glazed box", "closed box"):
        faces += [
            [[0, 0, h], [0, d, 0], [w, 0, 0]],
            [[0, 0, 0], [0, d, 0], [0, 0, h]],
            [[w, d, 0], [0, -d, 0], [0, 0, h]],
            [[0, d, 0], [w, 0, 0], [0, 0, h]],
        ]
        paints += [case.ceiling_paint, case.wall_paint, case.wall_paint, case.wall_paint]
        if case.kind == "closed box":
            faces.append([[w, 0, 0], [-w, 0, 0], [0, 0, h]])
            paints.append(case.wall_paint)
        else:
            if case.lip_top > 0:
                lip = min(case.lip_top, h)
                faces.append([[w, 0, h - lip], [-w, 0, 0], [0, 0, lip]])
                paints.append(case.ceiling_paint)
            for x in (0.0, w - min(case.lip_sides, w / 2)):
                if case.lip_sides > 0:
                    side = min(case.lip_sides, w / 2)
                    faces.append([[x + side, 0, 0], [-side, 0, 0], [0, 0, h]])
                    paints.append(case.wall_paint)
    return np.array(faces, float), np.array(paints, float)
