# SPDX-License-Identifier: MIT
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.core.coat_kinds import is_ageing, is_colour, is_glue, usual
from fondale.core.coats.conflicts import access_conflicts, chemistry_conflicts, missing
from fondale.core.coats.drying import drying_factor, too_cold, wait_h
from fondale.core.coats.links import chain_of, lag_h, links
from fondale.core.edits import apply
from fondale.core.edits.steps import ReorderSteps
from fondale.core.model import Brief, Lamp, Piece, Place, Step, Surface, Tie
from fondale.core.model.shapes import Room
from fondale.core.strata import core_sample, film_um, layer_of
from fondale.knowledge import table
from tests.conftest import tries


def step(ident: str, surfaces: str = "", coat: str = "", closes: str = "", **more: object) -> Step:
    return Step(id=ident, name=ident.replace("-", " "), surfaces=tuple(surfaces.split()), coat=coat, closes=tuple(closes.split()), **more)


def build(project, *steps: Step, surfaces: str = "in out"):
    made = tuple(Surface(id=s, name=s.capitalize(), inside=s == "in") for s in surfaces.split())
    return project.model_copy(update={"surfaces": made, "steps": steps})


@pytest.mark.parametrize(("c", "factor"), [(20, 1.0), (10, 2.0), (30, 0.5), (14, 1.5157)])
def test_cold_doubles_drying_every_ten_degrees(c, factor):
    # Common practice, no source: below about 10 C drying takes twice as long.
    assert drying_factor("enamel", c, 90) == pytest.approx(factor, rel=1e-3)


@pytest.mark.parametrize(("own", "held"), [(0.0, 1.0), (0.25, 1.0), (1.0, 1.0), (1.75, 1.75)])
def test_what_a_step_waits_for_by_itself_runs_beside_its_coat(own, held, heron):
    """Both clocks begin when the brush is put down: the longer one counts, not both after each other."""
    step = next(s for s in heron.steps if s.coat)
    dries = wait_h(step.but(wait_h=0.0), "next", heron.brief)
    assert wait_h(step.but(wait_h=own * dries), "next", heron.brief) == pytest.approx(held * dries)


@pytest.mark.parametrize(("rh", "factor"), [(30, 1.0), (50, 1.0), (62.5, 1.25), (75, 1.5), (85, 2.0), (99, 2.0)])
def test_damp_air_slows_water_only(rh, factor):
    assert drying_factor("acrylic", 20, rh) == pytest.approx(factor)
    assert drying_factor("enamel", 20, rh) == 1.0


def test_waits_come_from_the_table():
    brief = Brief(start="2026-01-01", bench_c=20, bench_rh=50)
    s = step("a", "out", "enamel")
    assert [wait_h(s, d, brief) for d in ("touch", "next", "handle")] == [4, 24, 48]
    assert wait_h(step("a"), "next", brief) == 0


@pytest.mark.parametrize(("tied", "hours"), [(0, 24), (10, 24), (24, 24), (40, 40)])
def test_a_tie_runs_beside_the_drying(empty, tied, hours):
    """Enamel wants a day before the next coat: what comes no sooner than ten hours after it comes after a day, not after 34 hours."""
    later = step("b", "out", "enamel").but(ties=(Tie(step="a", kind="not before", hours=tied),))
    brief = Brief(start="2026-01-01", bench_c=20, bench_rh=50)
    project = empty.but(brief=brief, surfaces=(Surface(id="out", name="Out"),), steps=(step("a", "out", "enamel"), later))
    assert lag_h(project.steps[0], later, chain_of(project), brief) == hours


def test_materials_refuse_a_cold_bench():
    cold = Brief(start="2026-01-01", bench_c=9)
    assert too_cold(step("a", "out", "water_resin"), cold) == 15
    assert too_cold(step("a", "out", "acrylic"), cold) is None
    assert too_cold(step("a"), cold) is None


@pytest.mark.parametrize("coat", list(table("coats")["coat"]))
def test_every_coat_dries_in_order_and_has_a_film(coat):
    row = table("coats")["coat"][coat]
    if "takes" in row:
        assert layer_of(step("a", "out", coat)) is None
        return
    touch, following, handle = row["dry_h"]
    assert 0 < touch <= following <= handle
    assert row["film_um"] > 0
    assert set(row["cautions"]) <= set(table("cautions")["caution"])
    assert layer_of(step("a", "out", coat, tool="airbrush")).film_um == row["film_um"]
    assert layer_of(step("a", "out", coat, tool="brush")).film_um >= row["film_um"]


