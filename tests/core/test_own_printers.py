# SPDX-License-Identifier: MIT
"""A printer of one's own: its room, layer, speed, life and prices, against hand computations; files that leave the shop."""

import pytest
import trimesh

from fondale.core.derived import JOBS, WEARS
from fondale.core.edits import Add, apply, put
from fondale.core.edits.bringing import add_print, drop_file
from fondale.core.edits.printing import HandOver
from fondale.core.model import MACHINES, PIECES, PRINTS, SURFACES, Place, Surface
from fondale.core.model.brief import OwnPrinter
from fondale.core.prints.body import measure, skin
from fondale.core.prints.jobs import job_of, plates_of
from fondale.core.prints.printers import alike, any_of, any_shown, row_of
from fondale.core.prompts import all_prompts
from tests.conftest import TODAY, derive
from tests.core.test_prints import body, file_of, shop


def own(project, ident="m0", **more):
    return apply(project, put(MACHINES.at(ident).then(lambda m: m.own), OwnPrinter(**more), "Own"))


def test_its_layer_and_speed_count(empty):
    # 40 mm at 0.025 mm: 1,600 layers x 4 s + 5 x 35 s at the bottom.
    project = own(shop(empty, file_of()), layer_mm=0.025, layer_s=4.0)
    job = job_of(project, project.prints[0])
    assert job.layers == 1600
    assert job.hours == pytest.approx((1600 * 4.0 + 5 * 35) / 3600)
    # A layer that the file says itself goes before that of the machine.
    assert job_of(project, project.prints[0].but(layer_mm=0.1)).layers == 400


def test_its_flow_is_that_of_its_own_layer(empty):
    file = file_of(body(trimesh.creation.box((100, 100, 100))))
    project = shop(empty, file, machines=("filament_large",))
    hours = job_of(project, file).hours
    assert job_of(own(project, flow=10.4), file).hours == pytest.approx(hours / 2)
    assert job_of(own(project, layer_mm=0.4), file).hours == pytest.approx(hours / 2)  # one speed of the nozzle, twice the thread
    assert job_of(own(project, layer_mm=0.4, flow=5.2), file).hours == pytest.approx(hours)


def test_its_prices_count(empty):
    project = shop(empty, file_of(difficulty="easy"))
    file = project.prints[0]
    job = job_of(project, file)
    times = 1 + (1 / 0.95 - 1) * 0.35
    dear = job_of(own(project, price_kg=100.0, wear_h=2.0), file)
    assert dear.cost == pytest.approx((job.material_g / 1000 * 100 + job.hours * 2.0) * times)


def test_its_room_says_what_goes_on(empty):
    file = file_of(body(trimesh.creation.box((20, 10, 170))))
    project = shop(empty, file)
    assert job_of(project, file).too_large
    tall = own(project, high_mm=200.0)
    assert not job_of(tall, file).too_large
    assert {f.code for f in all_prompts(derive(project, TODAY))} & {"BENCH-TOO-LARGE"}
    assert not {f.code for f in all_prompts(derive(tall, TODAY))} & {"BENCH-TOO-LARGE"}
    # 40 mm across and deep: one copy a plate instead of 130 x 80 / 20 x 10.
    many = file_of(count=6)
    assert len(plates_of(shop(empty, many), many)) == 1
    assert len(plates_of(own(shop(empty, many), wide_mm=20.0, deep_mm=10.0), many)) == 6


def test_its_screen_lives_as_long_as_it_is_said(empty):
    project = own(shop(empty, file_of()), life_h=2000.0)
    assert derive(project, TODAY)[WEARS]["m0"].life == 2000.0


def test_what_it_says_follows_in_steps_and_jobs(empty):
    project = apply(shop(empty, file_of()), HandOver("Steps", "f"))
    slow = own(project, layer_s=17.0)
    assert slow.steps[0].wait_h == pytest.approx((800 * 17.0 + 5 * 35) / 3600, abs=0.01)
    assert derive(slow, TODAY)[JOBS]["f"].hours == pytest.approx(slow.steps[0].wait_h, abs=0.01)


def test_any_of_a_kind_is_offered_once_and_only_for_what_is_alike(empty):
    project = shop(empty, file_of(any_machine=True), machines=("resin_large", "resin_small", "resin_large", "resin_large"))
    assert [(m.id, said) for m, said in any_of(project)] == [("m0", "any large resin printer")]
    assert any_shown(project, "m3") == "m0"
    assert any_shown(project, "m1") == "m1"
    other = own(project, "m2", high_mm=300.0)
    assert [m.id for m in alike(other, other.brief.machines[0])] == ["m3"]
    assert row_of(other.brief.machines[2])["build"] == [215.0, 120.0, 300.0]
    assert row_of(other.brief.machines[0])["build"] == [215.0, 120.0, 230.0]


def brought(empty):
    solid = body(trimesh.creation.box((20, 10, 40)))
    edits, ident = add_print(empty, "Crane", "assets/meshes/f.stl", "mm", measure(solid), skin(solid), ())
    return apply(empty, *edits), ident


def test_a_file_that_is_removed_leaves_no_ghost(empty):
    project, ident = brought(empty)
    assert len(project.pieces) == 1
    assert apply(project, *drop_file(project, project.get(PRINTS, ident))).pieces == ()


@pytest.mark.parametrize("use", ["stands", "weighed", "painted"])
def test_a_piece_that_is_in_use_outlives_its_file(empty, use):
    project, ident = brought(empty)
    piece = project.pieces[0]
    if use == "painted":
        project = apply(project, Add("Add", SURFACES, Surface(id="s", name="S", piece=piece.id)))
    else:
        new = piece.but(place=Place(x=10, y=10)) if use == "stands" else piece.but(weight_g=4.0)
        project = apply(project, put(PIECES.at(piece.id), new, "Use"))
    left = apply(project, *drop_file(project, project.get(PRINTS, ident)))
    assert [p.id for p in left.pieces] == [piece.id]
    assert left.prints == ()
