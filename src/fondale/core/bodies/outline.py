"""Outlines of bodies as seen from the side of the bench: closed bodies are projected whole, others triangle by triangle."""

from functools import lru_cache

import numpy as np
import shapely

from fondale.core.arrays import Floats
from fondale.core.bodies.animals import animal
from fondale.core.bodies.figure import figure
from fondale.core.bodies.poses import lies

Outline = tuple[Floats, ...]


def silhouette(tris: Floats, turn_deg: float = 38.0) -> Outline:
    """Rings (k, 2) of the outline of ``tris`` (n, 3, 3) turned about the vertical: x right, y up.

    Outer rings and holes alike; fill with the odd-even rule.
    """
    closed = _projected(tris, turn_deg)
    return closed if closed else _united(tris, turn_deg)


def _projected(tris: Floats, turn_deg: float) -> Outline:
    """The outline of a closed body, or nothing where it is not."""
    import manifold3d as m3

    points, corner = np.unique(tris.reshape(-1, 3).astype(np.float32), axis=0, return_inverse=True)
    solid = m3.Manifold(m3.Mesh(np.ascontiguousarray(points), np.ascontiguousarray(corner.reshape(-1, 3), np.uint32)))
    if solid.status() != m3.Error.NoError or solid.is_empty():
        return ()
    # Upright becomes y, depth becomes z: the projection is along z.
    flat = solid.rotate([0, 0, turn_deg]).rotate([-90, 0, 0]).project().simplify(float(np.abs(points).max()) * 1e-3)
    return tuple(np.vstack([ring, ring[:1]]) for ring in (np.asarray(r, float) for r in flat.to_polygons()))


def _united(tris: Floats, turn_deg: float) -> Outline:
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
    """The outline of a person in shares of stature; of one that lies, the whole length."""
    tris = figure(pose, person, extras, heroic, build).tris
    return silhouette(tris, 90.0) if lies(pose) else silhouette(tris)


@lru_cache(maxsize=32)
def animal_outline(species: str, rests: bool = False) -> Outline:
    """The outline of an animal in shares of its own measure when it stands, seen from the side."""
    return silhouette(animal(species, rests).tris, 90.0)
