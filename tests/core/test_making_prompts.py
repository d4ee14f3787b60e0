# SPDX-License-Identifier: MIT
"""Prompts of photographs, fits and prints: they speak when they should, and every fix silences them."""

import math
from operator import attrgetter

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.core.derived import JOBS, READINGS
from fondale.core.edits import apply, new_project, put
from fondale.core.edits.bringing import add_print, in_unit
from fondale.core.edits.printing import ScaleFiles, grown
from fondale.core.fits.air import air_of
from fondale.core.house_scale import ribbon
from fondale.core.model import PIECES, PRINTS, PROJECT, Fit, Machine, Measure, Photo, Piece, Place, PrintFile, Thread
from fondale.core.model.shapes import Mesh
from fondale.core.prints.body import Facts
from fondale.core.prints.jobs import fits_build, lying
from fondale.core.prints.parting import part_sizes
from fondale.core.prompts import workshop
from fondale.core.reckoning import Look, Reckoner
from fondale.core.stage.outlines import outlines
from fondale.knowledge import table
from tests.conftest import TODAY, known

PAINT = ("primer_spray", "acrylic", "acrylic")
CUBE = Facts((0, 0, 0), (20, 10, 40), 8000, 2800, (10, 5, 20), 12, 1, 0, 0, ((0, 0), (20, 0), (20, 10), (0, 10)))
SKIN = (((-0.5, -0.5, 0.0), (0.5, -0.5, 0.0), (0.0, 0.5, 1.0)), ((0, 1, 2),))


def found(project, rule):
    return list(rule(project, known(project)))


def mended(project, finding, which=0):
    for edit in finding.fixes[which].edits:
        project = apply(project, edit)
    return project


def with_file(project, **more):
    edits, ident = add_print(project, "Crate", "assets/prints/crate.stl", "mm", CUBE, SKIN, ())
    for edit in edits:
        project = apply(project, edit)
    for name, value in more.items():
        project = apply(project, put(PRINTS.at(ident).then(attrgetter(name)), value, name))
    return project


def test_two_known_lengths_that_contradict_each_other(empty):
    threads = (
        Thread(id="door", name="Door", a=(0, 0), b=(0, 203), known_mm=2030),
        Thread(id="man", name="Man", a=(50, 0), b=(50, 175), known_mm=1500),
    )
    project = empty.model_copy(update={"photos": (Photo(id="p", name="Quay", asset="", width=300, height=300, threads=threads),)})
    first, second = found(project, workshop.photographs)
    assert first.code == second.code == "BRIEF-PHOTO"
    # 203 px are 2.03 m, so 175 px are 1.75 m and not 1.50 m: 17 % apart.
    assert "1.75 m" in second.text
    assert "17 %" in second.numbers
    assert found(mended(project, second), workshop.photographs) == []
    agreeing = tuple(t.model_copy(update={"known_mm": 1750}) if t.id == "man" else t for t in threads)
    fine = project.model_copy(update={"photos": (project.photos[0].model_copy(update={"threads": agreeing}),)})
    assert found(fine, workshop.photographs) == []


@pytest.mark.parametrize(("hole", "severity"), [(4.5, "stop"), (5.24, "mind"), (5.4, None), (6.5, "hint")])
def test_fits_that_bind_or_rattle(empty, hole, severity):
    fit = Fit(id="f", name="Peg", hole=hole, peg=5.0, hole_coats=PAINT, peg_coats=PAINT)
    project = empty.model_copy(update={"fits": (fit,)})
    got = found(project, workshop.fits)
    assert [f.severity for f in got] == ([severity] if severity else [])
    if severity in ("stop", "mind"):
        after = mended(project, got[0])
        assert found(after, workshop.fits) == []
        assert after.fits[0].hole * 10 == pytest.approx(round(after.fits[0].hole * 10))  # a drill that exists
        assert got[0].caution == "drill"


def test_masking_is_offered_where_it_does(empty):
    fit = Fit(id="f", name="Peg", hole=5.14, peg=5.0, hole_coats=PAINT, peg_coats=PAINT)
    project = empty.model_copy(update={"fits": (fit,)})
    (got,) = found(project, workshop.fits)
    assert got.fixes[1].label == "Mask both faces"
    assert found(mended(project, got, 1), workshop.fits) == []


@given(
    st.sampled_from(sorted(table("fits")["kind"])), st.sampled_from(sorted(table("fits")["process"])), st.floats(0.5, 60), st.floats(-1, 3)
)
def test_every_bad_fit_is_mended_by_its_first_way(kind, process, peg, more):
    hole = max(0.2, peg + more)
    fit = Fit(id="f", name="F", kind=kind, process=process, hole=hole, peg=peg, hole_coats=PAINT)
    for mend in air_of(fit).mends:
        assert air_of(fit.but(**{mend.face: mend.mm})).verdict in ("fits", "loose"), mend


def test_a_file_that_does_not_go_on_its_machine(empty):
    project = apply(
        empty, put(PROJECT.then(lambda p: p.brief.machines), (Machine(id="m", name="Left printer", row="resin_small"),), "Machine")
    )
    assert found(with_file(project), workshop.prints) == []
    large = apply(with_file(project), ScaleFiles("Larger", ("crate",), 900.0))
    (got,) = found(large, workshop.prints)
    assert got.code == "BENCH-TOO-LARGE"
    assert "Left printer" in got.text
    cut = mended(large, got)
    assert found(cut, workshop.prints) == []
    build = tuple(table("machines")["machine"]["resin_small"]["build"])
    assert all(fits_build(lying(s, "z", 0.0), build) for s in part_sizes(cut.prints[0]))
    smaller = mended(large, got, 1)
    assert found(smaller, workshop.prints) == []
    assert smaller.pieces[0].measure.mm == pytest.approx(smaller.prints[0].printed[2])


