"""Outlines of bodies as seen from the side of the bench: unions of projected triangles."""

from functools import lru_cache

import numpy as np
import shapely

from fondale.core.arrays import Floats
from fondale.core.bodies.animals import animal
from fondale.core.bodies.mannequin import lies, mannequin

Outline = tuple[Floats, ...]


def silhouette(tris: Floats, turn_deg: float = 38.0) -> Outline:
    """Rings (k, 2) of the outline of ``tris`` (n, 3, 3) turned about the vertical: x right, y up.

    Outer rings and holes alike; fill with the odd-even rule.
    """
    a = np.radians(turn_deg)
    flat = np.stack([tris[..., 0] * np.cos(a) - tris[..., 1] * np.sin(a), tris[..., 2]], -1)
    e1, e2 = flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]
    cross = e1[:, 0] * e2[:, 1] - e1[:, 1] * e2[:, 0]
    polys = shapely.polygons(flat[np.abs(cross) > 1e-12 * max(1.0, float(np.abs(flat).max()) ** 2)])
    shape = shapely.union_all(polys, grid_size=float(np.abs(flat).max()) * 1e-5)
    shape = shapely.simplify(shape, float(np.abs(flat).max()) * 1e-3)
    rings: list[Floats] = []
    for poly in shapely.get_parts(shape):
        if poly.geom_type == "Polygon" and not poly.is_empty:
            rings.append(np.asarray(poly.exterior.coords))
            rings.extend(np.asarray(hole.coords) for hole in poly.interiors)
    return tuple(rings)


@lru_cache(maxsize=256)
def figure_outline(pose: str, person: str = "man", extras: tuple[str, ...] = (), heroic: bool = False, build: str = "plain") -> Outline:
    """The outline of a mannequin in fractions of stature; of one that lies, its whole length."""
    tris = mannequin(pose, person, extras, heroic, build).tris
    return silhouette(tris, 90.0) if lies(pose) else silhouette(tris)


@lru_cache(maxsize=8)
def animal_outline(species: str) -> Outline:
    """The outline of an animal in fractions of its own measure, seen from the side."""

    return silhouette(animal(species), 90.0)
