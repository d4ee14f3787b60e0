# SPDX-License-Identifier: MIT
"""What holds prints up, hollows, thin walls, layer lines and wear, against reckonings by hand and exact solids."""

import math
from collections import Counter
from itertools import combinations, permutations, product

import numpy as np
import pytest
import trimesh

from fondale.core.derived import JOBS, WEARS
from fondale.core.edits import apply, put
from fondale.core.edits.measuring import TakeSize
from fondale.core.model import MACHINES, PIECES, Cut, Machine, Measure, Piece
from fondale.core.model.prints import Panel, Thin
from fondale.core.model.shapes import Mesh
from fondale.core.prints import plates
from fondale.core.prints.body import Body, BodyError, measure, skin
from fondale.core.prints.hollow import hollowed
from fondale.core.prints.jobs import job_of, percent_of, plates_of, solid_volume, weight_of
from fondale.core.prints.lines import lines_of, nearest_eye_mm
from fondale.core.prints.manifolds import from_manifold, to_manifold
from fondale.core.prints.panels import lift_off, panel_size
from fondale.core.prints.parting import part_sizes
from fondale.core.prints.plates import AIR_MM, packed
from fondale.core.prints.posture import postures
from fondale.core.prints.supports import hang_of
from fondale.core.prints.thin import thin_words, too_thin, where
from fondale.core.prints.walls import thinnest
from fondale.core.prints.wear import wears
from fondale.core.prompts import workshop
from fondale.core.reckoning import Look, Reckoner
from fondale.instruments import SERVICES, Request
from fondale.knowledge import table
from fondale.storage.meshes import mend
from tests.conftest import TODAY
from tests.core.test_prints import body, file_of, shop


def on_the_shelf(empty, mesh, machine="resin_small", **more):
    """A file with a piece that carries its skin, on one machine."""
    made = body(mesh)
    file = file_of(made, **more)
    w, d, h = file.printed
    points, faces = skin(made)
    piece = Piece(id="p", name="Crane", shape=Mesh(file="f", width=w, depth=d, height=h, points=points, faces=faces), measure=Measure(mm=h))
    return apply(shop(empty, file, machines=(machine,)), put(PIECES.spot, (piece,), "Piece"))


def hours(project):
    return job_of(project, project.prints[0]).hours


RESIN_S = lambda layers: (layers * 8.5 + 5 * 35) / 3600  # noqa: E731
FLOW = lambda mm3, layer=0.16: mm3 / (4.5 * layer / 0.16) * 1.35 / 3600  # noqa: E731


@pytest.mark.parametrize(
    ("mesh", "machine", "more", "by_hand"),
    [
        # Resin: height / 0.05 mm x 8.5 s and five bottom layers of 35 s; what hangs over is lifted by 5 mm, 100 layers (common practice).
        (trimesh.creation.box((20, 20, 20)), "resin_small", {}, RESIN_S(400)),
        (trimesh.creation.box((20, 20, 20)), "resin_small", {"layer_mm": 0.03}, RESIN_S(667)),
        (trimesh.creation.cylinder(radius=8, height=30, sections=64), "resin_small", {}, RESIN_S(600)),
        (trimesh.creation.cone(radius=10, height=40, sections=64), "resin_small", {}, RESIN_S(800)),
        (trimesh.creation.cone(radius=10, height=40, sections=64), "resin_small", {"up": "-z"}, RESIN_S(900)),
        (trimesh.creation.icosphere(subdivisions=3, radius=15), "resin_small", {}, RESIN_S(700)),
        (trimesh.creation.box((20, 20, 20)), "resin_small", {"tilt_deg": 30.0}, RESIN_S((20 * (math.cos(math.pi / 6) + 0.5) + 5) / 0.05)),
        # Filament: walls of 1.2 mm under the skin and 15 % within, 4.5 mm3/s at layers of 0.16 mm, a third more for travel.
        (trimesh.creation.box((40, 40, 40)), "filament_small", {}, FLOW(9600 * 1.2 + (64_000 - 9600 * 1.2) * 0.15)),
        (trimesh.creation.box((40, 40, 40)), "filament_small", {"layer_mm": 0.12}, FLOW(9600 * 1.2 + (64_000 - 9600 * 1.2) * 0.15, 0.12)),
        # A table: a plate of 60 x 60 x 4 on a foot of 10 x 10 x 30. Its underside hangs: 3500 mm2 over 30 mm, 15 % of that is support.
        (trimesh.boolean.union([trimesh.creation.box(bounds=((0, 0, 30), (60, 60, 34))), trimesh.creation.box(bounds=((25, 25, 0), (35, 35, 31)))]), "filament_small", {},
         FLOW((1.2 * 9360 + (17_400 - 1.2 * 9360) * 0.15) + 0.15 * 3500 * 30 + 0.6 * 3600)),
    ],
)  # fmt: skip
def test_the_hours_of_ten_bodies_are_those_of_a_plain_reckoning(empty, mesh, machine, more, by_hand):
    mesh = mesh.copy()
    mesh.apply_translation(-mesh.bounds[0])
    assert hours(on_the_shelf(empty, mesh, machine, **more)) == pytest.approx(by_hand, rel=0.10)


