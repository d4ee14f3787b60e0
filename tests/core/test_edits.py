# SPDX-License-Identifier: MIT
import pickle
from typing import Annotated

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from pydantic import Field, ValidationError

from fondale.core.edits import Add, EditError, Remove, apply, new_id, put
from fondale.core.edits.boxes import drop_machine, drop_thread
from fondale.core.edits.bringing import add_print, in_unit
from fondale.core.edits.edit import words_of
from fondale.core.edits.ids import numbered
from fondale.core.edits.leaving import Accept, Reopen
from fondale.core.edits.new_things import add_piece, add_seat, add_step, add_surface
from fondale.core.edits.printing import RescalePieces
from fondale.core.edits.steps import LogEvening, ReorderSteps
from fondale.core.edits.threads import GUESS, Read, need_of_threads, opening_of_threads, part_of_threads
from fondale.core.edits.wiring import ReplaceString, add_lamp, add_meter, add_moment, add_string, add_supply, wire_lamp
from fondale.core.limits import NAME_MOST
from fondale.core.model import (
    LAMPS,
    MOMENTS,
    PHOTOS,
    PIECES,
    PROJECT,
    STEPS,
    SUPPLIES,
    SURFACES,
    Measure,
    Page,
    Photo,
    Piece,
    Place,
    Project,
    Thread,
)
from fondale.core.model.base import Model
from fondale.core.model.shapes import Box, Figure, Wall
from fondale.core.photo.reading import read_photo
from fondale.core.prints.body import Body, measure
from fondale.core.shapes import KINDS
from tests.conftest import tries


def test_put_changes_one_value_and_shares_the_rest(heron):
    after = apply(heron, put(PIECES.at("woman").then(lambda p: p.measure).narrowed(Measure).then(lambda m: m.mm), 47.0, "Measure"))
    assert after.find(PIECES, "woman").measure.mm == 47.0
    assert heron.find(PIECES, "woman").measure.mm == 46.9
    assert after.find(PIECES, "ferryman") is heron.find(PIECES, "ferryman")
    assert all(a is b for a, b in zip(after.lamps, heron.lamps, strict=True))


LEVEL = LAMPS.at("post").then(lambda m: m.level)
BAD = [
    (PROJECT.then(lambda p: p.brief.cap), -1, "cap must be at least 0"),
    (PROJECT.then(lambda p: p.brief.cap), "much", "cap must be a number"),
    (PROJECT.then(lambda p: p.brief.house_n), 0, "must be at least"),
    (PROJECT.then(lambda p: p.brief.bench_c), float("nan"), "must be a number"),
    (PROJECT.then(lambda p: p.brief.evenings), (1, 2), "must be given"),
    (PROJECT.then(lambda p: p.case.width), 0, "must be at least"),
    (PROJECT.then(lambda p: p.case.kind), "aquarium", "kind must be glazed box, open box"),
    (PIECES.at("nobody").then(lambda p: p.name), "x", "not in the project"),
    (PIECES.at("woman").then(lambda p: p.wings), 2, "no “wings”"),
    (PROJECT.then(lambda p: p.nothing), 2, "no “nothing”"),
    (PIECES.at("woman").then(lambda p: p.name), "", "name must be some words"),
    (PIECES.at("boat").then(lambda p: p.shape).narrowed(Figure).then(lambda f: f.pose), "walking", "no figure"),
    (LEVEL, 1.5, "must be at most 1"),
    (MOMENTS.at("dusk").then(lambda m: m.levels).value_of("post"), 2.0, "must be at most 1"),
]


@pytest.mark.parametrize(("spot", "value", "says"), BAD)
def test_bad_values_are_refused_in_words(heron, spot, value, says):
    with pytest.raises(EditError, match=says):
        apply(heron, put(spot, value, "Try"))


def test_bounds_are_told_in_digits():
    class Large(Model):
        minutes: Annotated[float, Field(le=2_500_000)] = 0.0

    with pytest.raises(ValidationError) as refused:
        Large(minutes=3e6)
    assert words_of(refused.value) == "minutes must be at most 2,500,000"


def test_a_spot_reads_what_it_sets_and_is_data(heron):
    after = apply(heron, put(LEVEL, 0.4, "Dim it"))
    assert (LEVEL.read(after), LEVEL.read(heron)) == (0.4, heron.find(LAMPS, "post").level)
    assert pickle.loads(pickle.dumps(LEVEL)) == LEVEL == LAMPS.at("post").then(lambda other: other.level)
    assert LAMPS.at("sun").then(lambda m: m.level).find(heron) is None
    with pytest.raises(TypeError, match="attributes alone"):
        LAMPS.at("post").then(lambda m: 1.0)


