# SPDX-License-Identifier: MIT
"""Every table can be read; the maker's own rows are held to what the shipped ones are, and travel with the project."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.core.circuit.diode import diode_of
from fondale.core.circuit.supply import solve_all
from fondale.core.derived import SUPPLIES_SOLVED
from fondale.core.edits import EditError, apply, put
from fondale.core.edits.own_rows import BringOwn, DropOwn, changed_own, make_own, names_of
from fondale.core.fits.glue import glues_for
from fondale.core.model import JOINS, LAMPS, OWN, STEPS, Join, OwnRow
from fondale.core.prompts import all_prompts
from fondale.core.tables import BY_NAME, SECTIONS, content_of, in_force, is_own, row_name, rows_of, shown, source_of, trouble_with
from fondale.core.unknown import unknown_keys
from fondale.knowledge import held, hold, shipped, table
from fondale.storage.files import from_json, to_json
from tests.conftest import known

TABLES = (
    "beasts",
    "body",
    "cautions",
    "coats",
    "electric",
    "fits",
    "furniture",
    "joins",
    "machines",
    "materials",
    "scales",
    "sources",
    "things",
    "tools",
)


@pytest.fixture(autouse=True)
def shipped_again():
    yield
    hold({})


def test_every_table_is_among_what_the_window_shows():
    assert {s.table for s in SECTIONS} == set(TABLES)


@pytest.mark.parametrize("section", SECTIONS, ids=lambda s: s.name)
def test_every_row_has_a_name_values_and_a_source(section):
    rows = rows_of(section)
    assert rows
    for key, row in rows.items():
        assert row_name(key, row)
        assert section.table == "sources" or source_of(section, row)
        for column in section.columns:
            if column.key in row:
                assert isinstance(shown(column, row[column.key]), str)


@pytest.mark.parametrize("section", [s for s in SECTIONS if s.own], ids=lambda s: s.name)
def test_every_shipped_row_is_held_to_the_same_as_an_own_one(section):
    for key, row in rows_of(section).items():
        assert trouble_with(section, row) == "", key


@pytest.mark.parametrize("section", [s for s in SECTIONS if s.own], ids=lambda s: s.name)
def test_a_row_of_every_such_table_can_be_made_ones_own(empty, section):
    for key in list(rows_of(section))[:4]:
        add, ident = make_own(empty, section, key)
        project = apply(empty, add)
        own = project.get(OWN, ident)
        assert trouble_with(section, content_of(own)) == ""
        assert from_json(to_json(project)) == project
        in_force(project)
        assert own.key in rows_of(section)
        hold({})


def mine(project, name, key):
    add, ident = make_own(project, BY_NAME[name], key)
    project = apply(project, add)
    in_force(project)
    return project, project.get(OWN, ident)


def test_an_own_led_lights_as_its_values_say_and_so_when_they_change(heron):
    project, own = mine(heron, "electric.led", "warm_white")
    project = apply(project, put(LAMPS.at("kiosk").then(lambda m: m.led), own.key, "LED"))
    assert unknown_keys(project) == ()
    assert solve_all(project)[0].amps == pytest.approx(solve_all(heron)[0].amps)
    other = apply(project, changed_own(own, "points", ((2.0, 0.1), (2.4, 10.0), (2.6, 20.0))))
    new = other.get(OWN, own.id)
    assert new.key != own.key
    assert other.get(LAMPS, "kiosk").led == new.key
    assert diode_of(new.key).volts(0.01) == pytest.approx(2.4)
    assert SUPPLIES_SOLVED.key(other, None) != SUPPLIES_SOLVED.key(project, None)
    assert solve_all(other)[0].amps > solve_all(project)[0].amps
    in_force(project)  # undone
    assert solve_all(project)[0].amps == pytest.approx(solve_all(heron)[0].amps)


def test_an_own_coat_dries_and_lifts_as_it_says(heron):
    project, own = mine(heron, "coats.coat", "enamel")
    step = next(s for s in project.steps if s.coat and not s.done)
    project = apply(project, put(STEPS.at(step.id).then(lambda s: s.coat), own.key, "Coat"))
    project = apply(project, changed_own(project.get(OWN, own.id), "min_c", 40.0))
    assert project.get(STEPS, step.id).coat == project.get(OWN, own.id).key
    found = [f for f in all_prompts(known(project)) if f.code == "COAT-COLD"]
    assert found
    assert any("My enamel" in f.text for f in found)


def test_an_own_glue_is_offered_after_the_shipped_ones(empty):
    _project, own = mine(empty, "joins.glue", "ca_gel")
    found = [g.key for g in glues_for(Join(id="j", name="J"))]
    assert found[-1] == own.key
    assert found[0] == "ca_gel"


def test_an_own_material_keeps_what_its_like_is(empty):
    _project, own = mine(empty, "materials.material", "foam")
    keys = [g.key for g in glues_for(Join(id="j", name="J", a=own.key, b="wood"))]
    assert keys == [g.key for g in glues_for(Join(id="j", name="J", a="foam", b="wood"))][: len(keys)] or "foam" not in keys
    assert "ca_gel" not in keys


def test_what_is_taken_away_leaves_what_it_was_made_of(heron):
    project, own = mine(heron, "electric.led", "amber")
    project = apply(project, put(LAMPS.at("passage").then(lambda m: m.led), own.key, "LED"))
    assert list(names_of(project, own)) == ["Passage"]
    gone = apply(project, DropOwn("Remove", own.id))
    assert gone.own == ()
    assert gone.get(LAMPS, "passage").led == "amber"


@pytest.mark.parametrize(
    ("name", "key", "field", "value"),
    [
        ("electric.led", "red", "points", ((2.0, 20.0), (1.9, 10.0))), ("electric.led", "red", "max_ma", -3.0), ("coats.coat", "acrylic", "dry_h", (3.0, 2.0, 1.0)),
        ("coats.coat", "acrylic", "thinner", "magic"), ("electric.cell", "aa", "ohm", (0.1, 0.2)), ("things.thing", "brick", "real", (10.0, 20.0)), ("joins.glue", "pva", "one", ("cheese",)),
        ("scales.things", "riser", "spread", 4.0), ("coats.coat", "acrylic", "cautions", ("nothing",)), ("electric.plug", "usb_5v_1a", "volts", 230.0),
    ],
)  # fmt: skip
def test_what_no_row_may_be_is_refused_in_words_and_nothing_changes(empty, name, key, field, value):
    project, own = mine(empty, name, key)
    with pytest.raises(EditError) as told:
        apply(project, changed_own(own, field, value))
    assert len(str(told.value)) > 10


def test_a_file_with_a_bad_row_opens_and_says_what_it_does_not_know(heron):
    bad = OwnRow(id="bad", name="Bad", table="electric", section="led", like="red", values={"max_ma": -1.0})
    project = heron.but(own=(bad,), lamps=tuple(m.but(led=bad.key) if m.id == "moon" else m for m in heron.lamps))
    in_force(project)
    assert bad.key not in table("electric")["led"]
    found = [f for f in all_prompts(known(project)) if f.code == "FILE-UNKNOWN"]
    assert len(found) == 1


def test_rows_kept_for_all_projects_come_along_when_they_are_used(heron, empty):
    _project, own = mine(empty, "electric.led", "green")
    in_force(heron, (own,))
    used = apply(heron, put(LAMPS.at("moon").then(lambda m: m.led), own.key, "LED"), BringOwn("Bring", (own,)))
    assert used.own == (own,)
    assert apply(heron, BringOwn("Bring", (own,))).own == ()


def test_the_shipped_rows_stay_as_they_are():
    before = dict(shipped("coats")["coat"])
    hold({("coats", "coat"): {"own_x_1": {"name": "X"}}})
    assert "own_x_1" in table("coats")["coat"]
    assert shipped("coats")["coat"] == before
    assert held()
    hold({})
    assert "own_x_1" not in table("coats")["coat"]
    assert not any(is_own(k) for s in SECTIONS for k in rows_of(s))


@given(
    st.dictionaries(
        st.text(max_size=8),
        st.one_of(st.floats(allow_nan=False, allow_infinity=False, min_value=-1e8, max_value=1e8), st.text(max_size=10), st.booleans()),
        max_size=6,
    )
)
def test_no_row_that_anybody_writes_breaks_anything(values):
    for section in SECTIONS:
        if section.own:
            assert isinstance(trouble_with(section, {**values, "name": "X"}), str)


def test_a_key_stands_for_one_content_for_good(empty):
    _project, own = mine(empty, "coats.coat", "acrylic")
    assert own.key == own.but().key
    assert own.but(values={**own.values, "film_um": 13.0}).key != own.key
    assert from_json(to_json(empty.but(own=(own,)))).own[0].key == own.key
    assert JOINS.name == "joins"


def test_no_two_rows_of_a_table_go_by_one_name():
    for name in ("scales", "fits", "body", "electric", "furniture", "beasts", "joins", "coats", "tools", "materials", "things", "machines"):
        for part, rows in table(name).items():
            if isinstance(rows, dict) and all(isinstance(r, dict) for r in rows.values()):
                names = [r["name"] for r in rows.values() if "name" in r]
                assert len(set(names)) == len(names), (name, part)