def test_finer_layers_take_longer_at_one_speed(empty):
    # 0.12 against 0.16 mm: a third longer (common practice, no source).
    fine, coarse = (hours(on_the_shelf(empty, trimesh.creation.box((40, 40, 40)), "filament_small", layer_mm=v)) for v in (0.12, 0.16))
    assert fine / coarse == pytest.approx(4 / 3)


# A C lying on its back: a foot, a post of 10 x 10, and an arm 20 mm over the foot.
ELL = trimesh.boolean.union(
    [trimesh.creation.box(bounds=b) for b in (((0, 0, 0), (40, 10, 5)), ((0, 0, 4), (10, 10, 30)), ((0, 0, 25), (40, 10, 30)))]
)


def test_a_cube_has_no_supports_and_a_ball_stands_on_a_point(empty):
    cube = on_the_shelf(empty, trimesh.creation.box((20, 20, 20)))
    job = job_of(cube, cube.prints[0])
    assert job.material_g == pytest.approx(8.0 * 1.12)
    assert "nothing hangs over" in job.formula
    ball = hang_of(np.asarray(trimesh.creation.icosphere(subdivisions=4, radius=15).triangles), "z", 0.0, "filament")
    assert not ball.stands
    # The cap below 45 degrees, by hand: 2 pi r^2 (1 - cos 45), less what is on the plate.
    assert ball.hanging == pytest.approx(2 * math.pi * 225 * (1 - math.cos(math.pi / 4)), rel=0.08)
    tall = hang_of(np.asarray(trimesh.creation.box((20, 10, 40)).triangles), "z", 0.0, "resin")
    assert (tall.foot, tall.plan) == (pytest.approx(200), pytest.approx(200))
    assert tall.standing == pytest.approx(200)
    # What hangs over a step is held up from the step, not from the plate: an L on its back, 20 mm over the foot.
    held = hang_of(np.asarray(ELL.triangles), "z", 0.0, "filament")
    assert held.hanging == pytest.approx(300)
    assert held.columns == pytest.approx(300 * 20, rel=0.01)
    seen = hang_of(np.asarray(ELL.triangles), "z", 0.0, "filament", "bottom")
    assert seen.seen == pytest.approx(300)
    assert hang_of(np.asarray(ELL.triangles), "z", 0.0, "filament", "top").seen == 0


def test_the_side_that_is_seen_is_kept_free_of_supports():
    free = [p.hang.seen for p in postures(ELL.vertices, ELL.faces, "filament", (180, 180, 180), "bottom")]
    assert free[0] < 1.0
    assert max(free) == pytest.approx(300)


