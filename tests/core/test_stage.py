# SPDX-License-Identifier: MIT
import numpy as np
import pytest
import trimesh

from fondale.core.model import Case, Piece, Place
from fondale.core.model.shapes import Animal, Box, Cylinder, Hull, Mesh, Opening, Room, Stairs, Wall, Wheel
from fondale.core.rays import FastRays, PlainRays
from fondale.core.stage.clearance import clashes, footprint, outside
from fondale.core.stage.scene import CASE, build_scene, rest_places
from fondale.core.stage.solids import Solid, solid_of, top_at
from tests.conftest import boxed, figure


def volume(solid: Solid) -> float:
    """By the divergence theorem; right only for closed surfaces with outward normals."""
    p, u, v = solid.rects[:, 0], solid.rects[:, 1], solid.rects[:, 2]
    halves = [np.stack([p, p + u, p + u + v], 1), np.stack([p, p + u + v, p + v], 1), solid.tris]
    t = np.concatenate(halves)
    return float(np.einsum("ij,ij->i", t[:, 0], np.cross(t[:, 1], t[:, 2])).sum() / 6)


def piece(shape: object, ident: str = "p", **more: object) -> Piece:
    return Piece(id=ident, name=ident.capitalize(), shape=shape, **more)


DOOR = Opening(x=20, width=20, height=30)
WINDOW = Opening(x=60, z=10, width=20, height=20)
ARCH = Opening(x=20, z=10, width=20, height=30, form="arch")


@pytest.mark.parametrize(
    ("shape", "expected", "loose"),
    [
        (Box(width=10, depth=20, height=30), 6000.0, 1e-9),
        (Wall(length=100, height=50, thickness=4), 20000.0, 1e-9),
        (Wall(length=100, height=50, thickness=4, openings=(DOOR,)), 20000 - 4 * 600, 1e-9),
        (Wall(length=100, height=50, thickness=4, openings=(DOOR, WINDOW)), 20000 - 4 * (600 + 400), 1e-9),
        (Wall(length=100, height=50, thickness=4, openings=(ARCH,)), 20000 - 4 * (400 + np.pi * 50), 2e-3),
        (Stairs(width=10, depth=12, height=6, steps=3), 10 * 4 * (2 + 4 + 6), 1e-9),
        (Cylinder(diameter=10, length=20), np.pi * 25 * 20, 0.03),
        (Cylinder(diameter=10, length=20, axis="x"), np.pi * 25 * 20, 0.03),
    ],
)
def test_solids_have_the_volume_of_their_formula(shape, expected, loose):
    assert volume(solid_of(piece(shape))) == pytest.approx(expected, rel=loose)


def test_a_wall_opening_wider_than_the_wall_is_cut_to_it():
    wall = Wall(length=40, height=30, thickness=2, openings=(Opening(x=-5, width=80, height=20),))
    assert volume(solid_of(piece(wall))) == pytest.approx(40 * 10 * 2)


def test_overlapping_openings_do_no_harm():
    wall = Wall(length=100, height=50, thickness=4, openings=(DOOR, Opening(x=30, width=20, height=30)))
    assert volume(solid_of(piece(wall))) == pytest.approx(20000 - 4 * 30 * 30)


@pytest.mark.parametrize(
    "shape", [Wheel(diameter=40), Hull(length=120, beam=40, depth=20), Room(width=60, depth=40, height=50, openings=(DOOR,))]
)
def test_other_shapes_stand_on_the_ground_and_are_centred(shape):
    corners = solid_of(piece(shape)).corners()
    assert corners[:, 2].min() == pytest.approx(0, abs=1e-9)
    middle = (corners.min(0) + corners.max(0)) / 2
    assert middle[:2] == pytest.approx([0, 0], abs=0.6)


def test_turning_by_a_quarter_is_exact():
    solid = solid_of(piece(Box(width=10, depth=20, height=30))).moved(np.array([5.0, 5.0, 0.0]), 90)
    corners = solid.corners()
    assert corners[:, 0].max() - corners[:, 0].min() == 20.0
    assert corners[:, 1].max() - corners[:, 1].min() == 10.0


def test_a_piece_stands_on_what_is_beneath_it(empty):
    block = piece(Box(width=80, depth=80, height=25), "block", role="scenery", place=Place(x=100, y=100))
    stairs = piece(Stairs(width=40, depth=40, height=20, steps=4), "stairs", role="scenery", place=Place(x=220, y=100))
    project = boxed(empty, figure("a", 100, 100), figure("b", 220, 85), figure("c", 220, 115), figure("d", 20, 20), block, stairs)
    z = {k: p.z for k, p in rest_places(project).items()}
    assert (z["a"], z["b"], z["c"], z["d"]) == (25.0, 5.0, 20.0, 0.0)


