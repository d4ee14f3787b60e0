"""The light of a project: solved once for its geometry, then a sum for every level, moment and picture."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.circuit.supply import lamp_currents, solve_all
from fondale.core.emitters import Emitter, emitter_of
from fondale.core.how import How, Told, cite
from fondale.core.light.evenness import NAMES_MOST, AreaLight, Grid, area_light, named_grids, plain_grids
from fondale.core.light.picture import Picture, exposure_of, height_of, look, seat_window
from fondale.core.light.solver import Lit, Probe, prepare, probe, received, solve
from fondale.core.light.strength import bands_at_rated, lux, rated_a
from fondale.core.model import MOMENTS, SEATS, Meter, Project
from fondale.core.progress import Progress, Quiet
from fondale.core.stage.cases import as_it_stands
from fondale.core.stage.scene import build_scene
from fondale.core.views.sight import eye_of
from fondale.core.words import clipped, digits, lux_words

LEAST_TOLD_LX = 0.05
MOST_WIDE, STRIPE = 1600, 128  # pixels: a wider picture is made in stripes of so many rows, and is not kept
UP = np.array([0.0, 0.0, 1.0])
AREA_RAYS = 256  # of each meter of an area: it is one of many
MOST_OLD, MOST_PROBES = 64, 200  # solved lamps that are gone, and meters, that are kept


@dataclass(frozen=True)
class MeterLight:
    """One meter: lux in three bands, photometric lux, and what each lamp gives of it."""

    meter: str
    bands: tuple[float, float, float]
    lux: float
    by_lamp: dict[str, float]


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
    rows = [bands_at_rated(m) * max(0.0, amps.get(m.id, rated_a(m)) / rated_a(m)) * level[m.id] for m in project.lamps]
    return np.array(rows).reshape(-1, 3)


def geometry_key(project: Project) -> tuple[Any, ...]:
    """What the exchange of light depends on: the case and every placed piece."""
    pieces = tuple((p.shape, p.measure, p.place, p.paint, p.role) for p in project.pieces if p.place is not None)
    return (as_it_stands(project.case), pieces)


class LightDesk:
    """Keeps the last solved scene, gathered meters and pictures; every answer depends on the project alone."""

    def __init__(self) -> None:
        self._key: tuple[Any, ...] = ()
        self._lit: Lit | None = None
        self._pictures: dict[tuple[Any, ...], Picture] = {}
        self._probes: dict[tuple[Any, ...], Probe] = {}
        self._meters: dict[tuple[Any, ...], Floats] = {}
        self._areas_of: tuple[tuple[Any, ...], tuple[Grid, ...], tuple[Probe, ...]] | None = None
        self._on_areas: dict[tuple[int, Emitter], Floats] = {}

    def lit(self, project: Project, progress: Progress | None = None) -> Lit:
        """The solved scene of ``project``."""
        key = geometry_key(project)
        if self._lit is None or key != self._key:
            self._lit = None
            self._pictures.clear()
            self._probes.clear()
            self._meters.clear()
            self._areas_of = None
            (progress or Quiet()).step(0.05, "building the scene")
            self._lit = prepare(build_scene(project), progress=progress)
            self._key = key
        emitters = [emitter_of(m) for m in project.lamps]
        solve(self._lit, emitters, progress)
        gone, most = self._lit.bases.keys() - set(emitters), len(emitters) + MOST_OLD
        for old in [e for e in self._lit.bases if e in gone][: max(0, len(gone) - most)]:
            del self._lit.bases[old]  # where a dragged lamp has been
        return self._lit

    def meters(
        self, project: Project, moment: str = "", amps: dict[str, float] | None = None, progress: Progress | None = None, plain: bool = True
    ) -> LightResult:
        """Every meter by final gather, and the evenness of the areas that the maker named; ``plain``: of floors and tops, where there is none."""
        lit = self.lit(project, progress)
        emitters = [emitter_of(m) for m in project.lamps]
        power = strengths(project, moment, amps)
        found = []
        kept, self._meters = self._meters, {}
        for meter in project.meters:
            key = (meter.x, meter.y, meter.z, meter.nx, meter.ny, meter.nz)
            for emitter in emitters:
                self._meters[key, emitter] = (
                    kept[key, emitter] if (key, emitter) in kept else received(lit, self._probe(lit, key), emitter)[0]
                )
            each = np.array([self._meters[key, e] for e in emitters]).reshape(-1, 3) * power
            bands = each.sum(0)
            by_lamp = {m.id: float(lux(each[i])) for i, m in enumerate(project.lamps)}
            found.append(MeterLight(meter.id, (float(bands[0]), float(bands[1]), float(bands[2])), float(lux(bands)), by_lamp))
        return LightResult(moment or project.moment, tuple(found), self._areas(project, lit, emitters, power, plain))

    def _areas(self, project: Project, lit: Lit, emitters: list[Emitter], power: Floats, plain: bool) -> tuple[AreaLight, ...]:
        """How areas are lit, each by its grid of meters."""
        named = tuple((a.id, a.x, a.y, a.z, a.width, a.depth) for a in project.areas)
        key = project.brief.house_n, tuple(p.role for p in project.pieces), named or plain
        if self._areas_of is None or self._areas_of[0] != key:
            grids = named_grids(project, lit.scene) if named else plain_grids(project, lit.scene) if plain else ()
            self._areas_of = key, grids, tuple(probe(lit, g.points, np.tile(UP, (len(g.points), 1)), AREA_RAYS) for g in grids)
            self._on_areas.clear()
        _key, grids, probes = self._areas_of
        kept, self._on_areas, out = self._on_areas, {}, []
        for k, (grid, at) in enumerate(zip(grids, probes, strict=True)):
            total = np.zeros((len(grid.points), 3))
            for emitter, bands in zip(emitters, power, strict=True):
                self._on_areas[k, emitter] = kept[k, emitter] if (k, emitter) in kept else received(lit, at, emitter)
                total += self._on_areas[k, emitter] * bands
            out.append(area_light(grid, total))
        return tuple(out)

    def _probe(self, lit: Lit, key: tuple[float, ...]) -> Probe:
        """What a meter's rays meet: looked for once, whatever lamps there are."""
        if key not in self._probes:
            if len(self._probes) > MOST_PROBES:
                self._probes.clear()
            at, normal = np.array([key[:3]]), np.array([key[3:]])
            length = float(np.linalg.norm(normal))
            self._probes[key] = probe(lit, at, normal / length if length > 1e-9 else UP[None])
        return self._probes[key]

    def picture(self, project: Project, seat: str, width: int, progress: Progress | None = None) -> Picture:
        """The picture from the middle of a seat's range. Raises LookupError for an unknown seat."""
        chosen = project.find(SEATS, seat)
        if chosen is None:
            raise LookupError(f"there is no seat “{seat}”")
        lit = self.lit(project, progress)
        eye = eye_of(project, chosen)
        key = (tuple(eye), width, chosen.lens_mm, chosen.sensor_mm)
        if key not in self._pictures:
            (progress or Quiet()).step(0.95, "drawing the view")
            if len(self._pictures) > 8:
                self._pictures.clear()
            self._pictures[key] = Picture(lit, look(lit.scene, eye, width, seat_window(lit.scene, eye, chosen)))
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

    def exposure(self, project: Project, seat: str, width: int = 160, amps: dict[str, float] | None = None) -> float:
        """One exposure for all moments: that of the brightest, so that a dim moment looks dim beside it."""
        moments = [m.id for m in project.moments] or [""]
        values = [exposure_of(self.luminance(project, seat, width, m, amps)) for m in moments]
        return min((v for v in values if v > 0), default=0.0)


def meter_told(project: Project, meter: Meter, found: MeterLight | None) -> Told:
    """The light at a meter, lamp by lamp."""
    name = clipped(meter.name, NAMES_MOST)
    if found is None:
        return Told(f"{name} …", How(meter.name, "Being solved.", "", "Lamps"))
    names = {m.id: m.name for m in project.lamps}
    parts = sorted(((v, k) for k, v in found.by_lamp.items() if v >= LEAST_TOLD_LX and k in names), reverse=True)
    lamps = "\n+ ".join(f"{digits(v, 1)} lx from {names[k]}" for v, k in parts) or "no lamp reaches it"
    formula = (
        "Direct light E = I(θ) cos(incidence) / d², shadowed by rays, and light bounced off every surface (4096 rays from the meter)."
        f"\nWanted: {digits(meter.wanted_lx, 0)} lx. It gets\n{lamps}"
    )
    said = lux_words(found.lux)
    return Told(f"{name} {said}", How(meter.name, formula, said, f"radiosity with final gather, checked against {cite('radiance')}"))
