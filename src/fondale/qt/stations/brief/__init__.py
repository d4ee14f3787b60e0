# SPDX-License-Identifier: MIT
"""The Brief station."""
