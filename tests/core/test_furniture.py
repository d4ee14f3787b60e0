# SPDX-License-Identifier: MIT
"""Furniture of a scene: true to its sizes, closed, and true to life at the house scale."""

import numpy as np
import pytest

from fondale.core.edits import apply
from fondale.core.edits.new_things import add_piece
from fondale.core.model import PIECES, Piece, Place
from fondale.core.model.shapes import Furniture
from fondale.core.shapes import FURNITURE
from fondale.core.shapes.furniture import BUILDERS
from fondale.core.stage.scene import rest_places
from fondale.core.stage.solids import solid_of
from fondale.core.stage.weights import volume_of
from fondale.knowledge import table


def test_every_row_has_its_module_and_every_module_its_row():
    assert set(BUILDERS) == set(table("furniture"))


@pytest.mark.parametrize("what", list(BUILDERS))
@pytest.mark.parametrize("size", [(40.0, 30.0, 60.0), (90.0, 12.0, 25.0)])
def test_furniture_fills_its_sizes_and_stands_on_the_ground(what, size):
    solid = solid_of(Piece(id="a", name="A", shape=Furniture(what=what, width=size[0], depth=size[1], height=size[2])))
    corners = solid.corners()
    assert corners[:, 2].min() == pytest.approx(0.0, abs=0.02)
    assert np.ptp(corners, axis=0)[2] == pytest.approx(size[2], rel=0.04)
    assert (np.ptp(corners, axis=0)[:2] <= np.array(size[:2]) * 1.03 + 0.1).all()
    if what not in ("lamp_post", "tree"):
        assert np.ptp(corners, axis=0)[:2] == pytest.approx(size[:2], rel=0.35)
    volume, _centre = volume_of(solid)
    assert 0 < volume < np.prod(size)


@pytest.mark.parametrize("what", list(BUILDERS))
def test_faces_look_outwards(what):
    """Every rectangle of a plank and every round part by itself has a volume above zero."""
    solid = solid_of(Piece(id="a", name="A", shape=Furniture(what=what, width=40, depth=30, height=60)))
    assert len(solid.tris) + len(solid.rects) > 5
    assert len(solid.tris) <= 4000
    for k in np.unique(solid.groups // 6):
        tris = solid.tris[solid.groups // 6 == k]
        assert np.einsum("ij,ij->i", tris[:, 0], np.cross(tris[:, 1], tris[:, 2])).sum() > 0


def test_at_the_house_scale_it_is_as_large_as_in_life(empty):
    project = empty.but(brief=empty.brief.but(house_n=24.0))
    for kind in FURNITURE:
        edit, ident = add_piece(project, kind)
        project = apply(project, edit)
        shape = project.get(PIECES, ident).shape
        real = table("furniture")[shape.what]["real"]
        assert (shape.width * 24, shape.depth * 24, shape.height * 24) == pytest.approx(real, abs=0.3)


def test_a_table_carries_and_a_ladder_does_not(empty):
    stand = Piece(
        id="table", name="Table", role="scenery", shape=Furniture(what="table", width=40, depth=20, height=21), place=Place(x=100, y=100)
    )
    cup = Piece(id="cup", name="Cup", shape=Furniture(what="barrel", width=3, depth=3, height=4), place=Place(x=105, y=100))
    assert rest_places(empty.but(pieces=(stand, cup)))["cup"].z == 21
    ladder = stand.but(shape=Furniture(what="ladder", width=10, depth=2, height=80))
    assert rest_places(empty.but(pieces=(ladder, cup.but(place=Place(x=100, y=100)))))["cup"].z == 0
