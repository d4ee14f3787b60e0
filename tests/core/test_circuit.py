# SPDX-License-Identifier: MIT
import subprocess
import sys

import numpy as np
import pytest
from scipy.optimize import brentq

from fondale.core.circuit.diode import VT, Diode, diode_of, fit_diode
from fondale.core.circuit.network import GROUND, Led, Network, Resistor, Source, solve
from fondale.core.circuit.supply import (
    hours,
    lamp_currents,
    most_in_series,
    network_of,
    next_resistor,
    solve_all,
    solve_supply,
    split,
    supply_volts,
    volts_to_spare,
    wire_ohm,
    wiring_of,
    with_resistor,
)
from fondale.core.derived import SUPPLIES_SOLVED
from fondale.core.edits import apply
from fondale.core.edits.again import again, parse_run
from fondale.core.edits.wiring import add_supply, set_supply
from fondale.core.model import LAMPS, STRINGS, Lamp, String, Supply
from fondale.core.prompts import wiring as wiring_rules
from fondale.core.reckoning import Look, Reckoner
from fondale.core.words import ohm_words
from fondale.knowledge import table
from tests.conftest import TODAY


@pytest.mark.parametrize("led", list(table("electric")["led"]))
def test_diodes_meet_their_data_sheet_points(led):
    diode = diode_of(led)
    points = table("electric")["led"][led]["points"]
    for volts, milliamps in (points[0], points[-1]):
        assert diode.volts(milliamps / 1000) == pytest.approx(volts, abs=1e-6)
        current, _slope = diode.current(np.array([volts]))
        assert current[0] * 1000 == pytest.approx(milliamps, rel=1e-5)


def test_current_and_volts_are_each_others_inverse_over_ten_decades():
    diode = diode_of("warm_white")
    amps = np.logspace(-9, 0, 40)
    volts = np.array([diode.volts(float(a)) for a in amps])
    found, slope = diode.current(volts)
    assert found == pytest.approx(amps, rel=1e-7)
    # The slope is the derivative: compare with a central difference.
    step = 1e-6
    difference = (diode.current(volts + step)[0] - diode.current(volts - step)[0]) / (2 * step)
    assert slope == pytest.approx(difference, rel=1e-3)


def test_current_is_safe_far_outside():
    current, slope = diode_of("red").current(np.array([-50.0, 0.0, 500.0]))
    assert np.isfinite(current).all()
    assert np.isfinite(slope).all()
    assert abs(current[0]) < 1e-6
    assert current[1] == pytest.approx(0.0, abs=1e-9)


@pytest.mark.parametrize("points", [((2.0, 0.02),), ((2.0, 0.02), (1.9, 0.03)), ((2.0, 0.02), (2.1, 0.01))])
def test_points_that_make_no_diode_are_refused(points):
    with pytest.raises(ValueError, match="rising"):
        fit_diode(points)


def test_the_window_may_ask_for_a_diode_without_waiting():
    """The prompts judge on the window's thread: nothing slow to load may come with it."""
    code = "import sys; from fondale.core.circuit.diode import diode_of; diode_of('red'); sys.exit('scipy' in sys.modules)"
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


def test_two_points_are_enough():
    diode = fit_diode(((1.8, 0.002), (2.0, 0.02)))
    assert diode.volts(0.02) == pytest.approx(2.0)
    assert diode.series_ohm == 2.0


def test_one_led_behind_a_resistor_against_a_scalar_root():
    diode, ohm, emf = diode_of("warm_white"), 100.0, 5.0
    network = Network((Resistor("r", "plus", "a", ohm),), (Led("led", "a", GROUND, diode),), (Source("supply", "plus", GROUND, emf, 0.1),))
    exact = brentq(lambda i: emf - i * (ohm + 0.1) - diode.volts(i), 1e-9, 1.0, xtol=1e-15)
    assert solve(network).amps["led"] == pytest.approx(exact, rel=1e-6)
    assert solve(network).amps["supply"] == pytest.approx(exact, rel=1e-6)


def test_a_mixed_group_against_a_scalar_root():
    # Red and green side by side on two cells: one node voltage decides both currents.
    red, green = diode_of("red"), diode_of("green")
    network = Network((), (Led("r", "plus", GROUND, red), Led("g", "plus", GROUND, green)), (Source("s", "plus", GROUND, 3.0, 0.3),))

    def balance(v: float) -> float:
        both = float(red.current(np.array([v]))[0][0] + green.current(np.array([v]))[0][0])
        return (3.0 - v) / 0.3 - both

    v = brentq(balance, 0, 3.0, xtol=1e-14)
    found = solve(network)
    assert found.volts["plus"] == pytest.approx(v, abs=1e-9)
    assert found.amps["r"] > 5 * found.amps["g"]


