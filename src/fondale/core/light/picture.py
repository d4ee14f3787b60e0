# SPDX-License-Identifier: MIT
"""The eye's picture: the scene through the front of the case from a seat, exposed as an eye would."""

from collections.abc import Iterable
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.arrays import Floats, Ints, dot, rows
from fondale.core.emitters import Emitter
from fondale.core.light.blending import blended_again, blending
from fondale.core.light.frames import BESIDE, Frame, look_again
from fondale.core.light.solver import Lit, solve
from fondale.core.light.strength import lux
from fondale.core.stage.moved import Moved
from fondale.core.stage.scene import Scene

if TYPE_CHECKING:
    from scipy import sparse

KEY = 0.18  # middle grey [reinhard2002]
TOGETHER = 8  # layers that are added in one product
MOST_LAYERS = 48  # of direct light are kept at least, and those of all lamps in use


class Picture:
    """A frame of a solved scene. The exact direct light of every lamp of 1 cd is kept as one number a ray; what has bounced is summed over
    all lamps on the patches first, so that its cost does not grow with them. ``direct`` is that light by lamp, as far as it is known already of
    the same frame.
    """

    def __init__(self, lit: Lit, frame: Frame, direct: dict[Emitter, NDArray[np.float32]] | None = None) -> None:
        self.frame = frame
        self.direct = direct if direct is not None else {}
        self.lit = lit
        self._seen = np.flatnonzero(frame.prim >= 0)
        self._sum = np.zeros((len(self._seen), 3), np.float32)  # of the direct light, for these strengths:
        self._for: dict[Emitter, tuple[float, ...]] = {}
        self._blend: sparse.csr_array | None = None
        self._reflect = np.zeros((0, 3), np.float32)

    def again(self, lit: Lit, moved: Moved) -> "Picture":
        """The same picture of a scene that has followed what ``moved`` in it: only what this may have changed is looked at anew."""
        frame, same = look_again(self.frame, lit.scene, moved)
        out = Picture(lit, frame)
        if not len(self._seen):
            return out
        place = np.full(len(self.frame.prim) + 1, -1)  # for -1 too
        place[self._seen] = np.arange(len(self._seen))
        known = place[same[out._seen]]
        for emitter, direct in self.direct.items():
            if emitter in lit.bases:
                out.direct[emitter] = out._direct_again(emitter, direct, known, moved)
        if self._blend is not None:
            seen = out._seen
            out._blend = blended_again(self._blend, known, lit.patches, frame.prim[seen], frame.point[seen], frame.normal[seen])
        return out

    def _direct_again(self, emitter: Emitter, before: NDArray[np.float32], known: Ints, moved: Moved) -> NDArray[np.float32]:
        """The direct light of a lamp (seen,), of which some is ``known`` by its number in what it was before, where nothing came or went between."""
        points, normals = self._where
        out: NDArray[np.float32] = rows(before, np.maximum(known, 0))
        new = known < 0
        for at in emitter.outline():
            new |= moved.between(at, points)
        some = np.flatnonzero(new)
        out[some] = emitter.direct(self.lit.scene, rows(points, some), rows(normals, some))
        return out

    def luminance(self, emitters: list[Emitter], strength: Floats) -> Floats:
        """Luminance (height, width, 3) in cd/m2 for lamps of ``strength`` (lamps, 3) in cd a band; dark lamps cost nothing."""
        wanted: dict[Emitter, Floats] = {}
        for emitter, bands in zip(emitters, strength, strict=True):
            if bands.any():
                wanted[emitter] = wanted.get(emitter, np.zeros(3)) + bands
        solve(self.lit, list(wanted))
        self._add_up(wanted)
        total = self._sum
        if wanted and len(self._seen):
            # What is told from both sides of a place may fall below nothing at it.
            total = self._reflecting() * np.maximum(total + self._bounced(wanted), 0.0)
        return self.frame.pixels(total, self._seen)

    def _blending(self) -> "sparse.csr_array":
        if self._blend is None:
            seen = self._seen
            self._blend = blending(self.lit.patches, self.frame.prim[seen], self.frame.point[seen], self.frame.normal[seen])
        return self._blend

    def _reflecting(self) -> NDArray[np.float32]:
        if not len(self._reflect):
            self._reflect = (self.lit.scene.paint[self.frame.prim[self._seen]] / np.pi).astype(np.float32)
        return self._reflect

    def _bounced(self, wanted: dict[Emitter, Floats]) -> Any:
        """Bounced light (seen, 3) of lamps of these strengths."""
        return self._blending() @ self.lit.at_nodes(wanted)

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
            self.direct[emitter] = emitter.direct(self.lit.scene, points, normals).astype(np.float32)
        return self.direct[emitter]


def exposure_of(image: Floats) -> float:
    """Key over the log-average luminance ([reinhard2002], equation 1); 0 for a black picture."""
    y = lux(image).ravel()
    lit = y[y > 1e-6]
    if not len(lit):
        return 0.0
    return KEY / float(np.exp(np.log(lit).mean()))


def shared_exposure(images: Iterable[Floats]) -> float:
    """One exposure for the pictures of all moments: that of the brightest, so that a dim moment looks dim beside it."""
    return min((v for v in map(exposure_of, images) if v > 0), default=0.0)


def develop(image: Floats, exposure: float, white: float = 6.0) -> np.ndarray[tuple[int, ...], np.dtype[np.uint8]]:
    """Display sRGB (height, width, 3) in 8 bits: [reinhard2002], equation 4, on luminance, then [iec61966]."""
    y = lux(image)
    scaled = y * exposure
    times = np.where(y > 1e-12, scaled * (1 + scaled / white**2) / (1 + scaled) / np.maximum(y, 1e-12), 0.0)
    rgb = np.maximum(image * times[..., None], 0).astype(np.float32)  # fine enough for 8 bits
    _within(rgb)
    coded = 1.055 * rgb ** np.float32(1 / 2.4) - np.float32(0.055)
    dark = rgb <= 0.0031308
    coded[dark] = 12.92 * rgb[dark]
    return (coded * 255 + np.float32(0.5)).astype(np.uint8)


PURE = 6.0  # times what a screen can show: so far a colour is shown pure, beyond it runs to white (by eye, no source)


def _within(rgb: np.ndarray[tuple[int, ...], np.dtype[np.float32]]) -> None:
    """Brings colours that a screen cannot show within it, in place, with the hue kept: what is somewhat too bright is shown darker and pure,
    what is much too bright runs to white. Cutting each channel off would make red orange and amber yellow.
    """
    over = rgb.max(axis=-1) > 1
    if not over.any():
        return
    mine = rgb[over]
    most, grey = mine.max(axis=1, keepdims=True), np.minimum(lux(mine)[:, None], 1).astype(np.float32)
    white = grey + (mine - grey) * ((1 - grey) / np.maximum(most - grey, 1e-6))
    share = np.clip((most - 1) / (PURE - 1), 0, 1) ** 2
    rgb[over] = np.clip(mine / most * (1 - share) + white * share, 0, 1)


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
    share = np.bincount(middle, other, frame.width * frame.height).reshape(frame.height, frame.width, 1) / len(BESIDE)
    out: Floats = image * (1 - _LINE * np.minimum(2 * share, 1.0))
    return out
