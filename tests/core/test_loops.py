# SPDX-License-Identifier: MIT
"""The compiled loops say what a few readable lines say."""

import ast
import re
from pathlib import Path

import numba
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fondale.core import compiled
from fondale.core.light import loops
from fondale.core.light.solver import prepare, solve
from fondale.core.stage import loops as stage_loops
from fondale.core.stage.moved import Moved
from tests.core.light_scenes import SCENES

SOURCE = Path(loops.__file__).parents[2]


def singles(*shape, rng, low=0.0, high=1.0):
    return rng.uniform(low, high, shape).astype(np.float32)


def units(*shape, rng):
    x = rng.normal(size=(*shape, 3))
    return (x / np.linalg.norm(x, axis=-1, keepdims=True)).astype(np.float32)


def form(begin, up, end, normal):
    """How much of what comes to one place, spread by the cosine, would come from a mm² at another: cosines over pi times the square of the way."""
    way = end.astype(float) - begin
    d2 = max(way @ way, loops.NEAREST)
    return max(way @ up, 0.0) * max(-(way @ normal), 0.0) / (np.pi * d2 * d2)


@given(st.integers(0, 10_000))
@settings(max_examples=20, deadline=None)
def test_ways_through_boxes(seed):
    """Against samples along each way: none that lies inside a box is missed, and what is told to be met has some place inside one that is a hair larger."""
    rng = np.random.default_rng(seed)
    low = rng.uniform(0, 80, (2, 3))
    boxes = np.stack([low, low + rng.uniform(5, 40, (2, 3))], 1)
    begin, way, far = singles(50, 3, rng=rng, high=100), singles(50, 3, rng=rng, low=-1), singles(50, rng=rng, high=120)
    way[::5, rng.integers(3)] = 0.0  # along a face
    found = Moved(boxes, np.zeros(0, bool)).crossed(begin, way, far)
    along = begin[:, None].astype(float) + way[:, None] * (far[:, None, None] * np.linspace(0, 1, 4001)[:, None])

    def met(by):
        inside = [((along >= low - by) & (along <= high + by)).all(2).any(1) for low, high in boxes]
        return np.logical_or.reduce(inside)

    assert (found | ~met(-0.01)).all()
    assert (~found | met(0.1)).all()
    place = rng.uniform(0, 100, 3)
    assert (Moved(boxes, np.zeros(0, bool)).between(place, begin) == Moved(boxes, np.zeros(0, bool)).crossed(
        np.tile(place, (50, 1)).astype(np.float32), begin - place.astype(np.float32), np.ones(50, np.float32)
    )).all()  # fmt: skip


@given(st.integers(0, 10_000))
@settings(max_examples=20, deadline=None)
def test_weights_of_texels_as_those_of_their_patches(seed):
    """Sums by patch, each once a row, as a full matrix has them."""
    rng = np.random.default_rng(seed)
    k, n, patches = 6, 40, 9
    full = np.where(rng.random((k, n)) < 0.3, rng.random((k, n)), 0).astype(np.float32)
    full[2] = 0
    patch, (row, texel) = rng.integers(0, patches, n), np.nonzero(full)
    begins = np.concatenate([[0], np.cumsum(np.bincount(row, minlength=k))]).astype(np.int32)
    first, on, total = loops.by_patch(begins, texel.astype(np.int32), full[row, texel], patch, patches)
    found = np.zeros((k, patches))
    for r in range(k):
        mine = slice(first[r], first[r + 1])
        assert len(set(on[mine])) == len(on[mine])
        found[r, on[mine]] = total[mine]
    assert found == pytest.approx(full @ np.eye(patches)[patch], rel=1e-5)
    assert len(on) == first[-1]


