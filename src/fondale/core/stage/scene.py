# SPDX-License-Identifier: MIT
"""The scene: every placed piece and the case, in the case's axes, ready for rays and light."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cache, cached_property, partial
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Ints, crossed, dot, folded, length, rows, scaled
from fondale.core.model import Case, Piece, Place, Project
from fondale.core.model.shapes import Shape
from fondale.core.model.snapshots import once
from fondale.core.rays import Prims, Rays, Stills
from fondale.core.shapes import kind_of
from fondale.core.shapes.solid import Solid, creased, facing_groups, lift_of, placed, tilted
from fondale.core.side_by_side import in_parts
from fondale.core.stage.cases import INSET_MM, case_faces, cell_of, ways_through
from fondale.core.stage.glass import Panes, panes_of, see_through, shining_face
from fondale.core.stage.paints import figure_paints, paints_of
from fondale.core.stage.solids import solid_of, top_at

CASE = -1  # owner of the case's own faces
_TOUCH_MM = 0.5
NARROW_MM, INWARDS = 6.0, (1.0, 2.0, 3.0, 4.5, 6.5, 9.0, 12.0, 16.0)  # times the width of a gap between faces that are so near
MOST_CUT = 2_500  # pieces of a face
GAP_MM, _BEYOND_MM = 150.0, 0.1  # what is wider than such a gap is found by chance; gaps are measured from so far beyond a wall's end
_stills = Stills()  # of the scene before


@dataclass(frozen=True)
class Scene:
    """``rects`` (r, 3, 3) corner and edges, ``tris`` (t, 3, 3); owners index the project's pieces (-1: case).

    ``paint`` is reflectance in three bands. ``group`` numbers the patches of triangles from 0; ``siblings`` (groups, 6) are the groups of the same part by the axis and side that they face (-1: none).
    What only light and pictures ask for is worked out when it is asked for, from the ``loose`` triangles of every body. What one sees through is in ``panes`` alone.
    ``walls`` (w, 3, 3) are the middle planes of walls, ``holes`` (h, 3, 3) those of what is open in them and in the case.
    """

    case: Case
    rects: Floats
    rect_owner: Ints
    rect_paint: Floats
    tris: Floats
    tri_owner: Ints
    places: Mapping[str, Place]
    loose: tuple["_Loose", ...]
    panes: Panes
    walls: Floats
    holes: Floats

    @cached_property
    def tri_paint(self) -> Floats:
        """Reflectance of the free triangles (t, 3)."""
        return np.concatenate([one.paint() for one in self.loose]) if self.loose else np.zeros((0, 3))

    @cached_property
    def _grouped(self) -> tuple[Ints, Ints]:
        groups, siblings, offset = [np.zeros(0, np.int64)], [np.zeros((0, 6), np.int64)], 0
        for one in self.loose:
            used, group = np.unique(one.groups, return_inverse=True)
            groups.append(group + offset)
            six = used[:, None] // 6 * 6 + np.arange(6)
            at = np.minimum(np.searchsorted(used, six), len(used) - 1)
            siblings.append(np.where(used[at] == six, at + offset, -1))
            offset += len(used)
        return np.concatenate(groups), np.concatenate(siblings)

    @property
    def group(self) -> Ints:
        """The patch of every free triangle (t,)."""
        return self._grouped[0]

    @property
    def siblings(self) -> Ints:
        """For every patch of triangles those of the same part by the way that they face (groups, 6)."""
        return self._grouped[1]

    @cached_property
    def cuts(self) -> tuple[tuple[Floats, Floats], ...]:
        """For each rectangle the shares along both edges where something stands against it; looking takes none, light does."""
        return _cuts(self.rects, self.rect_owner)

    @cached_property
    def gates(self) -> Floats:
        """Narrow ways that light can take (g, 3, 3), corner and edges: what is open in walls, and gaps between a wall and what stands beside or over it."""
        return np.concatenate([self.holes, _gaps(self.walls, self.rays)])

    @cached_property
    def all_tris(self) -> Floats:
        """Two triangles a rectangle, then the free triangles: (2 r + t, 3, 3)."""
        p, u, v = self.rects[:, 0], self.rects[:, 1], self.rects[:, 2]
        first, second = np.stack([p, p + u, p + u + v], 1), np.stack([p, p + u + v, p + v], 1)
        halves = np.stack([first, second], 1).reshape(-1, 3, 3)
        return np.concatenate([halves, self.tris])

    @cached_property
    def owner(self) -> Ints:
        """Owner of every triangle of ``all_tris``."""
        return np.concatenate([np.repeat(self.rect_owner, 2), self.tri_owner])

    @cached_property
    def normal(self) -> Floats:
        """Unit normals of ``all_tris``, outwards (case: inwards)."""
        return scaled(self._crossed, 1 / np.maximum(2 * self.area, 1e-30))

    @cached_property
    def normal32(self) -> NDArray[np.float32]:
        """The same in single precision."""
        return self.normal.astype(np.float32)

    @cached_property
    def area(self) -> Floats:
        """Of every triangle of ``all_tris``, in mm²."""
        out: Floats = length(self._crossed) / 2
        return out

    @cached_property
    def _crossed(self) -> Floats:
        t = self.all_tris
        return crossed(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])

    @cached_property
    def smooth(self) -> Floats:
        """Unit normals (t, 3, 3) at the corners of the free triangles; pictures are shaded with what lies between them."""
        return np.concatenate([one.smooth() for one in self.loose]) if self.loose else np.zeros((0, 3, 3))

    @cached_property
    def _rounded(self) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """The corners of the free triangles and the normals there (t, 3, 3), in single precision."""
        return self.tris.astype(np.float32), self.smooth.astype(np.float32)

    def shaded(self, prim: Prims, points: NDArray[Any]) -> tuple[NDArray[Any], NDArray[Any]]:
        """Normals (k, 3) between those of the corners at ``points`` on ``prim``, and the points on the rounded skin that they belong to, in their precision.

        Rays to a lamp that start there are not caught by the flat skin beneath [hanika2021].
        """
        single = points.dtype == np.float32
        tris, smooth = self._rounded if single else (self.tris, self.smooth)
        normals, lifted = rows(self.normal32 if single else self.normal, prim), points.copy()
        loose = np.flatnonzero(prim >= 2 * len(self.rects))
        t = prim[loose] - 2 * len(self.rects)
        corners, at, ends = rows(tris, t), rows(points, loose), rows(smooth, t)
        share = _barycentric(corners, at)
        between = np.einsum("kij,ki->kj", ends, share)
        normals[loose] = between / np.maximum(length(between)[:, None], 1e-30)
        below = np.minimum(dot(at[:, None] - corners, ends), 0.0)
        lifted[loose] = at - np.einsum("kij,ki->kj", ends, below * share)
        return normals, lifted

    @cached_property
    def paint(self) -> Floats:
        """Reflectance (triangles, 3) of ``all_tris``."""
        return np.concatenate([np.repeat(self.rect_paint, 2, axis=0), self.tri_paint])

    @cached_property
    def look_alike(self) -> Floats:
        """A number for every triangle of ``all_tris`` that is the same for those of one body and paint."""
        r, g, b = self.paint.T
        out: Floats = self.owner + (r * 0.6180 + g * 0.1357 + b * 0.0719)
        return out

    @cached_property
    def rays(self) -> Rays:
        """The ray engine for ``all_tris``."""
        return _stills.rays_of(self.all_tris, self.owner)


def _barycentric(corners: NDArray[Any], points: NDArray[Any]) -> NDArray[Any]:
    """Weights (k, 3) of the corners (k, 3, 3) at points (k, 3) between them."""
    a, b, p = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0], points - corners[:, 0]
    aa, ab, bb, pa, pb = dot(a, a), dot(a, b), dot(b, b), dot(p, a), dot(p, b)
    whole = np.maximum(aa * bb - ab * ab, 1e-30)
    second, third = (bb * pa - ab * pb) / whole, (aa * pb - ab * pa) / whole
    share = np.clip(np.stack([1 - second - third, second, third], 1), 0.0, 1.0)
    out: NDArray[Any] = share / folded(np.add, share)[:, None]
    return out


@once
def rest_places(project: Project) -> Mapping[str, Place]:
    """Every placed piece with its height filled in: a piece without one stands on the scenery beneath it.

    Only scenery with a top carries (blocks, stairs, rooms, boats, grounds), and only in the room of the case where it stands itself.
    """
    placed = [p for p in project.pieces if p.place is not None]
    out: dict[str, Place] = {}
    carriers: list[tuple[Piece, Place]] = []
    for piece in sorted(placed, key=lambda p: p.role != "scenery"):
        place = piece.place
        assert place is not None
        z = place.z
        if z is None:
            floor = z = float(cell_of(project.case, place.room).low[2])
            for below, at in carriers:
                if at.room == place.room:
                    z = max(z, height_under(below, at, place.x, place.y) or floor)
        done = place.but(z=z)
        out[piece.id] = done
        if piece.role == "scenery":
            carriers.append((piece, done))
    return out


def height_under(below: Piece, at: Place, x: float, y: float) -> float | None:
    """Height in the case at which ``below`` carries something at (x, y), or None beside it."""
    if at.tilt_deg:
        return None  # nothing stands on what leans
    a = np.radians(-at.turn_deg)
    dx, dy = x - at.x, y - at.y
    top = top_at(below, dx * np.cos(a) - dy * np.sin(a), dx * np.sin(a) + dy * np.cos(a))
    return None if top is None else (at.z or 0.0) + top


def height_at(project: Project, x: float, y: float) -> float:
    """The height of what carries at a point of the case's own room: of scenery, or of the floor."""
    floor = float(cell_of(project.case, "").low[2])
    carriers = ((p, place) for p in project.pieces if p.role == "scenery" and (place := rest_places(project).get(p.id)) and not place.room)
    return max((h for p, place in carriers if (h := height_under(p, place, x, y)) is not None), default=floor)


