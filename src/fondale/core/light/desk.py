# SPDX-License-Identifier: MIT
"""The light of a project: solved once for its geometry, then a sum for every level, moment and picture."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.circuit.diode import most_ma
from fondale.core.circuit.supply import lamp_currents, solve_all
from fondale.core.emitters import Emitter, emitter_of
from fondale.core.how import How, Told, cite
from fondale.core.light.evenness import NAMES_MOST, AreaLight, Grid, area_light, named_grids, plain_grids
from fondale.core.light.fine_picture import FinePicture
from fondale.core.light.following import followed
from fondale.core.light.frames import height_of, look, seat_window
from fondale.core.light.picture import Picture
from fondale.core.light.receivers import AT_FIRST, ENOUGH, GATHER_RAYS, Receivers, received_by, receivers, receivers_again
from fondale.core.light.solver import FINE_RAYS, Lit, prepare, solve
from fondale.core.light.strength import bands_at_rated, lux, rated_a
from fondale.core.model import MOMENTS, SEATS, Meter, Project, Seat
from fondale.core.progress import Progress, Quiet
from fondale.core.stage.cases import as_it_stands
from fondale.core.stage.moved import Moved, moved_between
from fondale.core.stage.scene import Scene, build_scene
from fondale.core.views.sight import eye_of
from fondale.core.words import clipped, digits, lux_known

K = TypeVar("K")
LEAST_TOLD_LX = 0.05
SLIDE_PX = 160
MOST_WIDE, STRIPE = 1600, 128  # pixels: a wider picture is made in stripes of so many rows, and is not kept
UP = np.array([0.0, 0.0, 1.0])
AREA_RAYS = 256  # of each meter of an area: it is one of many
MOST_OLD, MOST_KEPT, MOST_PICTURES = 64, 200, 8  # solved lamps that are gone, meters and pictures that are kept
PARTS, HALVES = 4, 2  # in which a meter, and an area, is found out: how far they agree tells the error
FINE_FROM = 300  # pixels: narrower pictures need no receivers of their own


@dataclass(frozen=True)
class MeterLight:
    """One meter: lux in three bands, photometric lux, what each lamp gives of it, and the standard error in lux."""

    meter: str
    bands: tuple[float, float, float]
    lux: float
    by_lamp: dict[str, float]
    error: float = 0.0


@dataclass(frozen=True)
class LightResult:
    """All meters and areas under one moment."""

    moment: str
    meters: tuple[MeterLight, ...]
    areas: tuple[AreaLight, ...]


def levels_of(project: Project, moment: str = "") -> dict[str, float]:
    """The level of every lamp in a moment (the project's own if none is named)."""
    chosen = project.find(MOMENTS, moment or project.moment)
    named = chosen.levels if chosen else {}
    return {lamp.id: named.get(lamp.id, lamp.level) for lamp in project.lamps}


def strengths(project: Project, moment: str = "", amps: dict[str, float] | None = None) -> Floats:
    """Axial intensity (lamps, 3) in cd a band: the row's light x solved current / rated current x level.

    Light is taken as proportional to current. A lamp without a string counts with its rated current, so that
    light can be laid out before it is wired; a reversed lamp gives none.
    """
    amps = lamp_currents(solve_all(project)) if amps is None else amps
    level = levels_of(project, moment)
    rows = [
        bands_at_rated(m) * max(0.0, amps.get(m.id, min(rated_a(m), most_ma(m) / 1000)) / rated_a(m)) * level[m.id] for m in project.lamps
    ]
    return np.array(rows).reshape(-1, 3)


def geometry_key(project: Project) -> tuple[Any, ...]:
    """What the exchange of light depends on: the case and every placed piece."""
    pieces = tuple((p.shape, p.measure, p.place, p.paint, p.role) for p in project.pieces if p.place is not None)
    return (as_it_stands(project.case), pieces)


def _by_lamp(
    lit: Lit, stand: Mapping[K, Receivers], emitters: Sequence[Emitter], kept: Mapping[tuple[K, Emitter], Floats]
) -> dict[tuple[K, Emitter], Floats]:
    """What those that ``stand`` somewhere receive of 1 cd of every lamp: as it was ``kept`` where it was, all others at once."""
    out, news = {}, dict[tuple[K, ...], list[Emitter]]()
    for emitter in dict.fromkeys(emitters):
        new = tuple(k for k in stand if (k, emitter) not in kept)
        out.update({(k, emitter): kept[k, emitter] for k in stand if (k, emitter) in kept})
        news.setdefault(new, []).append(emitter)
    for new, some in news.items():
        found = received_by(lit, [stand[k] for k in new], some) if new else [[] for _ in some]
        out.update({(k, emitter): light for emitter, lights in zip(some, found, strict=True) for k, light in zip(new, lights, strict=True)})
    return out


class LightDesk:
    """Keeps the last solved scene, gathered meters and pictures. What it answers after a lamp has moved agrees with what a fresh one answers
    within the error that it tells.
    """

    rays, area_rays, enough = GATHER_RAYS, AREA_RAYS, AT_FIRST
    off = 0.06  # of what has bounced: what the solver leaves out, and no spread of rays tells; judged by paths on scenes drawn by lot
    follows = True  # what moves

    def __init__(self) -> None:
        self._key: tuple[Any, ...] = ()
        self._lit: Lit | None = None
        self._pictures: dict[tuple[Any, ...], Picture] = {}
        self._receivers: dict[tuple[Any, ...], Receivers] = {}
        self._gathered: dict[tuple[Any, Emitter], Floats] = {}  # by meter, or number of an area's grid
        self._areas_of: tuple[Scene, tuple[Any, ...], tuple[tuple[Grid, Receivers], ...]] | None = None
        self._moved: dict[int, tuple[Scene, Moved | None]] = {}
        self._direct_at: tuple[Scene, list[tuple[float, ...]], dict[Emitter, Floats]] | None = None

    def _depends(self, project: Project) -> tuple[Any, ...]:
        return geometry_key(project), bool(project.lamps)  # with no lamp there was nothing to aim rays by

    def _prepared(self, project: Project, progress: Progress) -> Lit:
        progress.step(0.05, "building the scene")
        return prepare(build_scene(project), [emitter_of(m) for m in project.lamps], progress=progress)

    def _followed(self, project: Project, before: Lit | None, progress: Progress) -> Lit | None:
        """What was solved ``before``, where no more than a body or two have moved since."""
        if before is None:
            return None
        return followed(before, build_scene(project), [emitter_of(m) for m in project.lamps], progress)

    def lit(self, project: Project, progress: Progress | None = None) -> Lit:
        """The solved scene of ``project``."""
        key = self._depends(project)
        if self._lit is None or key != self._key:
            before = self._lit if key[1:] == self._key[1:] else None
            lit = self._followed(project, before, progress or Quiet())  # who breaks it off leaves what was solved before
            if lit is None or before is None:
                before = self._lit = self._areas_of = None
                self._pictures.clear()
                self._receivers.clear()
            else:
                before.casts.clear()  # pictures may still hold it
            self._gathered.clear()
            self._moved.clear()
            self._lit = lit or self._prepared(project, progress or Quiet())
            self._key = key
        emitters = [emitter_of(m) for m in project.lamps]
        solve(self._lit, emitters, progress)
        gone, most = self._lit.bases.keys() - set(emitters), len(emitters) + MOST_OLD
        for old in [e for e in self._lit.bases if e in gone][: max(0, len(gone) - most)]:
            del self._lit.bases[old]  # where a dragged lamp has been
        return self._lit

    def _since(self, scene: Scene, lit: Lit) -> Moved | None:
        """What has moved from an earlier scene to this one; None where it is not worth following."""
        known = self._moved.get(id(scene))
        if known is None:
            known = self._moved[id(scene)] = scene, moved_between(scene, lit.scene)
        return known[1]

    def meters(
        self, project: Project, moment: str = "", amps: dict[str, float] | None = None, progress: Progress | None = None, plain: bool = True
    ) -> LightResult:
        """Every meter by final gather, and the evenness of the areas that the maker named; ``plain``: of floors and tops, where there is none."""
        lit = self.lit(project, progress)
        emitters = [emitter_of(m) for m in project.lamps]
        power = strengths(project, moment, amps)
        found, areas = [], []
        keys = [(meter.x, meter.y, meter.z, meter.nx, meter.ny, meter.nz) for meter in project.meters]
        grids = self._grids(project, lit, plain)
        stand: dict[Any, Receivers] = {key: self._receiver(lit, key) for key in keys}
        stand.update(enumerate(at for _grid, at in grids))
        self._gathered = _by_lamp(lit, stand, emitters, self._gathered)
        straight = self._straight(lit, keys, emitters)
        for number, (meter, key) in enumerate(zip(project.meters, keys, strict=True)):
            parts = np.array([self._gathered[key, e] for e in emitters]).reshape(-1, PARTS, 3) * power[:, None]
            each, bands = parts.mean(1), parts.sum(0)
            by_lamp = {m.id: float(lux(each[i])) for i, m in enumerate(project.lamps)}
            mean = bands.mean(0)
            bounced = max(0.0, float(lux(mean)) - float(straight[:, number] @ lux(power)))
            error = math.hypot(float(lux(bands).std(ddof=1)) / math.sqrt(PARTS), self.off * bounced)
            found.append(MeterLight(meter.id, (float(mean[0]), float(mean[1]), float(mean[2])), float(lux(mean)), by_lamp, error))
        for number, (grid, at) in enumerate(grids):
            total = np.zeros((len(at.points), 3))
            for emitter, bands in zip(emitters, power, strict=True):
                total += self._gathered[number, emitter] * bands
            areas.append(area_light(grid, total.reshape(HALVES, -1, 3)))
        return LightResult(moment or project.moment, tuple(found), tuple(areas))

    def _straight(self, lit: Lit, keys: Sequence[tuple[float, ...]], emitters: Sequence[Emitter]) -> Floats:
        """What comes straight from each lamp to each meter (lamps, meters), for 1 cd: kept while scene and meters are the same."""
        at = np.array(keys, float).reshape(-1, 6)
        if self._direct_at is None or self._direct_at[0] is not lit.scene or self._direct_at[1] != list(keys):
            self._direct_at = lit.scene, list(keys), {}
        known = self._direct_at[2]
        for emitter in emitters:
            if emitter not in known:
                known[emitter] = emitter.direct(lit.scene, at[:, :3], at[:, 3:]) + emitter.thrown(lit.scene, at[:, :3], at[:, 3:])
        return np.array([known[e] for e in emitters]).reshape(len(emitters), len(keys))

    def _grids(self, project: Project, lit: Lit, plain: bool) -> tuple[tuple[Grid, Receivers], ...]:
        """The grids of areas, and what each receives from where."""
        named = tuple((a.id, a.x, a.y, a.z, a.width, a.depth) for a in project.areas)
        key = project.brief.house_n, tuple(p.role for p in project.pieces), named or plain
        if self._areas_of is None or self._areas_of[0] is not lit.scene or self._areas_of[1] != key:
            grids = named_grids(project, lit.scene) if named else plain_grids(project, lit.scene) if plain else ()
            before = {(g.area, g.piece): at for g, at in self._areas_of[2]} if self._areas_of is not None else {}
            stand = (
                self._received(lit, before.get((g.area, g.piece)), g.points, np.tile(UP, (len(g.points), 1)), self.area_rays, HALVES)
                for g in grids
            )
            self._areas_of = lit.scene, key, tuple(zip(grids, stand, strict=True))
            self._gathered = {k: light for k, light in self._gathered.items() if not isinstance(k[0], int)}
        return self._areas_of[2]

    def _receiver(self, lit: Lit, key: tuple[float, ...]) -> Receivers:
        """What a meter receives from where, found out in parts that tell how far they agree: once, whatever lamps there are."""
        known = self._receivers.get(key)
        if known is None or known.scene is not lit.scene:
            if len(self._receivers) > MOST_KEPT:
                self._receivers.clear()
            normal = np.array(key[3:])
            length = float(np.linalg.norm(normal))
            way = normal / length if length > 1e-9 else UP
            self._receivers[key] = self._received(lit, known, np.array([key[:3]]), way[None], self.rays, PARTS)
        return self._receivers[key]

    def _received(self, lit: Lit, before: Receivers | None, points: Floats, normals: Floats, rays: int, parts: int) -> Receivers:
        """Receivers by so many rays in so many parts: those that were there ``before`` as they are now, where nothing else has changed."""
        moved = self._since(before.scene, lit) if before is not None else None
        if before is None or moved is None:
            return receivers(lit, points, normals, rays, parts=parts, kept=self.follows, enough=self.enough)
        return receivers_again(before, lit, moved, points, normals, rays, parts, self.enough)

    def _pictured(self, project: Project, seat: Seat, width: int, lit: Lit, progress: Progress) -> Picture:
        eye = eye_of(project, seat)
        return Picture(lit, look(lit.scene, eye, width, seat_window(lit.scene, eye, seat)))

    def picture(self, project: Project, seat: str, width: int, progress: Progress | None = None) -> Picture:
        """The picture from the middle of a seat's range. Raises LookupError for an unknown seat."""
        chosen = project.find(SEATS, seat)
        if chosen is None:
            raise LookupError(f"there is no seat “{seat}”")
        lit = self.lit(project, progress)
        eye = eye_of(project, chosen)
        key = (tuple(eye), width, chosen.lens_mm, chosen.sensor_mm)
        known = self._pictures.get(key)
        if known is None or known.lit is not lit:
            (progress or Quiet()).step(0.95, "drawing the view")
            if len(self._pictures) > MOST_PICTURES:
                self._pictures.clear()
            # Where a case has no walls, what stands there decides how much is shown.
            alike = known is not None and known.frame.window == seat_window(lit.scene, eye, chosen)
            moved = self._since(known.lit.scene, lit) if known is not None and alike else None
            if known is not None and moved is not None:
                self._pictures[key] = known.again(lit, moved)
            else:
                self._pictures[key] = self._pictured(project, chosen, width, lit, progress or Quiet())
        return self._pictures[key]

    def luminance(
        self,
        project: Project,
        seat: str,
        width: int,
        moment: str = "",
        amps: dict[str, float] | None = None,
        progress: Progress | None = None,
    ) -> Floats:
        """The picture's luminance (height, width, 3) in cd/m2."""
        emitters, power = [emitter_of(m) for m in project.lamps], strengths(project, moment, amps)
        if width <= MOST_WIDE:
            return self.picture(project, seat, width, progress).luminance(emitters, power)
        chosen = project.find(SEATS, seat)
        if chosen is None:
            raise LookupError(f"there is no seat “{seat}”")
        lit, eye = self.lit(project, progress), eye_of(project, chosen)
        shown = seat_window(lit.scene, eye, chosen)
        height, parts = height_of(width, shown), []
        for low in range(0, height, STRIPE):
            (progress or Quiet()).step(0.9 + 0.1 * low / height, "drawing the view")
            high, above = min(low + STRIPE, height), max(low - 1, 0)
            # A row more on both sides: edges know their neighbours.
            frame = look(lit.scene, eye, width, shown, (above, min(high + 1, height)))
            parts.append(Picture(lit, frame).luminance(emitters, power)[low - above :][: high - low])
        return np.concatenate(parts)

    def slides(self, project: Project, seat: str, amps: dict[str, float] | None = None) -> dict[str, Floats]:
        """The luminance of a small picture of every moment, or of the project as it is where there is none (no name)."""
        return {m: self.luminance(project, seat, SLIDE_PX, m, amps) for m in [m.id for m in project.moments] or [""]}


class FineDesk(LightDesk):
    """Solves the scene of its ``first`` desk again: more rays, direct light in more detail, pictures with receivers of their own. It begins anew when a
    lamp has moved, so that what it answers depends on the project alone.
    """

    rays, area_rays, enough = 4 * GATHER_RAYS, 4 * AREA_RAYS, ENOUGH
    off = 0.05
    follows = False

    def __init__(self) -> None:
        super().__init__()
        self.first = LightDesk()

    def _depends(self, project: Project) -> tuple[Any, ...]:
        return geometry_key(project), tuple(emitter_of(m) for m in project.lamps)

    def _prepared(self, project: Project, progress: Progress) -> Lit:
        emitters, first = [emitter_of(m) for m in project.lamps], self.first.lit(project, progress)
        if first.aimed != tuple(emitters) or first.since is not None:
            first = self.first._prepared(project, progress)
        return prepare(first.scene, emitters, rays=FINE_RAYS, progress=progress, before=first)

    def _pictured(self, project: Project, seat: Seat, width: int, lit: Lit, progress: Progress) -> Picture:
        # What comes straight from the lamps is the same: only what has bounced is known better.
        first = self.first.picture(project, seat.id, width, progress)
        if width < FINE_FROM:
            return Picture(lit, first.frame, first.direct)
        return FinePicture(lit, first.frame, [emitter_of(m) for m in project.lamps], first.direct, progress)


def meter_told(project: Project, meter: Meter, found: MeterLight | None, refined: bool = True) -> Told:
    """The light at a meter, lamp by lamp, and how well it is known."""
    name = clipped(meter.name, NAMES_MOST)
    if found is None:
        return Told(f"{name} …", How(meter.name, "Being solved.", "", "Lamps"))
    names = {m.id: m.name for m in project.lamps}
    parts = sorted(((v, k) for k, v in found.by_lamp.items() if v >= LEAST_TOLD_LX and k in names), reverse=True)
    lamps = "\n+ ".join(f"{digits(v, 1)} lx from {names[k]}" for v, k in parts) or "no lamp reaches it"
    formula = (
        "Direct light E = I(θ) cos(incidence) / d², shadowed by rays, and light bounced off every surface (rays from the meter, half of them"
        " to where most light comes from)."
        f"\nBy the spread of {PARTS} parts, and what the solver leaves out of bounced light, it is known to ± {digits(found.error, 1)} lx.\nWanted: {digits(meter.wanted_lx, 0)} lx. It gets\n{lamps}"
    )
    said = lux_known(found.lux, found.error, refined)
    return Told(f"{name} {said}", How(meter.name, formula, said, f"radiosity with final gather, checked against {cite('radiance')}"))
