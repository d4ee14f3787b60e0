# SPDX-License-Identifier: MIT
"""Fondale plans miniature dioramas: scale, sight lines, light, wiring, paint and time."""

__version__ = "0.2.0"