@pytest.mark.parametrize(
    ("mesh", "wall", "shell"),
    [
        # By hand: the body less the same one, smaller by the wall on every side.
        (trimesh.creation.box((30, 30, 30)), 1.5, 27_000 - 27**3),
        (trimesh.creation.icosphere(subdivisions=5, radius=15), 1.5, 4 / 3 * math.pi * (15**3 - 13.5**3)),
        (trimesh.creation.cylinder(radius=12, height=30, sections=200), 1.5, math.pi * (144 * 30 - 10.5**2 * 27)),
    ],
)
def test_hollowing_leaves_a_wall_and_stays_closed(mesh, wall, shell):
    made = hollowed(body(mesh), wall)
    facts = measure(made.body)
    assert facts.watertight
    assert facts.bodies == 2  # the outer skin and the inner one
    assert made.volume == pytest.approx(shell, rel=0.01)
    drained = hollowed(body(mesh), wall, 3.0)
    assert measure(drained.body).watertight
    assert measure(drained.body).bodies == 1  # a hole joins the skins
    assert len(drained.drains) == 2
    assert drained.volume < made.volume
    # The wall, measured by other means: how far the inner skin's points are from the outer skin.
    gone = to_manifold(body(mesh)) - to_manifold(made.body)
    inner = from_manifold(gone).vertices
    away = trimesh.proximity.closest_point_naive(mesh, inner[:: max(1, len(inner) // 60)])[1]
    assert np.median(away) == pytest.approx(wall, rel=0.01)
    assert away == pytest.approx(wall, abs=0.25)  # half a step of the grid, at edges


def test_what_cannot_be_hollowed_says_why():
    with pytest.raises(BodyError, match="nowhere thicker"):
        hollowed(body(trimesh.creation.box((30, 30, 3))), 2.0)
    with pytest.raises(BodyError, match="too thin for so large"):
        hollowed(body(trimesh.creation.box((900, 900, 900))), 0.5)
    with pytest.raises(BodyError, match="not closed"):
        hollowed(Body(np.array([[0, 0, 0], [9, 0, 0], [0, 9, 0], [0, 0, 9.0]]), np.array([[0, 1, 2], [0, 1, 3]])), 1.0)


def test_the_reckoned_hollow_is_that_of_the_hollowed_body(empty):
    for mesh, wall in ((trimesh.creation.box((30, 30, 30)), 1.5), (trimesh.creation.icosphere(subdivisions=4, radius=15), 2.0)):
        file = file_of(body(mesh), hollow_mm=wall)
        whole, left, area = solid_volume(file)
        assert left == pytest.approx(hollowed(body(mesh), wall).volume, rel=0.015)
        assert area > file.area * 1.5  # two skins
        assert whole == pytest.approx(file.volume)
    assert solid_volume(file_of(hollow_mm=50.0))[1] == pytest.approx(8000)  # a wall thicker than the body is all body


def test_thin_walls_are_found_where_they_are():
    plate = trimesh.creation.box(bounds=((0, 0, 0), (40, 40, 6)))
    fin = trimesh.creation.box(bounds=((30, 10, 5), (30.6, 30, 25)))
    found = thinnest(body(trimesh.boolean.union([plate, fin])))
    assert found[0].mm == pytest.approx(0.6, abs=1e-3)
    x, _y, z = found[0].at
    assert x == pytest.approx(30.3 / 40, abs=0.02)
    assert z > 5 / 25
    assert thinnest(body(trimesh.creation.icosphere(subdivisions=4, radius=10)))[0].mm == pytest.approx(20, rel=0.02)
    # A sharp edge is no wall: a prism of 60 degrees.
    prism = trimesh.creation.cylinder(radius=20, height=20, sections=3)
    assert all(t.mm > 5 for t in thinnest(body(prism)))


def test_what_is_too_thin_follows_the_percentage(empty):
    file = file_of(thin=(Thin(at=(0.9, 0.1, 0.5), mm=0.6), Thin(at=(0.5, 0.5, 0.5), mm=3.0)))
    row = table("machines")["machine"]["resin_small"]
    assert too_thin(file.but(percent=200.0), row) is None
    found = too_thin(file, row)
    assert (found.mm, found.prints, found.count) == (0.6, True, 1)
    assert where(found.place) == "half-way up, right, front"
    assert not too_thin(file.but(percent=20.0), row).prints
    assert thin_words(file) == "Its thinnest wall is 0.6 mm, half-way up, right, front."
    assert thin_words(file_of()) == ""


@pytest.mark.parametrize(("process", "free"), [("filament", 45), ("resin", 60)])
def test_what_hangs_over_is_what_looks_down_more_steeply_than_the_process_bridges(process, free):
    """Of a ball: the cap below the circle where its face leans so far from upright, 2 pi r^2 (1 - cos(90 - free)),
    less what stands on the plate, its lowest 0.2 mm, 2 pi r h; the angles: common practice, no source.
    """
    ball = hang_of(np.asarray(trimesh.creation.icosphere(subdivisions=5, radius=15).triangles), "z", 0.0, process)
    assert ball.hanging == pytest.approx(2 * math.pi * (225 * (1 - math.cos(math.radians(90 - free))) - 15 * 0.2), rel=0.05)


def test_layer_lines_show_on_gentle_slopes_and_to_a_lens(empty):
    """One minute of arc at 600 mm is 0.175 mm, by hand; a face that slopes by 10 degrees has steps of 0.05 / sin 10 = 0.29 mm."""
    cube = on_the_shelf(empty, trimesh.creation.box((20, 20, 20)))
    shape = cube.pieces[0].shape
    assert lines_of(cube.prints[0], shape, 0.05, 600).eye == 0
    assert lines_of(cube.prints[0], shape, 0.2, 600).eye == pytest.approx(4 / 6)  # the four upright faces
    assert lines_of(cube.prints[0], shape, 0.1, 600).lens == pytest.approx(4 / 6)
    roof = trimesh.creation.cone(radius=20, height=20 * math.tan(math.radians(10)), sections=64)
    made = on_the_shelf(empty, roof)
    found = lines_of(made.prints[0], made.pieces[0].shape, 0.05, 600)
    assert found.eye == pytest.approx(0.5, abs=0.02)  # its mantle, about as large as its base
    assert "three to five rounds" in found.words
    assert nearest_eye_mm(empty) == min(s.distance for s in empty.seats)


def test_a_screen_that_is_due_is_told(empty):
    project = on_the_shelf(empty, trimesh.creation.box((20, 20, 20)))
    jobs = {"f": job_of(project, project.prints[0])}
    found = wears(project, jobs)["m0"]
    assert (found.what, found.so_far, found.due) == ("screen", 0.0, False)
    assert found.adds == pytest.approx(jobs["f"].hours / jobs["f"].success)
    old = apply(project, put(MACHINES.at("m0").then(lambda m: m.run_h), 1500.0, "Hours"))
    assert wears(old, jobs)["m0"].due
    derived = Reckoner().derive(old, Look(TODAY), [JOBS, WEARS])
    assert [f.code for f in workshop.wear(old, derived)] == ["BENCH-WEAR"]


def test_quotes_follow_cuts_hollow_and_copies(empty):
    project = on_the_shelf(empty, trimesh.creation.box((60, 60, 60)))
    file = project.prints[0]

    def price(f):
        job = job_of(project, f)
        return SERVICES[0].quote(Request(job.body_ml, job.largest, f.hollow_mm, job.process, f.count, job.parts)).price

    assert price(file.but(hollow_mm=2.0)) < price(file)
    assert price(file.but(count=2)) > 1.5 * price(file)
    halves = file.but(cuts=(Cut(id="c", axis="z", at=0.5),))
    assert price(halves) == pytest.approx(price(file) + 1.2)  # one piece more
    assert job_of(project, halves).largest[2] < 60


def test_two_pieces_of_one_file_agree(empty):
    project = on_the_shelf(empty, trimesh.creation.box((20, 20, 20)))
    one = project.pieces[0]
    two = one.but(id="q", name="Second", measure=None, printed_percent=40.0)
    project = apply(project, put(PIECES.spot, (one, two), "Two"))
    assert {percent_of(project, p) for p in project.pieces} == {100.0}
    assert {weight_of(p, {"f": job_of(project, project.prints[0])}) for p in project.pieces} == {
        job_of(project, project.prints[0]).weight_g
    }
    assert [p.measure.mm for p in apply(project, TakeSize("Measure", "q", 19.5)).pieces] == [19.5, 19.5]
    assert weight_of(two.but(weight_g=7.0), {}) == 7.0


def square(side="front", low=0.25, high=0.75, deep=4.0):
    return Panel(id="p", side=side, outline=((low, low), (high, low), (high, high), (low, high)), deep_mm=deep)


@pytest.mark.parametrize("side", ["front", "back", "left", "right", "top", "bottom"])
def test_a_panel_lifts_off_its_side_with_air_round_it(side):
    # A box of 40 x 60 x 80: half of each side, 4 mm deep, and a hole 0.1 mm larger all round and deeper, by hand.
    size = np.array([40.0, 60.0, 80.0])
    rest, (lid,) = lift_off(body(trimesh.creation.box(bounds=((0, 0, 0), size))), (square(side),), 0.1)
    u, v = (a for a in range(3) if a != {"front": 1, "back": 1, "left": 0, "right": 0, "top": 2, "bottom": 2}[side])
    wide, tall = size[u] / 2, size[v] / 2
    assert measure(lid).volume == pytest.approx(wide * tall * 4)
    assert measure(lid).size == pytest.approx(panel_size(square(side), tuple(size)))
    assert measure(rest).volume == pytest.approx(size.prod() - (wide + 0.2) * (tall + 0.2) * 4.1)
    assert measure(lid).watertight
    assert measure(rest).watertight
    at_high = side in ("back", "right", "top")
    w = 3 - u - v
    assert (lid.vertices[:, w].max() == pytest.approx(size[w])) == at_high


def test_a_drawn_outline_a_hollow_and_panels_that_meet_nothing():
    corners = ((0.1, 0.1), (0.9, 0.1), (0.5, 0.9))
    three = Panel(id="p", outline=corners, deep_mm=0.0)
    whole = body(trimesh.creation.box(bounds=((0, 0, 0), (40, 10, 50))))
    rest, (lid,) = lift_off(whole, (three,), 0.2)
    assert measure(lid).volume == pytest.approx(0.5 * 32 * 40 * 10)  # a triangle, right through
    hollow = hollowed(whole, 2.0).body
    _rest, (door,) = lift_off(hollow, (square(deep=2.0),), 0.1)
    assert measure(door).volume == pytest.approx(20 * 25 * 2, rel=0.02)
    assert measure(rest).bodies == 1
    ball = body(trimesh.creation.icosphere(subdivisions=3, radius=10))
    with pytest.raises(BodyError, match="meets nothing"):
        lift_off(ball, (square(low=0.0, high=0.05, deep=1.0),), 0.1)
    with pytest.raises(BodyError, match="all of the body"):
        lift_off(ball, (square(low=0.0, high=1.0, deep=0.0),), 0.5)


def test_panels_count_as_parts(empty):
    project = on_the_shelf(empty, trimesh.creation.box((40, 40, 40)), panels=(square(),))
    job = job_of(project, project.prints[0])
    assert job.parts == 2
    assert len(part_sizes(project.prints[0].but(cuts=(Cut(id="c", at=0.5),)))) == 3


def _skin(mesh) -> Mesh:
    low, size = mesh.vertices.min(0), np.ptp(mesh.vertices, axis=0)
    points = (mesh.vertices - low) / size - np.array([0.5, 0.5, 0.0])
    return Mesh(
        file="f", width=size[0], depth=size[1], height=size[2], points=tuple(map(tuple, points)), faces=tuple(map(tuple, mesh.faces))
    )


@pytest.mark.parametrize(
    ("mesh", "wall"),
    [
        (trimesh.creation.box((100, 80, 10)), 2.0),
        (trimesh.creation.box((120, 12, 60)), 1.5),
        (ELL, 2.0),
        (trimesh.creation.icosphere(subdivisions=3, radius=15), 2.0),
    ],
)
def test_the_hollow_that_is_reckoned_is_the_hollow_that_is_made(mesh, wall):
    # Flat bodies too, which were 11 to 26 % too light: against the body that is really hollowed, and a box by hand.
    file, made = file_of(body(mesh), hollow_mm=wall), hollowed(body(mesh), wall)
    _whole, left, _area = solid_volume(file, _skin(mesh))
    assert left == pytest.approx(made.volume, rel=0.03)
    if len(mesh.faces) == 12:
        sides = np.ptp(mesh.vertices, axis=0)
        assert left == pytest.approx(np.prod(sides) - np.prod(sides - 2 * wall), rel=0.03)


def exact_plates(sizes, wide, deep, air):
    """The fewest plates, by trying every sharing out and every order and turn: slow, and only for a few."""

    def goes(some):
        for order in permutations(some):
            for turns in product((0, 1), repeat=len(order)):
                rects = [(w + air, d + air) if not t else (d + air, w + air) for (w, d), t in zip(order, turns, strict=True)]
                xs = {0.0, *(sum(r[0] for r in c) for n in range(1, len(rects)) for c in combinations(rects, n))}
                ys = {0.0, *(sum(r[1] for r in c) for n in range(1, len(rects)) for c in combinations(rects, n))}

                def place(k, there, rects=rects, xs=xs, ys=ys):
                    if k == len(rects):
                        return True
                    w, d = rects[k]
                    for x in xs:
                        for y in ys:
                            if (
                                x + w <= wide + air + 1e-6
                                and y + d <= deep + air + 1e-6
                                and all(x >= c or x + w <= a or y >= e or y + d <= b for a, b, c, e in there)
                                and place(k + 1, [*there, (x, y, x + w, y + d)])
                            ):
                                return True
                    return False

                if place(0, []):
                    return True
        return False

    best = len(sizes)

    def share(k, plates):
        nonlocal best
        if len(plates) >= best:
            return
        if k == len(sizes):
            best = len(plates)
            return
        for i in range(len(plates)):
            if goes([*plates[i], sizes[k]]):
                share(k + 1, [*plates[:i], [*plates[i], sizes[k]], *plates[i + 1 :]])
        share(k + 1, [*plates, [sizes[k]]])

    share(0, [])
    return best


def test_plates_are_filled_by_shape_and_turn():
    def count(*sizes, build=(130.0, 80.0, 100.0)):
        return len(packed([((w, d, 20.0), "f") for w, d in sizes], build))

    assert count((85, 42), (85, 42)) == 2  # 84 + air over 80, and 85 + 42 turned stands out
    assert count((120, 36), (120, 36)) == 1
    assert count((36, 78), (36, 78), (36, 78)) == 1
    rng = np.random.default_rng(11)
    for _ in range(20):
        sizes = [tuple(float(x) for x in rng.integers(15, 75, 2)) for _ in range(int(rng.integers(2, 5)))]
        assert count(*sizes) == exact_plates(sizes, 130.0, 80.0, AIR_MM), sizes
    for plate in packed([((float(w), float(d), 9.0), "f") for w, d in rng.integers(10, 60, (30, 2))], (130.0, 80.0, 100.0)):
        assert sum((s[0] + AIR_MM) * (s[1] + AIR_MM) for s, _f in plate) <= (130 + AIR_MM) * (80 + AIR_MM)


def test_hundreds_of_copies_are_a_few_plates_again_and_again(monkeypatch):
    """A thousand copies held up the window for 37 s. By hand: 4 x 3 boxes of 30 x 25 with 2 mm between go on 130 x 80, none more."""
    fillings = []
    at_once = plates._at_once

    def counted(*given, **more):
        fillings.append(given)
        return at_once(*given, **more)

    monkeypatch.setattr(plates, "_at_once", counted)
    found = packed([((30.0, 25.0, 20.0), "f")] * 1000, (130.0, 80.0, 100.0))
    assert sorted(map(len, found)) == [4, *[12] * 83]
    assert len(fillings) <= 2 * 8
    rng = np.random.default_rng(5)
    for _ in range(6):  # of several kinds: all of them, once each, and hardly more plates than all at once take
        kinds = [((float(w), float(d), float(h)), f"f{k}") for k, (w, d, h) in enumerate(rng.integers(12, 60, (3, 3)))]
        parts = [kinds[int(k)] for k in rng.integers(0, 3, 90)]
        one_by_one = packed(parts, (130.0, 80.0, 100.0))
        assert Counter(p for plate in one_by_one for p in plate) == Counter(parts)
        monkeypatch.setattr(plates, "MANY", 1000)
        assert len(one_by_one) <= len(packed(parts, (130.0, 80.0, 100.0))) + 1
        monkeypatch.setattr(plates, "MANY", 60)


def test_no_layer_takes_less_than_it_needs_to_set(empty):
    # A pin of 16 mm across and 76 mm high at layers of 0.16 mm: 475 layers, 8 s each, 1.06 h, though little flows.
    machine = Machine(id="m", name="M", row="filament_small")
    file = file_of(body(trimesh.creation.cylinder(radius=8, height=76, sections=48)), machine="m")
    project = empty.but(brief=empty.brief.but(machines=(machine,)), prints=(file,))
    job = job_of(project, file)
    assert job.hours >= 475 * 8 / 3600
    two = file.but(count=6)
    (plate,) = plates_of(project.but(prints=(two,)), two)
    assert plate.hours == pytest.approx(max(6 * job.drawn_h, 475 * 8 / 3600))  # beside its like each has time to set


def test_points_that_are_nearly_one_are_welded():
    box = trimesh.creation.box((20, 30, 40))
    loose = box.triangles.reshape(-1, 3) + np.random.default_rng(1).normal(scale=1e-14, size=(36, 3)) * 20
    made = mend(Body(loose, np.arange(36).reshape(-1, 3)))
    assert made.facts.watertight
    assert made.facts.volume == pytest.approx(24_000)
    assert "were made one" in made.repairs[0]
    far = box.triangles.reshape(-1, 3).copy()
    far[0] += 0.5
    assert not mend(Body(far, np.arange(36).reshape(-1, 3))).facts.watertight


def test_a_sharp_edge_of_a_solid_is_no_thin_wall():
    # A wedge of 25 degrees: at its edge the sides meet, and no wall ends there.
    points = np.array([[0, 0, 0], [60, 0, 0], [60, 0, 28], [0, 30, 0], [60, 30, 0], [60, 30, 28.0]])
    wedge = trimesh.Trimesh(points, [[0, 1, 2], [3, 5, 4], [0, 3, 4], [0, 4, 1], [1, 4, 5], [1, 5, 2], [0, 2, 5], [0, 5, 3]])
    wedge.fix_normals()
    assert all(t.mm > 5 for t in thinnest(body(wedge)))


def test_the_thinnest_wall_of_what_is_hollow_is_its_wall():
    file = file_of(thin=(Thin(at=(0.5, 0.5, 0.5), mm=209.0),))
    assert "209" in thin_words(file)
    assert "2.5 mm" in thin_words(file.but(hollow_mm=2.5))
