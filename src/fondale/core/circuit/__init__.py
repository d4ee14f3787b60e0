# SPDX-License-Identifier: MIT
"""Strings and supplies: the current through every LED, by a non-linear solve."""
