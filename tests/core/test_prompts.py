# SPDX-License-Identifier: MIT
"""Every rule speaks when it should, is quiet when it should, and its fix makes it quiet."""

from dataclasses import replace
from datetime import date

import pytest

from fondale.core.derived import LIGHT, PLAN, QUICK
from fondale.core.edits import apply, put
from fondale.core.edits.leaving import Accept
from fondale.core.light.desk import LightDesk
from fondale.core.model import (
    LAMPS,
    PIECES,
    PROJECT,
    STEPS,
    SURFACES,
    Lamp,
    Meter,
    Moment,
    Page,
    Piece,
    Place,
    Project,
    Seat,
    Step,
    String,
    Supply,
    Surface,
)
from fondale.core.model.shapes import Box, Figure
from fondale.core.prompts import Finding, all_prompts, judge
from fondale.core.prompts.finding import Fix
from fondale.core.prompts.joining import joined
from fondale.core.prompts.rules import RULES
from fondale.core.reckoning import Look, Reckoner
from fondale.demo import SAMPLES
from tests.conftest import TODAY, boxed, derive, figure, known, with_long_names


def codes(project, plan: bool = False, light: bool = False) -> list[Finding]:
    return list(all_prompts(known(project, *([PLAN] if plan else []), *([LIGHT] if light else []))))


def only(findings: list[Finding], code: str) -> Finding:
    mine = [f for f in findings if f.code == code]
    assert len(mine) == 1, [f.code for f in findings]
    return mine[0]


def mended(project, finding: Finding, which: int = 0):
    for edit in finding.fixes[which].edits:
        project = apply(project, edit)
    return project


def quiet(project, code: str, **more: bool) -> bool:
    return all(f.code != code for f in codes(project, **more))


def test_a_gaming_figure_beside_others_is_out_of_scale(empty):
    project = boxed(empty, figure("watch", 150, 100, mm=30.6, origin="gaming"))
    found = only(codes(project), "BENCH-SCALE")
    assert found.severity == "stop"
    assert "child of 1.07 m" in found.text
    assert quiet(mended(project, found), "BENCH-SCALE")


def test_a_printed_file_is_rescaled_with_its_family(empty):
    first = figure("a", 100, 100, mm=62.0, origin="printed file", claim="set 7")
    second = figure("b", 200, 100, mm=61.5, origin="printed file", claim="set 7")
    project = boxed(empty, first, second)
    found = next(f for f in codes(project) if f.code == "BENCH-SCALE")
    assert found.fixes[0].label.startswith("Rescale the family to 80.")
    after = mended(project, found)
    assert after.find(PIECES, "b").measure.mm < 51
    assert quiet(after, "BENCH-SCALE")


@pytest.mark.parametrize(
    ("mm", "stands", "severity"), [(50, "beside", None), (57, "beside", "mind"), (57, "alone", None), (62, "alone", "stop")]
)
def test_where_it_stands_decides(empty, mm, stands, severity):
    found = [f for f in codes(boxed(empty, figure("a", 150, 100, mm=mm, stands=stands))) if f.code == "BENCH-SCALE"]
    assert [f.severity for f in found] == ([severity] if severity else [])


def test_letting_it_stand_apart_mends_a_mild_misfit(empty):
    project = boxed(empty, figure("a", 150, 100, mm=57))
    assert quiet(mended(project, only(codes(project), "BENCH-SCALE")), "BENCH-SCALE")


def test_a_wrong_claim_is_a_hint_and_an_unmeasured_figure_is_told(empty):
    project = boxed(empty, figure("a", 150, 100, mm=50, claim="1:24"))
    assert only(codes(project), "BENCH-CLAIM").severity == "hint"
    bare = Piece(id="b", name="B", shape=Figure(), place=Place(x=150, y=100))
    assert only(codes(boxed(empty, bare)), "BENCH-MEASURE").severity == "mind"


def test_touching_and_sticking_out(empty):
    project = boxed(empty, figure("a", 100, 100), figure("b", 103, 100))
    assert only(codes(project), "STAGE-TOUCH").severity == "stop"
    project = boxed(empty, figure("a", 2, 100))
    found = only(codes(project), "STAGE-OUT")
    assert "left" in found.text
    assert quiet(mended(project, found), "STAGE-OUT")


