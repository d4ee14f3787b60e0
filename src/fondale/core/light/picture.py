"""The eye's picture: the scene through the front of the case from a seat, exposed as an eye would."""

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Bools, Floats, Ints, dot, length, rows, scaled
from fondale.core.emitters import Emitter
from fondale.core.light.blending import blending
from fondale.core.light.solver import Lit, solve
from fondale.core.light.strength import lux
from fondale.core.model import Case, Seat
from fondale.core.rays import Prims
from fondale.core.side_by_side import in_parts
from fondale.core.stage.cases import extent, fronted
from fondale.core.stage.paths import follow
from fondale.core.stage.scene import CASE, Scene

if TYPE_CHECKING:
    from scipy import sparse

KEY = 0.18  # middle grey [reinhard2002]
_MARGIN = 0.04
_BEYOND = 1e5  # mm: where rays end that meet nothing
_NEAREST = 0.2  # of the eye's distance; what is nearer to its plane would fill any picture
# Where a pixel's ray and its neighbour's meet different things, these are cast too: shares of a pixel beside its middle, no two in one row
# or column.
_BESIDE = ((-0.125, -0.375), (0.375, -0.125), (0.125, 0.375), (-0.375, 0.125))
TOGETHER = 8  # layers that are added in one product
MOST_LAYERS = 48  # of direct light are kept at least, and those of all lamps in use


Window = tuple[float, float, float, float]  # a part of the plane of the case's front: x0, x1, z0, z1 in mm