def test_what_carries_and_where():
    assert top_at(piece(Box(width=10, depth=10, height=3)), 4, 4) == 3
    assert top_at(piece(Box(width=10, depth=10, height=3)), 6, 4) is None
    room = piece(Room(width=60, depth=40, height=50))
    assert top_at(room, 0, 0) == 0.0
    assert top_at(room, 29.5, 0) == 50
    assert top_at(piece(Wheel(diameter=4)), 0, 0) is None


def test_two_figures_in_one_place_clash_and_apart_they_do_not(empty):
    close = boxed(empty, figure("a", 100, 100), figure("b", 104, 100))
    found = clashes(close)
    assert [(c.first, c.second) for c in found] == [("a", "b")]
    assert found[0].overlap_mm > 3
    assert clashes(boxed(empty, figure("a", 100, 100), figure("b", 160, 100))) == ()


def test_a_figure_inside_a_hollow_room_is_not_in_its_walls(empty):
    room = piece(Room(width=80, depth=60, height=80), "room", role="scenery", place=Place(x=150, y=100))
    assert clashes(boxed(empty, room, figure("a", 150, 100))) == ()
    assert len(clashes(boxed(empty, room, figure("a", 118, 100)))) == 1


def test_two_rooms_on_one_spot_are_told_and_one_built_into_another_is_not(empty):
    room = Piece(id="a", name="A", shape=Room(width=80, depth=60, height=50), role="scenery", place=Place(x=100, y=100, z=0))
    twin = room.but(id="b", name="B")
    assert [(c.first, c.second) for c in clashes(boxed(empty, room, twin))] == [("a", "b")]
    smaller = twin.but(shape=Room(width=40, depth=60, height=50))
    assert clashes(boxed(empty, room, smaller)) == ()


def test_a_figure_on_stairs_does_not_clash_with_them(empty):
    stairs = piece(Stairs(width=60, depth=60, height=30, steps=5), "stairs", role="scenery", place=Place(x=100, y=100))
    assert clashes(boxed(empty, stairs, figure("a", 100, 88))) == ()


@pytest.mark.parametrize(("x", "y", "side"), [(2, 100, "left"), (298, 100, "right"), (100, 1, "front"), (100, 199, "back")])
def test_what_sticks_out_is_told_with_its_side(empty, x, y, side):
    found = outside(boxed(empty, figure("a", x, y)))
    assert [o.side for o in found] == [side]
    assert found[0].by_mm > 1


def test_too_tall_for_the_case_but_not_for_an_open_base(empty):
    tall = figure("a", 150, 100, mm=240)
    assert [o.side for o in outside(boxed(empty, tall))] == ["top"]
    assert outside(boxed(empty, tall, kind="open base")) == ()


def test_footprints_are_convex_outlines():
    ring, low, high = footprint(figure("a", 50, 60), Place(x=50, y=60, z=10))
    assert low == pytest.approx(10)
    assert high == pytest.approx(60, abs=0.5)
    assert ring.mean(0) == pytest.approx([50, 60], abs=6)


def test_the_scene_has_owners_normals_and_cuts(empty):
    wall = piece(Wall(length=300, height=200, thickness=5), "wall", role="scenery", place=Place(x=150, y=120, z=0))
    scene = build_scene(boxed(empty, wall))
    assert len(scene.all_tris) == len(scene.owner) == len(scene.normal)
    assert np.linalg.norm(scene.normal, axis=1) == pytest.approx(1.0)
    floor = next(i for i in range(len(scene.rects)) if scene.rect_owner[i] == CASE and scene.normal[2 * i, 2] > 0.9)
    across = scene.cuts[floor][1] * 200
    # The floor is cut where the wall's two faces stand on it, so that no patch straddles the wall.
    assert np.abs(across - 117.5).min() < 0.1
    assert np.abs(across - 122.5).min() < 0.1


def test_leaving_a_piece_out(empty):
    project = boxed(empty, figure("a", 100, 100), figure("b", 200, 100))
    assert set(build_scene(project, leave_out="a").tri_owner) == {1}


