# SPDX-License-Identifier: MIT
"""What an eye's rays through the front of a case meet, pixel by pixel, with more of them where edges run."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Ints, dot, length, rows, scaled
from fondale.core.model import Case, Seat
from fondale.core.rays import Prims
from fondale.core.side_by_side import in_parts
from fondale.core.stage.cases import extent, fronted
from fondale.core.stage.moved import Moved
from fondale.core.stage.paths import follow
from fondale.core.stage.scene import CASE, Scene

_MARGIN = 0.04
_BEYOND = 1e5  # mm: where rays end that meet nothing
_NEAREST = 0.2  # of the eye's distance; what is nearer to its plane would fill any picture
# Where a pixel's ray and its neighbour's meet different things, these are cast too: shares of a pixel beside its middle, no two in one row
# or column.
BESIDE = ((-0.125, -0.375), (0.375, -0.125), (0.125, 0.375), (-0.375, 0.125))

Seen = tuple[
    Prims, NDArray[Any], NDArray[Any], NDArray[Any]
]  # what rays meet: triangle (-1: nothing), point, smooth normal; and their ways
Window = tuple[float, float, float, float]  # a part of the plane of the case's front: x0, x1, z0, z1 in mm


@dataclass(frozen=True)
class Frame:
    """What the rays of a picture of ``width`` times ``height`` pixels from an ``eye`` through a ``window`` meet: triangle (-1: nothing), point, smooth normal, and their ways.

    The first rays lead through the middles of the pixels, row by row; others follow where an edge runs through a pixel; after these
    ``straight`` ones come those that a pane or a mirror throws back. ``pixel`` is whose each is, ``share`` how much of it.
    """

    eye: Floats
    window: Window
    width: int
    height: int
    prim: Prims
    point: NDArray[Any]
    normal: NDArray[Any]
    way: NDArray[Any]
    pixel: Ints
    share: Floats
    straight: int

    @property
    def middle(self) -> Ints:
        """What is met in the middle of each pixel, (height, width)."""
        out: Ints = self.prim[: self.width * self.height].reshape(self.height, self.width).astype(np.int64)
        return out

    def pixels(self, values: Floats | NDArray[np.float32], rays: Ints) -> Floats:
        """The means (height, width, c) of the ``values`` (k, c) of ``rays`` (k,), in their order, in every pixel; nothing counts as 0."""
        count, channels = self.width * self.height, values.shape[1]
        first = int(np.searchsorted(rays, count))  # one in the middle of each pixel; only beside edges there are more
        out = np.zeros((count, channels))
        out[rays[:first]] = values[:first] * self.share[rays[:first], None]
        edges, whose = self._edges
        where = whose[rays[first:] - count]
        for c in range(channels):
            out[edges, c] += np.bincount(where, values[first:, c] * self.share[rays[first:]], len(edges))
        return out.reshape(self.height, self.width, channels)

    @cached_property
    def _edges(self) -> tuple[Ints, Ints]:
        """The pixels with more than one ray, and which of these each further ray is of."""
        edges, whose = np.unique(self.pixel[self.width * self.height :], return_inverse=True)
        return edges, whose


def front_window(case: Case) -> Window:
    """The front of a case, with a margin."""
    (x0, _y0, z0), (x1, _y1, z1) = (corner.tolist() for corner in extent(case))
    mx, mz = (x1 - x0) * _MARGIN, (z1 - z0) * _MARGIN
    return x0 - mx, x1 + mx, z0 - mz, z1 + mz


def window(scene: Scene, eye: Floats) -> Window:
    """What a picture from an eye shows: the front of a case with walls; where there are none, all that stands there, as far as it is before
    the eye, and no more than three times the case: three times its longest side in height, for one looks down on a flat board.
    """
    case = scene.case
    x0, x1, z0, z1 = front_window(case)
    if fronted(case):
        return x0, x1, z0, z1
    points = scene.all_tris.reshape(-1, 3)
    points = points[points[:, 1] - eye[1] > _NEAREST * abs(eye[1])]
    seen = eye + (points - eye) * (-eye[1] / (points[:, 1] - eye[1]))[:, None]
    mx, mz = (x1 - x0) * _MARGIN, (z1 - z0) * _MARGIN
    most = (
        case.width / 2 + np.array([-1.5, 1.5]) * case.width,
        case.height / 2 + np.array([-1.5, 1.5]) * max(case.height, case.width, case.depth),
    )
    across = np.clip([seen[:, 0].min() - mx, seen[:, 0].max() + mx], *most[0]) if len(seen) else (x0, x1)
    high = np.clip([seen[:, 2].min() - mz, seen[:, 2].max() + mz], *most[1]) if len(seen) else (z0, z1)
    return float(across[0]), float(across[1]), float(high[0]), float(high[1])


def seat_window(scene: Scene, eye: Floats, seat: Seat) -> Window:
    """What a picture from a seat shows: all of it for an eye; for a camera, what its lens throws on its sensor, three wide and two high,
    about the middle of the case. The sensor stays upright, so that uprights stay parallel.
    """
    if not seat.lens_mm:
        return window(scene, eye)
    (x0, _y0, z0), (x1, _y1, z1) = (corner.tolist() for corner in extent(scene.case))
    wide = seat.sensor_mm / seat.lens_mm * -float(eye[1]) / 2
    x, z = (x0 + x1) / 2, (z0 + z1) / 2
    return x - wide, x + wide, z - wide * 2 / 3, z + wide * 2 / 3


def height_of(width: int, shown: Window) -> int:
    """How many pixels a picture is high that is so wide and shows so much."""
    x0, x1, z0, z1 = shown
    return max(1, round(width * (z1 - z0) / (x1 - x0)))


def look(scene: Scene, eye: Floats, width: int, shown: Window | None = None, rows: tuple[int, int] | None = None) -> Frame:
    """Cast a ray a pixel from ``eye`` through the front plane, and more where edges run; the height follows from what is ``shown``. Of a picture
    that is too large for one, only ``rows`` from and to.
    """
    x0, x1, z0, z1 = shown or window(scene, eye)
    height = height_of(width, (x0, x1, z0, z1))
    if rows is not None:
        each = (z1 - z0) / height
        z0, z1, height = z1 - rows[1] * each, z1 - rows[0] * each, rows[1] - rows[0]
    view = _View(eye, (x0, x1, z0, z1), width, height)
    first = view.cast(scene, np.arange(width * height))
    edge = view.edges(scene, first)
    return view.framed(scene, edge, [first, *(view.cast(scene, edge, *beside) for beside in BESIDE)])


def look_again(before: Frame, scene: Scene, moved: Moved) -> tuple[Frame, Ints]:
    """The frame of a scene in which bodies have moved since the one before: rays are cast where these show, and showed; and of each ray its number before,
    if it is the same (-1: it is not).
    """
    view, count = _View(before.eye, before.window, before.width, before.height), before.width * before.height
    near = view.shows(moved.boxes)
    some, told = np.flatnonzero(near), (before.prim, before.point, before.normal, before.way)
    first = _put_in((x[:count] for x in told), some, view.cast(scene, some))
    edge, were = view.edges(scene, first), (before.straight - count) // len(BESIDE)
    was = before.pixel[count : count + were]
    at = np.minimum(np.searchsorted(was, edge), max(were - 1, 0))
    kept = ~near[edge] & (was[at] == edge) if were else np.zeros(len(edge), bool)
    new, found, same = np.flatnonzero(~kept), [first], [np.where(near, -1, np.arange(count))]
    for k, beside in enumerate(BESIDE):
        mine = np.where(kept, count + k * were + at, 0)
        found.append(_put_in((x[mine] for x in told), new, view.cast(scene, edge[new], *beside)))
        same.append(np.where(kept, mine, -1))
    frame = view.framed(scene, edge, found)
    return frame, np.concatenate([*same, np.full(len(frame.prim) - frame.straight, -1)])


def _put_in(old: Iterable[NDArray[Any]], where: Ints, new: Seen) -> Seen:
    """What rays meet, with the ``new`` of some."""
    out: Any = tuple(np.array(x) for x in old)
    for whole, some in zip(out, new, strict=True):
        whole[where] = some
    return out  # type: ignore[no-any-return]


@dataclass(frozen=True)
class _View:
    """From where one looks, through which window of the front plane, in how many pixels."""

    eye: Floats
    window: Window
    width: int
    height: int

    def cast(self, scene: Scene, pixel: Ints, across: float = 0.0, down: float = 0.0) -> Seen:
        """What rays through these pixels (k,) meet, so far beside their middles."""
        x0, x1, z0, z1 = self.window

        def part(lo: int, hi: int) -> Seen:
            row, column = np.divmod(pixel[lo:hi], self.width)
            front = np.zeros((len(row), 3), np.float32)
            front[:, 0] = x0 + (column + 0.5 + across) * (x1 - x0) / self.width
            front[:, 2] = z1 - (row + 0.5 + down) * (z1 - z0) / self.height
            return _met(scene, self.eye, front)

        prim, point, normal, way = (np.concatenate(each) for each in zip(*in_parts(part, len(pixel)), strict=True))
        return prim, point, normal, way

    def edges(self, scene: Scene, first: Seen) -> Ints:
        """The pixels where edges run, by what is met in the middles of all."""
        return np.flatnonzero(_edges(scene, first[0].reshape(self.height, self.width), first[2].reshape(self.height, self.width, 3)))

    def framed(self, scene: Scene, edge: Ints, found: list[Seen]) -> Frame:
        """The frame of what is met in the middles of all pixels, and beside those of these."""
        pixel = np.concatenate([np.arange(self.width * self.height), np.tile(edge, len(BESIDE))])
        prim, point, normal, way = (np.concatenate(each) for each in zip(*found, strict=True))
        share, straight = 1.0 / np.bincount(pixel)[pixel], len(pixel)
        thrown = _thrown(scene, self.eye, prim, point, way)
        if thrown is not None:
            through, ray, more, throws = thrown
            prim, point = np.concatenate([prim, more[0]]), np.concatenate([point, more[1]])
            normal, way = np.concatenate([normal, more[2]]), np.concatenate([way, more[3]])
            pixel, share = np.concatenate([pixel, pixel[ray]]), np.concatenate([share * through, share[ray] * throws])
        return Frame(self.eye, self.window, self.width, self.height, prim, point, normal, way, pixel, share, straight)

    def shows(self, boxes: Floats) -> Bools:
        """The pixels (k,) through which one may see any of these boxes (b, 2, 3)."""
        out, (x0, x1, z0, z1) = np.zeros((self.height, self.width), bool), self.window
        for low, high in boxes:
            corners = np.stack(np.meshgrid(*np.stack([low, high], 1), indexing="ij"), -1).reshape(-1, 3) - self.eye
            if corners[:, 1].min() <= 0:
                return np.ones(out.size, bool)  # beside the eye
            at = self.eye - corners * (self.eye[1] / corners[:, 1])[:, None]
            column, row = (at[:, 0] - x0) / (x1 - x0) * self.width, (z1 - at[:, 2]) / (z1 - z0) * self.height
            (left, right), (top, bottom) = ((max(int(x.min()) - 1, 0), max(int(x.max()) + 2, 0)) for x in (column, row))
            out[top:bottom, left:right] = True
        return out.ravel()


def _thrown(
    scene: Scene, eye: Floats, prim: Prims, point: Floats, way: Floats
) -> tuple[Floats, Ints, tuple[Prims, Floats, Floats, Floats], Floats] | None:
    """What panes and mirrors in the case do to rays from an eye: what they let through (n,) of what is met straight on; and of what is met by way
    of them the ray; triangle, point, smooth normal and way; and share. The case's own panes lie between all pictures and the eye, and are left out.
    """
    panes = scene.panes.of_pieces()
    if not len(panes):
        return None
    start = np.broadcast_to(eye, point.shape)
    through = panes.through(start, np.where((prim >= 0)[:, None], point, eye + way * _BEYOND))
    on = np.flatnonzero(through < 1.0)
    met = follow(scene, start[on], way[on], panes)
    back = np.flatnonzero(~met.first)
    normal, at = scene.shaded(met.prim[back], met.where[back])
    return through, on[met.ray[back]], (met.prim[back], at, normal, met.way[back]), met.share[back]


def _met(scene: Scene, eye: Floats, front: NDArray[np.float32]) -> Seen:
    """What rays from ``eye`` through points (k, 3) of the front plane meet: triangles, points, smooth normals; and their ways."""
    start = eye.astype(front.dtype)
    ways: NDArray[Any] = front - start
    ways = scaled(ways, 1 / length(ways))
    prim, dist = scene.rays.hit(np.broadcast_to(start, ways.shape), ways)
    # A wall of the case is a face that looks inwards: whoever meets it from behind sees the outside of the case, which is dark.
    met = np.maximum(prim, 0)
    away = dot(rows(scene.normal32, met), ways) > 0
    prim = np.where((scene.owner[met] == CASE) & away, -1, prim).astype(np.int32)
    point = scaled(ways, np.where(prim >= 0, dist, 0.0).astype(front.dtype))
    point += start
    normal, point = scene.shaded(met, point)
    normal[away] *= -1
    return prim, point, normal, ways


def _edges(scene: Scene, prim: Prims, normal: NDArray[Any]) -> Bools:
    """The pixels (height, width) whose neighbour shows another piece, another colour, or a surface that is turned by 25 degrees and more."""
    kind = np.where(prim >= 0, scene.look_alike[np.maximum(prim, 0)], -2.0)
    out = np.zeros(prim.shape, bool)
    for one, other in (
        ((slice(None), slice(1, None)), (slice(None), slice(-1))),
        ((slice(1, None), slice(None)), (slice(-1), slice(None))),
    ):
        apart = (kind[one] != kind[other]) | (dot(normal[one], normal[other]) < 0.9)
        out[one] |= apart
        out[other] |= apart
    return out