def test_a_hidden_face_names_what_is_in_the_way(empty):
    post = Piece(id="post", name="Lamp post", shape=Box(width=9, depth=6, height=90), role="scenery", place=Place(x=150, y=60, z=0))
    seat = Seat(id="s", name="the child’s seat", stature_mm=1390, distance=600, range=0)
    project = boxed(empty, figure("a", 150, 100), post).model_copy(update={"seats": (seat,)})
    found = only(codes(project), "STAGE-FACE")
    assert "child’s seat" in found.text
    assert "“Lamp post” is in the way" in found.text


def rig(empty, wiring: str = "series", ohm: float = 150.0, leds=("warm_white",), supply: Supply | None = None, **more):
    supply = supply or Supply(id="p", name="Plug", row="usb_5v_1a")
    lamps = tuple(
        Lamp(id=f"l{i}", name=f"Lamp {i}", led=led, x=50 + 10 * i, y=150, z=20, meant_to_be_seen=True) for i, led in enumerate(leds)
    )
    string = String(id="s", name="String", supply=supply.id, lamps=tuple(m.id for m in lamps), wiring=wiring, resistor_ohm=ohm, **more)
    return boxed(empty).model_copy(update={"lamps": lamps, "supplies": (supply,), "strings": (string,)})


AA = Supply(id="c", name="Two AA", kind="cells", row="aa", count=2)


def test_red_and_green_side_by_side(empty):
    project = rig(empty, "group", 0.0, ("red", "green"), AA)
    found = only(codes(project), "WIRE-MIXED")
    assert found.severity == "stop"
    after = mended(project, found)
    assert len(after.strings) == 2
    assert all(s.resistor_ohm > 0 for s in after.strings)
    assert quiet(after, "WIRE-MIXED")
    assert quiet(after, "WIRE-OVER")


def test_the_same_colour_side_by_side_is_fine(empty):
    assert quiet(rig(empty, "group", 82.0, ("red", "red")), "WIRE-MIXED")


def test_no_resistor_on_a_plug_burns(empty):
    project = rig(empty, ohm=0.0)
    found = only(codes(project), "WIRE-OVER")
    assert "30 mA is the most" in found.text
    assert quiet(mended(project, found), "WIRE-OVER")


def test_no_resistor_on_cells_follows_the_house_rule(empty):
    project = rig(empty, ohm=0.0, supply=AA)
    found = only(codes(project), "WIRE-BARE")
    assert quiet(mended(project, found), "WIRE-BARE")
    lenient = apply(project, put(PROJECT.then(lambda p: p.brief.rules.resistors), "cells without", "Rule"))
    assert quiet(lenient, "WIRE-BARE")


def test_a_string_too_long_and_a_lamp_turned_round(empty):
    project = rig(empty, leds=("blue", "blue", "blue"))
    found = only(codes(project), "WIRE-DARK")
    assert quiet(mended(project, found), "WIRE-DARK")
    project = rig(empty, reversed=("l0",))
    found = only(codes(project), "WIRE-DARK")
    assert "long leg is plus" in found.text
    assert quiet(mended(project, found), "WIRE-DARK")


def test_overloaded_and_short_lived_supplies(empty):
    coin = Supply(id="c", name="Coin", kind="cells", row="coin_20")
    found = codes(rig(empty, ohm=0.0, leds=("filament",), supply=coin))
    assert only(found, "WIRE-SUPPLY").caution == "coin"
    assert "Half the light is gone" in only(found, "WIRE-HOURS").text
    assert quiet(rig(empty), "WIRE-SUPPLY")


def test_a_hot_resistor(empty):
    project = rig(empty, ohm=330.0, supply=Supply(id="p", name="Plug", row="dc_12v_1a"))
    assert only(codes(project), "WIRE-HOT").severity == "mind"


def test_lamps_in_no_string_share_one_hint(empty):
    project = boxed(empty).model_copy(update={"lamps": tuple(Lamp(id=f"l{i}", name=f"L{i}", x=9, y=9, z=9) for i in range(3))})
    assert "3 of 3 lamps" in only(codes(project), "WIRE-NONE").numbers


