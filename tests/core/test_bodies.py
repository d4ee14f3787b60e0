# SPDX-License-Identifier: MIT
"""Bodies: contacts, proportions, girths against published means, closed skins, clothes that hold together."""

from typing import get_args

import manifold3d as m3
import numpy as np
import pytest
import shapely
import trimesh

from fondale.core.bodies.animals import animal, rest_share
from fondale.core.bodies.chain import posed, segments
from fondale.core.bodies.figure import figure, parts_of
from fondale.core.bodies.garments import WORN
from fondale.core.bodies.measures import measures
from fondale.core.bodies.outline import figure_outline
from fondale.core.bodies.parts import EXTRA, FACE, HAIR, NAMES, SHOES
from fondale.core.bodies.poses import lies, poses
from fondale.core.derived import LIGHT
from fondale.core.edits import Add, apply
from fondale.core.edits.new_things import surfaces_of_parts
from fondale.core.model import SURFACES, Measure, Piece, Place, Step, Surface
from fondale.core.model.shapes import Animal, Extra, Figure, Person, Species
from fondale.core.rays import rays_for
from fondale.core.reckoning import Look
from fondale.core.scale.pieces import read_piece
from fondale.core.shapes.solid import creased
from fondale.core.stage.paints import figure_paints
from fondale.core.stage.scene import build_scene
from fondale.core.stage.solids import part_areas
from fondale.knowledge import table
from tests.conftest import TODAY, boxed

PEOPLE = get_args(Person)
MOST_GAP_MM = 3.0


def lowest_mm(pose: str, person: str, build: str = "plain") -> dict[int, float]:
    """The lowest point of every part, real mm over the ground, before anything is shifted."""
    parts, chain = parts_of(pose, person, (), False, build)
    axes = np.eye(3) if chain.lying is None else chain.lying
    out: dict[int, float] = {}
    for p in parts:
        out[p.code] = min(out.get(p.code, np.inf), float((p.points @ axes.T)[:, 2].min()))
    return {k: v * table("body")["people"][person]["mean_mm"] for k, v in out.items()}


@pytest.mark.parametrize("build", ["plain", "stocky"])
@pytest.mark.parametrize("person", PEOPLE)
@pytest.mark.parametrize("pose", [p for p in poses() if not lies(p)])
def test_what_bears_a_body_touches_the_ground(pose, person, build):
    """Sitting on the ground, one leg reached below the seat once: the trunk hung 158 mm over it, and the scale was a fifth off."""
    low = lowest_mm(pose, person, build)
    if any(c != "free" for c in table("body")["poses"][pose]["contact"]):  # who rides or rows is set on the ground afterwards
        assert abs(low[SHOES]) < MOST_GAP_MM, low
        assert min(low.values()) > -MOST_GAP_MM
    row, seg, chain = table("body")["poses"][pose], segments(person), posed(pose, person)
    for leg in chain.legs:
        if leg.contact in ("tucked", "instep"):
            assert abs(float(leg.knee[2]) - seg["knee_half"]) * 1750 < MOST_GAP_MM
    if row.get("on_ground"):
        assert abs(float(chain.hip[2]) - seg["seat"]) * 1750 < MOST_GAP_MM


@pytest.mark.parametrize("pose", list(poses()))
def test_every_body_is_closed_stands_and_agrees_with_its_measures(pose):
    for person in PEOPLE:
        body, m = figure(pose, person), measures(pose, person)
        assert np.isfinite(body.tris).all()
        assert body.tris[..., 2].min() == pytest.approx(0.0, abs=1e-6)
        corner = np.unique(body.tris.reshape(-1, 3).astype(np.float32), axis=0, return_inverse=True)[1].reshape(-1, 3)
        edges = np.sort(np.concatenate([corner[:, [0, 1]], corner[:, [1, 2]], corner[:, [2, 0]]]), axis=1)
        edges = edges[edges[:, 0] != edges[:, 1]]
        assert (np.unique(edges, axis=0, return_counts=True)[1] % 2 == 0).all()
        assert np.linalg.norm(body.normals, axis=-1) == pytest.approx(1.0, abs=1e-3)
        head = body.tris[(body.part == HAIR) | (body.part == FACE)]
        long = float(np.ptp(body.tris.reshape(-1, 3), axis=0).max())
        assert (long if lies(pose) else float(head[..., 2].max())) == pytest.approx(m.crown, rel=0.03, abs=0.006)
        assert m.eye > 0


