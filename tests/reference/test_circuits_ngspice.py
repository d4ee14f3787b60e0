# SPDX-License-Identifier: MIT
"""Circuits against ngspice (Debian package), on three networks."""

import re
import shutil
import subprocess
from pathlib import Path

import pytest

from fondale.core.circuit.diode import diode_of
from fondale.core.circuit.network import GROUND, Led, Network, Resistor, Source, solve

pytestmark = pytest.mark.skipif(shutil.which("ngspice") is None, reason="ngspice is not installed")

MIXED = Network(
    (Resistor("rw", "plus", "n1", 0.21),), (Led("red", "n1", GROUND, diode_of("red")), Led("green", "n1", GROUND, diode_of("green"))),
    (Source("supply", "plus", GROUND, 3.16, 0.3),),
)  # fmt: skip
STRINGS = Network(
    (Resistor("ra", "plus", "a1", 47.0), Resistor("rb", "plus", "b1", 100.0), Resistor("rc", "plus", "c1", 0.5)),
    (
        Led("d1", "a1", "a2", diode_of("red")), Led("d2", "a2", GROUND, diode_of("amber")), Led("d3", "b1", GROUND, diode_of("blue")),
        Led("d4", "c1", "c2", diode_of("warm_white")), Led("d5", "c2", GROUND, diode_of("warm_white")),
    ),
    (Source("supply", "plus", GROUND, 5.0, 0.1),),
)  # fmt: skip
LADDER = Network(
    tuple(Resistor(f"w{i}", "plus" if i == 0 else f"n{i}", f"n{i + 1}", 3.3) for i in range(5)),
    tuple(Led(f"s{i}", f"n{i + 1}", GROUND, diode_of("yellow" if i % 2 else "uv")) for i in range(5)),
    (Source("supply", "plus", GROUND, 3.4, 0.8),),
)


def by_ngspice(network: Network, tmp_path: Path) -> dict[str, float]:
    """Branch currents of all LEDs from an operating point at 25 C."""
    lines = ["* strings"]
    node = lambda n: "0" if n == GROUND else n  # noqa: E731
    for r in network.resistors:
        lines.append(f"R{r.name} {node(r.a)} {node(r.b)} {r.ohm!r}")
    for s in network.sources:
        lines += [f"V{s.name} {s.name}x {node(s.b)} DC {s.volts!r}", f"RS{s.name} {s.name}x {node(s.a)} {s.ohm!r}"]
    for d in network.leds:
        lines += [
            f"VM{d.name} {node(d.a)} {d.name}m DC 0",
            f"D{d.name} {d.name}m {node(d.b)} M{d.name}",
            f".model M{d.name} D(IS={d.diode.saturation_a!r} N={d.diode.n!r} RS={d.diode.series_ohm!r} TNOM=25)",
        ]
    prints = "\n".join(f"print i(VM{d.name})" for d in network.leds)
    lines += [".options temp=25 reltol=1e-6 abstol=1e-14 gmin=1e-14", ".control", "set numdgt=12", "op", prints, ".endc", ".end"]
    deck = tmp_path / "deck.cir"
    deck.write_text("\n".join(lines) + "\n")
    out = subprocess.run(["ngspice", "-b", str(deck)], capture_output=True, text=True, timeout=60, check=False).stdout
    found = dict(re.findall(r"i\(vm(\w+)\)\s*=\s*([-+.\deE]+)", out.lower()))
    return {d.name: float(found[d.name]) for d in network.leds}


@pytest.mark.parametrize("network", [MIXED, STRINGS, LADDER], ids=["mixed group", "three strings", "ladder"])
def test_every_branch_current_is_within_half_a_percent(network, tmp_path):
    theirs, ours = by_ngspice(network, tmp_path), solve(network).amps
    for name, amps in theirs.items():
        assert ours[name] == pytest.approx(amps, rel=0.005, abs=1e-8)