def placed_solid(piece: Piece, place: Place) -> Solid:
    """The piece's solid where it stands, in the case's axes."""
    return stood(solid_of(piece), place)


def stood(solid: Solid, place: Place) -> Solid:
    """A solid at a place, in the case's axes."""
    return solid.moved(np.array([place.x, place.y, place.z or 0.0]), place.turn_deg, place.tilt_deg)


def _cuts(rects: Floats, owner: Ints) -> tuple[tuple[Floats, Floats], ...]:
    """For each rectangle the shares along its edges where corners of other bodies' faces meet it, and where light is lost in a narrow gap
    between it and another.
    """
    sizes = np.linalg.norm(rects[:, 1:], axis=2)
    corners = np.stack([rects[:, 0], rects[:, 0] + rects[:, 1], rects[:, 0] + rects[:, 2], rects[:, 0] + rects[:, 1] + rects[:, 2]], 1)
    low, high = corners.min(1), corners.max(1)

    def beside(a: int, b: int) -> tuple[Ints, Ints]:
        near = (low[a:b, None] - NARROW_MM <= high) & (high[a:b, None] + NARROW_MM >= low)
        one, other = np.nonzero((owner[a:b, None] != owner) & folded(np.logical_and, near))
        return one + a, other

    i, j = (np.concatenate(each) for each in zip(*in_parts(beside, len(rects), 256), strict=True))
    p, u, v = rects[i, 0, None], rects[i, 1], rects[i, 2]
    normal = np.cross(rects[:, 1], rects[:, 2]) / (sizes[:, 0] * sizes[:, 1])[:, None]
    n = normal[i]
    rel = corners[j] - p
    off, s, t = np.einsum("kcj,kj->kc", rel, n), np.einsum("kcj,kj->kc", rel, u), np.einsum("kcj,kj->kc", rel, v)
    s, t = s / (sizes[i, 0] ** 2)[:, None], t / (sizes[i, 1] ** 2)[:, None]
    meets = (np.abs(off) < _TOUCH_MM) & (s > -1e-6) & (s < 1 + 1e-6) & (t > -1e-6) & (t < 1 + 1e-6)
    k, _corner = np.nonzero(meets)
    at = np.searchsorted(i[k], np.arange(len(rects) + 1))
    spans = np.stack([s.min(1), s.max(1), t.min(1), t.max(1)], 1).clip(0.0, 1.0)
    over = (spans[:, 1] > spans[:, 0]) & (spans[:, 3] > spans[:, 2])
    faces = over & (dot(n, normal[j]) < 0) & (np.ptp(off, axis=1) < _TOUCH_MM) & (off.min(1) > _TOUCH_MM) & (off.max(1) < NARROW_MM)
    narrow: dict[int, list[int]] = {}
    for one in np.flatnonzero(faces).tolist():
        narrow.setdefault(int(i[one]), []).append(one)
    s, t = s[meets], t[meets]
    out = []
    for r, (a, b) in enumerate(pairwise(at.tolist())):
        gaps = narrow.get(r, [])
        for every in (1, 2, 4, len(INWARDS) + 1):  # fewer where there are many: a face is cut right through
            more = [_inwards(spans[gaps, 2 * x : 2 * x + 2], off[gaps, 0] / sizes[r, x], every) for x in (0, 1)]
            cuts = _merged(np.concatenate([s[a:b], more[0]]), sizes[r, 0]), _merged(np.concatenate([t[a:b], more[1]]), sizes[r, 1])
            if not gaps or len(cuts[0]) * len(cuts[1]) < MOST_CUT:
                break
        out.append(cuts)
    return tuple(out)


