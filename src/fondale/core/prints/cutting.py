# SPDX-License-Identifier: MIT
"""Cutting a body into parts with keys: booleans by [manifold], every part closed, volumes kept but for the keys' clearance."""

import math
from dataclasses import dataclass
from functools import lru_cache
from itertools import product
from typing import Any

import numpy as np
from shapely.geometry import Point, Polygon, box
from shapely.ops import polylabel, unary_union

from fondale.core.arrays import Floats
from fondale.core.model.prints import Axis, Vector
from fondale.core.prints.body import Body, BodyError
from fondale.core.prints.jobs import fits_build, lying
from fondale.core.prints.manifolds import from_manifold, to_manifold
from fondale.core.prints.parting import LEAST_KEY_MM, MOST_KEY_MM, key_length, key_reach
from fondale.core.progress import Progress, Quiet

SIDES = 24
_AXIS = {"x": 0, "y": 1, "z": 2}


@dataclass(frozen=True)
class KeyRule:
    """What the process asks: ``wall`` mm that a key stays away from the skin (twice it), and ``air`` mm a side round it."""

    wall: float
    air: float


@dataclass(frozen=True)
class Key:
    """A round key on a cut: its middle and direction (the axis it points along), radius and length in mm."""

    place: Vector
    axis: str
    radius: float
    length: float


@dataclass(frozen=True)
class Parts:
    """``bodies`` in the place where they were in the whole; ``lost`` is the volume in mm3 of the keys' clearances."""

    bodies: tuple[Body, ...]
    volumes: tuple[float, ...]
    keys: tuple[Key, ...]
    whole: float
    lost: float

    @property
    def error(self) -> float:
        """How far the parts and the clearances miss the whole, as a share."""
        return abs(sum(self.volumes) + self.lost - self.whole) / self.whole


def _section(solid: Any, axis: str, at: float) -> list[Polygon]:
    """The cut faces at ``at`` along ``axis`` as polygons with holes, in the two other axes (in cyclic order)."""
    turned = solid.transform(_to_z(axis))
    rings = [np.asarray(r) for r in turned.slice(at).to_polygons()]
    outer = [Polygon(r) for r in rings if len(r) >= 3 and _area(r) > 0]
    holes = [Polygon(r) for r in rings if len(r) >= 3 and _area(r) < 0]
    shape = unary_union([p.buffer(0) for p in outer]).difference(unary_union([p.buffer(0) for p in holes]))
    parts = list(shape.geoms) if hasattr(shape, "geoms") else [shape]
    return [p for p in parts if isinstance(p, Polygon) and p.area > 1e-6]


def _area(ring: Floats) -> float:
    x, y = ring[:, 0], ring[:, 1]
    return float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum() / 2)


def _to_z(axis: str) -> Floats:
    """A 3 x 4 turn that brings ``axis`` to z and keeps handedness."""
    i = _AXIS[axis]
    m = np.zeros((3, 4))
    m[2, i] = m[0, (i + 1) % 3] = m[1, (i + 2) % 3] = 1.0
    return m


def key_places(section: Polygon, rule: KeyRule) -> list[tuple[float, float, float]]:
    """x, y and radius of one key in a section, or two where it is long: at least two walls from the skin.

    The first stands in the middle of the largest free circle, the second as far from it as the free ground allows.
    """
    free = section.buffer(-2 * rule.wall - LEAST_KEY_MM)
    grounds = [g for g in getattr(free, "geoms", [free]) if not g.is_empty]
    if not grounds:
        return []
    ground = max(grounds, key=lambda g: g.area)
    tolerance = max(0.05, math.sqrt(ground.area) / 60)
    spot = polylabel(ground, tolerance) if ground.area > 0.02 else ground.representative_point()
    skin = section.boundary

    def radius(p: Point) -> float:
        return float(min(MOST_KEY_MM, max(LEAST_KEY_MM, (skin.distance(p) - 2 * rule.wall) * 0.6)))

    first = (spot.x, spot.y, radius(spot))
    corners = np.asarray(ground.exterior.coords)
    far = corners[np.argmax(np.linalg.norm(corners - [spot.x, spot.y], axis=1))]
    # A little inwards from the rim of the free ground, where the second key may be wider.
    away = Point(*(far + 0.25 * (np.array([spot.x, spot.y]) - far)))
    if not ground.covers(away):
        away = Point(*far)
    second = (away.x, away.y, radius(away))
    if math.hypot(second[0] - first[0], second[1] - first[1]) < 3 * (first[2] + second[2]):
        return [first]
    return [first, second]


def _peg(key: Key, grow: float, deeper: float) -> Any:
    """A cone frustum of the key, grown on all sides, pointing along its axis from a millimetre inside the other part."""
    import manifold3d

    root = min(1.0, key.length * 0.5)
    solid = manifold3d.Manifold.cylinder(key.length + root + deeper, key.radius + grow, key.radius * 0.85 + grow, SIDES).translate(
        (0, 0, -root)
    )
    back = np.zeros((3, 4))
    back[:, :3] = _to_z(key.axis)[:, :3].T
    return solid.transform(back).translate(key.place)


def _between(sections: list[Polygon], axis: str, planes: tuple[tuple[str, float], ...]) -> list[Polygon]:
    """The sections parted along the other cuts, so that no key stands where another cut goes through."""
    i = _AXIS[axis]
    out = sections
    for other, at in planes:
        k = (_AXIS[other] - i - 1) % 3
        if k == 2:
            continue
        strip = box(at - 0.01, -1e5, at + 0.01, 1e5) if k == 0 else box(-1e5, at - 0.01, 1e5, at + 0.01)
        parted = [p.difference(strip) for p in out]
        out = [g for p in parted for g in getattr(p, "geoms", [p]) if isinstance(g, Polygon) and g.area > 1e-6]
    return out


