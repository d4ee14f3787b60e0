# SPDX-License-Identifier: MIT
"""Bodies, balance, cuts, hours and money of the print shop, against analytic solids and two mesh libraries."""

import itertools
import math

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from fondale.core.edits import Add, EditError, Remove, apply, put
from fondale.core.edits.printing import HandOver, RescalePieces, ScaleFiles
from fondale.core.edits.steps import MarkDone, ReorderSteps
from fondale.core.model import MACHINES, PIECES, PRINTS, PROJECT, STEPS, Cut, Machine, Measure, Piece, PrintFile, Step
from fondale.core.model.shapes import Mesh
from fondale.core.prints.balance import balance
from fondale.core.prints.body import Body, BodyError, measure, scaled, skin
from fondale.core.prints.cutting import KeyRule, cut, key_places, plan_cuts, quiet_places
from fondale.core.prints.jobs import bank, fits_build, follower_times, job_of, largest_percent, lying, moneys, plates_of, stretch_words
from fondale.core.prints.parting import LONGEST_KEY_MM, part_sizes
from fondale.core.progress import Cancelled
from fondale.core.troubles import Trouble
from fondale.core.words import hours_words
from fondale.knowledge import table
from tests.conftest import tries

RULE = KeyRule(1.2, 0.1)


def body(mesh):
    return Body(np.asarray(mesh.vertices, float), np.asarray(mesh.faces, np.int64))


def wavy(subdivisions=5):
    """A lumpy closed body about 100 x 80 x 140 mm."""
    m = trimesh.creation.icosphere(subdivisions=subdivisions, radius=50)
    v = np.asarray(m.vertices) * [1, 0.8, 1.4]
    return Body(v + 2 * np.sin(v[:, [1, 2, 0]] / 9), np.asarray(m.faces, np.int64))


def file_of(b=None, **more):
    facts = measure(b or body(trimesh.creation.box((20, 10, 40))))
    return PrintFile(
        id="f", name="Crane", asset="assets/meshes/f.stl", size=facts.size, volume=facts.volume, area=facts.area, centre=facts.centre,
        base=facts.base, triangles=facts.triangles, **more,
    )  # fmt: skip


@pytest.mark.parametrize(
    ("mesh", "volume", "area", "height_of_centre"),
    [
        (trimesh.creation.box((20, 10, 40)), 8000.0, 2 * (200 + 400 + 800), 20.0),
        # A cone: volume pi r2 h / 3, centre of mass h / 4 above its base.
        (trimesh.creation.cone(radius=10, height=40, sections=512), math.pi * 100 * 40 / 3, None, 10.0),
        (trimesh.creation.cylinder(radius=8, height=30, sections=512), math.pi * 64 * 30, 2 * math.pi * 8 * (8 + 30), 15.0),
        (trimesh.creation.icosphere(subdivisions=6, radius=15), 4 / 3 * math.pi * 15**3, 4 * math.pi * 225, 15.0),
        # A half ball stands on its flat face: centre of mass 3 r / 8 above it.
        (trimesh.creation.icosphere(subdivisions=6, radius=15).slice_plane([0, 0, 0], [0, 0, 1], cap=True, engine="manifold"), 2 / 3 * math.pi * 15**3, None, 3 * 15 / 8),
    ],
)  # fmt: skip
def test_analytic_solids(mesh, volume, area, height_of_centre):
    facts = measure(body(mesh))
    assert facts.watertight
    assert facts.bodies == 1
    assert facts.volume == pytest.approx(volume, rel=2e-3)
    assert facts.centre[2] == pytest.approx(height_of_centre, rel=2e-3)
    if area:
        assert facts.area == pytest.approx(area, rel=2e-3)


def test_two_libraries_agree_with_ours_on_a_lumpy_body():
    import manifold3d

    b = wavy()
    facts, theirs = measure(b), trimesh.Trimesh(b.vertices, b.faces, process=False)
    other = manifold3d.Manifold(manifold3d.Mesh64(b.vertices, b.faces.astype(np.uint64)))
    assert facts.volume == pytest.approx(theirs.volume, rel=1e-9)
    assert facts.volume == pytest.approx(other.volume(), rel=1e-9)
    assert facts.area == pytest.approx(theirs.area, rel=1e-9)
    assert facts.area == pytest.approx(other.surface_area(), rel=1e-9)
    assert np.add(facts.low, facts.centre) == pytest.approx(theirs.center_mass, abs=1e-9)