def test_removing_a_lamp_takes_it_out_of_strings_and_moments(heron):
    after = apply(heron, Remove("Remove", LAMPS, "moon"))
    assert after.find(LAMPS, "moon") is None
    assert all("moon" not in s.lamps for s in after.strings)
    assert all("moon" not in m.levels for m in after.moments)


def test_removing_a_supply_takes_its_strings(heron):
    after = apply(heron, Remove("Remove", SUPPLIES, "cells"))
    assert [s.id for s in after.strings if s.supply == "cells"] == []
    assert after.find(LAMPS, "signal-red") is not None


def test_what_is_gone_already_is_told(heron):
    machine = heron.brief.machines[0].id
    without = apply(heron, drop_machine(heron, machine))
    with pytest.raises(EditError, match="gone already"):
        drop_machine(without, machine)
    with pytest.raises(EditError, match="does not fit this project"):
        apply(heron, ReplaceString("Split it", "none", ()))


def test_removing_surfaces_and_steps_leaves_no_loose_ends(heron):
    after = apply(heron, Remove("Remove", SURFACES, "kiosk-inside"))
    assert all("kiosk-inside" not in (*s.surfaces, *s.closes) for s in after.steps)
    after = apply(heron, Remove("Remove", STEPS, "wires"))
    assert all("wires" not in s.after for s in after.steps)


def test_removing_what_is_not_there_is_told(heron):
    with pytest.raises(EditError, match="not there"):
        apply(heron, Remove("Remove", LAMPS, "sun"))


def test_two_things_never_share_an_id(heron):
    woman = heron.find(PIECES, "woman")
    with pytest.raises(EditError, match="share the id"):
        apply(heron, Add("Add", PIECES, woman))


def test_rescaling_a_file_scales_sizes_and_weight(heron):
    boat = heron.find(PIECES, "boat")
    after = apply(heron, RescalePieces("Rescale", ("boat", "boy"), 200.0))
    twice = after.find(PIECES, "boat")
    assert twice.shape.length == 2 * boat.shape.length
    # Twice the size, eight times the weight: mass goes with the cube.
    assert twice.weight_g == pytest.approx(8 * boat.weight_g)
    assert after.find(PIECES, "boy").measure.mm == pytest.approx(2 * heron.find(PIECES, "boy").measure.mm)
    assert after.find(PIECES, "boy").printed_percent == 200.0
    assert after.find(PIECES, "woman") is heron.find(PIECES, "woman")


def test_reordering_needs_the_same_steps(heron):
    ids = [s.id for s in heron.steps]
    after = apply(heron, ReorderSteps("Reorder", tuple(reversed(ids))))
    assert [s.id for s in after.steps] == ids[::-1]
    with pytest.raises(EditError, match="changed since"):
        apply(heron, ReorderSteps("Reorder", tuple(ids[1:])))


def test_a_page_marks_its_steps_done(heron, today):
    page = Page(id="p", day=today, minutes=30, done=("roof", "fog"))
    after = apply(heron, LogEvening("Log", page))
    assert after.find(STEPS, "roof").done
    assert after.find(STEPS, "fog").done
    assert not after.find(STEPS, "streaks").done
    assert after.pages[-1] == page


def test_accepting_and_reopening(heron):
    after = apply(heron, Accept("Leave", ("A:b",), "because"))
    after = apply(after, Accept("Leave", ("A:b",), "other"))
    assert [(a.key, a.reason) for a in after.accepted] == [("A:b", "other")]
    assert apply(after, Reopen("Reopen", "A:b")).accepted == ()


@pytest.mark.parametrize("kind", [k for k in KINDS if k.words])
def test_every_kind_of_piece_can_be_added_twice(empty, kind):
    edit, first = add_piece(empty, kind)
    project = apply(empty, edit)
    edit, second = add_piece(project, kind)
    project = apply(project, edit)
    assert first != second
    assert {p.id for p in project.pieces} == {first, second}
    assert len({p.name for p in project.pieces}) == 2