def test_a_bare_bulb_gets_a_lip_or_is_meant(empty):
    seat = Seat(id="s", name="the seat", stature_mm=1430, distance=600, range=0)
    lamp = Lamp(id="l", name="Lamp", x=150, y=30, z=194)
    project = boxed(empty).model_copy(update={"lamps": (lamp,), "seats": (seat,)})
    found = only(codes(project), "LAMP-BARE")
    assert "lip" in found.fixes[0].label
    assert quiet(mended(project, found), "LAMP-BARE")
    assert quiet(mended(project, found, 1), "LAMP-BARE")


def test_a_fast_beacon_is_stopped(empty):
    lamp = Lamp(id="l", name="Lamp", x=150, y=30, z=100, motion="beacon", flashes_per_s=9, meant_to_be_seen=True)
    project = boxed(empty).model_copy(update={"lamps": (lamp,)})
    found = only(codes(project), "LAMP-FLASH")
    assert (found.severity, found.caution) == ("stop", "flash")
    assert quiet(mended(project, found), "LAMP-FLASH")


def test_a_dim_meter_names_the_lamp_that_helps(empty):
    lamp = Lamp(id="l", name="Lamp", x=150, y=100, z=150, level=0.1, meant_to_be_seen=True)
    meter = Meter(id="m", name="Meter", x=150, y=100, z=1, wanted_lx=30)
    project = boxed(empty).model_copy(
        update={"lamps": (lamp,), "meters": (meter,), "moments": (Moment(id="now", name="Now"),), "moment": "now"}
    )
    found = only(codes(project, light=True), "LIGHT-DIM")
    after = mended(project, found)
    assert after.moments[0].levels["l"] > 0.1
    assert quiet(after, "LIGHT-DIM", light=True)
    assert LightDesk().meters(after).meters[0].lux == pytest.approx(30, rel=0.01)


def coats(empty, *steps: Step, **brief: object):
    surfaces = (Surface(id="in", name="Inside", inside=True), Surface(id="out", name="Outside"))
    changed = empty.brief.model_copy(update={"evenings": (90,) * 7, **brief})
    return empty.model_copy(update={"surfaces": surfaces, "steps": steps, "brief": changed})


def one(ident: str, on: str = "", coat: str = "", closes: str = "", **more: object) -> Step:
    return Step(id=ident, name=ident.capitalize(), surfaces=tuple(on.split()), coat=coat, closes=tuple(closes.split()), **more)


def test_closed_too_early_is_mended_by_one_click(empty):
    project = coats(empty, one("roof", closes="in"), one("fog", "in", "fog"))
    found = only(codes(project), "COAT-ACCESS")
    assert found.numbers == "step 2 needs what step 1 closes"
    assert quiet(mended(project, found), "COAT-ACCESS")


def test_lifting_gets_a_barrier_and_wrong_order_is_swapped(empty):
    project = coats(empty, one("p", "out", "primer_spray"), one("e", "out", "enamel"), one("w", "out", "enamel_wash"))
    found = only(codes(project), "COAT-CHEM")
    after = mended(project, found)
    assert [s.coat for s in after.steps] == ["primer_spray", "enamel", "satin", "enamel_wash"]
    assert quiet(after, "COAT-CHEM")
    project = coats(empty, one("p", "out", "primer_spray"), one("s", "out", "streaks"), one("w", "out", "enamel_wash"))
    found = only(codes(project), "COAT-CHEM")
    swapped = mended(project, found)
    # The streaks' spirit would lift the wash below them: the cure brings the coat between along.
    assert [s.coat for s in swapped.steps] == ["primer_spray", "enamel_wash", "satin", "streaks"]
    assert quiet(swapped, "COAT-CHEM")


def test_forgotten_primer_gloss_and_test(empty):
    project = coats(empty, one("c", "out", "acrylic"), one("d", "out", "decal"))
    for code in ("COAT-PRIMER", "COAT-GLOSS"):
        after = mended(project, only(codes(project), code))
        assert quiet(after, code)


def test_a_cold_bench_is_one_prompt(empty):
    project = coats(empty, one("a", "out", "water_resin"), one("b", "in", "water_resin"), bench_c=12.0)
    found = only(codes(project), "COAT-COLD")
    assert found.severity == "stop"
    assert "2 steps" in found.numbers


