# SPDX-License-Identifier: MIT
"""Joints, fits and the rig hand their steps to Coats, and what is glued is not painted."""

from datetime import datetime

from fondale.core.coats.conflicts import missing
from fondale.core.coats.links import chain_of
from fondale.core.edits import Add, apply, put, remove
from fondale.core.edits.handing import HandFit, HandJoin, HandRig
from fondale.core.edits.steps import MarkDone
from fondale.core.fits.glue import glues_for
from fondale.core.model import JOINS, LAMPS, STEPS, STRINGS, Fit, Join, Lamp, Piece, Step, String, Supply, Surface
from fondale.core.model.shapes import Box
from fondale.core.prompts import coats
from tests.conftest import known

BOX = Box(width=5, depth=5, height=5)


def glued(empty):
    pieces = (Piece(id="a", name="A", shape=BOX), Piece(id="b", name="B", shape=BOX))
    return empty.but(
        pieces=pieces, joins=(Join(id="j", name="arm", pieces=("a", "b")),), surfaces=(Surface(id="f", name="Front", piece="a"),)
    )


def test_a_joint_hands_its_step_over_once(empty):
    project = glued(empty)
    handed = apply(project, HandJoin("Hand", "j"))
    (step,) = handed.steps
    best = glues_for(project.joins[0])[0]
    assert (step.joints, step.wait_h) == (("j",), best.handle_h)
    own = apply(handed, put(STEPS.at(step.id).then(lambda s: s.note), "Clamp it", "Note"))
    again = apply(own, HandJoin("Again", "j"))
    assert again.steps == own.steps


def test_the_rig_hands_over_wiring_and_a_test(empty):
    lamps = tuple(Lamp(id=f"l{k}", name=f"L{k}", x=0, y=0, z=0) for k in range(3))
    rig = empty.but(
        lamps=lamps, supplies=(Supply(id="u", name="U"),), strings=(String(id="w", name="moon", supply="u", lamps=("l0", "l1")),)
    )
    handed = apply(rig, HandRig("Hand"))
    assert [s.name for s in handed.steps] == ["Wire moon", "Test the light"]
    assert handed.steps[0].minutes[1] == 16
    longer = apply(handed, put(STRINGS.at("w").then(lambda s: s.lamps), ("l0", "l1", "l2"), "Hang"), HandRig("Again"))
    assert [s.minutes[1] for s in longer.steps] == [24, 10]
    assert chain_of(longer).first["test-the-light"] == {longer.steps[0].id}


def test_what_was_handed_over_follows_the_rig_and_goes_with_it(empty):
    lamps = tuple(Lamp(id=f"l{k}", name=f"L{k}", x=0, y=0, z=0) for k in range(3))
    rig = empty.but(
        lamps=lamps, supplies=(Supply(id="u", name="U"),), strings=(String(id="w", name="moon", supply="u", lamps=("l0", "l1")),)
    )
    handed = apply(rig, HandRig("Hand"))
    hang = put(STRINGS.at("w").then(lambda s: s.lamps), ("l0", "l1", "l2"), "Hang")
    assert apply(handed, hang).steps[0].minutes[1] == 24
    # What the maker set stays where the rig asks for the same as before.
    own = apply(handed, put(STEPS.at(handed.steps[0].id).then(lambda s: s.minutes), (30, 40, 60), "Minutes"))
    renamed = apply(own, put(STRINGS.at("w").then(lambda s: s.name), "sky", "Name"))
    assert (renamed.steps[0].name, renamed.steps[0].minutes[1]) == ("Wire sky", 40)
    # A new string and a new lamp belong to it, and a string takes its step along.
    more = apply(handed, Add("Add", STRINGS, String(id="v", name="stairs", supply="u")), Add("Add", LAMPS, lamps[0].but(id="l9")))
    assert [s.name for s in more.steps] == ["Wire moon", "Test the light", "Wire stairs"]
    assert "l9" in more.steps[1].tests
    assert [s.name for s in apply(more, remove(STRINGS, more.strings[0])).steps] == ["Test the light", "Wire stairs"]
    # Nothing is handed over unasked, and what is done stays as it was.
    assert apply(rig, hang).steps == ()
    done = apply(handed, MarkDone("Done", (handed.steps[0].id,), True, datetime(2026, 11, 20, 19)))
    assert apply(done, hang).steps[0].minutes[1] == 16


def test_a_joint_takes_its_steps_along(empty):
    handed = apply(glued(empty), HandJoin("Hand", "j"))
    slow = apply(handed, put(JOINS.at("j").then(lambda j: j.name), "left arm", "Name"))
    assert [s.name for s in slow.steps] == ["Join left arm"]
    assert apply(handed, remove(JOINS, handed.joins[0])).steps == ()


def test_a_fit_is_tried_dry(empty):
    project = empty.but(fits=(Fit(id="f", name="pin", hole=5.2, peg=5),))
    handed = apply(project, HandFit("Hand", "f"), HandFit("Again", "f"))
    assert [s.fits for s in handed.steps] == [("f",)]


def test_glue_on_paint_is_asked_about_where_it_arises(empty):
    paint = Step(id="paint", name="Paint", coat="acrylic", surfaces=("f",))
    project = apply(glued(empty).but(steps=(paint,)), HandJoin("Hand", "j"))
    found = next(f for f in coats.lacking(project, known(project)) if f.code == "COAT-JOINT")
    for fix, order in zip(
        found.fixes, (("Paint", "Scrape the faces of arm", "Join arm"), ("Mask the faces of arm", "Paint", "Join arm")), strict=True
    ):
        cured = apply(project, *fix.edits)
        assert tuple(s.name for s in cured.steps) == order
        assert "bare" not in {m.kind for m in missing(cured)}
    # Joined before it is painted, nothing is in the way.
    assert "bare" not in {m.kind for m in missing(project.but(steps=project.steps[::-1]))}


def test_masking_is_not_taken_for_joining(empty):
    paint = Step(id="paint", name="Paint", coat="acrylic", surfaces=("f",))
    project = apply(glued(empty).but(steps=(paint,)), HandJoin("Hand", "j"))
    found = next(f for f in coats.lacking(project, known(project)) if f.code == "COAT-JOINT")
    for fix in found.fixes:
        cured = apply(project, *fix.edits)
        assert apply(cured, HandJoin("Again", "j")).steps == cured.steps