def test_kirchhoff_holds_at_every_node():
    rng = np.random.default_rng(4)
    for _ in range(20):
        names = ["plus", "a", "b", "c", GROUND]
        resistors = [Resistor(f"r{i}", *rng.choice(names, 2, replace=False), float(rng.uniform(1, 500))) for i in range(6)]
        leds = [Led(f"d{i}", *rng.choice(names, 2, replace=False), diode_of(str(rng.choice(["red", "green", "uv"])))) for i in range(4)]
        network = Network(tuple(resistors), tuple(leds), (Source("s", "plus", GROUND, float(rng.uniform(1, 12)), 0.5),))
        found = solve(network)
        for node in names[:-1]:
            out = sum(found.amps[e.name] * ((e.a == node) - (e.b == node)) for e in (*resistors, *leds))
            gives = found.amps["s"] if node == "plus" else 0.0
            assert out == pytest.approx(gives, abs=1e-8)


def test_starting_near_a_solution_finds_the_same():
    network = Network((Resistor("r", "p", "a", 47.0),), (Led("d", "a", GROUND, diode_of("blue")),), (Source("s", "p", GROUND, 5.0, 0.1),))
    fresh = solve(network)
    again = solve(network, fresh)
    assert again.amps["d"] == pytest.approx(fresh.amps["d"], rel=1e-9)
    assert again.steps <= fresh.steps


def test_a_reversed_led_leaks_only():
    network = Network((Resistor("r", "p", "a", 100.0),), (Led("d", GROUND, "a", diode_of("red")),), (Source("s", "p", GROUND, 5.0, 0.1),))
    assert abs(solve(network).amps["d"]) < 1e-6


def test_wire_resistance_both_ways():
    # [astmb258] and [iec60028]: AWG 36 has 0.127 mm and 1.361 ohm/m one way.
    assert wire_ohm(1000, 36) / 2 == pytest.approx(1.361, rel=1e-3)
    # Six gauges thinner: twice the resistance fourfold by area, within the rule of thumb.
    assert wire_ohm(1000, 30) == pytest.approx(wire_ohm(1000, 36) / 4, rel=0.02)


@pytest.mark.parametrize(
    ("ohm", "row", "found"),
    [
        (100, "e12", 100),
        (101, "e12", 120),
        (83, "e12", 100),
        (0.9, "e12", 1.0),
        (47.5, "e24", 51),
        (26, "e24", 27),
        (2.2, "e12", 2.2),
        (9.1e6, "e12", 10e6),
    ],
)
def test_next_resistor_up(ohm, row, found):
    assert next_resistor(ohm, row) == pytest.approx(found)


def rig(project, *lamps: str, supply: Supply, **string: object):
    made = tuple(Lamp(id=f"l{i}", name=f"L{i}", led=led, x=1, y=1, z=1) for i, led in enumerate(lamps))
    one = String(id="s", name="S", supply=supply.id, lamps=tuple(m.id for m in made), **string)
    return project.model_copy(update={"lamps": made, "supplies": (supply,), "strings": (one,)})


PLUG = Supply(id="p", name="Plug", kind="plug", row="usb_5v_1a")
CELLS = Supply(id="c", name="Cells", kind="cells", row="aa", count=2)
COIN = Supply(id="c", name="Coin", kind="cells", row="coin_20")


def test_whites_on_3_v_do_light(empty):
    # School B: white LEDs on two cells, no resistor: a few milliampere (common practice, no source).
    result = solve_all(rig(empty, "warm_white", supply=CELLS, wiring="group"))[0]
    assert 0.003 < result.strings[0].lamps[0].amps < 0.03
    assert result.hours_cutoff > 20


def test_scatter_matters_without_a_resistor_and_hardly_with_one(empty):
    bare = solve_all(rig(empty, "warm_white", supply=CELLS))[0].strings[0].lamps[0]
    held = solve_all(rig(empty, "warm_white", supply=PLUG, resistor_ohm=120))[0].strings[0].lamps[0]
    assert bare.high / bare.low > 1.7
    assert held.high / held.low < 1.2
    assert held.low < held.amps < held.high


