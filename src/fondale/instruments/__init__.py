"""Simulated instruments behind the ports that real ones would use."""

from fondale.instruments.caliper import Caliper, SimulatedCaliper
from fondale.instruments.lux_meter import LuxMeter, SimulatedLuxMeter
from fondale.instruments.print_services import SERVICES, PrintService, Quote, Request
from fondale.instruments.printers import Bar, Printer, SimulatedPrinter, run_bank

__all__ = [
    "SERVICES",
    "Bar",
    "Caliper",
    "LuxMeter",
    "PrintService",
    "Printer",
    "Quote",
    "Request",
    "SimulatedCaliper",
    "SimulatedLuxMeter",
    "SimulatedPrinter",
    "run_bank",
]