def test_open_turned_and_many_bodies_are_told():
    box = body(trimesh.creation.box((1, 2, 3)))
    opened = measure(Body(box.vertices, box.faces[1:]))
    assert (opened.open_edges, opened.watertight) == (3, False)
    faces = box.faces.copy()
    faces[0] = faces[0][::-1]
    assert measure(Body(box.vertices, faces)).turned == 3
    pair = trimesh.util.concatenate([trimesh.creation.box((1, 1, 1)), trimesh.creation.box((1, 1, 1)).apply_translation([5, 0, 0])])
    assert measure(body(pair)).bodies == 2


@pytest.mark.parametrize(
    ("vertices", "faces", "says"),
    [
        (np.zeros((0, 3)), np.zeros((0, 3), int), "no triangle"),
        (np.zeros((3, 3)), np.array([[0, 1, 2]]), "flat"),
        (np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0.0]]), np.array([[0, 1, 2]]), "flat"),
        (np.array([[0, 0, 0], [1, 0, 0], [0, 1, np.nan]]), np.array([[0, 1, 2]]), "not numbers"),
    ],
)
def test_bodies_that_cannot_be_used_are_told(vertices, faces, says):
    with pytest.raises(BodyError, match=says):
        measure(Body(vertices, faces))


def test_twice_the_size_is_eight_times_the_volume():
    b = wavy(3)
    one, two = measure(b), measure(scaled(b, (2, 2, 2)))
    assert two.volume == pytest.approx(8 * one.volume)
    assert two.area == pytest.approx(4 * one.area)
    assert two.low == (0, 0, 0)


def test_the_skin_is_small_and_keeps_the_box():
    points, faces = skin(wavy(6))
    p = np.array(points)
    assert len(faces) < 1500
    assert np.ptp(p, axis=0) == pytest.approx([1, 1, 1], abs=0.04)
    Mesh(width=10, depth=10, height=10, points=points, faces=faces)
    assert len(skin(body(trimesh.creation.box((1, 1, 1))))[1]) == 12


def test_cut_into_four_keyed_parts_watertight_and_conserved():
    b = wavy()
    whole = measure(b)
    parts = cut(b, (("z", whole.size[2] * 0.5), ("x", whole.size[0] * 0.45)), RULE)
    assert len(parts.bodies) == 4
    assert parts.keys
    assert parts.error < 1e-3
    for part, volume in zip(parts.bodies, parts.volumes, strict=True):
        outside = trimesh.Trimesh(part.vertices, part.faces, process=False)
        assert outside.is_watertight
        assert outside.volume == pytest.approx(volume, rel=1e-6)
    assert parts.lost == pytest.approx(whole.volume - sum(parts.volumes), rel=1e-3)


def test_keys_go_together_with_air_round_them():
    """The peg's part does not meet the other part anywhere: pushed together they only touch at the cut."""
    import manifold3d

    b = body(trimesh.creation.box((40, 30, 60)))
    parts = cut(b, (("z", 30.0),), RULE)
    low, high = (manifold3d.Manifold(manifold3d.Mesh64(p.vertices, np.array(p.faces, np.uint64, order="C"))) for p in parts.bodies)
    assert (low ^ high).volume() == pytest.approx(0, abs=1e-6)
    assert measure(parts.bodies[0]).size[2] > 31
    key = parts.keys[0]

    # Clearance of a cone frustum, all round and at its end, worked by hand.
    def frustum(r0, r1, h):
        return math.pi * h / 3 * (r0**2 + r0 * r1 + r1**2)

    root = min(1.0, key.length / 2)
    r_at = key.radius - (key.radius * 0.15) * root / (key.length + root)
    peg = frustum(r_at, key.radius * 0.85, key.length)
    long = key.length + root + RULE.air
    h_at = key.radius + RULE.air - key.radius * 0.15 * root / long
    hole = frustum(h_at, key.radius * 0.85 + RULE.air, key.length + RULE.air)
    assert parts.lost == pytest.approx(len(parts.keys) * (hole - peg), rel=0.05)


