# SPDX-License-Identifier: MIT
"""Every coat over every other, judged by rules written apart from the table (common practice, no source)."""

import itertools
from datetime import date

import pytest

from fondale.core.coats.conflicts import chemistry_conflicts
from fondale.core.coats.links import chain_of, lag_h
from fondale.core.model import Brief, Step, Surface
from fondale.core.prompts import all_prompts
from fondale.knowledge import table
from tests.conftest import TODAY, derive

ROWS = table("coats")["coat"]
# What the judge knows of paints, by himself.
WATER_VARNISH, SPIRIT, WASHES = (
    {"gloss", "satin", "matt", "fog"},
    {"enamel", "enamel_wash", "streaks", "oil"},
    {"enamel_wash", "streaks", "oil"},
)
HOT = {"primer_spray", "filler_primer"}  # thinned with lacquer thinner
WATER = {"acrylic", "ink"} | WATER_VARNISH
PAINT = {"acrylic", "acrylic_lacquer", "ink", "enamel", *HOT}


def lifted(under: str, over: str, tool: str) -> bool:
    """Whether the solvent of a coat lifts the one below it, once that is dry."""
    wet = tool in ("brush", "hand") or over in WASHES  # what is sprayed thin is dry before it bites; lacquer thinner bites at once
    if over in HOT:
        return under in WATER | SPIRIT | {"acrylic_lacquer", "decal"}
    if over == "acrylic_lacquer":
        return wet and under in WATER | {"acrylic_lacquer"}
    if over in SPIRIT:
        return wet and under != over and under in SPIRIT | {"decal"}
    return False


def lost(under: str, over: str) -> bool:
    """Whether a coat loses what lies under it, or comes too late for it."""
    if under == "pigment":
        return over in WATER_VARNISH | PAINT
    return (under, over) == ("streaks", "enamel_wash")


PAIRS = list(itertools.product([c for c in ROWS if "takes" not in ROWS[c]], repeat=2))


@pytest.mark.parametrize("tool", ["brush", "airbrush"])
def test_every_coat_over_every_other(empty, tool):
    face = Surface(id="f", name="Face")
    for under, over in PAIRS:
        if tool == "airbrush" and not ROWS[over]["sprayed"]:
            continue
        steps = (Step(id="u", name="Under", coat=under, surfaces=("f",)), Step(id="o", name="Over", coat=over, surfaces=("f",), tool=tool))
        found = {c.kind for c in chemistry_conflicts(empty.but(surfaces=(face,), steps=steps))}
        wanted = {"never"} if lost(under, over) else {"lifts"} if lifted(under, over, tool) else set()
        assert found == wanted, (under, over, tool)


def lag(empty, under, over):
    face = Surface(id="f", name="Face")
    steps = (Step(id="u", name="Under", coat=under, surfaces=("f",)), Step(id="o", name="Over", coat=over, surfaces=("f",)))
    project = empty.but(surfaces=(face,), steps=steps)
    return lag_h(steps[0], steps[1], chain_of(project), Brief(start=date(2026, 1, 1), bench_c=20, bench_rh=50))


def test_an_enamel_wash_is_left_a_night_before_varnish(empty):
    # Common practice, no source: 12 to 24 h before varnish; another wash, or pigments, may follow after some hours.
    for wash in ("enamel_wash", "streaks"):
        for varnish in ("gloss", "satin", "matt", "fog"):
            assert 12 <= lag(empty, wash, varnish) <= 24
        assert lag(empty, wash, "pigment") < 6
    assert lag(empty, "oil", "matt") >= 48


def prompts(empty, code, *steps, material="", **brief):
    face = Surface(id="f", name="Face", material=material)
    project = empty.but(surfaces=(face,), steps=steps, brief=empty.brief.but(**brief))
    return [f for f in all_prompts(derive(project, TODAY)) if f.code == code]


@pytest.mark.parametrize("coat", list(ROWS))
def test_bare_foam_is_eaten_by_every_solvent(empty, coat):
    first = Step(id="a", name="First", coat=coat, surfaces=("f",))
    eats = coat in HOT | {"enamel", "enamel_wash", "streaks", "oil", "ca", "putty"}
    assert bool(prompts(empty, "COAT-FOAM", first, material="foam")) == eats, coat
    assert not prompts(empty, "COAT-FOAM", first, material="styrene")
    assert not prompts(empty, "COAT-FOAM", Step(id="s", name="Seal", coat="pva", surfaces=("f",)), first, material="foam")


@pytest.mark.parametrize("coat", list(ROWS))
def test_what_never_dries_on_soft_pvc(empty, coat):
    first = Step(id="a", name="First", coat=coat, surfaces=("f",))
    sticky = coat in HOT | SPIRIT
    found = prompts(empty, "COAT-STICKY", first, material="soft PVC")
    assert bool(found) == sticky, coat
    assert not prompts(empty, "COAT-STICKY", first, material="resin")


def test_what_is_sprayed_into_damp_air_blooms(empty):
    # Common practice, no source: lacquer blushes over some 70 %, varnish over some 75 %.
    can = Step(id="a", name="Prime", coat="primer_spray", surfaces=("f",), tool="spray can")
    matt = Step(id="b", name="Matt", coat="matt", surfaces=("f",), tool="airbrush")
    assert not prompts(empty, "COAT-DAMP", can, bench_rh=60)
    assert prompts(empty, "COAT-DAMP", can, bench_rh=78)
    assert prompts(empty, "COAT-DAMP", matt, bench_rh=80)
    assert not prompts(empty, "COAT-DAMP", matt.but(tool="brush"), bench_rh=80)
    (found,) = prompts(empty, "COAT-DAMP", can, bench_rh=78)
    assert found.fixes


def test_ca_that_shuts_clear_parts_in_frosts_them(empty):
    clear = Surface(id="p", name="Panes", material="clear plastic")
    roof = Step(id="roof", name="Close it", work="build", coat="ca", tool="hand", closes=("p",))
    project = empty.but(surfaces=(clear,), steps=(roof,))
    (found,) = [f for f in all_prompts(derive(project, TODAY)) if f.code == "COAT-FROST"]
    assert found.fixes
    for other in (roof.but(coat="pva"), roof.but(coat="epoxy"), roof.but(done=True)):
        assert not [f for f in all_prompts(derive(empty.but(surfaces=(clear,), steps=(other,)), TODAY)) if f.code == "COAT-FROST"]
    plain = empty.but(surfaces=(clear.but(material="wood"),), steps=(roof,))
    assert not [f for f in all_prompts(derive(plain, TODAY)) if f.code == "COAT-FROST"]


def test_names_are_plain():
    assert ROWS["liftoff"]["name"] == "chipping layer"
    assert ROWS["fog"]["name"].startswith("glass fog")
    assert ROWS["acrylic_lacquer"]["means"]