def test_a_rig_grows_from_nothing(empty):
    project = empty
    edit, lamp = add_lamp(project)
    project = apply(project, edit)
    edit, supply = add_supply(project, "cells")
    project = apply(project, edit)
    edit, string = add_string(project, supply)
    project = apply(project, edit)
    edit, other = add_string(project, supply)
    project = apply(project, edit)
    for target in (string, other, ""):
        for step in wire_lamp(project, lamp, target):
            project = apply(project, step)
        assert [s.id for s in project.strings if lamp in s.lamps] == ([target] if target else [])


def test_the_other_makers_make_what_they_say(empty):
    project = empty
    for made in (
        add_meter(project),
        add_moment(project),
        add_seat(project),
        add_surface(project, "Kiosk front"),
        add_step(project, "Prime"),
    ):
        project = apply(project, made[0])
    assert (len(project.meters), len(project.moments), len(project.seats)) == (1, 2, 2)
    assert project.surfaces[0].id == "kiosk-front"
    assert project.steps[0].name == "Prime"


@given(st.text(max_size=60), st.lists(st.text(max_size=10), max_size=5))
def test_new_ids_are_valid_and_new(name, taken):
    ident = new_id(name, taken)
    assert ident not in taken
    assert Project.model_validate({"id": ident, "name": "x", "brief": {"start": "2026-01-01"}}).id == ident


@given(st.text(min_size=1, max_size=130), st.integers(0, 3))
def test_new_names_are_never_too_long(stem, others):
    names = []
    for _ in range(others + 1):
        names.append(numbered(stem, names))
        assert len(names[-1]) <= NAME_MOST
    if len(stem) < NAME_MOST:
        assert names[0] == stem
        assert others == 0 or names[1] == f"{stem if len(stem) <= NAME_MOST - 6 else stem[: NAME_MOST - 7].rstrip() + '…'} 2"


def test_no_edit_makes_what_could_not_be_read_again(heron):
    lamp = heron.lamps[0]
    for change in ({"name": "x" * 121}, {"level": 7.0}):
        with pytest.raises(ValidationError):
            lamp.but(**change)
        with pytest.raises(ValidationError):
            lamp.model_copy(update=change)
    with pytest.raises(AttributeError, match="no field “glow”"):
        lamp.but(glow=1)


def test_a_thread_has_one_need_and_one_part_and_they_follow_it(empty):
    door = Thread(id="door", name="Door", a=(0, 0), b=(0, 400), known_mm=2000)
    sill = Thread(id="sill", name="Sill", a=(0, 0), b=(200, 0))
    photo = Photo(id="quay", name="Quay", asset="assets/quay.png", width=900, height=600, threads=(door, sill))
    project = empty.but(photos=(photo,))
    read = lambda p: read_photo(p.photos[0])["sill"]  # noqa: E731

    def handed(p):
        reading = read(p)
        p = apply(p, need_of_threads(p, p.photos[0], Read(sill, reading.real_mm, reading.give_mm))[0])
        return apply(p, part_of_threads(p, p.photos[0], Read(sill, reading.real_mm))[0])

    twice = handed(handed(project))
    assert [n.real for n in twice.needs] == [pytest.approx((1000,))]
    assert [p.shape.width for p in twice.pieces] == [pytest.approx(1000 / empty.brief.house_n)]
    # The known length was another one: what was made of its reading follows.
    known = put(PHOTOS.at("quay").then(lambda p: p.threads), (door.but(known_mm=2100), sill), "Known")
    longer = apply(twice, known)
    assert longer.needs[0].real == pytest.approx((1050,))
    assert longer.needs[0].give_mm == pytest.approx(read(longer).give_mm)
    assert longer.pieces[0].shape.width == pytest.approx(1050 / empty.brief.house_n)
    # A thread that is taken off leaves them as they are.
    assert apply(longer, drop_thread(longer.photos[0], "sill")).needs == longer.needs


