# SPDX-License-Identifier: MIT
"""Instruments behind the ports that real ones would use, and the simulated set that ships."""

from collections.abc import Callable
from dataclasses import dataclass

from fondale.instruments.caliper import Caliper, SimulatedCaliper
from fondale.instruments.lux_meter import LuxMeter, SimulatedLuxMeter
from fondale.instruments.print_services import SERVICES, PrintService, Quote, Request
from fondale.instruments.printers import Bar, Printer, SimulatedPrinter, run_bank

__all__ = [
    "SERVICES",
    "Bar",
    "Caliper",
    "Instruments",
    "LuxMeter",
    "PrintService",
    "Printer",
    "Quote",
    "Request",
    "SimulatedCaliper",
    "SimulatedLuxMeter",
    "SimulatedPrinter",
    "run_bank",
    "simulated",
]


@dataclass(frozen=True)
class Instruments:
    """What lies on the bench: ``printer`` gives the printer of a name on a night."""

    caliper: Caliper
    lux_meter: LuxMeter
    printer: Callable[[str, int], Printer]
    services: tuple[PrintService, ...]


def simulated() -> Instruments:
    """The simulated set."""
    return Instruments(SimulatedCaliper(seed=11), SimulatedLuxMeter(seed=12), SimulatedPrinter, SERVICES)