def _keyed(
    low: Any, high: Any, axis: str, at: float, rule: KeyRule, planes: tuple[tuple[str, float], ...], whole: Any
) -> tuple[Any, Any, list[Key], float]:
    """Pegs on the lower part, holes in the upper one. A key that would come through the skin is left out.

    What is lost is the volume of each hole less that of its peg, of the keys alone.
    """
    i = _AXIS[axis]
    keys: list[Key] = []
    lost = 0.0
    for section in _between(_section(whole, axis, at), axis, planes):
        for u, v, r in key_places(section, rule):
            place = [0.0, 0.0, 0.0]
            place[i], place[(i + 1) % 3], place[(i + 2) % 3] = at, u, v
            key = Key((place[0], place[1], place[2]), axis, r, key_length(r))
            peg = _peg(key, 0.0, 0.0)
            hole = _peg(key, rule.air, rule.air)
            outside = hole.trim_by_plane(tuple(float(k == i) for k in range(3)), at)
            guard = _peg(key, rule.air + rule.wall * 0.8, rule.air + rule.wall * 0.8).trim_by_plane(
                tuple(float(k == i) for k in range(3)), at
            )
            if (guard - high).volume() > 1e-6 * guard.volume() + 1e-9:
                continue
            root = peg.trim_by_plane(tuple(-float(k == i) for k in range(3)), -at)
            if (root - low).volume() > 1e-6 * root.volume() + 1e-9:
                continue
            low, high = low + (peg - root), high - outside
            lost += float(outside.volume() - (peg.volume() - root.volume()))
            keys.append(key)
    return low, high, keys, lost


def cut(body: Body, cuts: tuple[tuple[str, float], ...], rule: KeyRule | None, progress: Progress | None = None) -> Parts:
    """Cut at (axis, mm from the lower corner), each cut going through all parts. ``rule`` None leaves the keys out.

    Raises BodyError for a body that is not closed, or a cut that meets nothing; Cancelled when the maker stops it.
    """
    watch = progress or Quiet()
    solid = to_manifold(body)
    low_corner = np.asarray(body.vertices.min(axis=0), float)
    whole = float(solid.volume())
    planes = tuple((axis, float(low_corner[_AXIS[axis]]) + mm) for axis, mm in cuts)
    parts: list[Any] = [solid]
    keys: list[Key] = []
    lost = 0.0
    for k, (axis, mm) in enumerate(cuts):
        watch.step((k + 0.2) / (len(cuts) + 1), f"cutting {axis} at {mm:.0f} mm")
        i = _AXIS[axis]
        at = float(low_corner[i]) + mm
        normal = tuple(float(j == i) for j in range(3))
        after: list[Any] = []
        met = False
        for part in parts:
            high, low = part.split_by_plane(normal, at)
            if high.is_empty() or low.is_empty():
                after.append(part)
                continue
            met = True
            if rule is not None:
                low, high, made, gone = _keyed(low, high, axis, at, rule, planes, part)
                keys += made
                lost += gone
            after += [low, high]
        if not met:
            raise BodyError(f"The cut along {axis} at {mm:.1f} mm meets nothing. Move it into the body.")
        parts = after
    watch.step(0.95, "writing the parts")
    bodies = tuple(from_manifold(p) for p in parts)
    return Parts(bodies, tuple(float(p.volume()) for p in parts), tuple(keys), whole, lost)


@lru_cache(maxsize=256)
def plan_cuts(
    size: Vector, build: Vector, up: str = "z", tilt_deg: float = 0.0, keyed: bool = True, most: int = 6
) -> tuple[tuple[Axis, float], ...]:
    """The fewest cuts square to the axes, as (axis, share), so that each part, its keys with it, fits the build room lying as meant.

    Raises BodyError when even ``most`` cuts an axis do not do.
    """
    best: tuple[int, tuple[int, int, int]] | None = None
    for nx, ny, nz in product(range(most + 1), repeat=3):
        counts = (nx, ny, nz)
        bare = [s / (c + 1) for s, c in zip(size, counts, strict=True)]
        keys = [key_reach(bare[i - 2], bare[i - 1]) if keyed and counts[i] else 0.0 for i in range(3)]
        part = (bare[0] + keys[0], bare[1] + keys[1], bare[2] + keys[2])
        if fits_build(lying(part, up, tilt_deg), build):
            # The fewest parts, then the fewest cuts, then those across the longest side.
            rank = math.prod(c + 1 for c in counts)
            if best is None or (rank, sum(counts)) < (best[0], sum(best[1])):
                best = (rank, counts)
    if best is None:
        raise BodyError("It is too large for this machine even in many parts. Choose a larger machine, or a smaller percentage.")
    axes: tuple[Axis, ...] = ("x", "y", "z")
    return tuple((axis, k / (n + 1)) for axis, n in zip(axes, best[1], strict=True) for k in range(1, n + 1))


def quiet_places(body: Body, axis: str, share: float, reach: float = 0.08, steps: int = 9) -> float:
    """The share near ``share`` where the section is smallest: there the seam is shortest and the fewest details are cut."""
    solid = to_manifold(body)
    i = _AXIS[axis]
    low, high = float(body.vertices[:, i].min()), float(body.vertices[:, i].max())
    turned = solid.transform(_to_z(axis))
    tries = [s for s in np.linspace(share - reach, share + reach, steps) if 0.02 < s < 0.98]
    areas = [turned.slice(low + s * (high - low)).area() for s in tries]
    return float(min(zip(areas, np.abs(np.array(tries) - share), tries, strict=True))[2])
