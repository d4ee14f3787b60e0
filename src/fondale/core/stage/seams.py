# SPDX-License-Identifier: MIT
"""Where a part meets what it is part of: the cut that lets a donor part sit on a body."""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from fondale.core.arrays import Floats, length
from fondale.core.how import How, Told, cite
from fondale.core.model import Piece, Place, Project
from fondale.core.prints.body import Body, BodyError
from fondale.core.prints.manifolds import to_manifold
from fondale.core.shapes.solid import placed, tilted
from fondale.core.stage.scene import on_piece, rest_places
from fondale.core.stage.solids import solid_of
from fondale.core.words import digits, percent

TOUCH_MM = 0.05  # what comes so near touches
CRUMB = 0.01  # of a part: less that sticks out is no part any more
SQUARE_MM = 0.2  # marks that differ by less are one
FAR_MM, NEAR_MM = 1000.0, 1.0  # how far away a part is looked for; from where on the gap between two fine bodies is that of their points
MOST_PAIRS = 10_000_000  # of triangles that are compared: more take seconds
MOST_FACES = 500_000  # of a body: two of them take some 4 s and 0.6 GB
ENDS = (("left end", "right end"), ("front", "back"), ("foot", "top"))
BESIDE = (("left", "right"), ("in front", "behind"), ("below", "above"))


@dataclass(frozen=True)
class Cut:
    """A flat saw cut through a part, in the part's own axes: a point on it, and the way (unit) to what is kept.

    ``face_mm2`` is the sawn face; ``off_mm`` is how far the true seam strays from the plane, which is what there is to file or to fill. Marks are mm
    from the ``end`` of the part that goes, along its nearest axis, at the two sides of the seam that differ most, ``across`` another axis.
    ``rim`` (k, 2, 3) are the pieces of the true seam where the part stands, in the case's axes.
    """

    middle: tuple[float, float, float]
    way: tuple[float, float, float]
    face_mm2: float
    off_mm: float
    end: str
    marks: tuple[float, float]
    across: int
    rim: Floats


@dataclass(frozen=True)
class Seam:
    """How a part sits on what it is part of: its cuts, the share of it that lies within (``within``), how deep a socket that takes it uncut would
    be, or the ``air`` between them where they do not meet. ``open_one`` names the one that is no closed body, ``too_fine`` the one of too many
    triangles: nothing can be told.
    """

    piece: str
    host: str
    cuts: tuple[Cut, ...] = ()
    within: float = 0.0
    deep_mm: float = 0.0
    air_mm: float = 0.0
    open_one: str = ""
    too_fine: str = ""


def seams(project: Project) -> tuple[Seam, ...]:
    """The seam of every placed piece that is part of another."""
    places, known = rest_places(project), {p.id: p for p in project.pieces}
    pairs = [(p, known[p.part_of]) for p in project.pieces if p.part_of in places and p.id in places]
    return tuple(seam(part, places[part.id], host, places[host.id]) for part, host in pairs)


def _body(tris: Floats) -> Body:
    """Triangles (n, 3, 3) that share corners, as those of closed bodies must."""
    corners = tris.reshape(-1, 3)
    whole = np.round(corners * 1e5).astype(np.int64)
    name = (
        whole[:, 0] * 0x9E3779B97F4A7C1 + whole[:, 1] * 0x2545F4914F6CDD1D + whole[:, 2]
    )  # one number a point: names sort faster than points
    _, first, which = np.unique(name, return_index=True, return_inverse=True)
    faces = which.reshape(-1, 3)
    flat = (faces[:, 0] == faces[:, 1]) | (faces[:, 1] == faces[:, 2]) | (faces[:, 2] == faces[:, 0])
    return Body(corners[first], faces[~flat])


