"""The light of a project: solved once for its geometry, then a sum for every level, moment and picture."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.circuit.supply import lamp_currents, solve_all
from fondale.core.emitters import emitter_of
from fondale.core.how import How, Told, cite
from fondale.core.light.evenness import AreaLight, areas
from fondale.core.light.picture import Picture, exposure_of, look, seat_window
from fondale.core.light.solver import Lit, gather, prepare, solve
from fondale.core.light.strength import bands_at_rated, lux, rated_a
from fondale.core.model import MOMENTS, SEATS, Meter, Project
from fondale.core.progress import Progress, Quiet
from fondale.core.stage.cases import as_it_stands
from fondale.core.stage.scene import build_scene
from fondale.core.views.sight import eye_of
from fondale.core.words import clipped, digits, lux_words

NAMES_MOST = 26
LEAST_TOLD_LX = 0.05


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
        self._meters: dict[tuple[Any, ...], Floats] = {}

    def lit(self, project: Project, progress: Progress | None = None) -> Lit:
        """The solved scene of ``project``."""
        key = geometry_key(project)
        if self._lit is None or key != self._key:
            self._lit = None
            self._pictures.clear()
            self._meters.clear()
            (progress or Quiet()).step(0.05, "building the scene")
            self._lit = prepare(build_scene(project), progress=progress)
            self._key = key
        solve(self._lit, [emitter_of(m) for m in project.lamps], progress)
        return self._lit

    def meters(
        self, project: Project, moment: str = "", amps: dict[str, float] | None = None, progress: Progress | None = None
    ) -> LightResult:
        """Every meter by final gather, and the evenness of floor and scenery."""
        lit = self.lit(project, progress)
        emitters = [emitter_of(m) for m in project.lamps]
        power = strengths(project, moment, amps)
        found = []
        for meter in project.meters:
            key = (meter.x, meter.y, meter.z, meter.nx, meter.ny, meter.nz, tuple(emitters))
            if key not in self._meters:
                normal = np.array([[meter.nx, meter.ny, meter.nz]])
                length = float(np.linalg.norm(normal))
                normal = normal / length if length > 1e-9 else np.array([[0.0, 0.0, 1.0]])
                self._meters[key] = gather(lit, emitters, np.array([[meter.x, meter.y, meter.z]]), normal)[0]
            each = self._meters[key] * power
            bands = each.sum(0)
            by_lamp = {m.id: float(lux(each[i])) for i, m in enumerate(project.lamps)}
            found.append(MeterLight(meter.id, (float(bands[0]), float(bands[1]), float(bands[2])), float(lux(bands)), by_lamp))
        return LightResult(moment or project.moment, tuple(found), areas(project, lit, emitters, power))

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
        emitters = [emitter_of(m) for m in project.lamps]
        return self.picture(project, seat, width, progress).luminance(emitters, strengths(project, moment, amps))

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
