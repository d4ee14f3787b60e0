# SPDX-License-Identifier: MIT
"""Files of tomorrow: keys that no table holds here are kept and told, and everything else is reckoned."""

import pytest
from pydantic import ValidationError

from fondale.core.derived import LIGHT, QUICK
from fondale.core.edits import apply
from fondale.core.edits.again import Run, again
from fondale.core.model import LAMPS, PIECES, Piece
from fondale.core.model.base import Row
from fondale.core.model.marks import marked
from fondale.core.model.shapes import Box, Figure, Mesh
from fondale.core.prompts import all_prompts
from fondale.core.reckoning import Look, Reckoner
from fondale.core.unknown import is_known, reckonable, unknown_keys
from fondale.storage.files import from_json, to_json
from tests.conftest import KEYED, TODAY, known, of_tomorrow


def test_every_field_with_a_mark_is_tried(heron, rich):
    assert {(type(m.owner).__name__, m.field) for m in marked(rich, Row)} == set(KEYED)
    assert all(is_known(m) for m in marked(rich, Row))
    assert reckonable(heron)[0] is heron


@pytest.mark.parametrize("where", KEYED)
def test_an_unknown_key_is_kept_told_and_leaves_the_rest_be(rich, where):
    project = of_tomorrow(rich, where)
    assert from_json(to_json(project)) == project
    assert len(unknown_keys(project)) == 1
    found = [f for f in all_prompts(known(project)) if f.code == "FILE-UNKNOWN"]
    assert len(found) == 1
    assert "“of_tomorrow”" in found[0].text
    listing, ident = found[0].subjects[0]
    assert project.find(listing, ident) is not None
    others = {f.code for f in all_prompts(known(project))} - {"FILE-UNKNOWN"}
    assert {"BENCH-SCALE", "COAT-ACCESS", "STAGE-UNSEEN", "COAT-GLOSS"} & others


def test_all_of_them_at_once(rich):
    project = of_tomorrow(rich, *KEYED)
    derived = Reckoner().derive(project, Look(TODAY, width=64), (*QUICK, LIGHT))
    assert len([f for f in all_prompts(derived) if f.code == "FILE-UNKNOWN"]) == len(KEYED)
    assert derived[LIGHT].meters


def test_a_body_in_an_unknown_pose_stands_and_is_not_read(empty, heron):
    project = of_tomorrow(heron, ("Figure", "pose"))
    piece = next(p for p in project.pieces if isinstance(p.shape, Figure) and p.shape.pose == "of_tomorrow")
    stands = reckonable(project)[0].get(PIECES, piece.id)
    assert isinstance(stands.shape, Box)
    assert stands.shape.height == piece.measure.mm
    assert piece.id not in known(project).values["readings"]


def test_what_is_of_no_kind_at_all_is_left_out_too(heron):
    """Empty keys are no unknown ones: a body in no pose is a block, a lamp of no kind is none."""
    figure = next(p for p in heron.pieces if isinstance(p.shape, Figure))
    bodies = tuple(p.but(shape=p.shape.but(pose="")) if isinstance(p.shape, Figure | Mesh) else p for p in heron.pieces)
    lamps = (heron.lamps[0].but(led=""), *heron.lamps[1:])
    sure, unknown = reckonable(heron.but(pieces=bodies, lamps=lamps))
    assert unknown == ()
    assert isinstance(sure.get(PIECES, figure.id).shape, Box)
    assert len(sure.lamps) == len(heron.lamps) - 1
    known(sure)


def test_less_than_the_smallest_is_nothing():
    """A share of a layer of 5e-324 mm is no layer: nothing divides by it."""
    assert Piece(id="p", name="P", shape=Box(width=1, depth=1, height=1), real_mm=5e-324).real_mm == 0.0
    with pytest.raises(ValidationError):
        Piece(id="p", name="P", shape=Box(width=1, depth=1, height=1), real_mm=-1)


@pytest.mark.parametrize("what", ["supply", "led"])
def test_a_lamp_of_tomorrow_is_had_several_times_and_left_unwired(heron, what):
    string = next(s for s in heron.strings if s.wiring != "group")
    if what == "supply":
        project = heron.but(supplies=tuple(s.but(row="of_tomorrow") if s.id == string.supply else s for s in heron.supplies))
    else:
        project = heron.but(lamps=tuple(m.but(led="of_tomorrow") if m.id == string.lamps[0] else m for m in heron.lamps))
    edits, _ident = again(project, LAMPS, string.lamps[0], Run(2, (10.0, 0.0, 0.0)))
    after = apply(project, *edits)
    assert len(after.lamps) > len(heron.lamps)
    assert after.strings == project.strings