def test_what_reached_those_nearby():
    rng = np.random.default_rng(2)
    seen = np.where(rng.random((12, 12)) < 0.4, rng.random((12, 12)), 0).astype(np.float32)
    level, near = np.maximum(seen.sum(1), 1e-30).astype(np.float32), rng.integers(0, 12, (5, 4))
    row, patch = np.nonzero(seen)
    begins = np.concatenate([[0], np.cumsum(np.bincount(row, minlength=12))]).astype(np.int32)
    out = np.empty((5, 12), np.float32)
    loops.known(near, begins, patch.astype(np.int32), seen[row, patch], level, out)
    assert out == pytest.approx((seen / level[:, None])[near].mean(1), rel=1e-5)


@pytest.mark.parametrize("known", [True, False])
def test_points_are_asked_for_as_often_as_their_odds_say(known):
    """Over many receivers that are alike, each of the points as often as the form, how densely they are drawn and the odds tell it; to where it lies, from the look that it is for."""
    rng = np.random.default_rng(5)
    k, looks, t, r, patches, around = 4000, 4, 16, 24, 5, 64.0
    points, normals = singles(1, r, 3, rng=rng, low=20, high=80), units(1, r, rng=rng)
    start, up = np.tile(singles(1, looks, 3, rng=rng), (k, 1, 1)), np.tile(units(1, looks, rng=rng), (k, 1, 1))
    bright, density = singles(1, r, rng=rng), singles(1, r, rng=rng, low=1e-4, high=1e-3)
    patch, texel = rng.integers(0, patches, (1, t)), 100 + np.arange(t)[None]
    lit, before, beyond, least = (np.full(k, x, np.float32) for x in (0.8, 0.5, 0.9, 0.05))
    opened = np.tile(singles(1, patches, rng=rng), (k, 1)) if known else np.zeros((k, 0), np.float32)
    row, begin, faces, end, normal, on = loops.choose(
        points, normals, start, up, bright, density, patch, texel, around, lit, before, beyond, least, opened, singles(k, rng=rng), k
    )
    number = np.abs(end[:, None] - normal[:, None] * loops.LIFT - points[0]).sum(2).argmin(1)
    for q in range(r):
        look = q % looks
        share = form(start[0, look], up[0, look], points[0, q], normals[0, q])
        odds = 0.9 if q >= t else 0.8 + (0.5 * opened[0, patch[0, q]] if known else 0.0)
        chance = min(share / (around * share + density[0, q]) * (odds * bright[0, q] + 0.05), 1.0)
        mine = number == q
        assert abs(mine.sum() - k * chance) < 4 * np.sqrt(k * chance) + 1
        assert (on[mine] == (texel[0, q] if q < t else -1)).all()
        assert begin[mine] == pytest.approx(np.tile(start[0, look] + up[0, look] * loops.LIFT, (mine.sum(), 1)), abs=1e-4)
        assert (faces[mine] == up[0, look]).all()
    assert (np.diff(row) >= 0).all()