@dataclass(frozen=True)
class Frame:
    """What the rays of a picture of ``width`` times ``height`` pixels through a ``window`` meet: triangle (-1: nothing), point, smooth normal, and their ways.

    The first rays lead through the middles of the pixels, row by row; others follow where an edge runs through a pixel; after these
    ``straight`` ones come those that a pane or a mirror throws back. ``pixel`` is whose each is, ``share`` how much of it.
    """

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
    the eye, and no more than three times the case.
    """
    case = scene.case
    x0, x1, z0, z1 = front_window(case)
    if fronted(case):
        return x0, x1, z0, z1
    points = scene.all_tris.reshape(-1, 3)
    points = points[points[:, 1] - eye[1] > _NEAREST * abs(eye[1])]
    seen = eye + (points - eye) * (-eye[1] / (points[:, 1] - eye[1]))[:, None]
    mx, mz = (x1 - x0) * _MARGIN, (z1 - z0) * _MARGIN
    most = (case.width / 2 + np.array([-1.5, 1.5]) * case.width, case.height / 2 + np.array([-1.5, 1.5]) * case.height)
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

    def cast(pixel: Ints, across: float, down: float) -> tuple[Prims, NDArray[Any], NDArray[Any], NDArray[Any]]:
        def part(lo: int, hi: int) -> tuple[Prims, NDArray[Any], NDArray[Any], NDArray[Any]]:
            row, column = np.divmod(pixel[lo:hi], width)
            front = np.zeros((len(row), 3), np.float32)
            front[:, 0], front[:, 2] = x0 + (column + 0.5 + across) * (x1 - x0) / width, z1 - (row + 0.5 + down) * (z1 - z0) / height
            return _met(scene, eye, front)

        prim, point, normal, way = (np.concatenate(each) for each in zip(*in_parts(part, len(pixel)), strict=True))
        return prim, point, normal, way

    every = np.arange(width * height)
    first = cast(every, 0.0, 0.0)
    edge = np.flatnonzero(_edges(scene, first[0].reshape(height, width), first[2].reshape(height, width, 3)))
    found = [first, *(cast(edge, across, down) for across, down in _BESIDE)]
    pixel = np.concatenate([every, np.tile(edge, len(_BESIDE))])
    prim, point, normal, way = (np.concatenate(each) for each in zip(*found, strict=True))
    share, straight = 1.0 / np.bincount(pixel)[pixel], len(pixel)
    thrown = _thrown(scene, eye, prim, point, way)
    if thrown is not None:
        through, ray, more, throws = thrown
        prim, point = np.concatenate([prim, more[0]]), np.concatenate([point, more[1]])
        normal, way = np.concatenate([normal, more[2]]), np.concatenate([way, more[3]])
        pixel, share = np.concatenate([pixel, pixel[ray]]), np.concatenate([share * through, share[ray] * throws])
    return Frame((x0, x1, z0, z1), width, height, prim, point, normal, way, pixel, share, straight)


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


def _met(scene: Scene, eye: Floats, front: NDArray[np.float32]) -> tuple[Prims, NDArray[Any], NDArray[Any], NDArray[Any]]:
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


class Picture:
    """A frame of a solved scene. The exact direct light of every lamp of 1 cd is kept as one number a ray; what has bounced is summed over
    all lamps on the patches first, so that its cost does not grow with them. ``direct`` is that light by lamp, as far as it is known already of
    the same frame.
    """

    def __init__(self, lit: Lit, frame: Frame, direct: dict[Emitter, NDArray[np.float32]] | None = None) -> None:
        self.frame = frame
        self.direct = direct if direct is not None else {}
        self._lit = lit
        self._seen = np.flatnonzero(frame.prim >= 0)
        self._sum = np.zeros((len(self._seen), 3), np.float32)  # of the direct light, for these strengths:
        self._for: dict[Emitter, tuple[float, ...]] = {}
        self._blend: sparse.csr_array | None = None
        self._reflect = np.zeros((0, 3), np.float32)

    def luminance(self, emitters: list[Emitter], strength: Floats) -> Floats:
        """Luminance (height, width, 3) in cd/m2 for lamps of ``strength`` (lamps, 3) in cd a band; dark lamps cost nothing."""
        wanted: dict[Emitter, Floats] = {}
        for emitter, bands in zip(emitters, strength, strict=True):
            if bands.any():
                wanted[emitter] = wanted.get(emitter, np.zeros(3)) + bands
        solve(self._lit, list(wanted))
        self._add_up(wanted)
        total = self._sum
        if wanted and len(self._seen):
            # What is told from both sides of a place may fall below nothing at it.
            total = self._reflecting() * np.maximum(total + self._bounced(wanted), 0.0)
        return self.frame.pixels(total, self._seen)

    def _blending(self) -> "sparse.csr_array":
        if self._blend is None:
            seen = self._seen
            self._blend = blending(
                self._lit.patches, self._lit.covered, self.frame.prim[seen], self.frame.point[seen], self.frame.normal[seen]
            )
        return self._blend

    def _reflecting(self) -> NDArray[np.float32]:
        if not len(self._reflect):
            self._reflect = (self._lit.scene.paint[self.frame.prim[self._seen]] / np.pi).astype(np.float32)
        return self._reflect

    def _bounced(self, wanted: dict[Emitter, Floats]) -> Any:
        """Bounced light (seen, 3) of lamps of these strengths."""
        return self._blending() @ self._lit.bounced(wanted)

    def _add_up(self, wanted: dict[Emitter, Floats]) -> None:
        """Bring the sum of direct light to these strengths: only what changed is added, or all of it anew where that is less."""
        news = {e: tuple(bands.tolist()) for e, bands in wanted.items()}
        changed = [e for e in {**self._for, **news} if self._for.get(e) != news.get(e)]
        if len(changed) >= len(news):
            self._sum[:] = 0.0
            self._for, changed = {}, list(news)
        for part in range(0, len(changed), TOGETHER):
            some = changed[part : part + TOGETHER]
            step = np.array([np.array(news.get(e, (0.0,) * 3)) - np.array(self._for.get(e, (0.0,) * 3)) for e in some], np.float32)
            self._sum += (step.T @ np.stack([self._direct_of(e) for e in some])).T
        self._for = news
        for emitter in [e for e in self.direct if e not in news][: max(0, len(self.direct) - MOST_LAYERS)]:
            del self.direct[emitter]

    @cached_property
    def _where(self) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """Points and normals (seen, 3), as precise as the rays are."""
        points, normals = (rows(x, self._seen).astype(np.float32, copy=False) for x in (self.frame.point, self.frame.normal))
        return points, normals

    def _direct_of(self, emitter: Emitter) -> NDArray[np.float32]:
        if emitter not in self.direct:
            points, normals = self._where
            self.direct[emitter] = emitter.direct(self._lit.scene, points, normals).astype(np.float32)
        return self.direct[emitter]


def exposure_of(image: Floats) -> float:
    """Key over the log-average luminance ([reinhard2002], equation 1); 0 for a black picture."""
    y = lux(image).ravel()
    lit = y[y > 1e-6]
    if not len(lit):
        return 0.0
    return KEY / float(np.exp(np.log(lit).mean()))


def develop(image: Floats, exposure: float, white: float = 6.0) -> np.ndarray[tuple[int, ...], np.dtype[np.uint8]]:
    """Display sRGB (height, width, 3) in 8 bits: [reinhard2002], equation 4, on luminance, then [iec61966]."""
    y = lux(image)
    scaled = y * exposure
    times = np.where(y > 1e-12, scaled * (1 + scaled / white**2) / (1 + scaled) / np.maximum(y, 1e-12), 0.0)
    rgb = np.minimum(image * times[..., None], 1).astype(np.float32)  # fine enough for 8 bits
    np.maximum(rgb, 0, out=rgb)
    coded = 1.055 * rgb ** np.float32(1 / 2.4) - np.float32(0.055)
    dark = rgb <= 0.0031308
    coded[dark] = 12.92 * rgb[dark]
    return (coded * 255 + np.float32(0.5)).astype(np.uint8)


_LINE = 0.65  # how dark
_SUN = np.array([-0.42, -0.50, 0.76])


def work_light(scene: Scene, frame: Frame) -> Floats:
    """The scene under plain work light (height, width, 3), for laying out: from above left, no shadows.

    Where the piece or the direction of the surface changes from pixel to pixel, a thin dark line is drawn.
    """
    seen = np.flatnonzero(frame.prim >= 0)
    normal = frame.normal[seen]
    facing = np.abs(dot(normal, frame.way[seen]))
    shade = 0.18 + 0.70 * np.maximum(0.0, normal @ _SUN) + 0.12 * facing
    image = frame.pixels(scene.paint[frame.prim[seen]] * shade[:, None], seen)
    # A line is as dark as many of the rays beside the middle meet something else.
    owner = np.where(frame.prim >= 0, scene.owner[np.maximum(frame.prim, 0)], -9)
    beside = np.arange(frame.width * frame.height, frame.straight)
    middle = frame.pixel[beside]
    other = (owner[beside] != owner[middle]) | (dot(frame.normal[beside], frame.normal[middle]) < 0.5)
    share = np.bincount(middle, other, frame.width * frame.height).reshape(frame.height, frame.width, 1) / len(_BESIDE)
    out: Floats = image * (1 - _LINE * np.minimum(2 * share, 1.0))
    return out