def _inwards(spans: Floats, gap: Floats, every: int) -> Floats:
    """Where light is lost on its way into gaps: at both ends of ``spans`` (k, 2), and so many times the width of each ``gap`` (k,) inwards."""
    steps = np.array(INWARDS)[every - 1 :: every] * gap[:, None]
    steps = np.where(steps < (spans[:, 1] - spans[:, 0])[:, None] / 2, steps, 0.0)
    return np.concatenate([spans[:, :1] + steps, spans[:, 1:] - steps, spans], axis=1).ravel()


def _gaps(walls: Floats, rays: Rays) -> Floats:
    """The gaps (g, 3, 3) in the planes of walls (w, 3, 3) that end at most GAP_MM before something, on both sides and above."""
    out = []
    for corner, u, v in walls:
        for edge, along, way in ((corner + u, v, u), (corner, v, -u), (corner + v, u, v)):
            ahead = way / np.linalg.norm(way)
            starts = edge + np.array([[1 / 6], [1 / 2], [5 / 6]]) * along + ahead * _BEYOND_MM
            prim, dist = rays.hit(starts, np.broadcast_to(ahead, starts.shape))
            if (prim >= 0).all() and 1.0 < dist.max() < GAP_MM:
                out.append([edge, along, ahead * (float(dist.max()) + _BEYOND_MM)])
    return np.array(out).reshape(-1, 3, 3)


