# SPDX-License-Identifier: MIT
"""What is added stands free, can be reached, and is in step with no other."""

import pytest

from fondale.core.edits import apply, put
from fondale.core.edits.new_things import add_piece, surfaces_named
from fondale.core.edits.places import free_place
from fondale.core.edits.wiring import add_lamp
from fondale.core.model import PRINTS, PROJECT, Piece, Place, PrintFile, Surface
from fondale.core.model.shapes import Box, Ground, Mesh, Room
from fondale.core.shapes import KINDS
from fondale.core.stage.clearance import clashes, footprint, outside
from fondale.core.stage.solids import measured_height
from fondale.knowledge import table


@pytest.mark.parametrize("kind", [k for k in KINDS if k.words], ids=lambda k: k.words)
def test_three_of_a_kind_stand_beside_each_other(empty, kind):
    project = apply(
        empty, put(PROJECT.then(lambda p: p.case.width), 900.0, "Wide"), put(PROJECT.then(lambda p: p.case.depth), 600.0, "Deep")
    )
    for _ in range(3):
        edit, _ident = add_piece(project, kind)
        project = apply(project, edit)
    assert len({(p.place.x, p.place.y) for p in project.pieces}) == 3
    assert not clashes(project)
    assert not outside(project)


def test_a_full_case_takes_the_middle(empty):
    project = apply(
        empty, put(PROJECT.then(lambda p: p.case.width), 12.0, "Narrow"), put(PROJECT.then(lambda p: p.case.depth), 12.0, "Shallow")
    )
    for _ in range(3):
        edit, _ident = add_piece(project, KINDS[0])
        project = apply(project, edit)
    assert (project.pieces[-1].place.x, project.pieces[-1].place.y) == (6, 6)


def test_lamps_hang_apart_and_flicker_apart(empty):
    project = apply(empty, put(PROJECT.then(lambda p: p.case.width), 100_000.0, "Vast"))
    for _ in range(20):
        project = apply(project, add_lamp(project)[0])
    spots = {(m.x, m.y) for m in project.lamps}
    assert len(spots) == len({m.seed for m in project.lamps}) == 20


def test_what_is_added_on_the_bench_lies_on_the_shelf(empty):
    for kind in (k for k in KINDS if k.words):
        edit, ident = add_piece(empty, kind, placed=False)
        piece = apply(empty, edit).pieces[0]
        assert (piece.id, piece.role, piece.place) == (ident, "piece", None)


def test_a_new_figure_is_as_high_as_the_house_scale_has_it(empty):
    # A mean man of the table at 1:6 is a sixth of his stature, and a cat of 250 mm at the shoulder 41.7 mm; nobody has measured them.
    man = table("body")["people"]["man"]["mean_mm"]
    project = empty.but(brief=empty.brief.but(house_n=6))
    for kind, mm in ((k, m) for k in KINDS for m in ({"Figure": man / 6, "Animal": 250 / 6}.get(k.words),) if m):
        edit, _ident = add_piece(project, kind)
        piece = apply(project, edit).pieces[0]
        assert piece.measure is None
        assert measured_height(piece) == pytest.approx(mm, rel=0.01)
        footprint(piece, piece.place)


def test_what_comes_from_the_bench_stands_free(empty):
    shed = Piece(id="shed", name="Shed", shape=Room(width=80, depth=60, height=60), role="scenery", place=Place(x=150, y=100))
    ground = Piece(id="ground", name="Ground", shape=Ground(width=298, depth=198), role="scenery", place=Place(x=150, y=100))
    barrel = Piece(id="barrel", name="Barrel", shape=Box(width=10, depth=10, height=15))
    for there in ((shed,), (ground, shed)):
        project = empty.but(pieces=(*there, barrel))
        place = free_place(project, barrel)
        assert abs(place.x - 150) >= 45 or abs(place.y - 100) >= 35  # outside of the shed, not in its middle
        stood = project.but(pieces=(*there, barrel.but(place=place)))
        assert not clashes(stood)
        assert not outside(stood)


def test_a_step_goes_on_what_it_names(empty):
    faces = (
        Surface(id="hull", name="Hull"),
        Surface(id="roof", name="Kiosk roof", piece="kiosk"),
        Surface(id="walls", name="Outside", piece="kiosk"),
    )
    project = empty.but(surfaces=faces, pieces=(Piece(id="kiosk", name="Kiosk", shape=Box(width=9, depth=9, height=9)),))
    assert surfaces_named(project, "Prime the hull") == ("hull",)
    assert surfaces_named(project, "Paint the kiosk") == ("roof", "walls")
    assert surfaces_named(project, "Varnish") == ()
    assert surfaces_named(project.but(surfaces=faces[:1]), "Varnish") == ("hull",)


def test_the_pieces_of_a_file_follow_its_name(empty):
    file = PrintFile(id="f", name="Crane", asset="assets/f.stl", size=(9, 9, 9), volume=700, area=400, centre=(4, 4, 4), triangles=12)
    skin = {"points": ((0, 0, 0), (9, 0, 0), (0, 9, 9)), "faces": ((0, 1, 2),)}
    pieces = tuple(
        Piece(id=i, name=n, shape=Mesh(file="f", width=9, depth=9, height=9, **skin)) for i, n in (("a", "Crane"), ("b", "My own"))
    )
    project = apply(empty.but(prints=(file,), pieces=pieces), put(PRINTS.at("f").then(lambda f: f.name), "Derrick", "Rename"))
    assert [p.name for p in project.pieces] == ["Derrick", "My own"]
