# SPDX-License-Identifier: MIT
"""Cuts moved aside so that none leaves a sliver: a piece that can neither be held nor glued."""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from fondale.core.model.prints import Vector
from fondale.core.prints.body import Body
from fondale.core.prints.manifolds import to_manifold
from fondale.core.prints.parting import key_reach
from fondale.core.progress import Progress, Quiet
from fondale.core.words import digits

LEAST_PART_MM = 3.0  # across a cut, what can be held and glued (common practice, no source)
LEAST_SHARE = 0.25  # of an even part, where the body itself is small
MOST_TRIES = 300
FURTHER = 6  # times that far a plane goes at most
_ASIDE, _AT = 0.05, 1e-3
Planes = tuple[tuple[str, float], ...]


@dataclass(frozen=True)
class Sliver:
    """A piece that ``lacks`` so many mm of what it has to be across a plane. Of all planes that it ``touches``: which, how far it reaches from
    there, and whether it lies on the high side.
    """

    lacks: float
    touches: tuple[tuple[int, float, bool], ...]


def _least(size: list[float], planes: Planes) -> list[float]:
    """What a piece at each plane has to be thick."""
    return [min(LEAST_PART_MM, LEAST_SHARE * size["xyz".index(axis)] / (1 + sum(a == axis for a, _mm in planes))) for axis, _mm in planes]


def _slivers(solid: Any, low: list[float], planes: Planes, least: list[float]) -> list[Sliver]:
    parts = [solid]
    for axis, mm in planes:
        i = "xyz".index(axis)
        normal = tuple(float(k == i) for k in range(3))
        parts = [half for part in parts for half in part.split_by_plane(normal, low[i] + mm) if not half.is_empty()]
    out = []
    for piece in (piece for part in parts for piece in part.decompose()):
        box, touches = piece.bounding_box(), []
        for k, (axis, mm) in enumerate(planes):
            i = "xyz".index(axis)
            at, start, end = low[i] + mm, box[i], box[i + 3]
            if min(abs(start - at), abs(end - at)) < _AT:
                touches.append((k, end - start, abs(start - at) < _AT))
        lacks = max((least[k] - far for k, far, _high in touches), default=0.0)
        if lacks > _AT:
            out.append(Sliver(lacks, tuple(touches)))
    return out


@dataclass(frozen=True)
class Cleared:
    """Planes clear of slivers, and what is ``left`` where nothing near by does better: the plane, and how thick the piece is."""

    planes: Planes
    left: tuple[tuple[str, float, float], ...] = ()


def _badness(found: list[Sliver]) -> float:
    return sum(s.lacks + LEAST_PART_MM for s in found)


def clear_of_slivers(body: Body, planes: Planes, fits: Callable[[Planes], bool], progress: Progress | None = None) -> Cleared:
    """Planes (axis, mm from the lower corner), some moved aside so that no piece at one is thinner than LEAST_PART_MM across it: beyond a
    sliver, which then stays with its neighbour, or away from it, which makes it thick enough. A plane stays where nothing better
    ``fits``. Raises BodyError for a body that is not closed; Cancelled when the maker stops it.
    """
    watch, solid = progress or Quiet(), to_manifold(body)
    low, size = body.vertices.min(axis=0).tolist(), (body.vertices.max(axis=0) - body.vertices.min(axis=0)).tolist()
    least = _least(size, planes)
    found, tried = _slivers(solid, low, planes, least), 0
    while found and tried < MOST_TRIES:
        watch.step(0.3, "moving cuts off slivers")
        touched = [t for s in found for t in s.touches]
        near = [(k, step if high else -step) for k, far, high in touched for step in (far + _ASIDE, far - least[k] - _ASIDE)]
        further = [(k, way * n * least[k]) for k, _far, _high in touched for n in range(1, FURTHER) for way in (1, -1)]
        for steps in (near, further):
            tries = {new for k, step in steps if (new := _moved(planes, k, step, size)) is not None and fits(new)}
            tried += len(tries)
            options = [(_badness(after), new, after) for new in sorted(tries) for after in [_slivers(solid, low, new, least)]]
            if options and min(o[0] for o in options) < _badness(found):
                break
        else:
            break
        _bad, planes, found = min(options, key=lambda o: o[0])
    thin = [min((far - least[k], k, far) for k, far, _high in s.touches) for s in found]
    return Cleared(planes, tuple((*planes[k], far) for _lacks, k, far in thin))


def _moved(planes: Planes, k: int, step: float, size: list[float]) -> Planes | None:
    """The planes with one moved; None where it leaves the body."""
    axis, at = planes[k]
    to = round(at + step, 4)
    return (*planes[:k], (axis, to), *planes[k + 1 :]) if 0.0 < to < size["xyz".index(axis)] else None


def part_box(planes: Planes, size: Vector, keyed: bool) -> Vector:
    """The box in mm that holds any part that planes leave of a body of ``size``, its keys with it."""
    wide = [
        max(b - a for a, b in pairwise([0.0, *sorted(mm for a, mm in planes if a == axis), full]))
        for axis, full in zip("xyz", size, strict=True)
    ]
    cut = [any(a == axis for a, _mm in planes) for axis in "xyz"]
    x, y, z = (wide[i] + (key_reach(wide[i - 2], wide[i - 1]) if keyed and cut[i] else 0.0) for i in range(3))
    return x, y, z


def cleared_words(before: Planes, after: Cleared) -> str:
    """Which cuts went aside, and what thin pieces are left; "" for none of both."""
    moved = [f"{axis} {digits(to, 1)} mm" for (axis, mm), (_a, to) in zip(before, after.planes, strict=True) if to != mm]
    words = [f"Cut at {', '.join(moved)} instead: where it was, a sliver would have come off."] if moved else []
    if after.left:
        axis, mm, thin = min(after.left, key=lambda piece: piece[2])
        words.append(f"At {axis} {digits(mm, 1)} mm a piece only {digits(thin, 1)} mm thick comes off. Cut elsewhere, or in more parts.")
    return " ".join(words)