def _merged(shares: Floats, length: float) -> Floats:
    """Sorted shares with 0 and 1; neighbours closer than the touch distance become one."""
    values = np.unique(np.clip(np.concatenate([[0.0, 1.0], shares]), 0, 1))
    keep: Bools = np.concatenate([[True], np.diff(values) * length > _TOUCH_MM])
    return np.concatenate([[0.0], values[keep][1:-1], [1.0]])  # a face that is narrower than that is one piece


def _inset(solid: Solid, place: Place) -> Solid:
    """Flat-sided solids drawn in by a hair in plan: where one stands flush against the case, its own face comes first."""
    if not len(solid.rects):
        return solid
    size = np.ptp(solid.corners(), axis=0)
    shrink = np.append(1 - 2 * INSET_MM / np.maximum(size[:2], 1.0), 1.0)
    centre = np.array([place.x, place.y, 0.0])
    rects = solid.rects * shrink
    rects[:, 0] = (solid.rects[:, 0] - centre) * shrink + centre
    return Solid(rects, (solid.tris - centre) * shrink + centre, solid.groups, solid.smooth)


@dataclass(frozen=True)
class _Loose:
    """The triangles of one body: their groups, and how to find their paint (t, 3) and the normals at their corners (t, 3, 3)."""

    groups: Ints
    paint: Callable[[], Floats]
    smooth: Callable[[], Floats]