def test_two_threads_make_one_thing_and_nothing_is_invented(empty):
    across = Thread(id="across", name="Sill", a=(0, 0), b=(200, 10), known_mm=1000)
    up = Thread(id="up", name="Window", a=(0, 0), b=(5, 300))
    photo = Photo(id="quay", name="Quay", asset="assets/quay.png", width=900, height=600, threads=(across, up))
    project = empty.but(photos=(photo,))

    def reads(p):
        found = read_photo(p.photos[0])
        return [Read(t, found[t.id].real_mm, found[t.id].give_mm) for t in p.photos[0].threads]

    wide, high = (r.mm for r in reads(project))
    # One upright thread gives one size: no rod of a thickness that nobody measured.
    alone = apply(project, need_of_threads(project, photo, reads(project)[1])[0]).needs[0]
    assert (alone.outline, alone.real) == ("box", (high,))
    for pair in (reads(project), reads(project)[::-1]):
        made = apply(project, need_of_threads(project, photo, *pair)[0])
        made = apply(made, part_of_threads(made, photo, *pair)[0])
        assert made.needs[0].real == (wide, high)
        shape = made.pieces[0].shape
        assert (shape.width, shape.height) == (pytest.approx(wide / 35), pytest.approx(high / 35))
        assert "No thread gives its depth: a guess" in made.pieces[0].note
        assert shape.depth == pytest.approx(GUESS * min(wide, high) / 35)
    # The maker says how deep it is; then the window turns out to be higher.
    deep = apply(made, put(PIECES.at(made.pieces[0].id).then(lambda p: p.shape).narrowed(Box).then(lambda b: b.depth), 2.0, "Depth"))
    taller = apply(deep, put(PHOTOS.at("quay").then(lambda p: p.threads), (across, up.but(b=(5, 600))), "Stretch"))
    higher = reads(taller)[1].mm
    assert taller.needs[0].real == (pytest.approx(wide), pytest.approx(higher))
    assert (taller.pieces[0].shape.width, taller.pieces[0].shape.depth) == (pytest.approx(wide / 35), 2.0)
    assert taller.pieces[0].shape.height == pytest.approx(higher / 35)
    assert part_of_threads(taller, taller.photos[0], *reads(taller))[1] == made.pieces[0].id


def test_two_threads_cut_an_opening_into_a_wall(empty):
    a, b = Thread(id="a", name="A", a=(0, 0), b=(9, 0)), Thread(id="b", name="B", a=(0, 0), b=(0, 9))
    wall = Piece(id="wall", name="Wall", shape=Wall(length=200, height=100))
    project = empty.but(pieces=(wall, Piece(id="block", name="Block", shape=Box(width=1, depth=1, height=1))))
    cut = apply(project, opening_of_threads(project, "wall", Read(b, 70 * 35), Read(a, 40 * 35)))
    (hole,) = cut.pieces[0].shape.openings
    assert (hole.x, hole.z, hole.width, hole.height) == (80, 0, 40, 70)
    with pytest.raises(EditError, match="larger than Wall"):
        opening_of_threads(project, "wall", Read(a, 300 * 35), Read(b, 70 * 35))
    with pytest.raises(EditError, match="takes no openings"):
        opening_of_threads(project, "block", Read(a, 35), Read(b, 35))


def test_what_is_too_large_for_anything_is_told(empty):
    photo = Photo(id="quay", name="Quay", asset="assets/quay.png", width=900, height=600)
    thread = Thread(id="far", name="Far shore", a=(0, 0), b=(9, 0), on="plane")
    with pytest.raises(EditError, match=r"Far shore.*more than 100 m"):
        part_of_threads(empty, photo, Read(thread, 35 * 101_000))
    with pytest.raises(EditError, match="more than 10000 m"):
        need_of_threads(empty, photo, Read(thread, 1.1e7, 10.0))
    brick = trimesh.creation.box((2, 3, 250))
    facts = measure(Body(np.asarray(brick.vertices), np.asarray(brick.faces, np.int64)))
    with pytest.raises(EditError, match=r"250 m long.*another unit"):
        add_print(empty, "Shed", "assets/prints/shed.stl", "m", in_unit(facts, 1000), ((), ()), ())


MOVES = st.lists(
    st.one_of(
        st.tuples(st.just(PROJECT.then(lambda p: p.brief.cap)), st.floats(-10, 1e4)),
        st.tuples(st.just(PROJECT.then(lambda p: p.brief.house_n)), st.floats(-5, 300)),
        st.tuples(st.just(PIECES.at("woman").then(lambda p: p.place).narrowed(Place).then(lambda p: p.x)), st.floats(-1e6, 1e6)),
        st.tuples(st.just(LEVEL), st.floats(-1, 2)),
        st.tuples(st.just(STEPS.at("roof").then(lambda s: s.done)), st.booleans()),
        st.tuples(st.just(PROJECT.then(lambda p: p.name)), st.text(max_size=130)),
    ),
    max_size=12,
)


@tries(60)
@given(MOVES)
def test_no_run_of_edits_breaks_a_project(heron, moves):
    project = heron
    for spot, value in moves:
        before = project
        try:
            project = apply(project, put(spot, value, "Move"))
        except EditError:
            project = before
    assert Project.model_validate(project.model_dump()) == project
