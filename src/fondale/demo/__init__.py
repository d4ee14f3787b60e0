# SPDX-License-Identifier: MIT
"""The samples that ship with Fondale, built through the public edits."""

from collections.abc import Callable
from datetime import date

from fondale.core.model import Project
from fondale.demo import heron_bench
from fondale.demo.glasshouse import glasshouse
from fondale.demo.heron_stairs import heron_stairs
from fondale.demo.signal_hut import signal_hut

SAMPLES: dict[str, Callable[[date], Project]] = {
    "Heron Stairs, last boat": heron_stairs,
    "Glasshouse, 5 a.m.": glasshouse,
    "Signal hut in the pass": signal_hut,
}
SHORT = dict(zip(("heron", "glasshouse", "hut"), SAMPLES, strict=True))  # what they are called where one types


def sample_assets(name: str) -> dict[str, bytes]:
    """The files that a sample keeps with it."""
    return heron_bench.assets() if name == SHORT["heron"] else {}


__all__ = ["SAMPLES", "SHORT", "glasshouse", "heron_stairs", "sample_assets", "signal_hut"]