def test_a_long_string_hardly_glows(empty):
    result = solve_all(rig(empty, "warm_white", "warm_white", "warm_white", supply=PLUG))[0]
    assert 0 <= result.strings[0].amps < 1e-4


def test_a_filament_on_a_coin_cell_dims_within_an_evening(empty):
    # Common practice, no source. The current falls with the cell, so capacity divided by the first current promises
    # a time that is bright for far less and glows for far more than that.
    result = solve_all(rig(empty, "filament", supply=COIN))[0]
    assert result.hours_half < 6
    naive = 0.225 / result.amps
    assert result.hours_half < naive < result.hours_cutoff


def test_hours_of_a_plain_load_by_hand(empty):
    # A string held at nearly constant current by a large resistor: hours = capacity / mean current, within 3 %.
    project = rig(empty, "red", supply=Supply(id="c", name="C", kind="cells", row="aa", count=4), resistor_ohm=470)
    supply = project.supplies[0]
    result = solve_all(project)[0]
    depths = np.linspace(0, 1, 400)
    amps = [solve(network_of(wiring_of(project), supply, float(d))).amps["supply"] for d in depths]
    volts = [solve(network_of(wiring_of(project), supply, float(d))).volts["plus"] for d in depths]
    end = next(i for i, v in enumerate(volts) if v < 0.9 * 4)
    rate = 2.4 / np.array(amps)
    by_hand = float(np.trapezoid(rate[: end + 1], depths[: end + 1]))
    assert result.hours_cutoff == pytest.approx(by_hand, rel=0.03)


def test_no_load_has_no_hours(empty):
    project = rig(empty, supply=CELLS)
    assert hours(wiring_of(project), CELLS, solve(network_of(wiring_of(project), CELLS))) == (None, None, None)
    assert solve_all(project)[0].strings == ()


@pytest.mark.parametrize("depth", [0.0, 0.4, 1.0])
def test_cells_in_series_are_one_cell_as_often(depth):
    """Kirchhoff: what is in series adds its voltages and its resistances; the current is the same in all."""
    one, three = (supply_volts(CELLS.but(count=k), depth) for k in (1, 3))
    assert three == pytest.approx((3 * one[0], 3 * one[1], one[2]))


def test_cells_in_series_add_up():
    fresh, _ohm, limit = supply_volts(CELLS)
    empty_cells, more_ohm, _ = supply_volts(CELLS, 1.0)
    assert fresh == pytest.approx(3.2)  # two fresh alkaline cells that rest: 1.6 V each, from memory
    assert empty_cells < 2
    assert more_ohm > _ohm
    assert limit == 0.5


def test_a_resistor_brings_lamps_to_about_fifteen_milliampere(empty):
    for leds, wiring in ((("red",), "series"), (("red", "red"), "series"), (("blue", "blue"), "group")):
        project = rig(empty, *leds, supply=PLUG, wiring=wiring)
        string = with_resistor(project, project.strings[0])
        assert string.resistor_ohm in [v * 10.0**k for v in table("electric")["resistor"]["e12"] for k in range(-1, 5)]
        mended = project.model_copy(update={"strings": (string,)})
        assert 0.009 < solve_all(mended)[0].strings[0].lamps[0].amps < 0.016


def test_splitting_makes_one_string_a_colour(heron):
    parts = split(heron, heron.find(STRINGS, "signals"))
    assert [p.lamps for p in parts] == [("signal-red",), ("signal-green",)]
    mended = heron.model_copy(update={"strings": (*(s for s in heron.strings if s.id != "signals"), *parts)})
    amps = lamp_currents(solve_all(mended))
    assert 0.005 < amps["signal-red"] < 0.02
    assert 0.0005 < amps["signal-green"] < 0.02


def test_solving_is_remembered_for_the_same_wiring(heron):
    moved = heron.model_copy(update={"name": "Other"})
    supply = heron.supplies[0]
    assert solve_supply(wiring_of(heron), supply) is solve_supply(wiring_of(moved), supply)


def test_thermal_voltage_is_that_of_25_degrees():
    # k T / q with the exact constants of the SI (2019) at 298.15 K.
    assert pytest.approx(1.380649e-23 * 298.15 / 1.602176634e-19, rel=1e-3) == VT
    assert Diode(1e-12, 2.0, 1.0).volts(0.0) == 0.0


def prompts_of(project, code):
    derived = Reckoner().derive(project, Look(TODAY), [SUPPLIES_SOLVED])
    return [f for rule in wiring_rules.RULES for f in rule.findings(derived) if f.code == code]


