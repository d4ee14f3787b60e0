# SPDX-License-Identifier: MIT
"""Light against [radiance], on scenes of our own."""

from datetime import date
from pathlib import Path

import numpy as np
import pytest

from fondale.core.bodies.parts import EXTRA, FACE, SHIRT
from fondale.core.edits import new_project
from fondale.core.emitters import Emitter
from fondale.core.emitters.point import Point
from fondale.core.light.receivers import gather
from fondale.core.light.solver import prepare
from fondale.core.model import Case, Measure, Piece, Place
from fondale.core.model.shapes import Figure, Opening, Wall
from fondale.core.shapes.figures import body_of
from fondale.core.stage.scene import Scene, build_scene

pr = pytest.importorskip("pyradiance")

BULB_MM = 1.5
SHAPES = (
    Figure(extras=("coat", "cap")),
    Figure(person="woman", pose="contrapposto", extras=("long coat", "hat")),
    Figure(person="boy_12", pose="sitting_ground"),
)
LAMPS = [Point((120.0, 90.0, 249.0), (0.0, 0.0, -1.0), 1.0), Point((300.0, 150.0, 249.0), (0.0, 0.0, -1.0), 1.0)]
BEHIND = [Point((210.0, 225.0, 249.0), (0.0, 0.0, -1.0), 1.0), Point((90.0, 60.0, 249.0), (0.0, 0.0, -1.0), 1.0)]
PARAMS = ["-ab", "10", "-ad", "20000", "-as", "0", "-aa", "0", "-lw", "4e-5", "-ds", "0.1", "-dc", "1", "-dt", "0"]


def grey_case(floor: float, wall: float, ceiling: float) -> Case:
    grey = {name: (share, share, share) for name, share in (("floor_paint", floor), ("wall_paint", wall), ("ceiling_paint", ceiling))}
    return Case(kind="closed box", width=420, depth=260, height=250, **grey)


def closed_box() -> Scene:
    case = grey_case(0.4, 0.6, 0.7)
    return build_scene(new_project("Box", date(2026, 1, 1)).model_copy(update={"case": case}))


def doorway() -> Scene:
    wall = Wall(length=420, height=250, thickness=8, openings=(Opening(x=180, width=60, height=90),))
    project = new_project("Doorway", date(2026, 1, 1))
    case = grey_case(0.5, 0.5, 0.5)
    piece = Piece(id="wall", name="Wall", shape=wall, place=Place(x=210, y=180, z=0), role="scenery", paint=(0.5, 0.5, 0.5))
    return build_scene(project.model_copy(update={"case": case, "pieces": (piece,)}))


def people() -> Scene:
    """Three dressed figures of 54 mm line before a wall."""
    pieces = tuple(
        Piece(id=f"p{i}", name=f"P{i}", shape=shape, measure=Measure(mm=mm), place=Place(x=170 + 45 * i, y=110, z=0, turn_deg=20 * i - 20))
        for i, (shape, mm) in enumerate(zip(SHAPES, (54, 51, 24), strict=True))
    )  # fmt: skip
    case = grey_case(0.4, 0.5, 0.6)
    return build_scene(new_project("People", date(2026, 1, 1)).model_copy(update={"case": case, "pieces": pieces}))


def on_cheeks_and_coats(scene: Scene) -> tuple[np.ndarray, np.ndarray]:
    """Cells of half a millimetre over faces, coats and shirts: eight on the larger triangles of each, on all sides."""
    rng, points, normals = np.random.default_rng(2), [], []
    for owner, part in ((0, FACE), (0, EXTRA), (1, FACE), (1, EXTRA), (2, FACE), (2, SHIRT)):
        tris = scene.tris[scene.tri_owner == owner][body_of(SHAPES[owner]).part == part]
        n = np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0])
        area = np.linalg.norm(n, axis=1)
        n /= np.linalg.norm(n, axis=1, keepdims=True)
        at = tris.mean(1) + 0.5 * n
        prim, free = scene.rays.hit(at, n)
        outside = (scene.normal[prim] * n).sum(1) < 0  # what it sees faces it
        pick = rng.choice(np.flatnonzero((area > np.median(area)) & (free > 4.0) & outside), 8, replace=False)  # not within a fold
        points.append(at[pick])
        normals.append(n[pick])
    return np.concatenate(points), np.concatenate(normals)


def meters(_scene: Scene) -> tuple[np.ndarray, np.ndarray]:
    """Twelve small flat cells: a grid 1 mm over the floor, two standing on their edge, some high up."""
    at = [(x, y, 1.0, 0, 0, 1) for x in (60, 210, 350) for y in (50, 130)]
    at += [
        (60, 100, 60, 1, 0, 0),
        (350, 120, 60, -1, 0, 0),
        (210, 100, 80, 0, -1, 0),
        (150, 60, 120, 0, 1, 0),
        (210, 60, 40, 0, 1, 0),
        (250, 140, 90, 0, 0, 1),
    ]
    both = np.array(at, float)
    return both[:, :3], both[:, 3:]


def by_radiance(scene: Scene, lamps: list[Emitter], points: np.ndarray, normals: np.ndarray, tmp_path: Path) -> np.ndarray:
    lines = []
    for i, tri in enumerate(scene.all_tris):
        paint = np.repeat(scene.rect_paint, 2, axis=0)[i] if i < 2 * len(scene.rects) else scene.tri_paint[i - 2 * len(scene.rects)]
        lines.append(f"void plastic m{i} 0 0 5 {paint[0]} {paint[1]} {paint[2]} 0 0")
        lines.append(f"m{i} polygon p{i} 0 0 9 " + " ".join(f"{v:.6f}" for v in tri.ravel()))
    strength = 1.0 / (np.pi * BULB_MM**2) * 1e6
    lines.append(f"void light bulb 0 0 3 {strength} {strength} {strength}")
    for i, lamp in enumerate(lamps):
        x, y, z = lamp.at
        lines.append(f"bulb ring r{i} 0 0 8 {x} {y} {z} 0 0 -1 0 {BULB_MM}")
    source = tmp_path / "scene.rad"
    source.write_text("\n".join(lines))
    octree = tmp_path / "scene.oct"
    octree.write_bytes(pr.oconv(str(source), warning=False))
    rays = "\n".join(" ".join(f"{v:.6f}" for v in (*p, *n)) for p, n in zip(points, normals, strict=True))
    out = pr.rtrace(rays.encode(), octree, header=False, irradiance=True, params=PARAMS)
    return np.array([float(line.split()[1]) for line in out.decode().strip().splitlines()])


@pytest.mark.slow
@pytest.mark.parametrize(
    ("make", "at", "lamps"), [(closed_box, meters, LAMPS), (doorway, meters, BEHIND), (people, on_cheeks_and_coats, LAMPS)]
)
def test_meters_agree_with_radiance(make, at, lamps, tmp_path):
    scene = make()
    points, normals = at(scene)
    ours = gather(prepare(scene), lamps, points, normals)[:, :, 0].sum(1)
    theirs = by_radiance(scene, lamps, points, normals, tmp_path)
    error = np.abs(ours / theirs - 1)
    assert error.mean() < 0.015
    assert np.percentile(error, 95) < 0.05