def test_all_that_look_at_one_project_look_at_one_scene(empty):
    """Each built a scene and a ray engine of its own after every edit."""
    project = boxed(empty)
    scene = build_scene(project)
    assert build_scene(project) is scene
    wider = project.but(case=project.case.but(width=project.case.width + 10))
    assert build_scene(wider).rects[:, :, 0].max() == pytest.approx(scene.rects[:, :, 0].max() + 10)
    assert build_scene(project).rects == pytest.approx(scene.rects)


def test_cases_have_the_faces_of_their_kind(empty):
    faces = {kind: len(build_scene(boxed(empty, kind=kind)).rects) for kind in ("glazed box", "closed box", "open base", "dome")}
    assert faces == {"glazed box": 5, "closed box": 6, "open base": 1, "dome": 0}
    assert len(build_scene(boxed(empty, lip_top=10, lip_sides=5)).rects) == 8


@pytest.mark.parametrize("seed", range(4))
def test_the_fast_and_the_plain_ray_engine_agree(seed):
    rng = np.random.default_rng(seed)
    tris = rng.uniform(-1, 1, (60, 3, 3))
    fast, plain = FastRays(tris), PlainRays(tris)
    origins, ways = rng.uniform(-2, 2, (500, 3)), rng.normal(size=(500, 3))
    prim_a, dist_a = fast.hit(origins, ways)
    prim_b, dist_b = plain.hit(origins, ways)
    same = prim_a == prim_b
    assert same.mean() > 0.995
    hit = same & (prim_b >= 0)
    assert dist_a[hit] == pytest.approx(dist_b[hit], rel=1e-3, abs=1e-3)
    targets = rng.uniform(-2, 2, (500, 3))
    assert (fast.blocked(origins, targets) == plain.blocked(origins, targets)).mean() > 0.99


def test_rays_into_nothing_hit_nothing():
    plain = PlainRays(np.zeros((0, 3, 3)))
    prim, dist = plain.hit(np.zeros((3, 3)), np.ones((3, 3)))
    assert (prim == -1).all()
    assert (dist > 1e20).all()


def test_animals_and_glass_make_a_scene_without_rectangles_of_their_own(empty):
    cat = Piece(id="cat", name="Cat", shape=Animal(), place=Place(x=50, y=50))
    scene = build_scene(empty.model_copy(update={"pieces": (cat,), "case": Case(kind="dome", width=200, depth=200, height=200)}))
    assert (scene.rect_owner == CASE).all()
    assert set(scene.tri_owner.tolist()) == {0, CASE}  # the round base under the dome has none either


def crane(x: float, ident: str = "crane") -> Piece:
    """A print like a crane: a post of 10 mm and 100 mm high, and an arm from its top, 90 mm out to the right, 10 mm thick."""
    mesh = trimesh.util.concatenate(
        [trimesh.creation.box(bounds=((-5, -5, 0), (5, 5, 100))), trimesh.creation.box(bounds=((5, -5, 90), (95, 5, 100)))]
    )
    low, size = mesh.vertices.min(0), np.ptp(mesh.vertices, axis=0)
    points = (mesh.vertices - low) / size - np.array([0.5, 0.5, 0.0])
    shape = Mesh(width=size[0], depth=size[1], height=size[2], points=tuple(map(tuple, points)), faces=tuple(map(tuple, mesh.faces)))
    return Piece(id=ident, name=ident, shape=shape, place=Place(x=x, y=100, z=0))


def test_what_stands_under_an_arm_touches_nothing(empty):
    # The arm's middle lies at x 150, its post at 105; a block of 20 mm under the arm has 35 mm of air to the post and 40 above.
    under = Piece(id="under", name="Under", shape=Box(width=20, depth=20, height=50), place=Place(x=155, y=100, z=0))
    project = empty.but(pieces=(crane(150), under), case=Case(width=400, depth=300, height=200))
    assert clashes(project) == ()
    high = project.but(pieces=(crane(150), under.but(shape=Box(width=20, depth=20, height=96))))
    assert [c.overlap_mm for c in clashes(high)] == [pytest.approx(10, abs=0.5)]  # the arm is 10 mm thick from front to back
    at_the_post = project.but(pieces=(crane(150), under.but(place=Place(x=112, y=100, z=0))))
    assert clashes(at_the_post)


def test_what_lies_wholly_in_another_is_told(empty):
    large = Piece(id="large", name="Large", shape=Box(width=60, depth=60, height=60), place=Place(x=100, y=100, z=0))
    small = Piece(id="small", name="Small", shape=Box(width=10, depth=14, height=10), place=Place(x=100, y=100, z=20))
    (found,) = clashes(empty.but(pieces=(large, small)))
    assert found.overlap_mm == pytest.approx(10)
