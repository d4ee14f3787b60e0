import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from fondale.core.edits import Edit, EditError, apply, new_id, put
from fondale.core.edits.boxes import drop_machine, need_of_thread, part_of_thread
from fondale.core.edits.bringing import add_print, in_unit
from fondale.core.edits.ids import numbered
from fondale.core.edits.new_things import (
    PIECE_KINDS,
    add_lamp,
    add_meter,
    add_moment,
    add_piece,
    add_seat,
    add_step,
    add_string,
    add_supply,
    add_surface,
    wire_lamp,
)
from fondale.core.model import Page, Photo, Project, Thread
from fondale.core.model.base import NAME_MOST
from fondale.core.prints.body import Body, measure
from tests.conftest import tries


def test_put_changes_one_value_and_shares_the_rest(heron):
    after = apply(heron, put(("pieces", "woman", "measure", "mm"), 47.0, "Measure"))
    assert after.find("pieces", "woman").measure.mm == 47.0
    assert heron.find("pieces", "woman").measure.mm == 46.9
    assert after.find("pieces", "ferryman") is heron.find("pieces", "ferryman")
    assert all(a is b for a, b in zip(after.lamps, heron.lamps, strict=True))


@pytest.mark.parametrize(
    ("path", "value", "says"),
    [
        (("brief", "cap"), -1, "greater than or equal"),
        (("brief", "cap"), "much", "valid number"),
        (("brief", "house_n"), 0, "greater than or equal"),
        (("brief", "bench_c"), float("nan"), "."),
        (("brief", "evenings"), (1, 2), "."),
        (("case", "width"), 0, "greater than"),
        (("case", "kind"), "aquarium", "."),
        (("pieces", "nobody", "name"), "x", "not in the project"),
        (("pieces", "woman", "wings"), 2, "no “wings”"),
        (("nothing",), 2, "no “nothing”"),
        (("pieces", "woman", "name"), "", "."),
        (("lamps", "post", "level"), 1.5, "."),
        (("moments", "dusk", "levels", "post"), 2.0, "."),
    ],
)
def test_bad_values_are_refused_in_words(heron, path, value, says):
    with pytest.raises(EditError, match=says) as trouble:
        apply(heron, put(path, value, "Try"))
    assert len(str(trouble.value)) > 5


def test_an_unknown_kind_of_edit_is_told(heron):
    with pytest.raises(EditError):
        apply(heron, Edit("explode", "Explode"))


def test_removing_a_lamp_takes_it_out_of_strings_and_moments(heron):
    after = apply(heron, Edit("remove", "Remove", {"field": "lamps", "ident": "moon"}))
    assert after.find("lamps", "moon") is None
    assert all("moon" not in s.lamps for s in after.strings)
    assert all("moon" not in m.levels for m in after.moments)


def test_removing_a_supply_takes_its_strings(heron):
    after = apply(heron, Edit("remove", "Remove", {"field": "supplies", "ident": "cells"}))
    assert [s.id for s in after.strings if s.supply == "cells"] == []
    assert after.find("lamps", "signal-red") is not None


def test_what_is_gone_already_is_told(heron):
    machine = heron.brief.machines[0].id
    without = apply(heron, drop_machine(heron, machine))
    with pytest.raises(EditError, match="gone already"):
        drop_machine(without, machine)
    with pytest.raises(EditError, match="does not fit this project"):
        apply(heron, Edit("replace_string", "Split it", {"ident": "none", "strings": ()}))


def test_removing_surfaces_and_steps_leaves_no_loose_ends(heron):
    after = apply(heron, Edit("remove", "Remove", {"field": "surfaces", "ident": "kiosk-inside"}))
    assert all("kiosk-inside" not in (*s.surfaces, *s.closes) for s in after.steps)
    after = apply(heron, Edit("remove", "Remove", {"field": "steps", "ident": "wires"}))
    assert all("wires" not in s.after for s in after.steps)


def test_removing_what_is_not_there_is_told(heron):
    with pytest.raises(EditError, match="not there"):
        apply(heron, Edit("remove", "Remove", {"field": "lamps", "ident": "sun"}))


def test_two_things_never_share_an_id(heron):
    woman = heron.find("pieces", "woman")
    with pytest.raises(EditError, match="share the id"):
        apply(heron, Edit("add", "Add", {"field": "pieces", "thing": woman}))


