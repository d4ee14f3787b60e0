# SPDX-License-Identifier: MIT
"""Shipped facts against published ones: stature, railway scales, resistor rows."""

import numpy as np
import pytest
from scipy import stats

from fondale.core.bodies.measures import measures
from fondale.core.bodies.poses import poses
from fondale.core.circuit.diode import diode_of, most_ma
from fondale.core.emitters import emitter_of
from fondale.core.lengths import parse_length
from fondale.core.light.strength import bands_at_rated, lux
from fondale.core.model import Lamp
from fondale.core.scale.reading import read_figure
from fondale.core.words import show_real
from fondale.knowledge import table


@pytest.mark.parametrize(("sex", "person", "n"), [(0, "man", 762), (1, "woman", 804)])
def test_stature_is_that_of_nhefs(sex, person, n):
    # [nhefs] (United States 1971, ages 25-74), column ht in cm, as carried by the package causaldata.
    causaldata = pytest.importorskip("causaldata")
    data = causaldata.nhefs_complete.load_pandas().data
    height = data.loc[data["sex"].astype(float) == sex, "ht"].to_numpy(float) * 10
    row = table("body")["people"][person]
    assert len(height) == n
    assert row["mean_mm"] == pytest.approx(height.mean(), rel=0.002)
    assert row["sd_mm"] == pytest.approx(height.std(ddof=1), rel=0.02)


def test_nmra_scales_are_304_8_over_millimetres_to_the_foot():
    # [nmra12] (from memory): mm to the foot.
    rows = {r.get("name"): r["n"] for r in table("scales")["scale"]}
    for name, mm_to_foot in (("H0", 3.5), ("00", 4.0), ("O", 6.35), ("S", 4.7625), ("TT", 2.54), ("N", 1.905), ("Z", 1.385)):
        assert rows[name] == pytest.approx(304.8 / mm_to_foot, rel=0.005)
    # [nem010] (from memory).
    assert (rows["0"], rows["I"], rows["II"]) == (45, 32, 22.5)


def test_resistor_rows_are_those_of_iec_60063():
    row = table("electric")["resistor"]
    assert set(row["e12"]) <= set(row["e24"])
    assert len(row["e12"]) == 12
    rounded = [round(10 * 10 ** (k / 24)) for k in range(24)]
    # [iec60063] differs from the rounded formula at 27 30 33 36 39 43 47 82.
    assert sorted(set(row["e24"]) - set(rounded)) == [27, 30, 33, 36, 39, 43, 47, 82]


def test_segments_add_up():
    # [drillis1966] (from memory, as printed in biomechanics handbooks): the chain must close.
    s = table("body")["segments"]
    assert s["knee"] + s["thigh"] == pytest.approx(s["hip"], abs=0.001)
    assert s["ankle"] + s["shank"] == pytest.approx(s["knee"], abs=0.001)
    assert s["chin"] + s["head"] == pytest.approx(1.0)
    assert s["shoulder"] - s["upper_arm"] == pytest.approx(s["elbow"], abs=0.003)
    assert s["elbow"] - s["forearm"] == pytest.approx(s["wrist"], abs=0.002)


def test_every_row_names_its_source():
    for name, group in (("body", "people"), ("scales", "things")):
        for row in table(name)[group].values():
            assert row["source"]
    for row in table("cautions")["caution"].values():
        assert len(row["text"]) > 20


def test_cells_only_ever_fall():
    for row in table("electric")["cell"].values():
        assert (np.diff(row["emf_v"]) < 0).all()
        assert (np.diff(row["ohm"]) > 0).all()
        assert row["depth"][0] == 0.0
        assert row["depth"][-1] == 1.0


