# SPDX-License-Identifier: MIT
"""The Lamps station."""