def test_heights_follow_the_published_shares():
    # [drillis1966]: eyes 0.936, sitting height 0.520.
    assert measures("standing").crown == pytest.approx(1.0, abs=0.005)
    assert measures("standing").eye == pytest.approx(0.936, abs=0.01)
    assert measures("sitting_ground").crown == pytest.approx(0.520, abs=0.01)


# Means of [bdims], cm, of men of 177.7 and women of 164.9 (from memory), by where they are taken: a pose in which nothing touches there, the
# part, the segment, how far along it (of the trunk: height over the hips' axis), what cloth adds there.
TAKEN = {
    "chest": ("pushing", "shirt", "trunk", 0.185, 0.0040), "waist": ("pushing", "shirt", "trunk", 0.100, 0.0040), "hips": ("standing", "trousers", "trunk", -0.015, 0.0045),
    "biceps": ("pushing", "shirt", "upper_arm", 0.35, 0.0035), "forearm": ("pushing", "shirt", "forearm", 0.22, 0.0035), "wrist": ("pushing", "shirt", "forearm", 0.86, 0.0048),
    "thigh": ("astride", "trousers", "thigh", 0.27, 0.0045), "knee": ("standing", "trousers", "shank", 0.03, 0.0045), "calf": ("standing", "trousers", "shank", 0.32, 0.0045),
}  # fmt: skip
GIRTHS = {
    "man": (177.7, dict(zip(TAKEN, (101.0, 84.5, 97.8, 34.4, 28.2, 17.2, 56.5, 37.2, 37.2), strict=True))),
    "woman": (164.9, dict(zip(TAKEN, (86.1, 69.8, 95.7, 28.1, 23.8, 15.1, 57.2, 35.3, 35.0), strict=True))),
}


@pytest.mark.parametrize("where", list(TAKEN))
@pytest.mark.parametrize("person", list(GIRTHS))
def test_girths_are_those_of_people(person, where):
    """The length of a tape round the skin, square to the limb, less what the cloth adds."""
    (tall, girths), (pose, part, segment, along, cloth) = GIRTHS[person], TAKEN[where]
    parts, chain = parts_of(pose, person, (), False, "plain")
    leg, arm, long = chain.legs[0], chain.arms[0], segments(person)
    start, way = {
        "trunk": (chain.hip, chain.spine), "thigh": (leg.hip, leg.thigh), "shank": (leg.knee, leg.shank), "upper_arm": (arm.shoulder, arm.upper),
        "forearm": (arm.elbow, arm.fore),
    }[segment]  # fmt: skip
    at = start + way * along * long.get(segment, 1.0)
    skin = next(p for p in parts if NAMES[p.code] == part)
    loops = trimesh.Trimesh(skin.points, skin.tris, process=False).section(way, at).discrete
    mine = min(loops, key=lambda loop: np.linalg.norm((loop.min(0) + loop.max(0)) / 2 - at))
    flat = mine @ np.linalg.svd(np.array([way]))[2][1:].T
    around = shapely.convex_hull(shapely.multipoints(flat)).length - 2 * np.pi * cloth
    assert around * tall == pytest.approx(girths[where], rel=0.05)


@pytest.mark.parametrize("person", PEOPLE)
@pytest.mark.parametrize("pose", [p for p, row in table("body")["poses"].items() if "knee" in row["hands"]])
def test_hands_lie_on_the_thighs_that_they_rest_on(pose, person):
    parts, chain = parts_of(pose, person, (), False, "plain")
    solids = [m3.Manifold(m3.Mesh(p.points.astype(np.float32), p.tris.astype(np.uint32))) for p in parts]
    legs = next(s for s, p in zip(solids, parts, strict=True) if NAMES[p.code] == "trousers")
    hands = [s for s, p in zip(solids, parts, strict=True) if NAMES[p.code] == "skin"][1:]  # after the neck
    for arm, hand in zip(chain.arms, hands, strict=True):
        if arm.hand == "knee":
            assert hand.min_gap(legs, 0.1) * table("body")["people"][person]["mean_mm"] < MOST_GAP_MM
            assert (hand ^ legs).volume() < 0.3 * hand.volume()