def test_things_of_known_size_are_those_of_the_standards():
    """Each held against how its standard derives it (all from memory)."""
    things = table("scales")["things"]
    # [iso216]: A0 is a square metre in the ratio 1 : sqrt 2; A4 is its sixteenth.
    long = 1000 * 2**0.25
    assert things["a4_long"]["real_mm"] == pytest.approx(long / 4, abs=0.5)
    # [iso7810]: ID-1 is 3 3/8 by 2 1/8 in to a hundredth of a millimetre or two.
    assert things["card_long"]["real_mm"] == pytest.approx(3.375 * 25.4, abs=0.15)
    # [iso668]: a 20 foot container is 19 ft 10 1/2 in long, 8 ft wide and 8 ft 6 in high.
    for key, inches in (("container_long", 19 * 12 + 10.5), ("container_wide", 96), ("container_high", 102)):
        assert things[key]["real_mm"] == pytest.approx(inches * 25.4, abs=1.0)
    # [en13698]: 800 x 1200 x 144, out of boards of 22 mm and blocks of 78 mm: 22 + 22 + 78 + 22.
    assert (things["pallet"]["real_mm"], things["pallet_wide"]["real_mm"]) == (1200, 800)
    assert things["pallet_high"]["real_mm"] == 22 + 22 + 78 + 22
    # Four bricks and four joints of 10 mm are 900 mm; four courses are 300 mm.
    assert 4 * (things["brick_long"]["real_mm"] + 10) == 900
    assert 4 * (things["brick_high"]["real_mm"] + 10) == 300


def test_wheels_follow_their_tyre_codes():
    # Outer diameter = rim in inches x 25.4 + 2 x width x aspect (ETRTO, from memory).
    wheels = table("things")["thing"]
    for key, width, aspect, rim in (("car_wheel", 195, 0.65, 15), ("lorry_wheel", 295, 0.80, 22.5)):
        assert wheels[key]["real"][0] == pytest.approx(rim * 25.4 + 2 * width * aspect, rel=0.01)
        assert wheels[key]["real"][1] == width


def test_six_inches_stand_for_a_man_at_1_12_and_grass_has_a_scale():
    # A six-foot man six inches tall is 1:12; 4 mm grass is 140 mm at 1:35 (both common practice).
    assert parse_length("6 ft real", 12) == pytest.approx(parse_length("6 in"))
    assert show_real(4 * 35) == "140 mm"
    assert show_real(7 * 35) == "245 mm"


# Others than those that the table of statures was made of. [galton1886] (from memory; the counts add up to his 928): adult children by inches,
# daughters times 1.08. [pearson1903] (from memory): mean and standard deviation of sons and daughters, in inches.
GALTON = {
    61.7: 5, 62.2: 7, 63.2: 32, 64.2: 59, 65.2: 48, 66.2: 117, 67.2: 138, 68.2: 120, 69.2: 167, 70.2: 99, 71.2: 64, 72.2: 41, 73.2: 17, 73.7: 14,
}  # fmt: skip


def galtons_children() -> np.ndarray:
    inches = np.repeat(list(GALTON), list(GALTON.values()))
    return (inches + np.random.default_rng(2).uniform(-0.5, 0.5, len(inches))) * 25.4


def pearsons(mean: float, sd: float) -> np.ndarray:
    share = (np.arange(1000) + 0.5) / 1000
    return np.random.default_rng(3).permutation(stats.norm.ppf(share, mean, sd)) * 25.4


OTHERS = {
    "Galton's": ("man", galtons_children()),
    "Pearson's sons": ("man", pearsons(68.65, 2.71)),
    "Pearson's daughters": ("woman", pearsons(63.87, 2.61)),
}


@pytest.mark.parametrize("others", list(OTHERS))
@pytest.mark.parametrize("pose", list(poses()))
def test_the_interval_of_every_pose_holds_nine_in_ten_of_other_people(pose, others):
    # How sculptors differ in a pose is not published: drawn with the spread that the table states.
    person, stature = OTHERS[others]
    assert len(stature) > 900
    spread = table("body")["poses"][pose]["spread"]
    rng = np.random.default_rng(1)
    measured = stature * measures(pose, person).crown * (1 + rng.normal(0, spread, len(stature))) / 35
    base = read_figure(50.0, 0.1, pose, person, 35.0)
    n = base.n * 50.0 / measured
    held = (n * base.low / base.n <= 35) & (n * base.high / base.n >= 35)
    assert 0.85 <= held.mean() <= 0.95