def seam(part: Piece, at: Place, host: Piece, at_host: Place) -> Seam:
    """The seam between a placed part and what it is part of. Booleans are [manifold]'s."""
    own, theirs = solid_of(part), solid_of(host)
    if max(len(own.tris), len(theirs.tris)) > MOST_FACES:
        return Seam(part.id, host.id, too_fine=part.name if len(own.tris) > MOST_FACES else host.name)
    brought = _unplaced(part, at, on_piece(host, at_host, theirs.triangles().reshape(-1, 3))).reshape(-1, 3, 3)
    try:
        mine = to_manifold(_body(own.triangles()))
    except BodyError:
        return Seam(part.id, host.id, open_one=part.name)
    try:
        other = to_manifold(_body(brought)).as_original()
    except BodyError:
        return Seam(part.id, host.id, open_one=host.name)
    shared = mine ^ other
    within = shared.volume() / mine.volume()
    if within < 1e-6:
        return Seam(part.id, host.id, air_mm=_air(mine, other))
    cuts, corners, deep = [], own.corners(), 0.0
    sunk = np.asarray(shared.to_mesh64().vert_properties)[:, :3]
    for kept in (mine - other).decompose():
        if kept.volume() < CRUMB * mine.volume():
            continue
        for tris, rim in _caps(kept, other.original_id()):
            found = _cut(tris, rim, corners)
            cuts.append(replace(found, rim=on_piece(part, at, rim.reshape(-1, 3)).reshape(-1, 2, 3)))
            depth = (np.array(found.middle) - sunk) @ np.array(found.way)
            deep = max(deep, float(depth.max()))
    return Seam(part.id, host.id, tuple(cuts), float(within), deep)


def _air(one: Any, other: Any) -> float:
    """The shortest way in mm between two closed bodies. Of two very fine ones that are well apart it is that between their points, which is too long by
    a square of the points' distance over twice the gap at most.
    """
    from scipy.spatial import cKDTree

    if one.num_tri() * other.num_tri() <= MOST_PAIRS:
        return float(one.min_gap(other, FAR_MM))
    points, theirs = (np.asarray(body.to_mesh64().vert_properties)[:, :3] for body in (one, other))
    upto = float(np.min(cKDTree(points).query(theirs)[0]))
    return float(one.min_gap(other, upto)) if upto <= NEAR_MM else upto


def _unplaced(piece: Piece, place: Place, points: Floats) -> Floats:
    """Points (k, 3) of the case in the own axes of a placed piece."""
    foot = on_piece(piece, place, np.zeros((1, 3)))[0]
    return tilted(placed(points - foot, np.zeros(3), -place.turn_deg), -place.tilt_deg)


def _caps(kept: Any, host: int) -> list[tuple[Floats, Floats]]:
    """The faces (t, 3, 3) of a solid that another one's surface made, sheet by sheet, each with its rim (k, 2, 3)."""
    from scipy import sparse
    from scipy.sparse.csgraph import connected_components

    mesh = kept.to_mesh64()
    points, faces = np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts, np.int64)
    owner = np.repeat(np.asarray(mesh.run_original_id), np.diff(np.asarray(mesh.run_index)) // 3)
    mine = faces[owner == host]
    if not len(mine):
        return []
    n = len(points)
    edges = np.stack([mine, np.roll(mine, -1, axis=1)], -1).reshape(-1, 2)
    joined = sparse.coo_array((np.ones(len(edges)), (edges[:, 0], edges[:, 1])), shape=(n, n))
    _, sheet = connected_components(joined, directed=False)
    key = edges.min(1) * n + edges.max(1)
    _, back, count = np.unique(key, return_inverse=True, return_counts=True)
    rim = edges[count[back] == 1]
    return [(points[mine[sheet[mine[:, 0]] == s]], points[rim[sheet[rim[:, 0]] == s]]) for s in np.unique(sheet[mine[:, 0]])]


def _cut(tris: Floats, rim: Floats, corners: Floats) -> Cut:
    """The plane nearest to a rim (k, 2, 3): least squares, every mm of it alike. ``tris`` look into what goes."""
    vector: Floats = np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0]).sum(0) / 2
    long = length(rim[:, 1] - rim[:, 0])
    points, weight = rim.reshape(-1, 3), np.repeat(long, 2)
    middle = weight @ points / weight.sum()
    away = points - middle
    way = np.linalg.eigh((away * weight[:, None]).T @ away)[1][:, 0]
    way *= -np.sign(way @ vector) or 1.0
    axis = int(np.abs(way).argmax())
    side = int(way[axis] < 0)  # the end that goes: the low one where what is kept lies higher
    end = corners[:, axis].max() if side else corners[:, axis].min()
    others = [k for k in range(3) if k != axis]
    lean = {k: abs(way[k] / way[axis]) * float(np.ptp(points[:, k])) for k in others}
    across = max(others, key=lambda k: lean[k])
    low, high = (middle.copy() for _ in range(2))
    low[across], high[across] = points[:, across].min(), points[:, across].max()
    marks = []
    for spot in (low, high):
        on_plane = spot[axis] - (spot - middle) @ way / way[axis]
        marks.append(abs(float(on_plane - end)))
    off = float(np.abs(away @ way).max())
    face = abs(float(vector @ way))
    return Cut(tuple(middle.tolist()), tuple(way.tolist()), face, off, ENDS[axis][side], (marks[0], marks[1]), across, rim)