@pytest.mark.parametrize("worn", list(WORN))
def test_every_garment_holds_on_everybody_and_is_left_out_of_the_crown(worn):
    assert set(WORN) == set(get_args(Extra))
    for person in PEOPLE:
        for pose in ("standing", "walking", "sitting_seat", "kneeling_one", "sitting_ground"):
            body, bare = figure(pose, person, (worn,)), figure(pose, person)
            assert len(body.tris) <= 4000
            head = bare.tris[(bare.part == HAIR) | (bare.part == FACE)][..., 2].max()
            assert head == pytest.approx(measures(pose, person).crown, rel=0.02, abs=0.006)
            if worn not in ("shorts", "boots"):
                assert (body.part == EXTRA).any()


def test_clothes_hold_together():
    for extras in (
        ("coat", "cap", "lantern", "boots"),
        ("skirt", "apron", "hat"),
        ("long coat", "helmet", "pack"),
        ("shorts", "cap", "pack"),
    ):
        for pose in ("contrapposto", "running", "sitting_seat"):
            body = figure(pose, "woman", extras)
            assert len(body.tris) <= 4000
            assert len(figure_outline(pose, "woman", extras)) >= 1


def test_man_woman_boy_child_differ_in_outline():
    """At 20 mm: the areas of two outlines that are laid over each other differ by more than a twentieth."""
    shapes = {p: shapely.Polygon(max(figure_outline("standing", p), key=len)).buffer(0) for p in PEOPLE}
    for a in PEOPLE:
        for b in PEOPLE:
            if a < b:
                assert shapes[a].symmetric_difference(shapes[b]).area > 0.05 * shapes[a].area, (a, b)


def test_a_body_has_about_the_volume_of_a_body():
    # A human body has about the density of water: 70 kg for 1.75 m is 0.0131 H^3 (common practice); clothes add some.
    t = figure("standing").tris
    assert np.einsum("ij,ij->i", t[:, 0], np.cross(t[:, 1], t[:, 2])).sum() / 6 == pytest.approx(0.0140, rel=0.25)


def test_heroic_heads_are_a_fifth_larger():
    def head(heroic: bool) -> float:
        hair = figure("standing", "man", (), heroic).tris
        part = figure("standing", "man", (), heroic).part
        return float(np.ptp(hair[part == HAIR][..., 2]))

    assert head(True) == pytest.approx(1.2 * head(False), rel=0.02)


def test_a_ball_is_shaded_as_a_ball_and_a_box_keeps_its_edges():
    """Normals between the corners of a coarse ball are those of the ball; a box is as flat as it was."""
    from trimesh.creation import box, icosphere

    round_one = np.asarray(icosphere(subdivisions=2).triangles)
    assert (creased(round_one) * round_one).sum(-1) == pytest.approx(1.0, abs=0.01)
    flat = np.asarray(box().triangles)
    assert np.abs(creased(flat)).max(-1) == pytest.approx(1.0, abs=1e-9)


def test_pictures_see_rounded_bodies_and_bounced_light_flows_over_them(empty):
    """Beside each other on one part of a body, bounced light changes as the body turns, not from patch to patch."""
    project = boxed(empty, Piece(id="a", name="A", shape=Figure(), measure=Measure(mm=100), place=Place(x=150, y=100)))
    scene = build_scene(project)
    prim = np.flatnonzero(scene.owner == 0)
    corners = scene.all_tris[prim]
    middle = corners.mean(1)
    normals, lifted = scene.shaded(prim, middle)
    assert np.linalg.norm(normals, axis=1) == pytest.approx(1.0, abs=1e-6)
    assert np.median((normals * scene.normal[prim]).sum(1)) > 0.95
    assert ((lifted - middle) * normals).sum(1).min() > -0.5
    assert (scene.siblings >= 0).any(1).all()
    assert (scene.siblings[np.arange(len(scene.siblings))] < len(scene.siblings)).all()


