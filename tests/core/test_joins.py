# SPDX-License-Identifier: MIT
"""Joins judged pair by pair by rules written apart from the table (common practice, no source)."""

import itertools
from typing import get_args

import pytest

from fondale.core.fits.glue import glues_for
from fondale.core.model import Join
from fondale.core.model.bench import Wish
from fondale.knowledge import table

# What the judge knows of materials, by himself.
POROUS = {"wood", "balsa", "plywood", "fibreboard", "cork", "card", "plaster", "clay", "foam", "cloth", "ground cover", "sand"}
CLEAR = {"clear plastic", "glass"}
WAXY = {"PE or PP"}
SOFT = {"soft PVC", "rubber"}
LOOSE = {"ground cover", "sand"}
METAL = {"metal", "brass", "steel", "aluminium"}
SOLIDS = [m for m in table("materials")["material"] if m != "water"]
PAIRS = list(itertools.combinations_with_replacement(SOLIDS, 2))


def ways(a, b, need="hold"):
    return [g.key for g in glues_for(Join(id="j", name="J", a=a, b=b, need=need))]


def faults(pair: set[str], glue: str, need: str) -> list[str]:
    """What is wrong with a glue for a pair."""
    rules = {
        "CA frosts clear parts and eats foam": glue.startswith("ca_") and pair & (CLEAR | {"foam"}),
        "cement melts its own plastic only": glue == "cement" and pair != {"styrene"},
        "ABS wants its own": glue == "abs_cement" and not ("ABS" in pair and pair <= {"ABS", "styrene"}),
        "acrylic cement is for acrylic": glue == "acrylic_cement" and pair != {"clear plastic"},
        "water must get out": glue in ("pva", "pva_porous", "pva_loose", "foam") and not pair & POROUS,
        "PVA of both sides wants both porous": glue == "pva" and not pair <= POROUS,
        "light must reach it": glue == "uv" and not pair & CLEAR,
        "its solvent eats that": glue in ("contact", "cement", "abs_cement", "acrylic_cement", "spray_glue") and "foam" in pair,
        "contact eats that": glue == "contact" and pair & {"styrene", "ABS", "clear plastic", "PETG"},
        "nothing wets it": bool(pair & WAXY) and glue not in ("wire", "screw", "acrylic_two", "ca_primed", "clip", "tack", "spray_glue"),
        "hot glue is weak there": glue == "hot" and (need != "fast" or pair & (METAL | CLEAR | {"resin"})),
        "solder holds brass and steel": glue == "solder" and not pair <= {"brass", "steel"},
        "rigid glue cracks off what bends": bool(pair & SOFT)
        and glue in ("ca_gel", "epoxy", "clear_epoxy", "uv", "pva", "pva_clear", "pva_porous"),
        "nobody looks through it": need == "see through" and not pair & CLEAR,
    }
    return [why for why, wrong in rules.items() if wrong]


@pytest.mark.parametrize("need", get_args(Wish))
def test_no_pair_is_offered_what_does_not_hold_it(need):
    for a, b in PAIRS:
        for glue in ways(a, b, need):
            assert not faults({a, b}, glue, need), (a, b, glue)


def test_every_pair_of_solids_is_held_by_something():
    for a, b in PAIRS:
        assert ways(a, b), (a, b)


def test_every_pair_that_can_be_taken_apart_has_a_way():
    for a, b in PAIRS:
        if not {a, b} & (LOOSE | {"cloth", "cork", "foam"}):
            assert ways(a, b, "take apart"), (a, b)


def test_what_one_sees_through_has_a_way():
    for a, b in PAIRS:
        if {a, b} & CLEAR and not {a, b} & (SOFT | WAXY):
            assert ways(a, b, "see through"), (a, b)


@pytest.mark.parametrize(
    ("a", "b", "first"),
    [
        ("resin", "resin", ["ca_gel", "epoxy"]), ("resin", "metal", ["ca_gel", "epoxy"]), ("wood", "wood", ["pva"]), ("card", "card", ["pva"]),
        ("card", "wood", ["pva"]), ("ABS", "ABS", ["abs_cement"]), ("styrene", "styrene", ["cement"]), ("brass", "brass", ["solder", "ca_gel"]),
        ("clear plastic", "clear plastic", ["acrylic_cement", "uv"]), ("glass", "glass", ["uv", "clear_epoxy"]), ("glass", "wood", ["uv", "clear_epoxy"]),
        ("foam", "foam", ["foam", "pva"]), ("PE or PP", "resin", ["wire", "acrylic_two", "ca_primed"]), ("PE or PP", "PE or PP", ["wire"]),
        ("card", "styrene", ["ca_gel"]), ("wood", "resin", ["ca_gel", "epoxy"]), ("cloth", "resin", ["ca_gel"]), ("filament", "filament", ["ca_gel", "epoxy"]),
        ("styrene", "resin", ["ca_gel", "epoxy"]), ("rubber", "metal", ["contact", "ca_soft"]), ("foam", "resin", ["foam", "epoxy"]),
        ("ground cover", "wood", ["pva"]), ("ground cover", "resin", ["pva_loose"]), ("clear plastic", "resin", ["uv", "clear_epoxy"]),
    ],
)  # fmt: skip
def test_the_first_is_the_best(a, b, first):
    assert ways(a, b)[: len(first)] == first
    assert ways(b, a) == ways(a, b)


def test_handling_never_comes_before_working_ends():
    for key, row in table("joins")["glue"].items():
        work, handle, full = row["hours"]
        assert work <= handle <= full, key
    rows = table("joins")["glue"]
    assert 8 <= rows["ca_gel"]["hours"][2] <= 24
    assert "label" in rows["epoxy"]["prepare"]
    assert all(m in rows["hot"]["prepare"] for m in ("foam", "PLA", "styrene"))
    assert "ABS" in rows["contact"]["beware"]


def test_uv_glue_serves_what_is_held_and_what_is_fast_where_a_side_is_clear():
    for need in ("hold", "fast", "see through"):
        assert "uv" in ways("glass", "resin", need)


def test_an_unknown_material_is_held_by_nothing_and_breaks_nothing():
    assert ways("of_tomorrow", "resin") == []
    assert ways("", "") == []
