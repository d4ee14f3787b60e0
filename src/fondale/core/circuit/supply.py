# SPDX-License-Identifier: MIT
"""The project's supplies and strings as networks, and what follows from their solution."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.circuit.diode import diode_of
from fondale.core.circuit.network import GROUND, Led, Network, NoSolution, Resistor, Solution, Source, solve
from fondale.core.how import How, Told, cite
from fondale.core.model import LAMPS, SUPPLIES, Project, String, Supply
from fondale.core.words import as_name, digits, ma
from fondale.knowledge import table

COPPER_OHM_M = 1.7241e-8  # annealed copper at 20 C [iec60028]
SCATTER_V = 0.1
TARGET_A = 0.015  # what a proposed resistor aims at
LEAST_OHM = 1.0  # the smallest resistor that is sold by the strip
HARDLY = 0.1  # of the fresh light: less is hardly lit (common practice, no source)
_DEPTHS = 33


@dataclass(frozen=True)
class Wiring:
    """The electrical part of a project: its strings, and which row each lamp is."""

    strings: tuple[String, ...]
    leds: tuple[tuple[str, str], ...]

    def led(self, lamp: str) -> str | None:
        """The row of a lamp, or None for a lamp that is not there."""
        return next((row for ident, row in self.leds if ident == lamp), None)


def wiring_of(project: Project) -> Wiring:
    """The wiring of a project."""
    return Wiring(project.strings, tuple((m.id, m.led) for m in project.lamps))


@dataclass(frozen=True)
class LampCurrent:
    """Current of one LED in A at full level, with the band for forward voltages 0.1 V up and down."""

    lamp: str
    amps: float
    low: float
    high: float
    volts: float


@dataclass(frozen=True)
class StringCurrent:
    """One string: total current in A, and the watts its resistor turns to heat."""

    string: str
    amps: float
    resistor_w: float
    lamps: tuple[LampCurrent, ...]


@dataclass(frozen=True)
class SupplyResult:
    """One supply: terminal volts, current in A, share of its limit, trouble; of cells the hours until half the light,
    until they are flat, and until hardly anything is lit (None for plugs).
    """

    supply: str
    volts: float
    amps: float
    limit_a: float
    strings: tuple[StringCurrent, ...]
    hours_half: float | None
    hours_cutoff: float | None
    hours_dark: float | None
    nodes: dict[str, float]
    elements: dict[str, float]
    trouble: str = ""

    @property
    def used(self) -> float:
        """Share of what it bears."""
        return self.amps / max(self.limit_a, 1e-9)

    @property
    def overloaded(self) -> bool:
        """Whether it bears more than it may for long."""
        return self.used > float(table("electric")["limits"]["supply_share"])


def wire_ohm(length_mm: float, awg: int) -> float:
    """Both ways: R = rho 2 L / A, diameter 0.127 x 92^((36 - n) / 39) mm [astmb258]."""
    diameter_mm = 0.127 * 92 ** ((36 - awg) / 39)
    return float(COPPER_OHM_M * (2 * length_mm / 1000) / (np.pi * (diameter_mm / 2000) ** 2))


def next_resistor(ohm: float, row: str = "e12") -> float:
    """The next value up in the E12 or E24 row [iec60063], from 1 ohm to 10 megohm."""
    values = table("electric")["resistor"][row]
    for decade in range(-1, 7):
        for value in values:
            if value * 10.0**decade >= ohm * (1 - 1e-9):
                return float(value * 10.0**decade)
    return 1e7


def supply_volts(supply: Supply, depth: float = 0.0) -> tuple[float, float, float]:
    """EMF in V, internal resistance in ohm, limit in A. ``depth`` of discharge counts for cells only."""
    rows = table("electric")
    if supply.kind == "plug":
        row = rows["plug"][supply.row]
        return float(row["volts"]), float(row["ohm"]), float(row["limit_ma"]) / 1000
    row = rows["cell"][supply.row]
    emf = float(np.interp(depth, row["depth"], row["emf_v"])) * supply.count
    ohm = float(np.interp(depth, row["depth"], row["ohm"])) * supply.count
    return emf, ohm, float(row["continuous_ma"]) / 1000


def network_of(wiring: Wiring, supply: Supply, depth: float = 0.0, shift_v: float = 0.0) -> Network:
    """The supply's strings as a network; node ``plus`` is the terminal, ground the return."""
    emf, ohm, _limit = supply_volts(supply, depth)
    resistors: list[Resistor] = []
    leds: list[Led] = []
    for string in wiring.strings:
        if string.supply != supply.id or not string.lamps:
            continue
        ends = f"{string.id}.wire"
        resistors.append(Resistor(ends, "plus", f"{string.id}.in", max(wire_ohm(string.wire_mm, string.awg), 1e-4)))
        start = f"{string.id}.in"
        if string.resistor_ohm > 0:
            resistors.append(Resistor(f"{string.id}.resistor", start, f"{string.id}.r", string.resistor_ohm))
            start = f"{string.id}.r"
        leds += _leds(wiring, string, start, shift_v)
    return Network(tuple(resistors), tuple(leds), (Source("supply", "plus", GROUND, emf, ohm),))