def test_core_samples_are_bottom_to_top(empty):
    project = build(empty, step("p", "out", "primer_spray"), step("w"), step("c", "in out", "acrylic"), step("v", "out", "matt"))
    layers = core_sample(project, "out")
    assert [x.step for x in layers] == ["p", "c", "v"]
    assert film_um(layers) == 30 + 22 + 18  # brushed: 15 to 30 um of acrylic, common practice, no source
    assert [x.step for x in core_sample(project, "in")] == ["c"]
    assert core_sample(project, "nowhere") == ()


def test_a_late_step_is_found_and_moved_before_the_closing_one(empty):
    project = build(empty, step("paint", "out", "acrylic"), step("roof", closes="in"), step("fog", "in", "fog"))
    (found,) = access_conflicts(project)
    assert (found.closing, found.late, found.shut) == ("roof", ("fog",), ("in",))
    assert found.order == ("paint", "fog", "roof")
    assert found.words == "Move “fog” before “roof”"
    mended = apply(project, ReorderSteps(found.words, found.order))
    assert access_conflicts(mended) == ()


def test_what_the_late_step_stands_on_moves_with_it(empty):
    project = build(
        empty, step("roof", closes="in"), step("prime", "in", "primer_spray"), step("between", "out"), step("cream", "in", "acrylic")
    )
    (found,) = access_conflicts(project)
    # One step moved, the roof, is less than the two that stand after it.
    assert found.moved == ("roof",)
    assert found.order == ("prime", "between", "cream", "roof")
    mended = apply(project, ReorderSteps("", found.order))
    assert access_conflicts(mended) == ()
    ids = [s.id for s in mended.steps]
    assert ids.index("prime") < ids.index("cream")


def test_the_shorter_way_round_is_taken(empty):
    late = [step(f"late-{i}", "in", "acrylic") for i in range(4)]
    project = build(empty, step("roof", closes="in"), *late)
    (found,) = access_conflicts(project)
    assert found.moved == ("roof",)
    assert found.words == "Move “roof” after “late 3”"
    assert found.order[-1] == "roof"


def test_a_closing_step_that_is_needed_first_cannot_be_passed(empty):
    # The late step waits for the closing one by name, and the closing one drags it along: no order mends this.
    project = build(empty, step("roof", "out", closes="in"), step("fog", "in out", "fog", after=("roof",)))
    (found,) = access_conflicts(project)
    assert found.order == ()


def test_what_is_shut_already_cannot_be_worked_on_and_no_order_mends_it(empty):
    for steps in (
        (step("roof", closes="in", done=True), step("fog", "in", "fog")),
        (step("fog", "in", "fog"), step("roof", closes="in", done=True)),
    ):
        (found,) = access_conflicts(build(empty, *steps))
        assert (found.closing, found.late, found.order) == ("roof", ("fog",), ())


def test_done_steps_raise_no_conflict(empty):
    project = build(empty, step("roof", closes="in"), step("fog", "in", "fog", done=True))
    assert access_conflicts(project) == ()


@tries(80)
@given(st.lists(st.tuples(st.sampled_from(["a", "b", "c", ""]), st.sampled_from(["", "", "a", "b"])), min_size=1, max_size=9))
def test_mends_mend_and_break_nothing_else(empty, rows):
    steps = [step(f"s{i}", on, "acrylic", closes) for i, (on, closes) in enumerate(rows) if on != closes or not on]
    if not steps:
        return
    project = build(empty, *steps, surfaces="a b c")
    for found in access_conflicts(project):
        if not found.order:
            continue
        mended = apply(project, ReorderSteps("", found.order))
        again = [a for a in access_conflicts(mended) if a.closing == found.closing]
        assert again == []
        before, after = [s.id for s in project.steps], [s.id for s in mended.steps]
        assert sorted(before) == sorted(after)
        for later, earlier_set in links(project.steps, chain_of(project)).items():
            for earlier in earlier_set:
                assert after.index(earlier) < after.index(later)


def test_surfaces_keep_the_order_of_their_coats(empty):
    steps = (step("p", "out"), step("q", "in"), step("c", "out in"), step("roof", closes="in"), step("late", "in"))
    chain = chain_of(empty.but(steps=steps))
    before = links(steps, chain)
    assert before["c"] == {"p", "q"}
    assert before["roof"] == {"q", "c"}
    assert "roof" not in before["late"]
    assert "roof" in links(steps, chain, keep_shut=True)["late"]


