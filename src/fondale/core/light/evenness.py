"""How even an area is lit: U0 = E_min / E_mean, the definition of [en12464]."""

from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.emitters import Emitter
from fondale.core.light.solver import Lit, solve
from fondale.core.light.strength import lux
from fondale.core.model import PIECES, Project
from fondale.core.shapes import kind_of
from fondale.core.stage.scene import CASE


@dataclass(frozen=True)
class AreaLight:
    """Illuminance in lux on one horizontal area: the top of a piece, or the floor (an empty id)."""

    piece: str
    mean_lx: float
    min_lx: float
    max_lx: float
    evenness: float

    def name(self, project: Project) -> str:
        """What the area is called."""
        return project.get(PIECES, self.piece).name if self.piece else "Floor"


def patch_lux(lit: Lit, emitters: list[Emitter], strength: Floats) -> Floats:
    """Illuminance (patches,) in lux for lamps of ``strength`` (lamps, 3)."""
    solve(lit, emitters)
    total = np.zeros((lit.patches.n, 3))
    for emitter, bands in zip(emitters, strength, strict=True):
        basis = lit.bases[emitter]
        total += (basis.direct[:, None] + basis.bounced) * bands
    return lux(total)


def areas(project: Project, lit: Lit, emitters: list[Emitter], strength: Floats) -> tuple[AreaLight, ...]:
    """The floor and the top of every block of scenery, covered places left out."""
    values, patches, scene = patch_lux(lit, emitters, strength), lit.patches, lit.scene
    out = []
    count = patches.s_count * patches.t_count
    for r in range(len(scene.rects)):
        owner = scene.rect_owner[r]
        level = scene.normal[2 * r, 2] > 0.99
        block = owner != CASE and project.pieces[owner].role == "scenery" and kind_of(project.pieces[owner].shape).evens()
        if not level or not (owner == CASE or block):
            continue
        these = np.arange(patches.base[r], patches.base[r] + count[r])
        these = these[~lit.covered[these]]
        if not len(these):
            continue
        e, a = values[these], patches.area[these]
        mean = float((e * a).sum() / a.sum())
        piece = "" if owner == CASE else project.pieces[owner].id
        out.append(AreaLight(piece, mean, float(e.min()), float(e.max()), float(e.min() / mean) if mean > 0 else 0.0))
    return tuple(out)