def _marked(cut: Cut) -> str:
    """Where to saw, in words."""
    low, high = cut.marks
    if abs(low - high) < SQUARE_MM:
        return f"{digits((low + high) / 2, 1)} mm from its {cut.end}"
    return f"{digits(low, 1)} to {digits(high, 1)} mm from its {cut.end}"


def _slanted(cut: Cut) -> str:
    """How the saw leans, and what is left to do, in words."""
    low, high = cut.marks
    first, second = BESIDE[cut.across]
    slant = f"{digits(low, 1)} mm {first}, {digits(high, 1)} mm {second}"
    return (
        f"From its {cut.end}: {'square' if abs(low - high) < SQUARE_MM else slant}. The sawn face has {digits(cut.face_mm2, 0)} mm²; the true seam"
        f" strays from it by {digits(cut.off_mm, 1)} mm at most: file or fill that."
    )


def seam_told(found: Seam, part: Piece, host: Piece) -> Told:
    """Where a part is sawn so that it sits on what it is part of."""
    title = f"Where {part.name} meets {host.name}"
    source = f"booleans by {cite('manifold')}; the plane by least squares"
    if found.open_one:
        return Told(
            "no seam", How(title, f"{found.open_one} is not a closed body, so that nobody can say what lies within it.", "", source)
        )
    if found.too_fine:
        formula = f"{found.too_fine} has more than {MOST_FACES:,} triangles, too many to look where it meets another body. Bring it in with fewer."
        return Told("no seam", How(title, formula, "", source))
    if not found.within:
        said = "it touches" if found.air_mm < TOUCH_MM else f"{digits(found.air_mm, 1)} mm of air"
        formula = f"The shortest way between {part.name} and {host.name}. Nothing is to be cut: neither lies within the other."
        return Told(said, How(title, formula, said, source))
    if not found.cuts:
        said = f"{percent(found.within)} within"
        return Told(said, How(title, f"{part.name} goes into {host.name}, and nothing of it stands out by a face to saw.", said, source))
    said = "Saw it " + ", and ".join(_marked(cut) for cut in found.cuts)
    each = "\n".join(_slanted(cut) for cut in found.cuts)
    formula = (
        f"{percent(found.within)} of {part.name} lies within {host.name}. The flat cut that is nearest to the line where their skins meet; marks are"
        f" measured along {part.name} before it is cut.\n{each}\nUncut, it needs a socket {digits(found.deep_mm, 1)} mm deep. Weights count both whole."
    )
    return Told(said, How(title, formula, said, source))
