# SPDX-License-Identifier: MIT
"""References are told once, in the models: what follows from them holds for every list, and for every field that has a mark."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.core.edits import EditError, Remove, apply, put
from fondale.core.edits.leaving import Accept
from fondale.core.model import LAMPS, LISTS, MACHINES, MOMENTS, NEEDS, PAGES, PRINTS, PROJECT, STEPS, STRINGS, SUPPLIES, SURFACES, Project
from fondale.core.model.base import Names
from fondale.core.model.marks import marked
from fondale.core.model.references import BY_NAME, loose_ends, renamed, without
from tests.conftest import tries

ALL = [(listing, k) for listing in LISTS for k in range(40)]


@pytest.fixture(scope="module")
def tangled(heron) -> Project:
    """The demo, with a reference in every field that can hold one, and ids that occur nowhere else."""
    project = heron
    for listing in LISTS:
        for k, thing in enumerate(listing.members(project)):
            project = renamed(project, listing, thing.id, f"zz{listing.name}{k}")
    crane = project.prints[-1]
    project = apply(
        project,
        put(PRINTS.at(crane.id).then(lambda f: f.machine), project.brief.machines[0].id, "Machine"),
        put(NEEDS.at(project.needs[0].id).then(lambda n: n.bit), project.bits[0].id, "Bit"),
        put(NEEDS.at(project.needs[0].id).then(lambda n: n.photo), project.photos[0].id, "Photograph"),
        put(STRINGS.at(project.strings[0].id).then(lambda s: s.reversed), project.strings[0].lamps[:1], "Turned"),
        put(STEPS.at(project.steps[3].id).then(lambda s: s.tests), tuple(m.id for m in project.lamps), "Tests"),
        put(STEPS.at(project.steps[3].id).then(lambda s: s.after), (project.steps[0].id, project.steps[1].id), "After"),
        put(PAGES.at(project.pages[0].id).then(lambda p: p.done), tuple(s.id for s in project.steps), "Done"),
    )
    return project


def test_the_samples_have_no_loose_ends(heron, glass, hut, tangled):
    assert [loose_ends(p) for p in (heron, glass, hut, tangled)] == [()] * 4


def test_every_mark_names_a_list_and_the_tangle_uses_every_mark(tangled):
    used = {(type(m.owner).__name__, m.field) for m in marked(tangled, Names)}
    assert {m.mark.listing for m in marked(tangled, Names)} <= set(BY_NAME)
    assert used == {
        ("Need", "photo"), ("Need", "bit"), ("PrintFile", "machine"), ("Mesh", "file"), ("Surface", "piece"), ("Step", "surfaces"),
        ("Step", "closes"), ("Step", "tests"), ("Step", "after"), ("String", "supply"), ("String", "lamps"), ("String", "reversed"),
        ("Moment", "levels"), ("Page", "done"), ("Project", "moment"), ("Stood", "piece"),
    }  # fmt: skip


@tries(60)
@given(st.lists(st.sampled_from(ALL), min_size=1, max_size=6))
def test_whatever_is_removed_nothing_dangles(tangled, picks):
    """The judge knows no models: an id that is gone occurs nowhere in the file."""
    project = tangled
    for listing, k in picks:
        members = listing.members(project)
        if members:
            gone = members[k % len(members)].id
            project = apply(project, Remove("Remove", listing, gone))
            assert f'"{gone}"' not in project.model_dump_json()
    assert loose_ends(project) == ()
    assert Project.model_validate_json(project.model_dump_json()) == project


def test_no_edit_names_what_is_not_there(tangled):
    """A step that closes a joint's number instead of a face made the light test's rule raise."""
    for step in tangled.steps[:3]:
        with pytest.raises(EditError, match="“Close” names “nowhere”, which is not in the project"):
            apply(tangled, put(STEPS.at(step.id).then(lambda s: s.closes), ("nowhere",), "Close"))


def _numbers(schema: object, where: str):
    """Every number of a JSON schema, with the place where it stands; a model is looked at once, under its own name."""
    if isinstance(schema, dict):
        if schema.get("type") in ("number", "integer") and "const" not in schema and "enum" not in schema:
            yield where, schema
        for key, inner in schema.items():
            yield from _numbers(inner, f"{where}.{key}")
    elif isinstance(schema, list):
        for inner in schema:
            yield from _numbers(inner, where)


def test_every_number_of_the_file_has_two_ends():
    """A direction of 1e308 overflowed where it was drawn: whatever a file can hold can be reckoned with."""
    endless = [
        where
        for where, number in _numbers(Project.model_json_schema(), "")
        if not ({"minimum", "exclusiveMinimum"} & set(number) and {"maximum", "exclusiveMaximum"} & set(number))
    ]
    assert [
        w for w in endless if "Mesh.properties.faces" not in w and not w.endswith("schema_version")
    ] == []  # these name points; that is read first


@tries(40)
@given(st.sampled_from(ALL))
def test_who_is_renamed_is_followed(tangled, pick):
    listing, k = pick
    members = listing.members(tangled)
    if not members:
        return
    old = members[k % len(members)].id
    after = renamed(tangled, listing, old, "another-one")
    assert f'"{old}"' not in after.model_dump_json()
    assert after.model_dump_json().count('"another-one"') == tangled.model_dump_json().count(f'"{old}"')
    assert loose_ends(after) == ()
    assert renamed(after, listing, "another-one", old) == tangled


def test_what_cannot_be_without_it_goes_too(heron):
    after = without(heron, SUPPLIES, "cells")
    assert [s.id for s in heron.strings if s.supply == "cells"]
    assert not [s for s in after.strings if s.supply == "cells"]
    assert len(after.lamps) == len(heron.lamps)


@pytest.mark.parametrize("listing", [LAMPS, MACHINES, MOMENTS, SURFACES])
def test_only_what_named_it_changes(heron, listing):
    gone = listing.members(heron)[0].id
    after = without(heron, listing, gone)
    assert len(listing.members(after)) == len(listing.members(heron)) - 1
    named = {id(m.owner) for m in marked(heron, Names) if (m.mark.listing, m.value) == (listing.name, gone)}
    for other in LISTS:
        if other is not listing:
            assert all(a is b or id(b) in named for a, b in zip(other.members(after), other.members(heron), strict=True))


def test_what_was_left_and_spoke_of_it_speaks_again(heron):
    left = apply(heron, Accept("Leave", ("LAMP-BARE:moon:child",), "It is the moon"), Accept("Leave", ("BRIEF-MONEY",), "So be it"))
    assert [a.key for a in without(left, LAMPS, "moon").accepted] == ["BRIEF-MONEY"]


def test_renaming_what_is_not_there_or_to_what_is_there_is_refused(heron):
    with pytest.raises(LookupError):
        renamed(heron, LAMPS, "sun", "star")
    with pytest.raises(ValueError, match="share the id"):
        renamed(heron, LAMPS, "moon", "post")
    assert PROJECT.then(lambda p: p.moment).read(heron) == heron.moment
