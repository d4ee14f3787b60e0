"""Simulated instruments behind the ports that real ones would use."""

from fondale.instruments.caliper import Caliper, SimulatedCaliper
from fondale.instruments.lux_meter import LuxMeter, SimulatedLuxMeter

__all__ = ["Caliper", "LuxMeter", "SimulatedCaliper", "SimulatedLuxMeter"]