def test_rescaling_a_file_scales_sizes_and_weight(heron):
    boat = heron.find("pieces", "boat")
    after = apply(heron, Edit("rescale_file", "Rescale", {"pieces": ("boat", "boy"), "percent": 200.0}))
    twice = after.find("pieces", "boat")
    assert twice.shape.length == 2 * boat.shape.length
    # Twice the size, eight times the weight: mass goes with the cube.
    assert twice.weight_g == pytest.approx(8 * boat.weight_g)
    assert after.find("pieces", "boy").measure.mm == pytest.approx(2 * heron.find("pieces", "boy").measure.mm)
    assert after.find("pieces", "boy").printed_percent == 200.0
    assert after.find("pieces", "woman") is heron.find("pieces", "woman")


def test_reordering_needs_the_same_steps(heron):
    ids = [s.id for s in heron.steps]
    after = apply(heron, Edit("reorder_steps", "Reorder", {"order": tuple(reversed(ids))}))
    assert [s.id for s in after.steps] == ids[::-1]
    with pytest.raises(EditError, match="changed since"):
        apply(heron, Edit("reorder_steps", "Reorder", {"order": tuple(ids[1:])}))


def test_a_page_marks_its_steps_done(heron, today):
    page = Page(id="p", day=today, minutes=30, done=("roof", "fog"))
    after = apply(heron, Edit("log_evening", "Log", {"page": page}))
    assert after.find("steps", "roof").done
    assert after.find("steps", "fog").done
    assert not after.find("steps", "streaks").done
    assert after.pages[-1] == page


def test_accepting_and_reopening(heron):
    after = apply(heron, Edit("accept", "Leave", {"key": "A:b", "reason": "because"}))
    after = apply(after, Edit("accept", "Leave", {"key": "A:b", "reason": "other"}))
    assert [(a.key, a.reason) for a in after.accepted] == [("A:b", "other")]
    assert apply(after, Edit("reopen", "Reopen", {"key": "A:b"})).accepted == ()


@pytest.mark.parametrize("kind", list(PIECE_KINDS))
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
    with pytest.raises(EditError, match="name"):
        apply(
            heron, Edit("add", "Add", {"field": "strings", "thing": heron.strings[0].model_copy(update={"id": "new", "name": "x" * 121})})
        )
    with pytest.raises(EditError, match="less than or equal"):
        apply(heron, put(("lamps",), (lamp.model_copy(update={"level": 7.0}),), "Too bright"))


def test_what_is_too_large_for_anything_is_told(empty):
    photo = Photo(id="quay", name="Quay", asset="assets/quay.png", width=900, height=600)
    thread = Thread(id="far", name="Far shore", a=(0, 0), b=(9, 0), on="plane")
    with pytest.raises(EditError, match=r"Far shore.*more than 100 m"):
        part_of_thread(empty, thread, 35 * 101_000)
    with pytest.raises(EditError, match="more than 10000 m"):
        need_of_thread(empty, photo, thread, 1.1e7, 10.0)
    brick = trimesh.creation.box((2, 3, 250))
    facts = measure(Body(np.asarray(brick.vertices), np.asarray(brick.faces, np.int64)))
    with pytest.raises(EditError, match=r"250 m long.*another unit"):
        add_print(empty, "Shed", "assets/prints/shed.stl", "m", in_unit(facts, 1000), ((), ()), ())


MOVES = st.lists(
    st.one_of(
        st.tuples(st.just(("brief", "cap")), st.floats(-10, 1e4)),
        st.tuples(st.just(("brief", "house_n")), st.floats(-5, 300)),
        st.tuples(st.just(("pieces", "woman", "place", "x")), st.floats(-1e6, 1e6)),
        st.tuples(st.just(("lamps", "post", "level")), st.floats(-1, 2)),
        st.tuples(st.just(("steps", "roof", "done")), st.booleans()),
        st.tuples(st.just(("name",)), st.text(max_size=130)),
    ),
    max_size=12,
)


@tries(60)
@given(MOVES)
def test_no_run_of_edits_breaks_a_project(heron, moves):
    project = heron
    for path, value in moves:
        before = project
        try:
            project = apply(project, put(path, value, "Move"))
        except EditError:
            project = before
        assert Project.model_validate(project.model_dump()) == project