def test_keys_stay_two_walls_from_the_skin_and_thin_sections_get_none():
    from shapely.geometry import box as rectangle

    for u, v, r in key_places(rectangle(0, 0, 40, 12), RULE):
        assert min(u, 40 - u, v, 12 - v) - r >= 2 * RULE.wall - 1e-6 or r == pytest.approx(0.8)
    assert len(key_places(rectangle(0, 0, 80, 20), RULE)) == 2
    assert key_places(rectangle(0, 0, 40, 4), RULE) == []
    thin = body(trimesh.creation.box((40, 2, 60)))
    assert cut(thin, (("z", 30.0),), RULE).keys == ()


def test_cuts_without_keys_lose_nothing():
    parts = cut(wavy(4), (("y", 30.0),), None)
    assert parts.lost == 0
    assert sum(parts.volumes) == pytest.approx(parts.whole, rel=1e-9)


def test_what_cannot_be_cut_says_why():
    box = body(trimesh.creation.box((10, 10, 10)))
    with pytest.raises(BodyError, match="not closed"):
        cut(Body(box.vertices, box.faces[1:]), (("z", 5.0),), RULE)
    with pytest.raises(BodyError, match="meets nothing"):
        cut(box, (("z", 50.0),), RULE)

    class Stopped:
        def step(self, share, words):
            raise Cancelled

    with pytest.raises(Cancelled):
        cut(box, (("z", 5.0),), RULE, Stopped())


@given(st.tuples(*[st.floats(5, 900)] * 3))
@tries(60)
def test_planned_cuts_make_every_part_fit(size):
    build = (130.0, 80.0, 160.0)
    try:
        cuts = plan_cuts(size, build)
    except BodyError:
        assert max(size) > (80 - LONGEST_KEY_MM) * 7
        return
    counts = [1 + sum(a == axis for a, _ in cuts) for axis in "xyz"]
    part = tuple(s / c for s, c in zip(size, counts, strict=True))
    assert fits_build(part, build)
    # Without keys, no smaller number of parts does.
    bare = plan_cuts(size, build, keyed=False)
    counts = [1 + sum(a == axis for a, _ in bare) for axis in "xyz"]
    for fewer in itertools.product(*[range(1, c + 1) for c in counts]):
        if math.prod(fewer) < math.prod(counts):
            assert not fits_build(tuple(s / c for s, c in zip(size, fewer, strict=True)), build)


SOLIDS = {
    "box": trimesh.creation.box((150, 90, 200)),
    "cone": trimesh.creation.cone(radius=70, height=190, sections=48),
    "ring": trimesh.creation.annulus(60, 90, 40, sections=48),
    "bar": trimesh.creation.box((12, 12, 300)).apply_transform(trimesh.transformations.rotation_matrix(0.7, [1, 1, 0])),
}


def boxed_by(true, boxes):
    """Whether each true part has a box of its own that holds it."""
    left = sorted(boxes, key=math.prod)
    for size in sorted(true, key=math.prod, reverse=True):
        at = next((i for i, b in enumerate(left) if all(s <= m + 1e-6 for s, m in zip(size, b, strict=True))), None)
        if at is None:
            return False
        del left[at]
    return True


