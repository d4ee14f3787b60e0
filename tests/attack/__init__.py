# SPDX-License-Identifier: MIT
"""Attacks at two sizes: quick ones among the tests, long ones by ``./dev attack``."""
