# SPDX-License-Identifier: MIT
"""From where a chosen spot can be seen at all, and the least that hides it."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Literal

import numpy as np

from fondale.core.arrays import Bools, Floats
from fondale.core.emitters import emitter_of
from fondale.core.model import LAMPS, SEATS, Project, Seat
from fondale.core.stage.cases import lipped
from fondale.core.stage.paths import in_mirrors
from fondale.core.stage.scene import Scene, build_scene
from fondale.core.views.sight import BARE_STEPS, eye_of, eyes_of, head_triangles, samples, straight
from fondale.core.words import digits

STEP_MM, MOST_STEPS, HALVINGS = 10.0, 1500, 7  # of eyes along a line, how many at most, and how often an end between two of them is halved
LIP_MARGIN_MM = 1.0
LOOK, MIRROR_LOOK = 60, 10  # points of a piece that are looked at, straight and in mirrors
SHIFT_STEP_MM, SHIFT_MOST_MM, SHIFTS_AT_ONCE = 2.0, 60.0, 24
_WAYS = np.array([[0, 0, 1], [0, 1, 0], [1, 0, 0], [-1, 0, 0], [0, 0, -1], [0, -1, 0]])  # those that are tried first come first
MOST_SHARE = 0.25  # of a case's height or width that a lip or a return may take
Kind = Literal["piece", "face", "lamp", "point"]
Span = tuple[float, float]


@dataclass(frozen=True)
class Target:
    """What is looked at: a piece, a figure's face, a lamp's bulb, or a point of the case (its ``ident`` is empty then)."""

    kind: Kind
    ident: str = ""
    at: tuple[float, float, float] = (0.0, 0.0, 0.0)


@dataclass(frozen=True)
class Sight:
    """From one seat's distance: the spans of x, at the height of its eyes, from which something of the target is seen, and the spans of height
    over the case's floor, where the seat stands; ``share`` of the seat's own places see it, those too that see it only in mirrors, which
    show it to the spans of x in ``mirrored``.
    """

    seat: str
    across: tuple[Span, ...]
    up: tuple[Span, ...]
    share: float
    mirrored: tuple[Span, ...] = ()


@dataclass(frozen=True)
class Hiding:
    """The least in mm that hides the target from every seat: a lip at the top, returns at both sides, a shift of a lamp; None where none does."""

    lip: float | None
    returns: float | None
    shift: tuple[float, float, float] | None


@dataclass(frozen=True)
class Found:
    """Where a target is (3,), from where it is seen, and what hides it (None where no seat sees it)."""

    target: Target
    at: tuple[float, float, float]
    sights: tuple[Sight, ...]
    hiding: Hiding | None


def look_at(project: Project, target: Target) -> Found | None:
    """From where a target is seen; None where it is not in the scene."""
    scene = build_scene(project)
    points = points_of(project, scene, target)
    if not len(points):
        return None
    x, y, z = points.mean(0).tolist()
    sights = tuple(_sight(project, scene, seat, points) for seat in project.seats)
    seen = any(s.share > 0 for s in sights)
    return Found(target, (x, y, z), sights, hiding(project, scene, target, points) if seen else None)


def points_of(project: Project, scene: Scene, target: Target) -> Floats:
    """Points (k, 3) of a target: of a bulb those that dazzle, of a piece or a face some spread over its surface by area."""
    if target.kind == "point":
        return np.array([target.at])
    if target.kind == "lamp":
        lamp = project.find(LAMPS, target.ident)
        return emitter_of(lamp).seen() if lamp is not None else np.zeros((0, 3))
    index = next((i for i, p in enumerate(project.pieces) if p.id == target.ident), -1)
    tris = scene.all_tris[scene.owner == index] if target.kind == "piece" else head_triangles(project, scene, index)
    if index < 0 or not len(tris):
        return np.zeros((0, 3))
    points, normals = samples(tris, LOOK, 7)
    return points + 0.05 * normals


def _reflected(scene: Scene, eyes: Floats, points: Floats) -> Bools:
    """Which of the points (k,) each eye (e, 3) sees in mirrors, (e, k); of many only some are looked for there."""
    out = np.zeros((len(eyes), len(points)), bool)
    for k in range(0, len(points), -(-len(points) // MIRROR_LOOK) or 1):
        for who, _place in in_mirrors(scene, eyes, points[k]):
            out[who, k] = True
    return out


def _seen(scene: Scene, eyes: Floats, points: Floats) -> Bools:
    """Which of the points (k,) each eye (e, 3) sees, straight or in mirrors, (e, k)."""
    return straight(scene, eyes, points) | _reflected(scene, eyes, points)


def _sight(project: Project, scene: Scene, seat: Seat, points: Floats) -> Sight:
    middle, far = eye_of(project, seat), max(2.0 * seat.distance, seat.range / 2 + abs(seat.offset) + STEP_MM)
    wide = project.case.width / 2

    def sees(way: Callable[[Scene, Floats, Floats], Bools], axis: int, at: Floats) -> Bools:
        eyes = np.tile(middle, (len(at), 1))
        eyes[:, axis] = at
        return np.asarray(way(scene, eyes, points).any(axis=1))

    own = _seen(scene, eyes_of(project, seat, BARE_STEPS), points).any(1)
    high = max(seat.distance, project.case.height)
    low = -float(project.brief.shelf_height_mm)
    return Sight(
        seat.id,
        _spans(partial(sees, straight, 0), wide - far, wide + far),
        _spans(partial(sees, straight, 2), low, high + project.case.height),
        float(own.mean()),
        _spans(partial(sees, _reflected, 0), wide - far, wide + far),
    )


def _spans(sees: Callable[[Floats], Bools], low: float, high: float) -> tuple[Span, ...]:
    """The spans between ``low`` and ``high`` in which ``sees`` holds: by steps, their ends by halving."""
    at = np.linspace(low, high, min(max(3, int((high - low) / STEP_MM) + 1), MOST_STEPS))
    found = sees(at)
    edges = np.flatnonzero(np.diff(found.astype(int)))
    a, b, inner = at[edges], at[edges + 1], found[edges + 1]
    for _k in range(HALVINGS if len(edges) else 0):
        middle = (a + b) / 2
        same = sees(middle) == inner
        a, b = np.where(same, a, middle), np.where(same, middle, b)
    ends = list(((a + b) / 2).tolist())
    if found[0]:
        ends.insert(0, float(low))
    if found[-1]:
        ends.append(float(high))
    return tuple(zip(ends[::2], ends[1::2], strict=True))


def hiding(project: Project, scene: Scene, target: Target, points: Floats) -> Hiding:
    """What hides a target from all seats: each way alone, the least of it."""
    case = project.case
    eyes = np.concatenate([eyes_of(project, s, BARE_STEPS) for s in project.seats])
    e, k = np.nonzero(straight(scene, eyes, points))
    images = [(who, place) for point in points for who, place in in_mirrors(scene, eyes, point)]
    origin = np.concatenate([eyes[e], *(eyes[who] for who, _place in images)])
    goal = np.concatenate([points[k], *(np.tile(place, (len(who), 1)) for who, place in images)])
    shift = _shift(project, scene, eyes, points) if target.kind == "lamp" else None
    if not len(origin) or not lipped(case) or points[:, 1].min() <= 0:  # before the front nothing hides it
        return Hiding(None, None, shift)
    at = origin + (goal - origin) * (-origin[:, 1] / (goal[:, 1] - origin[:, 1]))[:, None]
    lip = float(np.ceil(case.height - at[:, 2].min() + LIP_MARGIN_MM))
    returns = float(np.ceil(np.minimum(at[:, 0], case.width - at[:, 0]).max() + LIP_MARGIN_MM))
    return Hiding(
        lip if case.lip_top < lip <= case.height * MOST_SHARE else None,
        returns if case.lip_sides < returns <= case.width * MOST_SHARE else None,
        shift,
    )


def hidings(project: Project, lamps: set[str]) -> dict[str, Hiding]:
    """What hides each of these lamps that is not meant to be seen."""
    scene = build_scene(project)
    out = {}
    for lamp in project.lamps:
        if lamp.id in lamps and not lamp.meant_to_be_seen:
            out[lamp.id] = hiding(project, scene, Target("lamp", lamp.id), emitter_of(lamp).seen())
    return out


def _shift(project: Project, scene: Scene, eyes: Floats, points: Floats) -> tuple[float, float, float] | None:
    """The shortest way along one of the axes after which no eye sees any of the points; it ends inside the case."""
    case = project.case
    inside = np.array([case.width, case.depth, case.height])
    far = np.arange(SHIFT_STEP_MM, SHIFT_MOST_MM + 1e-9, SHIFT_STEP_MM)
    every = (far[:, None, None] * _WAYS).reshape(-1, 3)
    moved = points + every[:, None]
    good = np.flatnonzero(((moved >= 0) & (moved <= inside)).all((1, 2)))
    for low in range(0, len(good), SHIFTS_AT_ONCE):
        some = good[low : low + SHIFTS_AT_ONCE]
        # Where it goes there must be air, and the way to it free.
        begin = np.broadcast_to(points, (len(some), *points.shape))
        free = ~scene.rays.blocked(begin.reshape(-1, 3), moved[some].reshape(-1, 3)).reshape(len(some), len(points)).any(1)
        some = some[free]
        seen = straight(scene, eyes, moved[some].reshape(-1, 3)).any(0).reshape(len(some), len(points)).any(1)
        for one in some[~seen]:
            if not _reflected(scene, eyes, moved[one]).any():
                x, y, z = every[one].tolist()
                return x, y, z
    return None


def told(project: Project, found: Found) -> str:
    """From where it is seen, in words."""
    lines = []
    middle = project.case.width / 2
    for sight in found.sights:
        seat = project.find(SEATS, sight.seat)
        if seat is None:
            continue
        spans, mirrored = ([f"{_aside(a - middle)} to {_aside(b - middle)}" for a, b in each] for each in (sight.across, sight.mirrored))
        spans += [f"in mirrors {span}" for span in mirrored]
        if not spans:
            lines.append(f"{seat.name}: from nowhere as far away.")
            continue
        whole = "all of it" if sight.share >= 1 else "none of it" if sight.share <= 0 else f"{digits(sight.share * 100, 0)} % of it"
        lines.append(f"{seat.name}: {whole}; as far away, {' and '.join(spans)}.")
    return "\n".join(lines)


def _aside(mm: float) -> str:
    return "the middle" if abs(mm) < 0.5 else f"{digits(abs(mm), 0)} mm {'right' if mm > 0 else 'left'}"
