# SPDX-License-Identifier: MIT
"""Sizes in life: what is truly 1:35 reads as 1:35, and tables that tell of one thing agree (sizes: common practice, no source, but where named)."""

import numpy as np
import pytest

from fondale.core.bodies.chain import segments
from fondale.core.lengths import named_scale, parse_scale
from fondale.core.model import Detail, Measure, Piece
from fondale.core.model.shapes import Animal, Box, Figure
from fondale.core.scale.pieces import read_piece
from fondale.core.shapes.furniture import BUILDERS
from fondale.core.stage.weights import volume_of
from fondale.knowledge import table

THINGS = table("scales")["things"]


def reads(thing: str, real: float) -> tuple[float, float, float]:
    piece = Piece(
        id="p", name="P", shape=Box(width=1, depth=1, height=real / 35), thing=thing, measure=Measure(mm=real / 35, error_mm=0.02)
    )
    found = read_piece(piece, 35)
    return found.low, found.n, found.high


@pytest.mark.parametrize(
    ("thing", "reals"),
    [
        ("riser", (160, 175, 190)), ("going", (250, 280, 300)), ("rail", (970, 1050, 1130)), ("door_width", (730, 830, 930)), ("lorry_wheel", (900, 1040, 1180)),
        ("ladder_rung", (250, 280, 300)), ("bucket", (240, 300, 360)), ("stove", (600, 800, 1000)), ("rifle", (900, 1100, 1300)), ("dog", (350, 470, 620)),
        ("handcart_wheel", (640, 800, 980)), ("tractor_high", (1800, 2700, 3500)), ("cart_wheel", (1200, 1450, 1700)),
    ],
)  # fmt: skip
def test_what_is_usual_in_life_is_not_called_wrong_at_its_true_scale(thing, reals):
    for real in reals:
        low, _n, high = reads(thing, real)
        assert low <= 35 <= high, real
        piece = Piece(id="p", name="P", shape=Box(width=1, depth=1, height=1), thing=thing, measure=Measure(mm=real / 35))
        assert read_piece(piece, 35).verdict in ("right", "passes beside"), real


@pytest.mark.parametrize(
    ("thing", "percent"),
    [("riser", 10), ("going", 8), ("rail", 6), ("door_width", 10), ("lorry_wheel", 10), ("ladder_rung", 7), ("bucket", 15), ("stove", 20), ("rifle", 15), ("dog", 25), ("tractor_high", 25)],
)  # fmt: skip
def test_how_far_things_differ_in_life(thing, percent):
    assert THINGS[thing]["spread"] * 100 == pytest.approx(percent)


@pytest.mark.parametrize("person", ["man", "woman", "boy_12", "child_6"])
def test_every_part_of_a_true_body_reads_as_its_scale(person):
    """A body of its own shares, made at 1:35: each part alone gives 1:35, its boot too."""
    own, stature = segments(person), table("body")["people"][person]["mean_mm"]
    true = {
        "sitting": own["sitting_height"],
        "hand": own["hand"],
        "forearm": own["forearm"],
        "shank": own["shank"],
        "foot": own["foot_length"],
        "boot": own["foot_length"] * 1.125,
    }
    for part, share in true.items():
        mm = stature * share / 35
        piece = Piece(id="p", name="P", shape=Figure(person=person), details=(Detail(id="d", part=part, mm=mm, error_mm=0.02),))
        assert read_piece(piece, 35).n == pytest.approx(35, rel=0.002), part


def test_children_have_segments_of_their_own():
    # Sitting height is some 0.55 of stature at six and 0.52 grown up (growth charts, from memory).
    assert segments("child_6")["sitting_height"] == pytest.approx(0.55, abs=0.01)
    man = segments("man")
    assert all(segments("child_6")[k] < man[k] for k in ("shank", "forearm", "hand", "hip"))


def test_a_boot_is_longer_than_the_foot_in_it():
    # Common practice, no source: 300 mm on a man of 1750, 0.171 of stature.
    rows = table("body")["details"]
    assert rows["boot"]["share"] == pytest.approx(0.171)
    assert rows["boot"]["times"] * table("body")["segments"]["foot_length"] == pytest.approx(rows["boot"]["share"], abs=0.0005)
    assert 60 <= table("body")["worn"]["tall_hat"]["real_mm"] <= 90
    assert 30 <= table("body")["worn"]["hat"]["real_mm"] <= 50
    assert table("body")["sayings"]["hand wide"]["share"] == pytest.approx(0.051)


@pytest.mark.parametrize(
    ("name", "litres", "tolerance"),
    [
        ("horse", 500, 0.05), ("cow", 680, 0.05), ("gull", 2.5, 0.1), ("heron", 4, 0.1), ("hen", 5, 0.1),
        # Weights of grown ones, and feathers or fur: from memory.
        ("pig", 125, 0.2), ("goat", 60, 0.2), ("donkey", 180, 0.15), ("fox", 9, 0.25), ("rat", 0.45, 0.25), ("duck", 2.6, 0.25), ("pigeon", 0.7, 0.25), ("crow", 1.2, 0.25),
    ],
)  # fmt: skip
def test_animals_have_about_the_volume_of_such_animals(name, litres, tolerance):
    mm = THINGS[name]["real_mm"]
    volume, _centre = volume_of(_solid(name))
    assert volume * mm**3 / 1e6 == pytest.approx(litres, rel=tolerance)