@pytest.mark.parametrize("name", SOLIDS)
@pytest.mark.parametrize("keyed", [True, False])
@pytest.mark.parametrize("build", [(130.0, 80.0, 160.0), (100.0, 100.0, 100.0), (95.0, 70.0, 105.0)])
def test_every_part_goes_on_the_machine_with_its_keys(empty, name, keyed, build):
    """The parts that are really cut, by manifold3d, against the boxes that are told beforehand."""
    solid = body(SOLIDS[name])
    cuts = plan_cuts(measure(solid).size, build, keyed=keyed)
    file = file_of(solid, keyed=keyed, cuts=tuple(Cut(id=f"c{i}", axis=a, at=at) for i, (a, at) in enumerate(cuts)))
    at = tuple((a, share * file.size["xyz".index(a)]) for a, share in cuts)
    made = cut(solid, at, RULE if keyed else None) if at else None
    true = [measure(b).size for b in made.bodies] if made else [file.size]
    assert all(fits_build(s, build) for s in true)
    assert boxed_by(true, part_sizes(file))
    points, faces = skin(solid)
    w, d, h = file.size
    shape = Mesh(file="f", width=w, depth=d, height=h, points=points, faces=faces)
    close = part_sizes(file, shape)
    assert len(close) == len(true)
    assert boxed_by(true, close)
    assert sum(map(math.prod, close)) <= sum(map(math.prod, part_sizes(file))) + 1e-6


@pytest.mark.parametrize("subdivisions", [4, 5, 6])
def test_a_simplified_skin_still_holds_the_true_parts(subdivisions):
    """Dense bodies are thinned to some 900 triangles; their parts as cut by manifold3d must go into the boxes all the same."""
    solid = wavy(subdivisions)
    solid = Body(solid.vertices - solid.vertices.min(axis=0), solid.faces)
    w, d, h = measure(solid).size
    points, faces = skin(solid)
    shape = Mesh(file="f", width=w, depth=d, height=h, points=points, faces=faces)
    for planes in ((("z", 0.5),), (("x", 0.3), ("z", 0.6)), (("x", 0.1), ("y", 0.1), ("z", 0.9))):
        cuts = tuple(Cut(id=f"c{i}", axis=a, at=at) for i, (a, at) in enumerate(planes))
        made = cut(solid, tuple((a, at * (w, d, h)["xyz".index(a)]) for a, at in planes), None)
        assert boxed_by([measure(b).size for b in made.bodies], part_sizes(file_of(solid, keyed=False, cuts=cuts), shape))


def test_a_part_wholly_inside_is_a_part():
    # Three cuts each way through a cube leave parts without any skin in the middle.
    solid = body(trimesh.creation.box((90, 90, 90)))
    points, faces = skin(solid)
    shape = Mesh(file="f", width=90, depth=90, height=90, points=points, faces=faces)
    cuts = tuple(Cut(id=f"{a}{k}", axis=a, at=k / 3) for a in "xyz" for k in (1, 2))
    assert len(part_sizes(file_of(solid, keyed=False, cuts=cuts), shape)) == 27


def test_the_seam_goes_where_the_body_is_thin():
    dumbbell = trimesh.boolean.union(
        [trimesh.creation.cylinder(radius=4, height=60), *[trimesh.creation.icosphere(radius=12).apply_translation([0, 0, z]) for z in (-30, 30)]],
        engine="manifold",
    )  # fmt: skip
    assert 0.27 < quiet_places(body(dumbbell), "z", 0.24) < 0.66


def test_balance_of_a_box_and_of_a_leaning_thing():
    """A box 20 x 10 x 40: atan(5 / 20) = 14.04 degrees, by hand."""
    found = balance(file_of())
    assert found.tip_deg == pytest.approx(math.degrees(math.atan(5 / 20)))
    assert "A base 10.7 mm across" in found.words
    assert balance(file_of(body(trimesh.creation.box((40, 40, 40))))).words.startswith("It stands")
    outside = balance(file_of(), (30.0, 5.0, 20.0))
    assert (outside.tip_deg, outside.edge_mm) == (0, 0)
    assert "falls" in outside.words


def shop(empty, *files, machines=("resin_small",)):
    have = tuple(Machine(id=f"m{i}", name=f"{r} {i}", row=r) for i, r in enumerate(machines))
    project = apply(empty, put(PROJECT.then(lambda p: p.brief.machines), have, "Machines"))
    return apply(project, put(PRINTS.spot, files, "Files"))


