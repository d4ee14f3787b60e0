"""How even an area is lit: U0 = E_min / E_mean on a grid of meters, both by [en12464]."""

import math
from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.light.solver import shut_in
from fondale.core.light.strength import lux
from fondale.core.model import PIECES, Project
from fondale.core.shapes import kind_of
from fondale.core.stage.scene import CASE, Scene

MOST_SPACING_M, LONG = 10.0, 2.0  # the grid's greatest spacing in life; from which ratio of its sides on the shorter one tells
FEWEST = 3  # meters along a side


@dataclass(frozen=True)
class AreaLight:
    """Illuminance in lux on one horizontal area: the top of a piece, or the floor (an empty id); by how many meters it is known."""

    piece: str
    mean_lx: float
    min_lx: float
    max_lx: float
    evenness: float
    meters: int = 0

    def name(self, project: Project) -> str:
        """What the area is called."""
        return project.get(PIECES, self.piece).name if self.piece else "Floor"


def spacing_mm(long_mm: float, wide_mm: float, house_n: float) -> float:
    """How far apart the meters of an area stand: p = 0.2 x 5^(log10 d) in life, d its longer side in metres, or the shorter of a long one."""
    d = (wide_mm if long_mm >= LONG * wide_mm else long_mm) * house_n / 1000
    return min(0.2 * 5 ** math.log10(max(d, 1e-3)), MOST_SPACING_M) * 1000 / house_n


@dataclass(frozen=True)
class Area:
    """A level area to be measured: whose it is, and its meters (k, 3), where nothing stands on it."""

    piece: str
    points: Floats


def find_areas(project: Project, scene: Scene) -> tuple[Area, ...]:
    """The floors and the tops of blocks of scenery, with their meters."""
    points: dict[str, list[Floats]] = {}
    for r in range(len(scene.rects)):
        owner = int(scene.rect_owner[r])
        block = owner != CASE and project.pieces[owner].role == "scenery" and kind_of(project.pieces[owner].shape).evens()
        if scene.normal[2 * r, 2] > 0.99 and (owner == CASE or block):
            points.setdefault("" if owner == CASE else project.pieces[owner].id, []).append(_grid(scene.rects[r], project.brief.house_n))
    out = []
    for piece, found in points.items():
        at = np.concatenate(found)
        at = at[~shut_in(scene, at, np.tile([0.0, 0.0, 1.0], (len(at), 1)))]
        if len(at):
            out.append(Area(piece, at))
    return tuple(out)


def _grid(rect: Floats, house_n: float) -> Floats:
    corner, u, v = rect
    long, wide = float(np.linalg.norm(u)), float(np.linalg.norm(v))
    step = spacing_mm(max(long, wide), min(long, wide), house_n)
    m, n = (max(FEWEST, math.ceil(side / step - 1e-9)) for side in (long, wide))
    s, t = np.meshgrid((np.arange(m) + 0.5) / m, (np.arange(n) + 0.5) / n)
    out: Floats = corner + s.ravel()[:, None] * u + t.ravel()[:, None] * v
    return out


def area_light(area: Area, bands: Floats) -> AreaLight:
    """How an area is lit by what its meters read in three bands (k, 3)."""
    values = lux(bands)
    mean, least = float(values.mean()), float(values.min())
    return AreaLight(area.piece, mean, least, float(values.max()), least / mean if mean > 0 else 0.0, len(values))
