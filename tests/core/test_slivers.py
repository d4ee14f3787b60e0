# SPDX-License-Identifier: MIT
"""No cut leaves a part too thin to hold: judged on what is really cut, part by part."""

import numpy as np
import pytest
import trimesh

from fondale.app.errands import cut_task, seek_task
from fondale.core.model import Cut
from fondale.core.prints.body import Body, measure
from fondale.core.prints.cutting import cut, plan_cuts
from fondale.core.prints.jobs import fits_build
from fondale.core.prints.slivers import LEAST_PART_MM, clear_of_slivers, cleared_words, part_box
from fondale.core.progress import Quiet
from tests.core.test_prints import body, file_of


def thinnest_piece(made, cuts, size):
    """The least extent across a cut of any connected piece that lies at it, told by trimesh."""
    least = np.inf
    for part in made.bodies:
        for piece in trimesh.Trimesh(part.vertices, part.faces, process=True).split(only_watertight=False):
            low, high = piece.bounds
            for axis, at in cuts:
                i = "xyz".index(axis)
                if min(abs(low[i] - at), abs(high[i] - at)) < 1e-3:
                    least = min(least, high[i] - low[i])
    return least


def turned(mesh, angle, way):
    mesh = mesh.copy().apply_transform(trimesh.transformations.rotation_matrix(angle, way))
    return Body(np.asarray(mesh.vertices - mesh.bounds[0]), np.asarray(mesh.faces, np.int64))


def foreign(seed):
    """A body nobody planned for: spikes, rings and plates joined, turned at random, 150 to 400 mm long."""
    rng = np.random.default_rng(seed)
    parts = [trimesh.creation.icosphere(subdivisions=3, radius=40)]
    for _k in range(6):
        spike = trimesh.creation.cone(radius=rng.uniform(4, 12), height=rng.uniform(50, 110), sections=24)
        spike.apply_transform(trimesh.transformations.random_rotation_matrix(rng.random(3)))
        spike.apply_translation(rng.uniform(-25, 25, 3))
        parts.append(spike)
    ring = trimesh.creation.torus(55, 6, major_sections=40, minor_sections=16)
    parts.append(ring.apply_translation(rng.uniform(-30, 30, 3)))
    whole = trimesh.boolean.union(parts, engine="manifold")
    return turned(whole.apply_scale(rng.uniform(1.0, 2.0)), rng.uniform(0, 3), rng.normal(size=3))


def places(cuts, size):
    return tuple((a, share * size["xyz".index(a)]) for a, share in cuts)


def test_equal_cuts_alone_leave_slivers():
    """What this is for: some of the bodies below, cut evenly, leave parts of less than a millimetre."""
    thin = []
    for seed in range(12):
        b = foreign(seed)
        size = measure(b).size
        at = places(plan_cuts(size, (80.0, 80.0, 90.0), keyed=False), size)
        thin.append(thinnest_piece(cut(b, at, None), at, size))
    assert min(thin) < 1.0


@pytest.mark.parametrize("seed", range(12))
def test_planned_cuts_leave_no_sliver_and_every_part_still_fits(seed):
    b, build = foreign(seed), (80.0, 80.0, 90.0)
    size = measure(b).size
    at = places(plan_cuts(size, build, keyed=False), size)

    def fits(planes):
        return fits_build(part_box(planes, size, keyed=False), build)

    moved = clear_of_slivers(b, at, fits).planes
    made = cut(b, moved, None)
    assert all(fits_build(measure(p).size, build) for p in made.bodies)
    assert thinnest_piece(made, moved, size) >= LEAST_PART_MM - 0.01
    assert made.error < 1e-9


def test_a_cut_by_hand_at_the_very_end_goes_aside():
    # A box of 40 mm with a rail of 0.4 mm on top: a cut at 40 mm would leave the rail alone.
    whole = trimesh.boolean.union(
        [trimesh.creation.box((30, 30, 40)), trimesh.creation.box((10, 10, 0.8)).apply_translation([0, 0, 20])], engine="manifold"
    )
    b = body(whole)
    ((axis, at),) = clear_of_slivers(b, (("z", 40.0),), lambda planes: True).planes
    assert axis == "z"
    assert at == pytest.approx(40.4 - LEAST_PART_MM, abs=0.1)
    assert clear_of_slivers(b, (("z", 20.0),), lambda planes: True).planes == (("z", 20.0),)
    # Where nothing else fits, it stays.
    left = clear_of_slivers(b, (("z", 40.0),), lambda planes: planes == (("z", 40.0),))
    assert left.planes == (("z", 40.0),)
    assert left.left == (("z", 40.0, pytest.approx(0.4)),)
    assert "a piece only 0.4 mm thick" in cleared_words((("z", 40.0),), left)


def test_a_small_body_is_cut_in_half_all_the_same():
    assert clear_of_slivers(body(trimesh.creation.box((8, 8, 4))), (("z", 2.0),), lambda planes: True).planes == (("z", 2.0),)


def test_both_errands_move_what_would_leave_a_sliver(tmp_path):
    b = foreign(0)
    data = trimesh.Trimesh(b.vertices, b.faces).export(file_type="stl")
    size = measure(b).size
    at = plan_cuts(size, (80.0, 80.0, 90.0))
    cuts = tuple(Cut(id=f"c{k}", axis=a, at=s) for k, (a, s) in enumerate(at))
    file = file_of(b, cuts=cuts)
    done = cut_task(Quiet(), data, file, None, "", ".stl", 0.1, (80.0, 80.0, 90.0))
    assert min(min(s) for s in done.sizes) >= 1.0
    assert done.cuts != cuts
    sought = seek_task(Quiet(), data, file.but(cuts=()), cuts, (80.0, 80.0, 90.0))
    found = places([(c.axis, c.at) for c in sought], size)
    assert thinnest_piece(cut(b, found, None), found, size) >= LEAST_PART_MM - 0.05
