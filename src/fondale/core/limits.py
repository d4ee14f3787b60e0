# SPDX-License-Identifier: MIT
"""Limits that hold for everything: of names and of sizes."""

NAME_MOST = 120  # letters of a name
LARGEST_MM = 100_000.0
SMALLEST = 0.001  # of sizes in mm and of shares in percent: nothing here is smaller, and nothing divides by less