def test_resin_hours_are_layers_times_seconds(empty):
    """40 mm at 0.05 mm: 800 layers x 8.5 s + 5 x 35 s = 1.94 h, by hand (paces: common practice)."""
    file = file_of()
    job = job_of(shop(empty, file), file)
    assert job.layers == 800
    assert job.hours == pytest.approx((800 * 8.5 + 5 * 35) / 3600)
    assert job.volume_ml == pytest.approx(8.0)
    assert job.material_g == pytest.approx(8.0 * 1.2 * 1.12)
    assert job.tries == pytest.approx(1 / 0.85)
    assert not job.too_large


def test_filament_hours_are_volume_over_flow_and_pace_counts(empty):
    file = file_of(body(trimesh.creation.box((100, 100, 100))))
    project = shop(empty, file, machines=("filament_large",))
    job = job_of(project, file)
    shell = 60_000 * 1.2
    used = shell + (1e6 - shell) * 0.15 + 1e6 * 0.12  # nobody knows its skin here: supports are a share of the body
    assert job.hours == pytest.approx(used / 5.2 * 1.3 / 3600)
    slow = apply(project, put(MACHINES.at("m0").then(lambda m: m.pace), 1.5, "Pace"))
    assert job_of(slow, file).hours == pytest.approx(1.5 * job.hours)


def test_hollow_and_hard_and_too_large(empty):
    file = file_of(body(trimesh.creation.box((60, 60, 60))))
    project = shop(empty, file)
    hollow = file.model_copy(update={"hollow_mm": 2.0})
    assert job_of(project, hollow).material_g < 0.5 * job_of(project, file).material_g
    hard = file.model_copy(update={"difficulty": "hard"})
    assert job_of(project, hard).cost > job_of(project, file).cost
    large = file.model_copy(update={"percent": 300.0})
    assert job_of(project, large).too_large
    cuts = tuple(Cut(id=f"c{i}", axis=a, at=at) for i, (a, at) in enumerate((("x", 0.5), ("y", 1 / 3), ("y", 2 / 3), ("z", 0.5))))
    assert not job_of(project, large.model_copy(update={"cuts": cuts})).too_large
    assert len(part_sizes(large.model_copy(update={"cuts": cuts}))) == 12


def test_lying_and_largest_percent():
    assert lying((20, 10, 40), "z", 0) == (20, 10, 40)
    assert lying((20, 10, 40), "x", 0) == (10, 40, 20)
    w, d, h = lying((20, 10, 40), "z", 90 - 1e-9)
    assert (w, d, h) == pytest.approx((20, 40, 10))
    # 20 x 10 x 40 in 130 x 80 x 160: the 40 along 160 gives 400 %, the others allow more.
    assert largest_percent(file_of(), (130, 80, 160)) == pytest.approx(400)


def test_stretch_shows_beyond_three_percent():
    assert stretch_words(file_of()) == ""
    assert "nobody" in stretch_words(file_of(stretch=(1.0, 1.0, 1.02)))
    assert "stretched" in stretch_words(file_of(stretch=(1.0, 1.1, 1.0)))
    times, apart = follower_times((100, 50, 30), (90, 46, 30), 1.0, 0.2)
    assert times == pytest.approx((97.6 / 90, 47.6 / 46, 27.6 / 30))
    assert apart == pytest.approx((97.6 / 90) / (27.6 / 30) - 1)
    with pytest.raises(Trouble, match="no room"):
        follower_times((2, 2, 2), (1, 1, 1), 1.0, 0.2)


def banked(project):
    return bank(project, {f.id: job_of(project, f) for f in project.prints})


