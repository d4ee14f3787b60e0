# SPDX-License-Identifier: MIT
"""What steps are called, what they take, and what nobody has said; judged by hand and by the rates as MODELS of the trade have them."""

from datetime import date, datetime, timedelta

import pytest

from fondale.core.coat_kinds import says_nothing
from fondale.core.derived import PLAN
from fondale.core.edits import apply
from fondale.core.edits.new_things import add_step, add_surface, rename_step
from fondale.core.handwork import minutes_of, minutes_told
from fondale.core.model import Lamp, Piece, Step, String, Supply, Surface, Tie
from fondale.core.model.shapes import Box, Glass
from fondale.core.order.plan import date_told, make_plan, ready_told
from fondale.core.prompts import RULES
from fondale.core.reckoning import Look, Reckoner
from tests.conftest import TODAY


def told(project, code):
    """The findings of one code, of all rules that need nothing but the plan and what is quick."""
    reckoner, look = Reckoner(), Look(TODAY)
    out = []
    for rule in RULES:
        if all(n.lane == "quick" or n is PLAN for n in rule.needs):
            out += [f for f in rule.findings(reckoner.derive(project, look, rule.needs)) if f.code == code]
    return out


@pytest.mark.parametrize(
    ("name", "coat", "work", "tool"),
    [
        ("Prime", "primer_spray", "paint", "spray can"),
        ("Paint the hull", "acrylic", "paint", "airbrush"),
        ("varnish", "satin", "paint", "airbrush"),
        ("Matt varnish over all", "matt", "paint", "airbrush"),
        ("Enamel wash", "enamel_wash", "weather", "brush"),
        ("Drybrush the stones", "acrylic", "paint", "brush"),
        ("Decals on the doors", "decal", "paint", "brush"),
        ("Wire the water pump", "", "wire", "iron"),
        ("Test the light", "", "test", "hand"),
        ("Carve the walls", "", "build", "knife"),
        ("Drill the boots", "", "build", "drill"),
        ("Cut the floor by laser cut", "", "build", "laser"),
        ("Set the figures", "", "build", "hand"),
        ("Hairspray", "liftoff", "paint", "airbrush"),
    ],
)
def test_a_step_says_what_it_is(empty, name, coat, work, tool):
    edit, ident = add_step(empty, name)
    step = apply(empty, edit).steps[0]
    assert (step.coat, step.work, step.tool) == (coat, work, tool)
    assert step.id == ident
    assert not says_nothing(step)


def test_prime_paint_and_varnish_on_an_empty_project_dry(empty):
    # By the table, at 20 °C: the next coat after 2 h of primer and 1 h of acrylic, and the varnish is hard after 24 h.
    project = apply(empty, add_surface(empty, "Hull")[0])
    for name in ("Prime", "Paint", "Varnish"):
        project = apply(project, add_step(project, name, ("hull",))[0])
    project = project.but(brief=project.brief.but(bench_c=20, evenings=(240,) * 7))
    plan = make_plan(project, TODAY)
    starts = {i.step: i.start for e in plan.evenings for i in e.items}
    ends = {i.step: i.start + timedelta(minutes=i.minutes) for e in plan.evenings for i in e.items}
    assert starts["paint"] >= ends["prime"] + timedelta(hours=2)
    assert starts["varnish"] >= ends["paint"] + timedelta(hours=1)
    assert plan.ready >= ends["varnish"] + timedelta(hours=24)


def test_a_date_that_leans_on_what_nobody_said_says_so(empty):
    edit, _ident = add_step(empty, "Thingummy")
    blank = apply(empty, edit)
    assert says_nothing(blank.steps[0])
    project = blank.but(brief=blank.brief.but(deadline=date(2026, 12, 24)))
    plan = make_plan(project, TODAY)
    assert "1 step not said yet" in ready_told(plan, {}).shown
    assert "proven" not in ready_told(plan, {}).shown
    assert "1 step not said yet" in date_told(plan, project.brief, TODAY).shown
    (finding,) = told(project, "STEP-BLANK")
    assert "“Thingummy”" in finding.text
    for fix in finding.fixes:
        mended = apply(project, *fix.edits)
        assert not told(mended, "STEP-BLANK")
        assert make_plan(mended, TODAY).unsaid == 0
    assert not told(apply(project, *rename_step(project, project.steps[0], "Prime it")), "STEP-BLANK")
    kept = apply(project, *rename_step(project, project.steps[0].but(coat="enamel"), "Prime it"))
    assert kept.steps[0].coat == ""  # a name takes nothing from what was set by hand