def test_parts_of_a_figure_take_the_colour_of_their_last_coat(empty):
    """Skin is skin until it is painted; cloth has the colour of the piece; primer is no colour; all of a figure in one coat is an undercoat."""
    red, green = (0.5, 0.05, 0.04), (0.05, 0.4, 0.1)
    piece = Piece(id="a", name="A", shape=Figure(), measure=Measure(mm=50), place=Place(x=150, y=100), paint=(0.2, 0.2, 0.6))
    areas = {k: v * 2500 for k, v in part_areas(piece.shape).items()}
    assert set(areas) == {"face", "hair", "skin", "shirt", "trousers", "shoes"}
    project = boxed(empty, piece)
    project = apply(project, *surfaces_of_parts(project, piece, areas), Add("x", SURFACES, Surface(id="all", name="All", piece="a")))
    assert surfaces_of_parts(project, piece, areas) == ()
    shirt = next(s for s in project.surfaces if s.part == "shirt")
    assert shirt.area_cm2 == pytest.approx(areas["shirt"] / 100, abs=0.01)
    bare = figure_paints(project)["a"]
    assert bare[NAMES.index("shirt")] == piece.paint
    assert bare[NAMES.index("face")] == tuple(table("body")["colours"]["face"])
    steps = (
        Step(id="p", name="P", coat="primer_spray", colour=(0, 0, 0), surfaces=(shirt.id,)),
        Step(id="r", name="R", coat="acrylic", colour=red, surfaces=(shirt.id,)),
        Step(id="g", name="G", coat="acrylic", colour=green, surfaces=(shirt.id,)),
        Step(id="w", name="W", coat="acrylic", colour=red, surfaces=("all",)),
    )
    painted = project.model_copy(update={"steps": steps})
    assert figure_paints(painted)["a"][NAMES.index("shirt")] == green
    assert figure_paints(painted)["a"][NAMES.index("trousers")] == piece.paint
    scene = build_scene(painted)
    assert {tuple(c) for c in scene.tri_paint} == set(figure_paints(painted)["a"])
    assert LIGHT.key(painted, Look(TODAY)) != LIGHT.key(project, Look(TODAY))


@pytest.mark.parametrize("species", get_args(Species))
@pytest.mark.parametrize("rests", [False, True])
def test_animals_are_closed_stand_and_measure_what_they_are_read_by(species, rests):
    tris = animal(species, rests).tris
    assert tris[..., 2].min() == pytest.approx(0.0)
    assert len(tris) <= 1600
    corner = np.unique(tris.reshape(-1, 3).astype(np.float32), axis=0, return_inverse=True)[1].reshape(-1, 3)
    edges = np.sort(np.concatenate([corner[:, [0, 1]], corner[:, [1, 2]], corner[:, [2, 0]]]), axis=1)
    assert (np.unique(edges, axis=0, return_counts=True)[1] == 2).all()
    share = rest_share(species) if rests else 1.0
    assert 0.4 < share <= 1.0
    shape = Animal(species=species, pose="resting" if rests else "standing")
    real = table("scales")["things"][species]["real_mm"] * share
    read = read_piece(Piece(id="x", name="X", shape=shape, measure=Measure(mm=real / 35)), 35)
    assert read.n == pytest.approx(35, rel=1e-6)
    # Where it is measured: birds at the top, beasts at the withers, behind the neck.
    if species in table("beasts")["bird"]:
        top = float(tris[..., 2].max())
    else:
        _prim, down = rays_for(tris).hit(np.array([[0.01, -0.16, 3.0]]), np.array([[0.0, 0.0, -1.0]]))
        top = 3.0 - float(down[0])
    assert top == pytest.approx(share, abs=0.08)
