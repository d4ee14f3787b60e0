"""Joints, fits and the rig hand their steps to Coats, and what is glued is not painted."""

from fondale.core.coats.conflicts import missing
from fondale.core.coats.links import chain_of
from fondale.core.edits import apply, put
from fondale.core.edits.handing import HandFit, HandJoin, HandRig
from fondale.core.fits.glue import glues_for
from fondale.core.model import STEPS, STRINGS, Fit, Join, Lamp, Piece, Step, String, Supply, Surface
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
    assert (step.joints, step.wait_h, step.caution) == (("j",), best.handle_h, best.caution)
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
