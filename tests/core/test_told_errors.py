# SPDX-License-Identifier: MIT
"""What is told with a number of lux: how often the truth, by plain paths, lies within twice the error that is told."""

from functools import partial

import numpy as np
import pytest

from fondale.core.emitters import emitter_of
from fondale.core.light import desk as desk_module
from fondale.core.light.desk import LightDesk, strengths
from fondale.core.light.receivers import receivers
from fondale.core.light.strength import lux
from fondale.core.model import Case, Lamp, Meter, Piece, Place
from fondale.core.model.shapes import Box, Opening, Wall
from fondale.core.stage.scene import build_scene
from tests.core.paths import by_paths

SURE = 0.04  # where the judge itself is less sure than this, it says nothing


def drawn(project, seed):
    """A box of any grey with up to four blocks, at times a wall with a doorway, a lamp high or low, and four meters on its floor."""
    rng = np.random.default_rng(seed)
    grey = (float(rng.uniform(0.2, 0.8)),) * 3
    case = Case(kind="open box", width=420, depth=260, height=250, floor_paint=grey, wall_paint=grey, ceiling_paint=grey)
    pieces = []
    for k in range(int(rng.integers(0, 5))):
        (w, d, h), x, y = rng.uniform(20, 90, 3), float(rng.uniform(60, 360)), float(rng.uniform(50, 210))
        place = Place(x=x, y=y, z=0, turn_deg=float(rng.choice((0, 0, 30))))
        pieces.append(Piece(id=f"b{k}", name="B", shape=Box(width=w, depth=d, height=h), place=place, role="scenery", paint=grey))
    if rng.random() < 0.4:
        wall = Wall(length=420, height=250, thickness=4, openings=(Opening(x=180, width=60, height=90),))
        pieces.append(Piece(id="w", name="W", shape=wall, place=Place(x=210, y=150, z=0), role="scenery", paint=grey))
    x, y, z = float(rng.uniform(30, 390)), float(rng.uniform(20, 140)), float(rng.choice((30, 120, 240)))
    lamp = Lamp(id="l", name="L", x=x, y=y, z=z, az=-1.0, angle_deg=120, led="warm_white")
    meters = tuple(Meter(id=f"m{k}", name="M", x=float(rng.uniform(10, 410)), y=float(rng.uniform(10, 250)), z=1.0) for k in range(4))
    return project.but(case=case, pieces=tuple(pieces), lamps=(lamp,), meters=meters)


def test_the_truth_lies_within_two_told_errors_nine_times_in_ten(empty):
    held = []
    for seed in range(20):
        project = drawn(empty, seed)
        (power,) = strengths(project, "", None)
        points = np.array([(m.x, m.y, m.z) for m in project.meters])
        truth, sure = by_paths(build_scene(project), emitter_of(project.lamps[0]), points, np.tile([0.0, 0.0, 1.0], (4, 1)), 40_000)
        times = float(lux(np.asarray(power)))
        for meter, true, doubt in zip(LightDesk().meters(project).meters, truth * times, sure * times, strict=True):
            if doubt < SURE * true and true > 0.05:
                held.append(abs(meter.lux - true) < 2 * np.hypot(meter.error, doubt))
    assert len(held) > 30
    assert np.mean(held) >= 0.9


def test_by_chance_alone_a_meter_swings_as_far_as_is_told(empty, monkeypatch):
    """The same meters by other rays, again and again: the spread of what they say is the error that each of them tells of its rays."""
    monkeypatch.setattr(LightDesk, "off", 0.0)
    project, said = drawn(empty, 3), []
    for seed in range(12):
        monkeypatch.setattr(desk_module, "receivers", partial(receivers, seed=1000 + 100 * seed))
        said.append([(m.lux, m.error) for m in LightDesk().meters(project).meters])
    found = np.array(said)
    swings, told = found[..., 0].std(0, ddof=1), np.sqrt((found[..., 1] ** 2).mean(0))
    assert np.exp(np.log(told / swings).mean()) == pytest.approx(1.0, abs=0.25)