def standing(project):
    """The first file as a body on the stage."""
    shape = Mesh(
        file=project.prints[0].id,
        width=9,
        depth=9,
        height=9,
        points=((0, 0, 0), (0.5, 0, 0), (0, 0.5, 0), (0, 0, 1)),
        faces=((0, 1, 2), (0, 1, 3)),
    )
    body = Piece(id="body", name="Body", shape=shape, origin="printed file", measure=Measure(mm=9), place=Place(x=100, y=100))
    return apply(project, put(PIECES.spot, (*project.pieces, body), "Stand it up"))


def test_open_stretched_and_tipping_files_are_told(empty):
    broken = with_file(empty, watertight=False, repairs=("3 holes are left",))
    assert [f.code for f in found(broken, workshop.prints)] == ["BENCH-OPEN"]
    stretched = with_file(empty, stretch=(1.0, 1.0, 1.2))
    (got,) = found(stretched, workshop.prints)
    assert got.code == "BENCH-STRETCH"
    assert mended(stretched, got).prints[0].stretch == (1, 1, 1)
    # 10 mm deep and its centre 20 mm high: atan(5 / 20) = 14.0 degrees.
    assert found(with_file(empty), workshop.balances) == []  # a part that never stands
    (tip,) = found(standing(with_file(empty)), workshop.balances)
    assert "14 degrees" in tip.text
    assert found(standing(with_file(empty, stretch=(1.0, 1.5, 1.0))), workshop.balances) == []


def test_a_family_keeps_one_percentage(empty):
    project = with_file(with_file(empty, family="Set"))
    project = apply(project, put(PRINTS.at("crate-2").then(lambda f: f.family), "Set", "Family"))
    assert found(project, workshop.families) == []
    project = apply(project, put(PRINTS.at("crate-2").then(lambda f: f.percent), 70.0, "Percent"))
    (got,) = found(project, workshop.families)
    assert "Crate" in got.numbers
    assert found(mended(project, got), workshop.families) == []


@given(st.sampled_from([1.0, 10.0, 25.4, 1000.0]))
def test_units_scale_every_fact_by_its_power(mm):
    got = in_unit(CUBE, mm)
    assert got.size == pytest.approx(tuple(s * mm for s in CUBE.size))
    assert got.volume == pytest.approx(CUBE.volume * mm**3)
    assert got.area == pytest.approx(CUBE.area * mm**2)
    assert got.centre == pytest.approx(tuple(c * mm for c in CUBE.centre))
    assert got.watertight


@given(st.floats(0.1, 8), st.floats(0.1, 8), st.floats(0.1, 8))
def test_a_piece_grows_with_its_file(x, y, z):
    project = with_file(new_project("E", TODAY))
    piece = grown(project.pieces[0], (x, y, z))
    assert isinstance(piece.shape, Mesh)
    assert (piece.shape.width, piece.shape.depth, piece.shape.height) == pytest.approx((20 * x, 10 * y, 40 * z))
    assert piece.measure.mm == pytest.approx(40 * z)


def test_outlines_of_the_demo_are_those_of_its_sizes(heron):
    got = outlines(heron)
    assert set(got.pieces) == {p.id for p in heron.pieces if p.role == "piece"}
    assert set(got.files) == {f.id for f in heron.prints}
    for file in heron.prints:
        for rings, wide in zip(got.files[file.id], file.printed[:2], strict=True):
            low = min(r[:, 0].min() for r in rings), min(r[:, 1].min() for r in rings)
            high = max(r[:, 0].max() for r in rings), max(r[:, 1].max() for r in rings)
            assert high[0] - low[0] == pytest.approx(wide, rel=0.05)
            assert high[1] - low[1] == pytest.approx(file.printed[2], rel=0.05)
    ferryman = heron.find(PIECES, "ferryman")
    assert max(r[:, 1].max() for r in got.pieces["ferryman"]) == pytest.approx(ferryman.measure.mm, rel=0.08)


def test_jobs_follow_the_percentage(empty):
    one, two = (known(with_file(empty, percent=p))[JOBS]["crate"] for p in (100.0, 200.0))
    assert two.volume_ml == pytest.approx(8 * one.volume_ml)
    assert two.layers - 100 == pytest.approx(2 * (one.layers - 100), abs=2)  # its supports lift it by 5 mm, 100 layers
    assert math.isclose(one.tries, 1 / one.success)
    assert isinstance(with_file(empty).prints[0], PrintFile)


def test_a_lost_piece_is_told_and_counts_for_no_scale(heron):
    lost = apply(heron, put(PIECES.at("boy").then(lambda p: p.lost), True, "Lost"))
    (got,) = found(lost, workshop.lost)
    assert got.title == "Boy with creel"
    assert mended(lost, got) == heron
    derived = Reckoner().derive(lost, Look(TODAY), [READINGS])
    before, after = (ribbon(p, derived[READINGS]).candidates[0].measured for p in (heron, lost))
    assert after == before - 1