def _solid(name):
    from fondale.core.shapes import kind_of

    return kind_of(Animal(species=name)).solid(Animal(species=name), 1.0)


def test_a_horse_has_hips_of_some_550_mm():
    points = np.asarray(_solid("horse").tris).reshape(-1, 3) * THINGS["horse"]["real_mm"]
    behind = points[(points[:, 1] > 460) & (points[:, 1] < 720) & (points[:, 2] > 900)]
    assert np.ptp(behind[:, 0]) == pytest.approx(550, rel=0.06)


def test_tables_that_tell_of_one_thing_agree():
    outlines, pieces = table("things")["thing"], table("furniture")
    assert outlines["winch_drum"]["real"][0] == THINGS["winch_drum"]["real_mm"]
    assert outlines["street_lamp"]["real"][1] == pieces["lamp_post"]["real"][2] == THINGS["lamp_post"]["real_mm"]
    assert sorted(outlines["crate"]["real"]) == sorted(pieces["crate"]["real"])
    assert outlines["barrel"]["real"] == [pieces["barrel"]["real"][0], pieces["barrel"]["real"][2]]
    assert outlines["table"]["real"] == pieces["table"]["real"]
    assert outlines["bucket"]["real"][1] == THINGS["bucket"]["real_mm"]
    assert outlines["oil_drum"]["real"][1] == THINGS["drum"]["real_mm"]
    assert outlines["cart_wheel"]["real"][0] == THINGS["cart_wheel"]["real_mm"]
    assert outlines["handcart_wheel"]["real"][0] == THINGS["handcart_wheel"]["real_mm"]
    assert outlines["door"]["real"][:2] == [THINGS["door"]["real_mm"], THINGS["door_width"]["real_mm"]]
    assert pieces["table"]["real"][2] == THINGS["table"]["real_mm"]
    assert pieces["desk"]["real"][2] == THINGS["desk"]["real_mm"]
    assert 600 <= THINGS["handcart_wheel"]["real_mm"] <= 1000


@pytest.mark.parametrize(("n", "mm_to_foot"), [(43.5, 7.0), (148, 2.0625), (80, 3.8), (20.3, 15.0)])
def test_scales_that_are_millimetres_to_the_foot(n, mm_to_foot):
    assert 304.8 / mm_to_foot == pytest.approx(n, rel=0.005)
    assert n in {r["n"] for r in table("scales")["scale"]}


def test_a_track_names_its_scale():
    # NEM 010 (from memory): 16.5 mm is standard gauge at H0, 9 at N, 12 at TT, 22.5 at S, 32 at 0, 45 at I; 45 is metre gauge at II.
    for gauge, real, name in ((16.5, "gauge_standard", "H0"), (9, "gauge_standard", "N"), (12, "gauge_standard", "TT"), (22.5, "gauge_standard", "S"), (32, "gauge_standard", "0"), (45, "gauge_standard", "I"), (6.5, "gauge_standard", "Z"), (45, "gauge_metre", "II")):  # fmt: skip
        row = next(r for r in table("scales")["scale"] if r.get("name") == name)
        assert gauge in row["gauge_mm"]
        assert THINGS[real]["real_mm"] / gauge == pytest.approx(row["n"], rel=0.02)


def test_the_scales_that_makers_look_for_are_there():
    known = {r["n"] for r in table("scales")["scale"]}
    assert {43.5, 148, 150, 80, 20.3, 30, 14, 285, 350, 700} <= known
    assert named_scale("H0") == 87
    assert parse_scale("1:43.5") == 43.5


@pytest.mark.parametrize("what", list(table("furniture")))
def test_every_piece_of_furniture_has_a_form_of_its_size(what):
    wide, deep, high = table("furniture")[what]["real"]
    corners = BUILDERS[what](wide, deep, high).corners()
    size = np.ptp(corners, axis=0)
    assert size[2] == pytest.approx(high, rel=0.02)
    assert size[0] <= wide * 1.03
    assert size[1] <= deep * 1.03
    assert corners[:, 2].min() == pytest.approx(0, abs=high * 0.01)


def test_the_things_that_makers_look_for_are_there():
    assert {
        "number_plate",
        "kerb",
        "sleeper",
        "door_handle",
        "can",
        "mug",
        "brick_de",
        "brick_long",
        "crate_long",
        "barrel_high",
        "platform",
        "bus_long",
        "plane_long",
    } <= set(THINGS)
    assert {"pig", "goat", "donkey", "duck", "pigeon", "crow", "rat", "fox"} <= set(THINGS)
    assert {"bed", "cupboard", "shelf", "stove", "steps", "cart", "desk"} <= set(table("furniture"))