@pytest.mark.parametrize(
    ("area", "tool", "coat", "likely"),
    [
        # 100 cm² and coat: can 1, airbrush 2, brush 6, wash 4, oils 12, pigments 5 min; a part in the hand 1, a larger one 3 (memory, no source)
        (1580, "spray can", "primer_spray", 2 + 15.8 + 3),
        (10, "spray can", "primer_spray", 2 + 0.1 + 1),
        (1580, "brush", "acrylic", 4 + 94.8 + 3),
        (10, "brush", "acrylic", 4 + 0.6 + 1),
        (100, "airbrush", "acrylic", 3 + 2 + 1),
        (90, "brush", "enamel_wash", 4 + 3.6 + 1),
        (90, "brush", "oil", 4 + 10.8 + 1),
        (90, "brush", "pigment", 4 + 4.5 + 1),
    ],
)
def test_minutes_come_from_the_work(empty, area, tool, coat, likely):
    step = Step(id="s", name="S", coat=coat, tool=tool, surfaces=("f",))
    project = empty.but(surfaces=(Surface(id="f", name="F", area_cm2=area),), steps=(step,))
    low, now, high = minutes_of(project, step)
    assert now == round(likely)
    assert (low, high) == pytest.approx((0.7 * now, 1.8 * now))
    assert "÷" not in minutes_told(project, step).shown
    assert minutes_of(project, step.but(minutes=(1.0, 2.0, 3.0))) == (1, 2, 3)
    assert "typed" in minutes_told(project, step.but(minutes=(1.0, 2.0, 3.0))).how.formula


def test_five_surfaces_take_longer_than_one_and_strings_by_their_lamps(empty):
    faces = tuple(Surface(id=f"f{k}", name="F", area_cm2=50) for k in range(5))
    project = empty.but(
        surfaces=faces, lamps=tuple(Lamp(id=f"l{k}", name="L", x=0, y=0, z=0) for k in range(4)), supplies=(Supply(id="plug", name="Plug"),),
        strings=(String(id="w", name="W", supply="plug", lamps=("l0", "l1", "l2", "l3")),), pieces=(Piece(id="p", name="P", shape=Box(width=200, depth=50, height=50)),),
    )  # fmt: skip
    one, five = (minutes_of(project, Step(id="s", name="S", coat="acrylic", surfaces=tuple(f.id for f in faces[:k])))[1] for k in (1, 5))
    assert five - one == pytest.approx(4 * (3 + 1))
    wire = Step(id="s", name="S", work="wire", tool="iron", strings=("w",))
    assert minutes_of(project, wire)[1] == 6 + 4 * 8
    # A whole piece without faces by its sizes: 2 (200 x 50 + 50 x 50 + 50 x 200) mm² = 450 cm².
    assert minutes_of(project, Step(id="s", name="S", coat="acrylic", pieces=("p",)))[1] == (4 + 27 + 3)
    assert PLAN.key(project.but(steps=(Step(id="s", name="S", coat="acrylic", surfaces=("f0",)),)), Look(TODAY)) != PLAN.key(
        project.but(steps=(Step(id="s", name="S", coat="acrylic", surfaces=("f0",)),), surfaces=(faces[0].but(area_cm2=500), *faces[1:])),
        Look(TODAY),
    )


def test_building_on_a_face_comes_before_its_first_coat(empty):
    steps = (
        Step(id="prime", name="Prime", coat="primer_spray", surfaces=("f",)),
        Step(id="paint", name="Paint", coat="acrylic", surfaces=("f",)),
        Step(id="rivets", name="Rivets", work="build", tool="hand", surfaces=("f",)),
    )
    project = empty.but(surfaces=(Surface(id="f", name="F"),), steps=steps, brief=empty.brief.but(bench_c=20))
    begins = lambda p: {i.step: i.start for e in make_plan(p, TODAY).evenings for i in e.items}  # noqa: E731
    at = begins(project)
    assert at["rivets"] < at["prime"] < at["paint"]
    (finding,) = told(project, "COAT-BUILD")
    up, stay = finding.fixes
    moved = apply(project, *up.edits)
    assert [s.id for s in moved.steps] == ["rivets", "prime", "paint"]
    after = apply(project, *stay.edits)
    at = begins(after)
    assert at["prime"] < at["paint"] < at["rivets"]
    assert not told(moved, "COAT-BUILD")
    assert not told(after, "COAT-BUILD")
    blank = steps[2].but(name="Thingummy")
    assert not told(project.but(steps=(*steps[:2], blank)), "COAT-BUILD")  # nobody knows whether that is building
    # What is done cannot come later, and who is told to follow a coat does.
    assert begins(project.but(steps=(steps[0].but(done=True), *steps[1:])))["rivets"]