def test_rays_weigh_what_comes_from_where_they_end_against_all_that_end_there():
    """One after the other, as the docstrings have it, with two gates in the way of some."""
    rng = np.random.default_rng(8)
    n, patches, texels = 200, 4, 10
    begin, end = singles(n, 3, rng=rng, high=40), singles(n, 3, rng=rng, low=60, high=100)
    up, normal = units(n, rng=rng), units(n, rng=rng)
    row, texel, patch = np.sort(rng.integers(0, 6, n)), rng.integers(0, texels, n), rng.integers(0, patches, texels)
    dense, shine, share = singles(texels, rng=rng), singles(texels, rng=rng), singles(n, rng=rng)
    lit, known, beyond, least = (singles(6, rng=rng) for _ in range(4))
    opened, group, each = singles(6, patches, rng=rng), np.array([0, 0, 0, 1, 1, 1]), singles(2, patches, rng=rng)
    rects = np.array([[[50, -50, -50], [0, 200, 0], [0, 0, 200]], [[-50, 55, -50], [200, 0, 0], [0, 0, 70]]], np.float32)
    edges = rects.copy()
    edges[:, 1:] /= (edges[:, 1:] ** 2).sum(2, keepdims=True)
    across = np.cross(rects[:, 1], rects[:, 2])
    facing = (across / np.linalg.norm(across, axis=1, keepdims=True)).astype(np.float32)
    bright, drawn = singles(2, 2, rng=rng), singles(2, rng=rng, low=1e-3, high=1e-2)
    out, every = np.empty(n, np.float32), np.arange(n)
    loops.weigh(
        every, begin, up, every, end, every, normal, row, share, texel, 32.0, patch, dense, shine,
        lit, known, beyond, least, opened, group, each, edges, facing, bright, drawn, out,
    )  # fmt: skip
    met = 0
    for i in range(n):
        way, whose, p = end[i].astype(float) - begin[i], row[i], patch[texel[i]]
        mine, density = form(begin[i], up[i], end[i], normal[i]), each[group[row[i]], patch[texel[i]]] * dense[texel[i]]
        odds = (lit[whose] + known[whose] * opened[whose, p]) * shine[texel[i]] + least[whose]
        total = 32 * mine + density * min(mine / (32 * mine + density + 1e-30) * odds, 1)
        for g, (corner, u, v) in enumerate(rects.astype(float)):
            along = way @ facing[g]
            t = (corner - begin[i]) @ facing[g] / along
            place = begin[i] + t * way - corner
            if not (0 < t < 1 and 0 <= place @ u / (u @ u) <= 1 and 0 <= place @ v / (v @ v) <= 1):
                continue
            met += 1
            there = form(begin[i], up[i], begin[i] + t * way, np.sign(along) * -facing[g])
            asked = min(there / (32 * there + drawn[g] + 1e-30) * (beyond[whose] * bright[g, 0 if along < 0 else 1] + least[whose]), 1)
            # A mm² of the gate is seen as t² facing / |way · normal| of one where the ray ends.
            total += drawn[g] * asked * t * t * max(-(way @ normal[i]), 0) / abs(along)
        assert out[i] == pytest.approx(mine / max(total, 1e-30) * share[i], rel=2e-3, abs=1e-12)
    assert met > n / 2


def test_each_is_compiled_for_one_kind_of_arrays_alone():
    """A second kind would be compiled while somebody waits for light."""
    scene, lamp = SCENES["doorway"]()
    lit = prepare(scene, [lamp])
    solve(lit, [lamp])
    for module in (loops, stage_loops):
        made = {name: f for name, f in vars(module).items() if hasattr(f, "signatures") and not name.startswith("_")}
        assert made
        for name, function in made.items():
            assert len(function.signatures) <= 1, name


def test_what_is_compiled_calls_nothing_compiled_in_another_file():
    """What is kept of it would go on calling what stood there when it was compiled."""
    files = [f for f in SOURCE.rglob("*.py") if "@compiled" in f.read_text("utf-8") and f.name != "compiled.py"]
    assert len(files) == 2
    for file in files:
        tree = ast.parse(file.read_text("utf-8"))
        taken = {node.module or "" for node in ast.walk(tree) if isinstance(node, ast.ImportFrom)}
        assert not [name for name in taken if re.search(r"loops$", name)], file


def test_what_can_be_kept_nowhere_is_kept_in_a_folder_of_ones_own(tmp_path, monkeypatch):
    mine = compiled.own_folder(tmp_path / "loops")
    assert mine == tmp_path / "loops"
    assert mine.stat().st_mode & 0o777 == 0o700
    mine.chmod(0o777)  # anybody could have put something into it
    monkeypatch.setattr(compiled.tempfile, "tempdir", str(tmp_path))
    assert compiled.own_folder(mine) != mine
    tries = []

    def njit(*_types, **_how):
        def compiler(function):
            tries.append(numba.config.CACHE_DIR)
            if not numba.config.CACHE_DIR:
                raise RuntimeError("cannot cache function: no locator available")
            return function

        return compiler

    monkeypatch.setattr(numba, "njit", njit)
    monkeypatch.setattr(numba.config, "CACHE_DIR", "")
    assert compiled.compiled()(len) is len
    assert tries[0] == ""
    assert tries[1].startswith(str(tmp_path))