def test_dates_that_cannot_be_met(empty):
    project = coats(empty, one("a", "out", "water_resin"), deadline=date(2026, 11, 26))
    found = only(codes(project, plan=True), "PLAN-LATE")
    assert "No order is faster" in found.text
    long = coats(empty, one("a", minutes=(100, 200, 300)))
    found = only(codes(long, plan=True), "PLAN-NONE")
    assert quiet(mended(long, found), "PLAN-NONE", plan=True)


def test_narrow_odds_are_told(empty):
    steps = [Step(id=f"s{i}", name=f"S{i}", minutes=(30, 60, 140), splittable=True) for i in range(6)]
    project = coats(empty, *steps, deadline=date(2026, 11, 29))
    found = [f for f in codes(project, plan=True) if f.code.startswith("PLAN")]
    assert [f.code for f in found] in (["PLAN-ODDS"], ["PLAN-LATE"])


def test_money_and_missing_dates(empty):
    costly = boxed(empty, figure("a", 150, 100, cost=120.0))
    costly = apply(costly, put(PROJECT.then(lambda p: p.brief.cap), 100.0, "Cap"))
    assert only(codes(costly), "BRIEF-MONEY").severity == "mind"
    near = apply(costly, put(PROJECT.then(lambda p: p.brief.cap), 125.0, "Cap"))
    assert only(codes(near), "BRIEF-MONEY").severity == "hint"
    assert quiet(apply(costly, put(PROJECT.then(lambda p: p.brief.cap), 500.0, "Cap")), "BRIEF-MONEY")
    assert only(codes(coats(empty, one("a"))), "BRIEF-DATE").severity == "hint"


def test_a_slow_pace_is_told(empty):
    page = Page(id="p", day=TODAY, minutes=600, done=("a",))
    project = coats(empty, one("a", minutes=(50, 100, 150), done=True), one("b")).model_copy(update={"pages": (page,)})
    assert "times as long as planned" in only(codes(project, plan=True), "DIARY-PACE").text


def test_what_is_left_with_a_reason_is_quiet_and_kept(empty):
    project = boxed(empty, figure("a", 150, 100, mm=30))
    found = only(codes(project), "BENCH-SCALE")
    after = apply(project, Accept("Leave", found.keys, "He is far away"))
    assert quiet(after, "BENCH-SCALE")
    _open, kept = judge(known(after))
    assert [(f.code, reason) for f, reason in kept] == [("BENCH-SCALE", "He is far away")]


def test_prompts_come_worst_first_and_in_a_fixed_order(heron, today):
    derived = derive(heron, today)
    found = all_prompts(derived)
    rank = {"stop": 0, "mind": 1, "hint": 2}
    assert [rank[f.severity] for f in found] == sorted(rank[f.severity] for f in found)
    assert found == all_prompts(derived)
    assert len({f.key for f in found}) == len(found)
    assert {f.station for f in found} >= {"bench", "lamps", "coats"}


def test_the_longest_names_silence_nobody(heron):
    long = with_long_names(heron)
    assert [f.code for f in codes(long)] == [f.code for f in codes(heron)]
    for finding in codes(long):
        for which in range(len(finding.fixes)):
            Project.model_validate(mended(long, finding, which).model_dump())


@pytest.mark.parametrize("sample", list(SAMPLES))
def test_names_stand_in_prompts_and_their_fixes_as_they_were_given(sample):
    named = with_long_names(SAMPLES[sample](TODAY), "QX Ville")
    for finding in all_prompts(derive(named, TODAY)):
        assert "qx ville" not in f"{finding.title} {finding.text} {finding.numbers} {[f.label for f in finding.fixes]}", finding.code
        for which in range(len(finding.fixes)):
            assert "qx ville" not in mended(named, finding, which).model_dump_json(), finding.code


def test_the_demo_has_its_planted_mistakes_and_every_fix_can_be_done(heron, today):
    derived = derive(heron, today)
    found = all_prompts(derived)
    assert {"BENCH-SCALE", "WIRE-MIXED", "COAT-ACCESS", "COAT-COLD", "COAT-GLOSS", "COAT-TEST", "LAMP-BARE"} <= {f.code for f in found}
    for finding in found:
        for which in range(len(finding.fixes)):
            after = mended(heron, finding, which)
            assert after != heron


