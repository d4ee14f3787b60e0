# SPDX-License-Identifier: MIT
"""What is as large as a hall costs no more than what is as large as a shelf: grids and patches grow with it.

A random edit made a case 100 m wide, and all the memory of the machine went into the places of one backdrop.
"""

import contextlib
import tracemalloc

import pytest

from fondale.core.derived import QUICK
from fondale.core.edits import apply, new_project
from fondale.core.edits.new_things import add_piece
from fondale.core.light.patches import MOST_PATCHES, cut_patches
from fondale.core.light.solver import PATCH_MM
from fondale.core.limits import LARGEST_MM
from fondale.core.model import Project
from fondale.core.prompts.sight import backdrop_edges
from fondale.core.reckoning import Look, Reckoner
from fondale.core.shapes import KINDS
from fondale.core.shapes.brought import NoBody
from fondale.core.stage.scene import build_scene
from fondale.core.views.backdrops import FINER, _bounds, step_of
from fondale.core.views.sight import GRID_MOST, floor_grid
from tests.conftest import TODAY


def all_kinds(mm: float) -> Project:
    """One piece of each kind in a case of so many mm along each side."""
    project = new_project("All kinds", TODAY)
    for kind in KINDS:
        with contextlib.suppress(NoBody):
            project = apply(project, add_piece(project, kind)[0])
    return project.but(case=project.case.but(width=mm, depth=mm, height=mm))


@pytest.mark.parametrize("mm", [3000.0, LARGEST_MM])
def test_what_follows_at_once_stays_within_its_memory(mm):
    project = all_kinds(mm)
    tracemalloc.start()
    try:
        derived = Reckoner().derive(project, Look(TODAY), QUICK)
        assert tracemalloc.get_traced_memory()[1] < 400e6
    finally:
        tracemalloc.stop()
    # A backdrop that all of a hall should be covered by is no larger than anything may be.
    assert any(f.code == "STAGE-EDGE" for f in backdrop_edges(project, derived))


def test_floors_and_walls_are_cut_into_so_many_pieces_at_most():
    project = all_kinds(LARGEST_MM)
    assert len(floor_grid(project.case)) == GRID_MOST**2
    scene = build_scene(project)
    assert cut_patches(scene, PATCH_MM).n < 1.2 * MOST_PATCHES + len(scene.group)
    shelf = build_scene(all_kinds(900.0))
    assert cut_patches(shelf, PATCH_MM).n > 5 * 900**2 / PATCH_MM**2  # what is no hall is cut as ever


@pytest.mark.parametrize("size", [400.0, 3000.0, LARGEST_MM])
def test_the_ends_of_what_is_seen_are_found_to_a_sixteenth_of_a_cell(size):
    """What is seen is a rectangle that is known."""
    want = (-0.31 * size, 0.173 * size, 0.052 * size, 0.41 * size)

    def seen(x, z):
        return (x > want[0]) & (x < want[1]) & (z > want[2]) & (z < want[3])

    assert _bounds(seen, size, size / 2, 0.0) == pytest.approx(want, abs=1.01 * step_of(size) / FINER)