@pytest.mark.parametrize(
    ("stack", "trouble"),
    [
        (("enamel", "enamel_wash"), "lifts"),
        (("acrylic", "enamel_wash"), None),
        (("enamel", "satin", "enamel_wash"), None),
        (("decal", "streaks"), "lifts"),
        (("acrylic", "acrylic_lacquer"), "lifts"),
        (("liftoff", "acrylic"), None),
        (("pigment", "matt"), "never"),
        (("streaks", "enamel_wash"), "never"),
        (("gloss", "decal", "satin", "oil"), None),
        (("primer_spray", "acrylic_lacquer"), None),
    ],
)
def test_what_may_lie_over_what(empty, stack, trouble):
    # TRADE: strong thinner over a weak coat needs a barrier; pigments vanish under varnish; pin wash before streaks.
    steps = [step(f"s{i}", "out", coat) for i, coat in enumerate(stack)]
    found = chemistry_conflicts(build(empty, *steps))
    assert [c.kind for c in found] == ([trouble] if trouble else [])


def test_colour_wants_primer_and_decals_want_gloss(empty):
    bare = build(empty, step("c", "out", "acrylic"), step("d", "out", "decal"))
    assert [(m.kind, m.step) for m in missing(bare)] == [("primer", "c"), ("gloss", "d")]
    good = build(
        empty,
        step("p", "out", "primer_spray"),
        step("c", "out", "acrylic"),
        step("g", "out", "gloss"),
        step("d", "out", "decal"),
        step("d2", "out", "decal"),
    )
    assert missing(good) == ()
    glass = build(empty, step("fog", "in", "fog"))
    assert missing(glass) == ()


def test_a_lamp_inside_is_tested_before_it_is_closed_in(empty):
    room = Piece(id="kiosk", name="Kiosk", shape=Room(width=60, depth=40, height=60), role="scenery", place=Place(x=100, y=100))
    lamps = (Lamp(id="in", name="In", x=100, y=100, z=40), Lamp(id="out", name="Out", x=200, y=100, z=40))
    surfaces = (Surface(id="inside", name="Inside", piece="kiosk"),)
    project = empty.model_copy(update={"pieces": (room,), "lamps": lamps, "surfaces": surfaces})
    closing = step("roof", closes="inside")
    (found,) = missing(project.model_copy(update={"steps": (closing,)}))
    assert (found.kind, found.step, found.lamps) == ("test", "roof", ("in",))
    tested = (step("test", tests=("in",)), closing)
    assert missing(project.model_copy(update={"steps": tested})) == ()


@pytest.mark.parametrize("coat", list(table("coats")["coat"]))
def test_what_a_coat_is_stands_in_its_table(coat, empty):
    """Primer, filler, glue, varnish and fog give no colour; what is built with is no ageing; only glue holds."""
    row = table("coats")["coat"][coat]
    step = Step(id="s", name="Step", coat=coat, work="paint")
    assert is_colour(step) == (row["role"] in ("colour", "shade"))
    assert is_ageing(step) == (row["role"] in ("wash", "streaks", "pigment"))
    assert is_glue(step) == (row["role"] == "glue")
    work, tool = usual(coat, sprays=True)
    assert (work == "build") == (row["role"] in ("glue", "ground", "filler"))
    assert tool == ("airbrush" if row["sprayed"] else "hand" if coat == "sanding" else "brush")
    assert usual(coat, sprays=False)[1] == ("hand" if coat == "sanding" else "brush")
    assert {"role", "work", "sprayed", "colour", "hatch", "thinner", "lifts_with", "cautions"} <= set(row)


def test_a_step_without_a_coat_is_told_by_its_work():
    assert is_colour(Step(id="s", name="Paint it"))
    assert is_ageing(Step(id="s", name="Dirty it", work="weather"))
    assert not is_colour(Step(id="s", name="Build it", work="build"))
    assert usual("", sprays=True) == ("build", "hand")


def test_sanding_leaves_no_layer_and_takes_half_of_the_one_on_top(empty):
    # Half: common practice, no source. What lies under it is still what the next coat meets.
    project = build(
        empty,
        step("p", "out", "filler_primer", tool="spray can"),
        step("s", "out", "sanding"),
        step("s2", "out", "sanding"),
        step("e", "out", "oil"),
    )
    layers = core_sample(project, "out")
    assert [(x.step, x.film_um, x.sanded) for x in layers] == [("p", 15.0, 2), ("e", 5.0, 0)]
    assert core_sample(build(empty, step("s", "out", "sanding")), "out") == ()