def test_every_text_has_words_a_unit_and_no_loose_ends(heron, glass, hut, today):
    for project in (heron, glass, hut):
        for f in all_prompts(derive(project, today)):
            assert f.text.rstrip().endswith((".", "?"))
            assert f.numbers
            assert "None" not in f.text + f.numbers
            assert "nan" not in f.numbers
            for listing, ident in f.subjects:
                assert project.find(listing, ident) is not None


def test_rules_are_quiet_on_an_empty_project(empty):
    derived = derive(empty, TODAY)
    assert [f for rule in RULES for f in rule.findings(derived)] == []


def bare(ident: str, lip: float, text: str = "Its bulb can be seen.") -> Finding:
    meant = put(LAMPS.at(ident).then(lambda m: m.meant_to_be_seen), True, "Meant")
    lower = put(PROJECT.then(lambda p: p.case.lip_top), lip, "Lip")
    fixes = (Fix(f"Add a {lip:g} mm lip", (lower,)), Fix("It is meant to be seen", (meant,)))
    return Finding("LAMP-BARE", "mind", "lamps", ident, text, f"{lip}", ((LAMPS, ident),), fixes)


def test_fourteen_bare_lamps_are_one_card():
    lamps = [bare(f"l{k}", 10.0 + k) for k in range(14)]
    other = bare("m", 5.0, "Another cause.")
    one, two = joined([*lamps, other])
    assert two is other
    assert one.title == "l0, l1 and 12 more"
    assert one.keys == tuple(f.key for f in lamps)
    # One lip serves all: the largest; each of them is meant to be seen.
    assert one.fixes[0] == lamps[-1].fixes[0]
    assert len(one.fixes[1].edits) == 14


def test_cures_that_contradict_each_other_are_not_joined():
    switch = lambda ident, kind: Finding(  # noqa: E731
        "X", "mind", "stage", ident, "Same.", "", ((LAMPS, ident),), (Fix("Do", (put(PROJECT.then(lambda p: p.case.kind), kind, "Do"),)),)
    )
    assert len(joined([switch("a", "dome"), switch("b", "open base")])) == 2
    assert len(joined([switch("a", "dome"), switch("b", "dome")])) == 1
    none = Finding("X", "mind", "stage", "a", "Same.", "", ((LAMPS, "a"),))
    assert len(joined([none, replace(none, title="b", subjects=((LAMPS, "b"),))])) == 2


def test_what_was_joined_is_left_one_by_one(heron):
    project = apply(heron, Accept("Leave", joined([bare("moon", 3.0), bare("kiosk", 4.0)])[0].keys, "So be it"))
    assert [a.key for a in project.accepted if a.reason == "So be it"] == ["LAMP-BARE:moon", "LAMP-BARE:kiosk"]


@pytest.mark.parametrize("sample", SAMPLES)
def test_no_cure_leads_to_the_next_prompt(sample):
    """Of all that is judged at once: what a way out is for is gone, and nothing else speaks that did not before."""
    quick = {r.name for r in QUICK}
    rules = [r for r in RULES if all(n.name in quick for n in r.needs)]

    def speaking(project):
        found = Reckoner().derive(project, Look(TODAY), QUICK)
        return {f.key: f for r in rules for f in r.findings(found)}

    project = SAMPLES[sample](TODAY)
    before = speaking(project)
    for key, finding in before.items():
        for fix in finding.fixes:
            after = speaking(apply(project, *fix.edits))
            assert key not in after, fix.label
            assert set(after) <= set(before), fix.label


def test_lacquer_on_bare_foam_is_a_stop_that_a_seal_mends(empty):
    wall = Surface(id="wall", name="Cliff", material="foam")
    spray = Step(id="prime", name="Prime the cliff", coat="primer_spray", surfaces=("wall",))
    project = apply(empty, put(SURFACES.spot, (wall,), "Faces"), put(STEPS.spot, (spray,), "Steps"))
    found = only(codes(project), "COAT-FOAM")
    assert found.severity == "stop"
    after = mended(project, found)
    assert [s.coat for s in after.steps] == ["pva", "primer_spray"]
    assert quiet(after, "COAT-FOAM")
    bare = apply(project, put(SURFACES.at("wall").then(lambda s: s.material), "wood", "Material"))
    assert quiet(bare, "COAT-FOAM")
