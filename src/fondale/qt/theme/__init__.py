# SPDX-License-Identifier: MIT
"""Colours, type and drawn signs of the two house lightings."""