def test_surfaces_of_no_piece_are_asked_about_once(empty):
    pieces = tuple(Piece(id=i, name=n, shape=Box(width=5, depth=5, height=5)) for i, n in (("boat", "Boat"), ("hut", "Hut")))
    faces = (Surface(id="a", name="Boat hull"), Surface(id="b", name="Hut roof"), Surface(id="c", name="Idle"))
    steps = (Step(id="s", name="Prime", coat="primer_spray", surfaces=("a", "b")),)
    project = empty.but(pieces=pieces, surfaces=faces, steps=steps)
    (finding,) = told(project, "COAT-LOOSE")
    assert "Boat hull, Hut roof" in finding.text
    assert "Idle" not in finding.text
    mended = apply(project, *(e for fix in finding.fixes for e in fix.edits))
    assert [s.piece for s in mended.surfaces] == ["boat", "hut", ""]
    assert not told(mended, "COAT-LOOSE")
    assert not told(project.but(pieces=()), "COAT-LOOSE")


@pytest.mark.parametrize("how", ["material", "piece"])
def test_clear_faces_are_masked_and_never_primed(empty, how):
    pane = Piece(id="pane", name="Pane", shape=Glass(width=20, height=20))
    face = Surface(id="f", name="Pane", material="glass") if how == "material" else Surface(id="f", name="Pane", piece="pane")
    paint = Step(id="paint", name="Paint", coat="acrylic", surfaces=("f",))
    project = empty.but(pieces=(pane,), surfaces=(face,), steps=(paint,))
    assert not told(project, "COAT-PRIMER")
    (finding,) = told(project, "COAT-CLEAR")
    for fix in finding.fixes:
        assert not told(apply(project, *fix.edits), "COAT-CLEAR")
    assert not told(project.but(steps=(paint.but(coat="fog"),)), "COAT-CLEAR")
    assert told(project.but(surfaces=(face.but(material="styrene"),)), "COAT-PRIMER")


def test_a_peel_layer_left_too_long_is_told(empty):
    steps = (
        Step(id="peel", name="Chipping layer", coat="liftoff", surfaces=("f",)),
        Step(id="top", name="Top colour", coat="acrylic", surfaces=("f",), after=("long",)),
        Step(id="long", name="Build the roof", work="build", minutes=(60, 60, 60), wait_h=48, tool="hand"),
    )
    project = empty.but(surfaces=(Surface(id="f", name="F"),), steps=steps, brief=empty.brief.but(bench_c=20, evenings=(90,) * 7))
    (finding,) = told(project, "COAT-PEEL")
    assert not told(apply(project, *finding.fixes[0].edits), "COAT-PEEL")
    tied = steps[1].but(ties=(Tie(step="peel", kind="within", hours=10),))
    assert not told(project.but(steps=(steps[0], tied, steps[2])), "COAT-PEEL")
    assert not told(project.but(steps=(steps[0], steps[1].but(after=()), steps[2])), "COAT-PEEL")
    late = steps[0].but(done=True, finished=datetime.combine(TODAY, datetime.min.time()) - timedelta(days=2))
    assert told(project.but(steps=(late, *steps[1:])), "COAT-PEEL")


def test_coats_on_nothing_are_asked_about_and_the_date_leans_on_them(empty):
    """Three steps typed on an empty project, and nothing that they go onto: no proof, and a mend that lets them dry one after the other."""
    project = empty
    for name in ("Prime", "paint", "varnish"):
        project = apply(project, add_step(project, name)[0])
    plan = make_plan(project, TODAY)
    assert ready_told(plan, {}).shown.endswith("3 coats on nothing yet")
    (finding,) = told(project, "STEP-NOWHERE")
    assert "“Prime”, “paint”, “varnish”" in finding.text
    mended = apply(project, *finding.fixes[0].edits)
    assert not told(mended, "STEP-NOWHERE")
    later = make_plan(mended, TODAY)
    assert later.leans == ""
    assert later.ready > plan.ready
    (again,) = told(apply(mended, add_step(mended, "Gloss varnish")[0]), "STEP-NOWHERE")
    assert [f.label for f in again.fixes] == ["Onto The piece, in this order"]