def _leds(wiring: Wiring, string: String, start: str, shift_v: float) -> list[Led]:
    out = []
    for i, ident in enumerate(string.lamps):
        row = wiring.led(ident)
        if row is None:
            continue
        last = i == len(string.lamps) - 1
        a, b = (start, GROUND) if string.wiring == "group" else (start, GROUND if last else f"{string.id}.{i}")
        if ident in string.reversed:
            out.append(Led(ident, b, a, diode_of(row), shift_v))
        else:
            out.append(Led(ident, a, b, diode_of(row), shift_v))
        if string.wiring == "series":
            start = f"{string.id}.{i}"
    return out


@lru_cache(maxsize=64)
def solve_supply(wiring: Wiring, supply: Supply) -> SupplyResult:
    """Currents with all lamps of the supply at full level, and how long cells last that way."""
    _emf, _ohm, limit = supply_volts(supply)
    network = network_of(wiring, supply)
    try:
        nominal = solve(network)
        strong = solve(network_of(wiring, supply, shift_v=-SCATTER_V), nominal) if network.leds else nominal
        weak = solve(network_of(wiring, supply, shift_v=SCATTER_V), nominal) if network.leds else nominal
    except NoSolution as error:
        return SupplyResult(supply.id, 0.0, 0.0, limit, (), None, None, None, {}, {}, str(error))
    strings = tuple(_string_result(wiring, s, nominal, weak, strong) for s in wiring.strings if s.supply == supply.id and s.lamps)
    half, cutoff, dark = hours(wiring, supply, nominal) if supply.kind == "cells" else (None, None, None)
    return SupplyResult(
        supply.id, nominal.volts.get("plus", 0.0), nominal.amps["supply"], limit, strings, half, cutoff, dark, nominal.volts, nominal.amps
    )  # fmt: skip


def _string_result(wiring: Wiring, string: String, nominal: Solution, weak: Solution, strong: Solution) -> StringCurrent:
    network_leds = {led.name: led for led in _leds(wiring, string, f"{string.id}.r" if string.resistor_ohm else f"{string.id}.in", 0.0)}
    lamps = tuple(
        LampCurrent(i, nominal.amps[i], weak.amps[i], strong.amps[i], nominal.volts[led.a] - nominal.volts[led.b])
        for i, led in network_leds.items()
    )
    total = nominal.amps.get(f"{string.id}.wire", 0.0)
    return StringCurrent(string.id, total, total**2 * string.resistor_ohm, lamps)


def hours(wiring: Wiring, supply: Supply, fresh: Solution) -> tuple[float | None, float | None, float | None]:
    """Hours until the first lamp has half its fresh current, until the cells' cut-off, and until the last has a tenth left, all lamps on.

    t = integral of C dq / I(q) over the depth of discharge q; the network is solved anew at each depth.
    None where nothing draws current.
    """
    row = table("electric")["cell"][supply.row]
    depths = np.linspace(0, 1, _DEPTHS)
    amps, volts, share, last = [], [], [], []
    lit = [i for i, a in fresh.amps.items() if a > 1e-6 and wiring.led(i) is not None]
    if not lit or fresh.amps["supply"] <= 1e-6:
        return None, None, None
    now = fresh
    for depth in depths:
        now = solve(network_of(wiring, supply, float(depth)), now)
        amps.append(max(now.amps["supply"], 1e-9))
        volts.append(now.volts["plus"])
        left = [now.amps[i] / fresh.amps[i] for i in lit]
        share.append(min(left))
        last.append(max(left))
    rate = 1.0 / np.array(amps)
    capacity_ah = float(row["capacity_mah"]) / 1000
    time = np.concatenate([[0.0], np.cumsum((rate[1:] + rate[:-1]) / 2 * np.diff(depths))]) * capacity_ah
    half = _crossing(time, np.array(share), 0.5)
    cutoff = _crossing(time, np.array(volts), float(row["cutoff_v"]) * supply.count)
    return min(half, cutoff), cutoff, min(_crossing(time, np.array(last), HARDLY), cutoff)


