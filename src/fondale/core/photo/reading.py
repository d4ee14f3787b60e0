"""Every thread of a photograph as a real length with its uncertainty."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fondale.core.how import How, Told, cite
from fondale.core.model import Photo, Thread
from fondale.core.photo.ground import Ground
from fondale.core.photo.wall import PIXEL_SIGMA, PhotoError, Wall
from fondale.core.words import digits, percent, show_mm, show_real, show_scale

Z90 = 1.6449
SHORTEST_PX = 2.0


@dataclass(frozen=True)
class ThreadReading:
    """``real_mm`` is None where nothing can be read; ``trouble`` then says why. ``give_mm`` is one standard deviation.

    For a known thread ``off`` is how far the others say it is from what was declared, as a share, where they can.
    """

    real_mm: float | None
    give_mm: float
    formula: str
    source: str
    trouble: str = ""
    off: float | None = None

    def words(self, house_n: float) -> str:
        """For example ``1.05 m ± 3 %, 30 mm at 1:35``."""
        if self.real_mm is None:
            return self.trouble
        return f"{show_real(self.real_mm)} ± {percent(self.give_mm * Z90 / self.real_mm)}, {show_mm(self.real_mm / house_n)} at {show_scale(house_n)}"


def _pixels(thread: Thread) -> float:
    return math.dist(thread.a, thread.b)


def _relative(known: Thread, spread: float) -> float:
    """Relative standard deviation of mm to the unit that ``known`` gives."""
    return math.hypot(known.known_give_mm / (known.known_mm or 1.0), spread)


def _weighted(gauges: list[tuple[Thread, float, float]]) -> tuple[float, float]:
    """mm to the unit out of (thread, size in units, relative sigma of it): weighted mean and its relative sigma."""
    rows = [((k.known_mm or 0.0) / size, _relative(k, s)) for k, size, s in gauges]
    weights = [1 / max(s, 1e-6) ** 2 for _g, s in rows]
    mean = sum(g * w for (g, _s), w in zip(rows, weights, strict=True)) / sum(weights)
    return mean, math.sqrt(1 / sum(weights))


def _gauged(threads: list[Thread], size_of: dict[str, tuple[float, float]], what: str, source: str, unit: str) -> dict[str, ThreadReading]:
    """Readings of threads whose size in some unit, with its relative sigma, is in ``size_of``."""
    known = [(t, *size_of[t.id]) for t in threads if t.known_mm is not None and t.id in size_of]
    out: dict[str, ThreadReading] = {}
    for t in threads:
        if t.id not in size_of:
            continue
        size, sigma = size_of[t.id]
        others = [k for k in known if k[0].id != t.id]
        if t.known_mm is not None:
            off = None
            if others:
                gauge, _s = _weighted(others)
                off = gauge * size / t.known_mm - 1
            out[t.id] = ThreadReading(t.known_mm, t.known_give_mm, f"declared: {t.name} is {show_real(t.known_mm)}", source, off=off)
        elif not others:
            out[t.id] = ThreadReading(None, 0.0, "", source, f"Declare the length of one thread {what}, and this one follows.")
        else:
            gauge, spread = _weighted(others)
            real = gauge * size
            names = ", ".join(f"{k.name} {show_real(k.known_mm or 0)}" for k, _size, _s in others)
            formula = (
                f"known: {names}; every end is set to ±{digits(PIXEL_SIGMA, 0)} pixel\n"
                f"{digits(size, 3 if size < 10 else 1)} {unit} × {digits(gauge, 2)} mm to one"
            )
            out[t.id] = ThreadReading(real, real * math.hypot(sigma, spread), formula, source)
    return out


def _on_plane(threads: list[Thread]) -> dict[str, ThreadReading]:
    sizes = {t.id: (_pixels(t), math.sqrt(2) * PIXEL_SIGMA / _pixels(t)) for t in threads}
    return _gauged(threads, sizes, "on the same plane", "same plane, square to the view: common practice, no source", "px")


def _on_ground(photo: Photo, threads: list[Thread]) -> dict[str, ThreadReading]:
    if photo.horizon is None:
        return {t.id: ThreadReading(None, 0.0, "", "", "Set the horizon, and heights on the ground follow.") for t in threads}
    ground = Ground(photo.horizon.left, photo.horizon.right, photo.width)
    sizes: dict[str, tuple[float, float]] = {}
    out: dict[str, ThreadReading] = {}
    for t in threads:
        try:
            ratio, sigma = ground.share(t.a, t.b)
            sizes[t.id] = (ratio, sigma / ratio)
        except PhotoError as error:
            out[t.id] = ThreadReading(None, 0.0, "", "", str(error))
    source = f"single view metrology, {cite('criminisi2000')}; level camera"
    out |= _gauged(threads, sizes, "on the ground, a person or a door", source, "camera heights")
    for t in threads:
        if out[t.id].real_mm is not None and ground.leans(t.a, t.b):
            lean = "It leans: what stands on the ground stands upright. Read it as a rough value."
            out[t.id] = ThreadReading(out[t.id].real_mm, out[t.id].give_mm * 2, out[t.id].formula, source, lean, out[t.id].off)
    return out


def _on_wall(photo: Photo, threads: list[Thread]) -> dict[str, ThreadReading]:
    if photo.frame is None:
        return {t.id: ThreadReading(None, 0.0, "", "", "Set the frame of the wall, and lengths on it follow.") for t in threads}
    frame = photo.frame
    wall = Wall(np.array(frame.corners, float), frame.width_mm, frame.height_mm)
    source = f"homography, normalised direct linear transform, {cite('hartley2004')}"
    out = {}
    for t in threads:
        try:
            length, sigma = wall.length(t.a, t.b)
        except PhotoError as error:
            out[t.id] = ThreadReading(None, 0.0, "", source, str(error))
            continue
        formula = f"frame {show_real(frame.width_mm)} × {show_real(frame.height_mm)}, straightened; ±{digits(PIXEL_SIGMA, 0)} pixel on all six points"
        if t.known_mm is not None:
            out[t.id] = ThreadReading(t.known_mm, t.known_give_mm, formula, source, off=length / t.known_mm - 1)
        else:
            out[t.id] = ThreadReading(length, sigma, formula, source)
    return out


@lru_cache(maxsize=16)
def read_photo(photo: Photo) -> dict[str, ThreadReading]:
    """The reading of every thread by id."""
    long = [t for t in photo.threads if _pixels(t) >= SHORTEST_PX]
    by = {on: [t for t in long if t.on == on] for on in ("plane", "wall", "ground")}
    out = {t.id: ThreadReading(None, 0.0, "", "", "The thread is too short. Stretch it over the thing.") for t in photo.threads}
    return out | _on_plane(by["plane"]) | _on_ground(photo, by["ground"]) | _on_wall(photo, by["wall"])


def wall_angles(photo: Photo) -> list[tuple[str, str, float]]:
    """Angles in degrees on the wall between threads that share an end (within 4 pixels): names of the two, angle."""
    if photo.frame is None:
        return []
    wall = Wall(np.array(photo.frame.corners, float), photo.frame.width_mm, photo.frame.height_mm)
    threads = [t for t in photo.threads if t.on == "wall"]
    found = []
    for i, s in enumerate(threads):
        for t in threads[i + 1 :]:
            for a, corner in ((s.a, s.b), (s.b, s.a)):
                for b, near in ((t.a, t.b), (t.b, t.a)):
                    if math.dist(corner, near) <= 4.0:
                        try:
                            found.append((s.name, t.name, wall.angle(a, corner, b)))
                        except PhotoError:
                            continue
    return found


def reading_told(thread: Thread, reading: ThreadReading, house_n: float) -> Told | None:
    """A thread as a length; None where nothing can be read."""
    if reading.real_mm is None:
        return None
    return Told(
        reading.words(house_n), How(thread.name, reading.formula, show_real(reading.real_mm), reading.source or "declared by the maker")
    )
