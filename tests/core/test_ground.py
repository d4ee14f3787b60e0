# SPDX-License-Identifier: MIT
"""Ground in relief: against closed forms of the membrane, against what a membrane can never do, and what stands on it."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.sparse import coo_array, csr_array
from scipy.sparse.linalg import spsolve

from fondale.core.edits import apply
from fondale.core.edits.rescaling import rescaled
from fondale.core.model import Piece, Place
from fondale.core.model.shapes import Ground, GroundLine
from fondale.core.shapes import kind_of
from fondale.core.shapes.grounds import THIN_MM, membrane, relief
from fondale.core.stage.scene import build_scene, rest_places
from fondale.core.stage.solids import solid_of
from tests.conftest import boxed, figure


def ring(share: float, height: float, wide: float = 200.0, deep: float = 200.0) -> GroundLine:
    """A round contour ``share`` of the breadth in radius."""
    turn = np.linspace(0, 2 * math.pi, 90, endpoint=False)
    points = np.column_stack([np.cos(turn), np.sin(turn) * wide / deep]) * share
    return GroundLine(height=height, closed=True, points=points.tolist())


def across(x: float, height: float) -> GroundLine:
    return GroundLine(height=height, points=((x, -0.5), (x, 0.5)))


def test_between_two_straight_contours_the_ground_is_a_plane():
    # Laplace's equation in one direction: straight between, level beyond where the rim is free.
    shape = Ground(width=240, depth=120, rim="free", lines=(across(-0.25, 10.0), across(0.25, 40.0)))
    x, _y, z = relief(shape)
    wanted = np.interp(x, [-60, 60], [10, 40])
    assert z == pytest.approx(np.broadcast_to(wanted, z.shape), abs=1e-6)


def test_between_two_round_contours_it_falls_as_the_logarithm():
    # The solution between two circles: h = h1 + (h2 - h1) ln(r / r1) / ln(r2 / r1). Lines lie on a grid of 4 mm: half a cell off at most.
    shape = Ground(width=200, depth=200, rim="free", lines=(ring(0.1, 30.0), ring(0.4, 10.0)))
    for r in (30.0, 40.0, 55.0):
        wanted = 30 - 20 * math.log(r / 20) / math.log(80 / 20)
        steep = 20 / math.log(80 / 20) / r
        for turn in (0.3, 1.1, 2.9, 4.4):
            got = kind_of(shape).top(shape, r * math.cos(turn), r * math.sin(turn))
            assert got == pytest.approx(wanted, abs=2.2 * steep)
    assert kind_of(shape).top(shape, 0.0, 0.0) == pytest.approx(30.0)  # level within the innermost


shares = st.floats(-0.6, 0.6)
contours = st.builds(
    GroundLine,
    kind=st.just("contour"),
    height=st.floats(-20, 80),
    closed=st.booleans(),
    points=st.lists(st.tuples(shares, shares), min_size=1, max_size=6),
)
strokes = st.builds(
    GroundLine,
    kind=st.just("stroke"),
    height=st.floats(-30, 30),
    reach=st.floats(1, 60),
    points=st.lists(st.tuples(shares, shares), min_size=1, max_size=6),
)


@given(st.lists(contours, max_size=5), st.sampled_from(["held", "free"]), st.floats(20, 400), st.floats(20, 400))
def test_no_place_is_above_or_below_every_line(lines, rim, wide, deep):
    # The judge of a membrane: the principle of the maximum, whatever the lines are.
    shape = Ground(width=wide, depth=deep, rim=rim, lines=tuple(lines))
    z = relief(shape)[2]
    heights = [shape.height, *(line.height for line in lines)]
    assert z.min() >= max(THIN_MM, min(heights)) - 1e-6
    assert z.max() <= max(THIN_MM, *heights) + 1e-6
    if rim == "held" and not lines:
        assert z == pytest.approx(np.full(z.shape, shape.height))


@given(st.lists(st.one_of(contours, strokes), max_size=5), st.sampled_from(["held", "free"]))
def test_its_body_is_closed_and_holds_what_lies_under_the_heights(lines, rim):
    shape = Ground(width=160, depth=90, rim=rim, lines=tuple(lines))
    x, y, z = relief(shape)
    tris = kind_of(shape).solid(shape, 1.0).triangles()
    normal = np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0])
    assert normal.sum(0) == pytest.approx(0, abs=1e-6 * np.abs(normal).sum())  # faces of a closed body cancel out
    volume = np.einsum("ij,ij->i", tris[:, 0], np.cross(tris[:, 1], tris[:, 2])).sum() / 6
    cells = (z[:-1, :-1] + z[1:, 1:]) / 3 + (z[:-1, 1:] + z[1:, :-1]) / 6  # two triangles that meet in the diagonal
    assert volume == pytest.approx(cells.sum() * (x[1] - x[0]) * (y[1] - y[0]), rel=1e-9)
    assert z.min() >= THIN_MM


def test_a_stroke_fades_out_as_it_is_told():
    line = GroundLine(kind="stroke", height=12.0, reach=25.0, points=((-0.5, 0.0), (0.5, 0.0)))
    shape = Ground(width=192, depth=96, height=5.0, lines=(line,))
    _x, y, z = relief(shape)
    wanted = 5 + 12 * np.maximum(0, 1 - (y / 25) ** 2) ** 2
    assert z[:, 24] == pytest.approx(wanted)
    ditch = shape.but(lines=(line.but(height=-30.0),))
    assert relief(ditch)[2].min() == THIN_MM


def test_what_stands_on_it_stands_at_its_height_and_is_in_nobodys_way(empty):
    shape = Ground(width=200, depth=160, lines=(ring(0.2, 40.0, 200, 160),))
    hill = Piece(id="hill", name="Hill", shape=shape, role="scenery", place=Place(x=150, y=100, turn_deg=90))
    project = boxed(empty, hill, figure("man", 150, 100), figure("aside", 90, 100))
    places = rest_places(project)
    assert places["man"].z == pytest.approx(40.0)
    slope = kind_of(shape).top(shape, 0.0, 60.0)  # turned by 90 degrees: what lies left of its middle is behind its front's right
    assert places["aside"].z == pytest.approx(slope)
    assert 4 < slope < 40
    scene = build_scene(project)
    assert scene.all_tris[scene.owner == 0][..., 2].max() == pytest.approx(40.0)


def test_at_another_scale_its_lines_grow_with_it(empty):
    line = GroundLine(kind="stroke", height=9.0, reach=12.0, points=((0.0, 0.0), (0.2, 0.1)))
    ground = Piece(id="g", name="G", shape=Ground(width=100, depth=80, lines=(line,)), role="scenery", place=Place(x=150, y=100))
    project = boxed(empty, ground)
    after = apply(project, rescaled(project, project.brief.house_n / 2)).pieces[0]
    (new,) = after.shape.lines
    assert (after.shape.width, new.height, new.reach, new.points) == (200, 18, 24, line.points)
    before, now = (solid_of(p).corners() for p in (ground, after))
    assert now == pytest.approx(before * 2, abs=1e-6)


@given(st.integers(2, 14), st.integers(3, 14), st.floats(0.2, 5.0), st.randoms(use_true_random=False))
def test_the_membrane_is_that_of_a_library(rows, columns, ratio, random):
    # scipy's sparse solver on the same five points, every grid and every set of held points.
    fixed = np.array([[random.random() < 0.2 for _ in range(columns)] for _ in range(rows)])
    fixed[random.randrange(rows), random.randrange(columns)] = True
    z = np.array([[random.uniform(-50, 50) for _ in range(columns)] for _ in range(rows)])
    at = np.arange(z.size).reshape(z.shape)
    i, j = np.concatenate([at[:, :-1].ravel(), at[:-1].ravel()]), np.concatenate([at[:, 1:].ravel(), at[1:].ravel()])
    weight = np.concatenate([np.full(at[:, 1:].size, ratio), np.full(at[1:].size, 1 / ratio)])
    graph = coo_array((np.tile(weight, 2), (np.concatenate([i, j]), np.concatenate([j, i]))), shape=(z.size, z.size)).toarray()
    pull, held = np.diag(graph.sum(1)) - graph, fixed.ravel()
    wanted = z.ravel().copy()
    if not held.all():
        wanted[~held] = spsolve(csr_array(pull[np.ix_(~held, ~held)]), -(pull[np.ix_(~held, held)] @ wanted[held]))
    assert membrane(fixed, z, 1.0, ratio) == pytest.approx(wanted.reshape(z.shape), abs=1e-7)
