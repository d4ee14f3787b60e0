# SPDX-License-Identifier: MIT
"""How even an area is lit: U0 = E_min / E_mean on a grid of meters, both by [en12464]."""

import math
from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.how import How, Told, cite
from fondale.core.light.solver import shut_in
from fondale.core.light.strength import lux
from fondale.core.model import AREAS, PIECES, Area, Project
from fondale.core.shapes import kind_of
from fondale.core.stage.scene import CASE, Scene, height_at
from fondale.core.words import clipped, digits, lux_known

MOST_SPACING_M, LONG = 10.0, 2.0  # the grid's greatest spacing in life; from which ratio of its sides on the shorter one tells
FEWEST, MOST = 3, 20  # meters along a side
NAMES_MOST = 26
LEVEL_MM = 0.5  # what is no farther off lies level


@dataclass(frozen=True)
class AreaLight:
    """Illuminance in lux on one level area: one that the maker named, the top of a piece, or the floor (empty ids); by how many meters it is
    known, and the standard error of the mean.
    """

    area: str
    piece: str
    mean_lx: float
    min_lx: float
    max_lx: float
    evenness: float
    meters: int = 0
    error: float = 0.0

    def name(self, project: Project) -> str:
        """What the area is called."""
        if self.area:
            return project.get(AREAS, self.area).name
        return project.get(PIECES, self.piece).name if self.piece else "Floor"


def spacing_mm(long_mm: float, wide_mm: float, house_n: float) -> float:
    """How far apart the meters of an area stand: p = 0.2 x 5^(log10 d) in life, d its longer side in metres, or the shorter of a long one."""
    d = (wide_mm if long_mm >= LONG * wide_mm else long_mm) * house_n / 1000
    return min(0.2 * 5 ** math.log10(max(d, 1e-3)), MOST_SPACING_M) * 1000 / house_n


@dataclass(frozen=True)
class Grid:
    """The meters (k, 3) of an area, where nothing stands on it; whose it is."""

    area: str
    piece: str
    points: Floats


def level_of(project: Project, area: Area) -> float:
    """How high an area lies in the case."""
    return area.z if area.z is not None else height_at(project, area.x + area.width / 2, area.y + area.depth / 2)


def named_grids(project: Project, scene: Scene) -> tuple[Grid, ...]:
    """The areas that the maker named, with their meters."""
    out = []
    for area in project.areas:
        level = level_of(project, area)
        rect = np.array([[area.x, area.y, level], [area.width, 0.0, 0.0], [0.0, area.depth, 0.0]])
        points = _grid(rect, project.brief.house_n)
        if area.z is None:
            points = points[[abs(height_at(project, x, y) - level) < LEVEL_MM for x, y, _z in points.tolist()]]
        out.append(Grid(area.id, "", _free(scene, points)))
    return tuple(g for g in out if len(g.points))


def plain_grids(project: Project, scene: Scene) -> tuple[Grid, ...]:
    """The floors and the tops of blocks of scenery, with their meters."""
    points: dict[str, list[Floats]] = {}
    for r in range(len(scene.rects)):
        owner = int(scene.rect_owner[r])
        block = owner != CASE and project.pieces[owner].role == "scenery" and kind_of(project.pieces[owner].shape).evens()
        if scene.normal[2 * r, 2] > 0.99 and (owner == CASE or block):
            points.setdefault("" if owner == CASE else project.pieces[owner].id, []).append(_grid(scene.rects[r], project.brief.house_n))
    out = [Grid("", piece, _free(scene, np.concatenate(found))) for piece, found in points.items()]
    return tuple(g for g in out if len(g.points))


def _free(scene: Scene, points: Floats) -> Floats:
    return points[~shut_in(scene, points, np.tile([0.0, 0.0, 1.0], (len(points), 1)))]


def _grid(rect: Floats, house_n: float) -> Floats:
    corner, u, v = rect
    long, wide = float(np.linalg.norm(u)), float(np.linalg.norm(v))
    step = spacing_mm(max(long, wide), min(long, wide), house_n)
    m, n = (min(max(FEWEST, math.ceil(side / step - 1e-9)), MOST) for side in (long, wide))
    s, t = np.meshgrid((np.arange(m) + 0.5) / m, (np.arange(n) + 0.5) / n)
    out: Floats = corner + s.ravel()[:, None] * u + t.ravel()[:, None] * v
    return out


def area_light(grid: Grid, bands: Floats) -> AreaLight:
    """How an area is lit by what its meters read in three bands, found out twice (2, k, 3)."""
    twice = lux(bands)
    values = twice.mean(0)
    mean, least = float(values.mean()), float(values.min())
    error = float(np.sqrt((((twice[0] - twice[1]) / 2) ** 2).sum())) / len(values)
    return AreaLight(grid.area, grid.piece, mean, least, float(values.max()), least / mean if mean > 0 else 0.0, len(values), error)


def area_told(project: Project, area: Area, found: AreaLight | None, solved: bool, refined: bool = True) -> Told:
    """The light on an area that the maker named: its mean, and how even it is; ``solved``: whether the light of the project as it is is known."""
    name = clipped(area.name, NAMES_MOST)
    if found is None and solved:
        return Told(
            f"{name} covered",
            How(area.name, "Something stands on all of it, or it lies in something: move it, or set its height.", "", "Lamps"),
        )
    if found is None:
        return Told(f"{name} …", How(area.name, "Being solved.", "", "Lamps"))
    said = f"{digits(found.evenness, 2)} even, {lux_known(found.mean_lx, found.error, refined)}"
    step = spacing_mm(max(area.width, area.depth), min(area.width, area.depth), project.brief.house_n)
    formula = (
        f"{found.meters} meters where nothing stands; the standard’s grid is {digits(step, 0)} mm here (0.2 × 5^(log d) in life),"
        f" {FEWEST} to {MOST} along a side.\n"
        f"Least {digits(found.min_lx, 1)} lx, most {digits(found.max_lx, 1)} lx, mean {digits(found.mean_lx, 1)} lx; U0 = least / mean"
    )
    return Told(f"{name} {said}", How(area.name, formula, said, cite("en12464")))
