# SPDX-License-Identifier: MIT
"""Bench: what is at hand, which scale it really has, what it reads as, what to do."""

from fondale.qt.furniture.pages import PagedStation
from fondale.qt.stations.bench.bits_page import BitsPage
from fondale.qt.stations.bench.fits_page import FitsPage
from fondale.qt.stations.bench.joins_page import JoinsPage
from fondale.qt.stations.bench.print_page import PrintPage
from fondale.qt.stations.bench.shelf_page import ShelfPage
from fondale.qt.stations.bench.ways_page import WaysPage


class BenchStation(PagedStation):
    """The shelf, the bits box, the print shop, the fits, the joins, and the ways of wires and water."""

    name = "bench"

    kinds = (ShelfPage, BitsPage, PrintPage, FitsPage, JoinsPage, WaysPage)
