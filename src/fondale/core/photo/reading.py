# SPDX-License-Identifier: MIT
"""Every thread of a photograph as a real length with its uncertainty: read by the likeliest camera, and by all that may have taken it."""

import math
from dataclasses import dataclass
from functools import lru_cache
from zlib import crc32

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.how import How, Told, cite
from fondale.core.model import Photo, Thread
from fondale.core.photo.cameras import COUNT, Cameras, cameras_of, hand_of, pixels_of, shaken, uprights_of
from fondale.core.photo.ground import heights, leans
from fondale.core.photo.wall import PhotoError, lengths, wall_angle
from fondale.core.words import digits, percent, show_mm, show_real, show_scale

Z90 = 1.6449
SHORTEST_PX = 2.0
MOST = 0.6  # a size that is known no better than by that share is none
FAILS = 0.08  # of the cameras may see no size
LOOSE = 10.0  # of a logarithm: it says nothing
APART = 2.6  # standard deviations between two known lengths before they are said to disagree


@dataclass(frozen=True)
class ThreadReading:
    """``real_mm`` is None where nothing can be read; ``trouble`` then says why. ``give_mm`` is one standard deviation: nine in ten lie within
    1.645 of it.

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
        return f"{show_real(self.real_mm)} ± {give_words(self.give_mm * Z90 / self.real_mm)}, {show_mm(self.real_mm / house_n)} at {show_scale(house_n)}"


def give_words(share: float) -> str:
    """A share as a percentage that never says nothing: ``3 %``, ``0.4 %``, ``under 0.1 %``."""
    if share < 0.001:
        return "under 0.1 %"
    return percent(share) if share >= 0.0095 else f"{digits(share * 100, 1)} %"


def show_known(real_mm: float, give_mm: float) -> str:
    """A known length as it is typed: ``2.03 m``, ``2.03 m ± 3 %``."""
    return show_real(real_mm) + (f" ± {digits(give_mm * Z90 / real_mm * 100, 1)} %" if give_mm else "")


Sizes = dict[str, Floats]  # by thread: its size in some unit by every camera


def _band(values: Floats, weight: Floats) -> tuple[float, float]:
    """The value of the likeliest camera and one standard deviation, 1.645 of which hold nine in ten of the others. Raises PhotoError."""
    value, others, weigh = float(values[0]), values[1:], weight[1:]
    seen = np.isfinite(others)
    if not np.isfinite(value) or weigh[~seen].sum() > FAILS * weigh.sum():
        raise PhotoError("It is too far off, or set too roughly, to be read. Stretch it longer, or enlarge the picture first.")
    far = np.abs(others[seen] - value)
    order = np.argsort(far)
    share = np.cumsum(weigh[seen][order]) / weigh.sum()
    half = float(far[order][min(len(order) - 1, int(np.searchsorted(share, 0.9)))])
    if half > MOST * value:
        raise PhotoError(
            "What it hangs on is too short or too roughly set for a length. Set it round something larger, or enlarge the picture first."
        )
    return value, half / Z90


def _known(thread: Thread) -> Floats:
    """What a known thread may really be (n,): row 0 is what was declared."""
    rng = np.random.default_rng(crc32(f"{thread.id} known".encode()))
    real = thread.known_mm or 0.0
    out: Floats = real * np.concatenate([[1.0], np.exp(min(thread.known_give_mm / (real or 1.0), LOOSE) * rng.normal(size=COUNT))])
    return out


def _gauge(known: list[Thread], sizes: Sizes) -> Floats:
    """mm to the unit (n,) by all that is known: those that are known better count for more. What they disagree by widens it."""
    logs = np.array([_log_gauge(t, sizes) for t in known])
    spread = np.array([_spread(row[1:]) for row in logs])
    weights = 1 / np.maximum(spread, 1e-4) ** 2
    weights /= weights.sum()
    mean = weights @ logs
    apart = math.sqrt(float(weights @ (logs[:, 0] - mean[0]) ** 2)) if len(known) > 1 and _apart(known, sizes) else 0.0
    rng = np.random.default_rng(3)
    out: Floats = np.exp(mean + apart * np.concatenate([[0.0], rng.normal(size=COUNT)]))
    return out


def _log_gauge(known: Thread, sizes: Sizes) -> Floats:
    """The logarithm of mm to the unit (n,) by one known thread; not a number where a camera sees no size."""
    size = sizes[known.id]
    out: Floats = np.log(_known(known) / np.where(size > 0, size, np.nan))
    return out


def _spread(values: Floats) -> float:
    good = values[np.isfinite(values)]
    return min(float(np.std(good)), LOOSE) if len(good) > 1 else LOOSE


def _apart(known: list[Thread], sizes: Sizes) -> tuple[Thread, Thread, float] | None:
    """The two known threads that disagree most, and by which share, where that is more than they may."""
    worst: tuple[float, Thread, Thread, float] | None = None
    for i, s in enumerate(known):
        for t in known[i + 1 :]:
            ratio = _log_gauge(s, sizes) - _log_gauge(t, sizes)
            chance = abs(float(ratio[0])) / max(_spread(ratio[1:]), 1e-4)
            if chance > APART and (worst is None or chance > worst[0]):
                worst = chance, s, t, abs(math.expm1(float(ratio[0])))
    return worst[1:] if worst is not None else None


def _gauged(
    threads: list[Thread], sizes: Sizes, weight: Floats, what: str, source: str, unit: str, assumed: str
) -> dict[str, ThreadReading]:
    """Readings of threads whose size in some unit is in ``sizes``."""
    known = [t for t in threads if t.known_mm is not None and t.id in sizes]
    quarrel = _apart(known, sizes)
    strife = (
        f"{quarrel[0].name} and {quarrel[1].name} disagree by {percent(quarrel[2])}: one of them is not what it is taken for, or lies elsewhere."
        if quarrel
        else ""
    )
    out: dict[str, ThreadReading] = {}
    for t in threads:
        if t.id not in sizes:
            continue
        others = [k for k in known if k.id != t.id]
        if t.known_mm is not None:
            off = float(_gauge(others, sizes)[0] * sizes[t.id][0]) / t.known_mm - 1 if others else None
            mine = strife if quarrel is not None and t.id in (quarrel[0].id, quarrel[1].id) else ""
            out[t.id] = ThreadReading(t.known_mm, t.known_give_mm, f"declared: {t.name} is {show_real(t.known_mm)}", source, mine, off)
        elif not others:
            out[t.id] = ThreadReading(None, 0.0, "", source, f"Declare the length of one thread {what}, and this one follows.")
        else:
            gauge = _gauge(others, sizes)
            try:
                real, give = _band(gauge * sizes[t.id], weight)
            except PhotoError as error:
                out[t.id] = ThreadReading(None, 0.0, "", source, str(error))
                continue
            names = ", ".join(
                f"{k.name} {show_real(k.known_mm or 0)}"
                + (f" ± {give_words(k.known_give_mm * Z90 / k.known_mm)}" if k.known_give_mm and k.known_mm else "")
                for k in others
            )
            size = float(sizes[t.id][0])
            formula = f"known: {names}; ends set within ±{digits(hand_of(t.hand_px), 1)} px\n{digits(size, 3)} {unit} × {digits(float(gauge[0]), 2)} mm to one\n{assumed}"
            out[t.id] = ThreadReading(real, give, formula, source, strife)
    return out


def _ends(thread: Thread) -> tuple[Floats, Floats]:
    sigma = hand_of(thread.hand_px)
    return shaken(thread.a, sigma, f"{thread.id} a"), shaken(thread.b, sigma, f"{thread.id} b")


def _on_plane(photo: Photo, cameras: Cameras, threads: list[Thread]) -> dict[str, ThreadReading]:
    sizes: Sizes = {}
    for t in threads:
        flat = [way[:, :2] / way[:, 2:] for way in (cameras.level(cameras.rays(p), turned=True) for p in _ends(t))]
        sizes[t.id] = np.linalg.norm(flat[0] - flat[1], axis=1)
    source = f"an upright plane square to the view: common practice, no source; a tilted camera by {cite('criminisi2000')}"
    return _gauged(threads, sizes, cameras.weight, "on the same plane", source, "distances", held_words(photo, cameras))


def _on_ground(photo: Photo, cameras: Cameras, threads: list[Thread]) -> dict[str, ThreadReading]:
    if photo.horizon is None and not uprights_of(photo):
        return {t.id: ThreadReading(None, 0.0, "", "", "Set the horizon, and heights on the ground follow.") for t in threads}
    sizes: Sizes = {}
    out: dict[str, ThreadReading] = {}
    lean = set[str]()
    for t in threads:
        low, high = _ends(t)
        foot, top = (low, high) if t.a[1] >= t.b[1] else (high, low)
        tall = heights(cameras, foot, top)
        if not np.isfinite(tall[0]):
            out[t.id] = ThreadReading(
                None, 0.0, "", "", "Its foot is not below the horizon: it does not stand on this ground, or the horizon is too low."
            )
        elif tall[0] <= 0 or abs(t.a[1] - t.b[1]) < hand_of(t.hand_px):
            out[t.id] = ThreadReading(None, 0.0, "", "", "The thread has no height. Stretch it from the foot to the top.")
        else:
            sizes[t.id] = np.where(tall > 0, tall, np.nan)
            if leans(cameras, foot, top):
                lean.add(t.id)
    source = f"single view metrology, {cite('criminisi2000')}"
    out |= _gauged(
        threads, sizes, cameras.weight, "on the ground, a person or a door", source, "camera heights", held_words(photo, cameras)
    )
    for ident in lean:
        if out[ident].real_mm is not None:
            said = "It leans: what stands on the ground stands upright. Read it as a rough value."
            out[ident] = ThreadReading(out[ident].real_mm, out[ident].give_mm * 2, out[ident].formula, source, said, out[ident].off)
    return out


def _on_wall(photo: Photo, cameras: Cameras, threads: list[Thread]) -> dict[str, ThreadReading]:
    if photo.frame is None:
        return {t.id: ThreadReading(None, 0.0, "", "", "Set the frame of the wall, and lengths on it follow.") for t in threads}
    frame = photo.frame
    if not (frame.width_mm and frame.height_mm):
        return {
            t.id: ThreadReading(None, 0.0, "", "", "Say how wide and how high the frame is in life, and lengths on the wall follow.")
            for t in threads
        }
    source = f"homography of four points in closed form, {cite('heckbert1989')}"
    sigma, rng = hand_of(frame.hand_px), np.random.default_rng(5)
    corners = cameras.straight(np.stack([shaken(c, sigma, f"frame {k}") for k, c in enumerate(frame.corners)], 1))
    gives = np.minimum(np.array([frame.width_give_mm / frame.width_mm, frame.height_give_mm / frame.height_mm]), LOOSE)
    sides = np.array([frame.width_mm, frame.height_mm]) * np.concatenate([np.ones((1, 2)), np.exp(gives * rng.normal(size=(COUNT, 2)))])
    out = {}
    for t in threads:
        try:
            found = lengths(corners, cameras.straight(np.stack(_ends(t), 1)), sides)
            if not np.isfinite(found[0]):
                raise PhotoError("The line runs past the wall's horizon. Shorten it.")
            length, give = _band(found, np.ones(COUNT + 1))
        except PhotoError as error:
            out[t.id] = ThreadReading(None, 0.0, "", source, str(error))
            continue
        formula = f"frame {show_real(frame.width_mm)} × {show_real(frame.height_mm)}, straightened; its corners within ±{digits(sigma, 1)} px, ends within ±{digits(hand_of(t.hand_px), 1)} px"
        if t.known_mm is not None:
            off = length / t.known_mm - 1
            far = abs(off) > APART * math.hypot(give / length, t.known_give_mm / t.known_mm)
            said = f"The frame says {show_real(length)}: the frame or {t.name} is not what it is taken for." if far else ""
            out[t.id] = ThreadReading(t.known_mm, t.known_give_mm, formula, source, said, off)
        else:
            out[t.id] = ThreadReading(length, give, formula, source)
    return out


def held_words(photo: Photo, cameras: Cameras) -> str:
    """What is taken for granted of how the camera was held, and what would tell more."""
    lens = f"lens of {digits(photo.f35_mm, 0)} mm as the file says" if photo.f35_mm else "lens not known, 24 to 85 mm"
    uprights = len(uprights_of(photo))
    tilt = float(np.degrees(cameras.pitch[0]))
    give = Z90 * float(np.degrees(np.std(cameras.pitch[1:])))
    if photo.horizon is None and not uprights:
        return f"Nothing says how the camera was tilted: taken as level within ±{digits(give, 0)}°, {lens}. A horizon, or two upright threads, would tell."
    by = " and ".join(
        [
            *(["the horizon"] if photo.horizon is not None else []),
            *([f"{uprights} uprights" if uprights > 1 else "one upright"] if uprights else []),
        ]
    )
    more = (
        ""
        if photo.f35_mm or (photo.horizon is not None and uprights > 1)
        else " The lens, or a horizon with two upright threads, would tell more."
    )
    way = "down" if tilt > 0 else "up"
    return f"Tilted {way} by {digits(abs(tilt), 0)}° ± {digits(give, 0)}°, as {by} {'say' if ' and ' in by or uprights > 1 else 'says'}; {lens}.{more}"


def assumed_words(photo: Photo) -> str:
    """The same of a whole photograph, for the page; nothing where no thread hangs on it."""
    if not any(t.on in ("plane", "ground") for t in photo.threads):
        return ""
    return held_words(photo, cameras_of(photo))


@lru_cache(maxsize=16)
def read_photo(photo: Photo) -> dict[str, ThreadReading]:
    """The reading of every thread by id."""
    long = [t for t in photo.threads if pixels_of(t) >= SHORTEST_PX]
    by = {on: [t for t in long if t.on == on] for on in ("plane", "wall", "ground")}
    out = {t.id: ThreadReading(None, 0.0, "", "", "The thread is too short. Stretch it over the thing.") for t in photo.threads}
    out |= {
        t.id: ThreadReading(None, 0.0, "", "", "It stands upright, and shows how the camera was tilted.") for t in long if t.on == "upright"
    }
    if not any(by.values()):
        return out
    cameras = cameras_of(photo)
    return out | _on_plane(photo, cameras, by["plane"]) | _on_ground(photo, cameras, by["ground"]) | _on_wall(photo, cameras, by["wall"])


def wall_angles(photo: Photo) -> list[tuple[str, str, float]]:
    """Angles in degrees on the wall between threads that share an end (within 4 pixels): names of the two, angle."""
    if photo.frame is None or not (photo.frame.width_mm and photo.frame.height_mm):
        return []
    frame = (photo.frame.corners, (photo.frame.width_mm, photo.frame.height_mm))
    threads = [t for t in photo.threads if t.on == "wall"]
    found = []
    for i, s in enumerate(threads):
        for t in threads[i + 1 :]:
            for a, corner in ((s.a, s.b), (s.b, s.a)):
                for b, near in ((t.a, t.b), (t.b, t.a)):
                    if math.dist(corner, near) <= 4.0:
                        try:
                            found.append((s.name, t.name, wall_angle(*frame, a, corner, b)))
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