# Wyman, Sloan and Shirley 2013, from memory: fits of the CIE 1931 observer, good to a percent or two. [wyman2013]
def _observer(nm):
    def bell(height, middle, left, right):
        return height * np.exp(-0.5 * ((nm - middle) * np.where(nm < middle, left, right)) ** 2)

    x = bell(0.362, 442.0, 0.0624, 0.0374) + bell(1.056, 599.8, 0.0264, 0.0323) + bell(-0.065, 501.1, 0.0490, 0.0382)
    y = bell(0.821, 568.8, 0.0213, 0.0247) + bell(0.286, 530.9, 0.0613, 0.0322)
    z = bell(1.217, 437.0, 0.0845, 0.0278) + bell(0.681, 459.0, 0.0385, 0.0725)
    return np.array([x, y, z])


def _rgb(spectrum):
    """Linear sRGB of a spectrum over 380 to 780 nm [iec61966], what no screen can show cut off, its most 1."""
    nm = np.arange(380.0, 781.0)
    to_rgb = np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]])
    out = np.clip(to_rgb @ (_observer(nm) @ spectrum(nm)), 0, None)
    return out / out.max()


@pytest.mark.parametrize("led", list(table("electric")["led"]))
def test_the_colour_of_each_led_follows_from_its_peak_or_its_temperature(led):
    row = table("electric")["led"][led]
    if "cct_k" in row:  # Planck’s law
        found = _rgb(lambda nm: nm**-5 / np.expm1(1.4388e7 / (nm * row["cct_k"])))
        assert row["rgb"] == pytest.approx(found, abs=0.01)
    else:  # a bell of its width at half height; real ones have tails, which a screen shows a little of
        found = _rgb(lambda nm: np.exp(-4 * np.log(2) * ((nm - row["peak_nm"]) / row["width_nm"]) ** 2))
        assert row["rgb"] == pytest.approx(found, abs=0.13 if led == "green" else 0.06)


def test_leds_by_package_give_what_data_sheets_say():
    # From memory of data sheets: chips of 0402 to 0805 give 0.1 to 0.4 cd at 20 mA, a white at 0.1 mA has some 2.45 V, a filament of 26 mm 15 to 25 lm.
    whites = [Lamp(id="a", name="A", x=0, y=0, z=0, led=led, angle_deg=120) for led in ("warm_white", "cool_white", "neutral_white")]
    for lamp in whites:
        for package in ("c0402", "c0603", "c0805"):
            assert 0.1 <= lux(bands_at_rated(lamp.but(package=package))) <= 0.4
        assert lux(bands_at_rated(lamp)) > lux(bands_at_rated(lamp.but(package="three"))) > lux(bands_at_rated(lamp.but(package="c1206")))
        assert diode_of(lamp.led).volts(0.0001) == pytest.approx(2.45, abs=0.02)
    thread = whites[0].but(led="filament", angle_deg=360)
    assert 15 <= lux(bands_at_rated(thread)) * emitter_of(thread).flux_lm <= 25
    assert most_ma(whites[0].but(package="c0402")) == 10
    assert most_ma(whites[0]) == 30
    assert 0.001 <= table("electric")["led"]["uv"]["candela"] <= 0.003


def test_what_is_made_for_twelve_volts_takes_its_current_there():
    for led, most in (("prewired_warm", 20), ("strip_warm", 20), ("grain", 55)):
        diode = diode_of(led)
        amps, _slope = diode.current(np.array([12.0]))
        assert 10 <= amps[0] * 1000 <= most


def test_alkaline_cells_at_rest_half_empty():
    # From memory of makers’ charts: some 1.33 V at rest, half empty.
    row = table("electric")["cell"]["aa"]
    assert np.interp(0.5, row["depth"], row["emf_v"]) == pytest.approx(1.33, abs=0.01)
    assert [e * 6 for e in row["emf_v"]] == pytest.approx(table("electric")["cell"]["nine_volt"]["emf_v"], rel=0.01)