def _turned(body: Solid, place: Place) -> Floats:
    """The normals at a body's corners where it stands."""
    return placed(tilted(body.rounded, place.tilt_deg), np.zeros(3), place.turn_deg)


_built: list[tuple[Project, Scene]] = []  # the last one, with its ray engine: several results look at it after each edit


def build_scene(project: Project, leave_out: str = "") -> Scene:
    """The scene of ``project``, without the piece ``leave_out``."""
    if leave_out:
        return _build(project, leave_out)
    last = _built[0] if _built else None
    if last is None or last[0] is not project:
        last = project, _build(project)
        _built[:] = [last]
    return last[1]


def _build(project: Project, leave_out: str = "") -> Scene:
    places, own = rest_places(project), case_faces(project.case)
    rects, owners, colours = [own.rects], [np.full(len(own.rects), CASE)], [own.rect_paint]
    tris, tri_owner, loose = [own.tris], [np.full(len(own.tris), CASE)], list[_Loose]()
    if len(own.tris):
        groups = facing_groups(own.tris, np.arange(len(own.tris)) // 2)
        loose.append(_Loose(groups, lambda: own.tri_paint, lambda: creased(own.tris)))
    glass: list[tuple[int, Shape, Floats]] = []
    walls, holes = [np.zeros((0, 3, 3))], [ways_through(project.case)]
    figures = cache(lambda: figure_paints(project))
    for i, piece in enumerate(project.pieces):
        if piece.id not in places or piece.id == leave_out:
            continue
        place, body = places[piece.id], solid_of(piece)
        solid = _inset(stood(Solid(body.rects, body.tris, body.groups), place), place)
        if (face := shining_face(piece.shape)) is not None:
            glass.append((i, piece.shape, solid.rects[face]))
        if see_through(piece.shape):
            continue  # rays go through it
        rects.append(solid.rects)
        owners.append(np.full(len(solid.rects), i))
        colours.append(np.tile(np.array(piece.paint), (len(solid.rects), 1)))
        for found, planes in zip((walls, holes), kind_of(piece.shape).pierced(piece.shape), strict=True):
            if len(planes):
                found.append(_planes_at(piece, place, planes))
        if len(solid.tris):
            tris.append(solid.tris)
            tri_owner.append(np.full(len(solid.tris), i))
            paint = partial(lambda piece, groups: paints_of(piece, groups, figures()), piece, body.groups)
            loose.append(_Loose(body.groups, paint, partial(_turned, body, place)))
    return Scene(
        case=project.case,
        rects=np.concatenate(rects),
        rect_owner=np.concatenate(owners),
        rect_paint=np.concatenate(colours),
        tris=np.concatenate(tris),
        tri_owner=np.concatenate(tri_owner),
        places=places,
        loose=tuple(loose),
        panes=panes_of(project.case, glass),
        walls=np.concatenate(walls),
        holes=np.concatenate(holes),
    )


def _planes_at(piece: Piece, place: Place, planes: Floats) -> Floats:
    """Planes (k, 3, 3), corner and edges, of a piece's own axes where it stands."""
    ends = np.stack([planes[:, 0], planes[:, 0] + planes[:, 1], planes[:, 0] + planes[:, 2]], 1)
    at = on_piece(piece, place, ends)
    return np.stack([at[:, 0], at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]], 1)


def on_piece(piece: Piece, place: Place, points: Floats) -> Floats:
    """Points (k, 3) of a piece's own axes where it stands, in the case's axes."""
    lift = lift_of(solid_of(piece).corners(), place.tilt_deg) if place.tilt_deg else 0.0
    return placed(tilted(points, place.tilt_deg), np.array([place.x, place.y, (place.z or 0.0) + lift]), place.turn_deg)