@pytest.mark.parametrize(
    ("leds", "supply", "code", "says"),
    [
        (("warm_white",) * 3, PLUG, "WIRE-DARK", "at most 1 in a row"),
        (("uv",), COIN, None, ""),
        (("warm_white",), Supply(id="c", name="C", kind="cells", row="aa", count=1), "WIRE-DARK", "3 such cells in series"),
    ],
)
def test_where_no_volts_are_left_no_resistor_is_proposed(empty, leds, supply, code, says):
    project = rig(empty, *leds, supply=supply)
    string = project.strings[0]
    assert with_resistor(project, string).resistor_ohm == 0
    found = [f for c in ("WIRE-DARK", "WIRE-BARE", "WIRE-OVER") for f in prompts_of(project, c)]
    assert not any("Put in" in fix.label for f in found for fix in f.fixes)
    if code:
        assert any(f.code == code and says in f.text for f in found)


def test_what_would_work_works(empty):
    # As many in a row as are told, behind the resistor that is told: the solver finds them near the current that was aimed at.
    for led, row in (("warm_white", "dc_12v_1a"), ("red", "usb_5v_1a"), ("red", "dc_12v_1a")):
        supply = Supply(id="p", name="P", kind="plug", row=row)
        count = most_in_series(empty, supply, led)
        project = rig(empty, *(led,) * count, supply=supply)
        wired = with_resistor(project, project.strings[0])
        amps = solve_all(project.but(strings=(wired,)))[0].strings[0].amps
        assert 0.004 < amps < 0.0155
        assert (
            volts_to_spare(rig(empty, *(led,) * (count + 1), supply=supply), rig(empty, *(led,) * (count + 1), supply=supply).strings[0])
            < 0.1
        )


def test_ohms_are_told_as_they_are_sold():
    assert [ohm_words(x) for x in (2.7, 1.0, 47, 150, 4700, 1e6)] == ["2.7 Ω", "1 Ω", "47 Ω", "150 Ω", "4.7 kΩ", "1 MΩ"]


def test_cells_are_dark_long_before_they_are_flat(empty):
    # White LEDs on two cells without a resistor: a tenth of the light is left after hours, when the cells are far from empty.
    project = rig(empty, "warm_white", supply=CELLS)
    result = solve_all(project)[0]
    assert result.hours_half <= result.hours_dark < result.hours_cutoff
    depths = np.linspace(0, 1, 400)
    amps = np.array([solve(network_of(wiring_of(project), CELLS, float(d))).amps["supply"] for d in depths])
    end = int(np.argmax(amps < 0.1 * amps[0]))
    by_hand = float(np.trapezoid(2.4 / amps[: end + 1], depths[: end + 1]))
    assert result.hours_dark == pytest.approx(by_hand, rel=0.05)


def test_a_supply_is_called_after_what_it_is(empty):
    edit, ident = add_supply(empty, "cells")
    project = apply(empty, edit)
    assert project.supplies[0].name == "Two AA alkaline cells"
    project = apply(project, set_supply(project, project.supplies[0], "aa", 3))
    assert project.supplies[0].name == "Three AA alkaline cells"
    project = apply(project, set_supply(project, project.supplies[0], "coin_20", 1))
    assert project.supplies[0].name == "One 3 V coin cell, 20 mm"
    own = project.but(supplies=(project.supplies[0].but(name="Under the stairs"),))
    assert apply(own, set_supply(own, own.supplies[0], "aa", 2)).supplies[0].name == "Under the stairs"
    assert ident


@pytest.mark.parametrize(
    ("wiring", "row", "strings"), [("series", "usb_5v_1a", 84), ("series", "dc_12v_1a", 1 + 28), ("group", "usb_5v_1a", 1)]
)
def test_copies_of_a_wired_lamp_are_wired(empty, wiring, row, strings):
    # By hand: 12 V bear three whites of 3.1 V one after the other, 5 V one.
    project = rig(empty, "warm_white", supply=Supply(id="p", name="P", kind="plug", row=row), resistor_ohm=120, wiring=wiring)
    edits, idents = again(project, LAMPS, "l0", parse_run("7 every 20 right, 12 rows every 30 back"))
    after = apply(project, *edits)
    assert len(idents) == 83
    wired = [i for s in after.strings for i in s.lamps]
    assert sorted(wired) == sorted(m.id for m in after.lamps)
    assert len(after.strings) == strings
    assert not prompts_of(after, "WIRE-NONE")
