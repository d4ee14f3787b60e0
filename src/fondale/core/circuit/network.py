# SPDX-License-Identifier: MIT
"""A network of resistors, LEDs and sources, solved by damped Newton on Kirchhoff's current law."""

from dataclasses import dataclass, field

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.circuit.diode import Diode
from fondale.core.troubles import Trouble

GROUND = "0"
_LEAK_S = 1e-12  # from every node to ground: keeps unconnected nodes defined
_STEPS = 200


class NoSolution(Trouble):
    """The network has no solution, for example an ideal short."""


@dataclass(frozen=True)
class Resistor:
    """Ohms between two nodes, above zero."""

    name: str
    a: str
    b: str
    ohm: float


@dataclass(frozen=True)
class Led:
    """A diode from anode to cathode; ``shift_v`` is added to its forward voltage (scatter)."""

    name: str
    a: str
    b: str
    diode: Diode
    shift_v: float = 0.0


@dataclass(frozen=True)
class Source:
    """An EMF behind a resistance above zero, plus at ``a``."""

    name: str
    a: str
    b: str
    volts: float
    ohm: float


@dataclass(frozen=True)
class Network:
    """Elements; node ``0`` is ground."""

    resistors: tuple[Resistor, ...] = ()
    leds: tuple[Led, ...] = ()
    sources: tuple[Source, ...] = ()


@dataclass(frozen=True)
class Solution:
    """Node volts, and the current of every element in A from its ``a`` to its ``b`` (a source: what it gives)."""

    volts: dict[str, float]
    amps: dict[str, float]
    steps: int = 0
    residual_a: float = field(default=0.0)


def solve(network: Network, near: Solution | None = None) -> Solution:
    """Solve for all node voltages. ``near`` is a solution of a like network to start from.

    Raises NoSolution when Newton does not settle.
    """
    elements: tuple[Resistor | Led | Source, ...] = (*network.resistors, *network.leds, *network.sources)
    names = sorted({n for e in elements for n in (e.a, e.b)} - {GROUND})
    at = {n: i for i, n in enumerate(names)}
    at[GROUND] = len(names)
    size = len(names)
    linear = [(at[r.a], at[r.b], 1.0 / max(r.ohm, 1e-9), 0.0) for r in network.resistors]
    linear += [(at[s.a], at[s.b], 1.0 / max(s.ohm, 1e-9), s.volts) for s in network.sources]
    fixed = np.eye(size + 1) * _LEAK_S
    push = np.zeros(size + 1)
    for a, b, g, emf in linear:
        fixed[a, a] += g
        fixed[b, b] += g
        fixed[a, b] -= g
        fixed[b, a] -= g
        push[a] += g * emf
        push[b] -= g * emf
    groups: dict[Diode, list[Led]] = {}
    for led in network.leds:
        groups.setdefault(led.diode, []).append(led)
    ends = [
        (d, np.array([at[x.a] for x in ls]), np.array([at[x.b] for x in ls]), np.array([x.shift_v for x in ls])) for d, ls in groups.items()
    ]

    def out_of_balance(v: Floats) -> tuple[Floats, Floats]:
        flow, slope = fixed @ v - push, fixed.copy()
        for diode, a, b, shift in ends:
            amps, g = diode.current(v[a] - v[b] - shift)
            np.add.at(flow, a, amps)
            np.add.at(flow, b, -amps)
            for i, j, sign in ((a, a, 1), (b, b, 1), (a, b, -1), (b, a, -1)):
                np.add.at(slope, (i, j), sign * g)
        return flow[:size], slope[:size, :size]

    v = np.zeros(size + 1)
    if near is not None:
        v[:size] = [near.volts.get(n, 0.0) for n in names]
    flow, slope = out_of_balance(v)
    count = 0
    while count < _STEPS and float(np.abs(flow).max(initial=0.0)) > 1e-13:
        count += 1
        step = np.linalg.solve(slope, -flow)
        share, norm = 1.0, float(flow @ flow)
        while True:
            trial = v.copy()
            trial[:size] += share * step
            flow_next, slope_next = out_of_balance(trial)
            if float(flow_next @ flow_next) < norm or share < 1e-4:
                break
            share /= 2
        settled = float(np.abs(share * step).max(initial=0.0)) < 1e-13
        v, flow, slope = trial, flow_next, slope_next
        if settled:
            break
    worst = float(np.abs(flow).max(initial=0.0))
    if not np.isfinite(v).all() or worst > 1e-8:
        raise NoSolution("The network does not settle: look for a short.")
    volts = {GROUND: 0.0, **{n: float(v[i]) for n, i in at.items() if n != GROUND}}
    amps = {r.name: (volts[r.a] - volts[r.b]) / max(r.ohm, 1e-9) for r in network.resistors}
    amps |= {s.name: (s.volts - volts[s.a] + volts[s.b]) / max(s.ohm, 1e-9) for s in network.sources}
    for diode, plus, minus, shift in ends:
        current, _slope = diode.current(v[plus] - v[minus] - shift)
        amps |= {led.name: float(c) for led, c in zip(groups[diode], current, strict=True)}
    return Solution(volts, amps, count, worst)