def test_more_printers_halve_the_calendar_not_the_work(empty):
    # TRADE 3: common practice. Failures lengthen it, so nine in ten takes longer than half.
    files = tuple(file_of().model_copy(update={"id": f"f{i}", "count": 4, "any_machine": True}) for i in range(12))
    one, two = (banked(shop(empty, *files, machines=("resin_small",) * k)) for k in (1, 2))
    assert two.work_h == pytest.approx(one.work_h)
    assert two.half_h == pytest.approx(one.half_h / 2, rel=0.15)
    assert one.half_h <= one.ninety_h
    assert one.half_h >= one.work_h
    assert len(one.bars) == len(two.bars) == 12
    # Without failures twelve alike run six and six, one after the other without a gap.
    for name in ("resin_small 0", "resin_small 1"):
        mine = sorted((a, b) for machine, _job, a, b in two.bars if machine == name)
        assert [a for a, _b in mine] == pytest.approx([0.0, *(b for _a, b in mine[:-1])])
        assert mine[-1][1] == pytest.approx(two.work_h / 2)
    # Who chose a machine has it used, however many stand idle.
    own = tuple(f.but(any_machine=False) for f in files)
    assert banked(shop(empty, *own, machines=("resin_small",) * 2)).half_h == pytest.approx(one.half_h, rel=0.15)
    assert banked(empty).half_h == 0
    assert hours_words(2.67) == "2 h 40"
    assert hours_words(0.5) == "30 min"


def printed(empty):
    points, faces = skin(body(trimesh.creation.box((20, 10, 40))))
    shape = Mesh(file="f", width=20, depth=10, height=40, points=points, faces=faces)
    pieces = (Piece(id="p", name="P", shape=shape, measure=Measure(mm=40, error_mm=0), weight_g=9, origin="printed file"),)
    other = file_of().model_copy(update={"id": "g", "family": "quay"})
    return apply(shop(empty, file_of(family="quay"), other), put(PIECES.spot, pieces, "Pieces"))


def test_pieces_follow_their_file_and_files_their_pieces(empty):
    project = apply(printed(empty), ScaleFiles("Scale", ("f",), 50.0))
    piece = project.pieces[0]
    assert (piece.shape.width, piece.shape.height, piece.measure.mm) == (10, 20, 20)
    assert piece.weight_g == pytest.approx(9 / 8)
    assert project.prints[0].percent == 50
    wide = apply(project, ScaleFiles("Stretch", ("f",), 50.0, (2.0, 1.0, 1.0)))
    assert wide.pieces[0].shape.width == pytest.approx(20)
    assert wide.pieces[0].shape.height == pytest.approx(20)
    back = apply(project, RescalePieces("Rescale", ("p",), 200.0))
    assert back.prints[0].percent == pytest.approx(100)
    assert back.pieces[0].shape.width == pytest.approx(20)
    family = apply(project, ScaleFiles("Family", ("f", "g"), 70.0))
    assert [f.percent for f in family.prints] == [70, 70]
    for percent in (0, -5, float("nan"), 1e9):
        with pytest.raises(EditError):
            apply(project, ScaleFiles("Scale", ("f",), percent))
    with pytest.raises(EditError):
        apply(project, ScaleFiles("Scale", ("nobody",), 50.0))
    gone = apply(project, Remove("Remove", PRINTS, "f"))
    assert gone.pieces[0].shape.file == ""