def _crossing(time: Floats, values: Floats, level: float) -> float:
    """The time at which falling ``values`` first pass ``level``; the last time if they never do."""
    below = np.flatnonzero(values < level)
    if not len(below):
        return float(time[-1])
    k = int(below[0])
    if k == 0:
        return 0.0
    part = (values[k - 1] - level) / (values[k - 1] - values[k])
    return float(time[k - 1] + part * (time[k] - time[k - 1]))


def solve_all(project: Project) -> tuple[SupplyResult, ...]:
    """Every supply of the project."""
    wiring = wiring_of(project)
    return tuple(solve_supply(wiring, s) for s in project.supplies)


def lamp_currents(results: tuple[SupplyResult, ...]) -> dict[str, float]:
    """Current in A of every wired lamp."""
    return {lamp.lamp: lamp.amps for r in results for s in r.strings for lamp in s.lamps}


def volts_to_spare(project: Project, string: String, target_a: float = TARGET_A) -> float:
    """What is left for a resistor, in V, when the lamps of a string carry ``target_a`` each; below 0 where the supply has too few volts."""
    emf, ohm, _limit = supply_volts(project.get(SUPPLIES, string.supply))
    drops = [diode_of(project.get(LAMPS, i).led).volts(target_a) for i in string.lamps]
    drop = max(drops, default=0.0) if string.wiring == "group" else sum(drops)
    return emf - drop - _total_a(string, target_a) * (ohm + wire_ohm(string.wire_mm, string.awg))


def _total_a(string: String, each_a: float) -> float:
    return each_a * (len(string.lamps) if string.wiring == "group" else 1)


def with_resistor(project: Project, string: String, target_a: float = TARGET_A) -> String:
    """The string with the resistor, next up in E12, that brings its lamps to about ``target_a`` each; none where no volts are left for one."""
    spare = volts_to_spare(project, string, target_a)
    ohm = spare / max(_total_a(string, target_a), 1e-9)
    return string.but(resistor_ohm=next_resistor(ohm) if ohm >= LEAST_OHM else 0.0)


def most_in_series(project: Project, supply: Supply, led: str, target_a: float = TARGET_A) -> int:
    """How many lamps of one kind a supply lights one after the other behind a resistor; 0 where it has too few volts for one."""
    emf, ohm, _limit = supply_volts(supply)
    volts = diode_of(led).volts(target_a)
    return max(0, int((emf - target_a * (ohm + LEAST_OHM)) / volts))


def split(project: Project, string: String) -> tuple[String, ...]:
    """The string as one string a colour, side by side, each with its own resistor."""
    by_led: dict[str, list[str]] = {}
    for ident in string.lamps:
        lamp = project.find(LAMPS, ident)
        if lamp is not None:
            by_led.setdefault(lamp.led, []).append(ident)
    taken = [s.id for s in project.strings if s.id != string.id]
    out = []
    for led, lamps in by_led.items():
        ident, count = f"{string.id}-{led.replace('_', '-')}"[:60], 2
        while ident in taken:
            ident, count = f"{ident[:56]}-{count}", count + 1
        taken.append(ident)
        name = table("electric")["led"][led]["name"]
        part = string.but(id=ident, name=as_name(f"{string.name}, {name}"), lamps=tuple(lamps))
        out.append(with_resistor(project, part))
    return tuple(out)


def current_told(found: LampCurrent | None) -> Told:
    """The current through a lamp; None stands for one that hangs in no string."""
    if found is None:
        return Told("not wired", How("Current", "In no string yet: shown at its rated current.", "", "Lamps"))
    formula = (
        "Kirchhoff’s laws over the whole supply, each LED as V = N·Vt·ln(I/IS + 1) + I·RS.\n"
        f"Between {ma(found.low)} and {ma(found.high)} if its forward voltage is {digits(SCATTER_V, 1)} V up or down;"
        f" with the forward voltage of the table, at {digits(found.volts, 2)} V"
    )
    source = f"{cite('shockley1949')}, with series resistance; damped Newton, checked against {cite('ngspice')}"
    return Told(ma(found.amps), How("Current", formula, ma(found.amps), source))