def test_a_print_hands_its_steps_to_coats_once_and_they_follow_it(empty):
    project = printed(empty)
    job = job_of(project, project.prints[0])
    handed = apply(project, HandOver("Hand over", "f"))
    steps = handed.steps
    assert [s.name for s in steps] == ["Print Crane", "Wash and dry: Crane", "Take the supports off: Crane", "Cure: Crane"]
    assert [s.after for s in steps] == [(), *((s.id,) for s in steps[:-1])]
    assert steps[0].wait_h == pytest.approx(job.hours, abs=0.01)
    assert {s.file for s in steps} == {"f"}
    # Its machine is at hand from now on, and the run is on it.
    assert steps[0].machine in {m.id for m in handed.brief.machines}
    assert not any(s.machine for s in steps[1:])
    # Handed over again they are replaced, and keep their ids for whatever waits for them.
    assert apply(handed, HandOver("Again", "f")).steps == steps
    paint = Step(id="paint", name="Paint", after=(steps[-1].id,))
    waiting = apply(handed, Add("Add", STEPS, paint))
    larger = apply(waiting, ScaleFiles("Scale", ("f",), 200.0))
    assert larger.steps[0].wait_h == pytest.approx(job_of(larger, larger.prints[0]).hours, abs=0.01)
    assert larger.steps[0].wait_h > steps[0].wait_h * 1.5
    assert larger.steps[-1] == paint
    cut = apply(larger, put(PRINTS.at("f").then(lambda f: f.cuts), (Cut(id="c", at=0.5),), "Cut"))
    assert [s.name for s in cut.steps][-2:] == ["Key and join 2 parts of Crane", "Paint"]
    assert [s.id for s in cut.steps[:4]] == [s.id for s in steps]
    whole = apply(cut, put(PRINTS.at("f").then(lambda f: f.cuts), (), "Whole"))
    assert whole.steps == larger.steps
    many = apply(larger, put(PRINTS.at("f").then(lambda f: f.count), 3, "Copies"))
    assert many.steps[0].name == "Print Crane, 3 times"
    # Whatever else the maker set on its steps, and where they stand, stays.
    own = apply(
        many, put(STEPS.at(steps[1].id).then(lambda s: s.note), "Fresh alcohol", "Note"),
        put(STEPS.at(steps[0].id).then(lambda s: s.after), ("paint",), "After"),
        put(STEPS.at("paint").then(lambda s: s.after), (), "First"), ReorderSteps("Order", ("paint", *(s.id for s in steps))),
    )  # fmt: skip
    moved = apply(own, ScaleFiles("Scale", ("f",), 150.0))
    assert [s.id for s in moved.steps] == [s.id for s in own.steps]
    assert (moved.steps[1].after, moved.steps[2].note) == (("paint",), "Fresh alcohol")
    assert moved.steps[1].wait_h != own.steps[1].wait_h
    # More plates than anybody starts are refused, in words.
    with pytest.raises(EditError, match="Print fewer copies"):
        apply(many, put(PRINTS.at("f").then(lambda f: f.count), 1000, "Copies"), ScaleFiles("Scale", ("f",), 400.0))
    # What was begun stays as it was; what is removed takes its steps along.
    begun = apply(larger, MarkDone("Done", (larger.steps[0].id,), True))
    assert apply(begun, ScaleFiles("Scale", ("f",), 100.0)).steps == begun.steps
    again = apply(begun, HandOver("Again", "f"))
    assert (again.steps[0], len(again.steps)) == (begun.steps[0], len(begun.steps))
    gone = apply(waiting, Remove("Remove", PRINTS, "f"))
    assert [(s.id, s.after) for s in gone.steps] == [("paint", ())]


def small(ident: str, height: float = 46.0, **more: object) -> PrintFile:
    """A part of 16 x 16 mm as printed."""
    facts = {"size": (16, 16, height), "volume": 4000, "area": 3000, "centre": (8, 8, 20), "triangles": 12}
    return PrintFile(id=ident, name=ident.upper(), asset="assets/meshes/f.stl", **{**facts, **more})


def test_what_lies_side_by_side_takes_the_hours_of_the_highest(empty):
    # Common practice: a resin printer exposes a layer at once, however much is on it.
    one, many = shop(empty, small("a"), machines=("resin_small",)), shop(empty, small("a", count=16), machines=("resin_small",))
    (single,), (full,) = plates_of(one, one.prints[0]), plates_of(many, many.prints[0])
    assert full.hours == pytest.approx(single.hours)
    assert full.parts == (("a", 16),)
    crowd = shop(empty, small("a", count=60), machines=("resin_small",))
    assert [sum(n for _f, n in p.parts) for p in plates_of(crowd, crowd.prints[0])] == [
        28,
        28,
        4,
    ]  # 7 x 4 of 16 mm and 2 mm of air on 130 x 80
    # Filament: the nozzle goes from part to part, and the hours add up.
    slow = shop(empty, small("a", count=4), machines=("filament_small",))
    job = job_of(slow, slow.prints[0])
    assert plates_of(slow, slow.prints[0])[0].hours == pytest.approx(max(4 * job.drawn_h, job.hours))


def test_copies_on_one_plate_wear_the_machine_once(empty):
    one, many = shop(empty, small("a"), machines=("resin_small",)), shop(empty, small("a", count=16), machines=("resin_small",))
    row, tries = table("machines")["machine"]["resin_small"], table("machines")["tries"]
    job = job_of(one, one.prints[0])
    times = 1 + (1 / job.success - 1) * tries["lost"]
    material, wear = job.material_g / 1000 * row["price_kg"] * times, job.hours * row["wear_h"] * times
    money = lambda p: moneys(p, {f.id: job_of(p, f) for f in p.prints})  # noqa: E731
    assert money(one)["a"] == pytest.approx(job.cost) == pytest.approx(material + wear)
    assert money(many)["a"] == pytest.approx(16 * material + wear)
    # Two files on one plate share its hours by what each would take alone: 46 and 30 mm high.
    two = shop(empty, small("a"), small("b", 30.0, beside="a"), machines=("resin_small",))
    alone = {f.id: job_of(two, f).hours for f in two.prints}
    shared = job.hours * row["wear_h"] * times
    assert money(two)["a"] == pytest.approx(material + shared * alone["a"] / sum(alone.values()))
    assert sum(money(two).values()) == pytest.approx(2 * material + shared)


def test_files_on_one_plate_are_started_and_cleaned_once(empty):
    files = small("a"), small("b", 30.0, beside="a", layer_mm=0.1), small("c", cuts=(Cut(id="x", at=0.5),), beside="a")
    handed = apply(shop(empty, *files, machines=("resin_small",)), HandOver("Hand over", "b"))
    names = [s.name for s in handed.steps]
    assert names[0] == "Print A and 2 beside it"
    assert [n.split(":")[0] for n in names[1:4]] == ["Wash and dry", "Take the supports off", "Cure"]
    assert names[4] == "Key and join 2 parts of C"
    assert {s.id: s.after for s in handed.steps}[handed.steps[4].id] == (handed.steps[3].id,)
    assert handed.steps[0].wait_h == pytest.approx(job_of(handed, handed.prints[0]).hours, abs=0.01)
    # Taken off the plate it has steps of its own, and the first one's follow.
    alone = apply(handed, put(PRINTS.at("b").then(lambda f: f.beside), "", "Alone"))
    assert {"Print A and 1 beside it", "Print B"} <= {s.name for s in alone.steps}
    back = apply(alone, put(PRINTS.at("b").then(lambda f: f.beside), "a", "Beside"))
    assert "Print B" not in [s.name for s in back.steps]
    assert back.steps == handed.steps


def test_every_plate_is_started_and_cleared_by_hand(empty):
    crowd = apply(shop(empty, small("a", count=60), machines=("resin_small", "curing_box")), HandOver("Hand over", "a"))
    prints = [s for s in crowd.steps if s.machine == "m0"]
    assert [s.name for s in prints] == [f"Print A, 60 times, plate {k} of 3" for k in (1, 2, 3)]
    assert all(any(p.id in s.after for s in crowd.steps) for p in prints)
    assert next(s for s in crowd.steps if s.name.startswith("Cure")).machine == "m1"
    # A step that was moved and renamed by its file is known by what it does, not by where it stands.
    ids = [s.id for s in crowd.steps]
    turned = apply(crowd, ReorderSteps("Order", tuple(reversed(ids))))
    again = apply(turned, ScaleFiles("Scale", ("a",), 101.0))
    assert [s.id for s in again.steps] == list(reversed(ids))
    assert {s.id: s.name for s in again.steps} == {s.id: s.name for s in crowd.steps}


def test_a_step_that_the_maker_renamed_is_still_its_file_s(empty):
    handed = apply(shop(empty, small("a"), machines=("resin_small",)), HandOver("Hand over", "a"))
    first = handed.steps[0]
    own = apply(handed, put(STEPS.at(first.id), first.but(name="Do the little ones", note="Warm the resin"), "Rename"))
    again = apply(own, ScaleFiles("Scale", ("a",), 110.0))
    assert [s.id for s in again.steps] == [s.id for s in handed.steps]
    assert again.steps[0].note == "Warm the resin"
    # Steps from files that were written before they knew their duty are known by the names that they were given.
    old = handed.but(steps=tuple(s.but(duty="") for s in handed.steps))
    assert [s.id for s in apply(old, ScaleFiles("Scale", ("a",), 110.0)).steps] == [s.id for s in handed.steps]
