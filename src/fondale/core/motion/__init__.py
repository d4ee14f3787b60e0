# SPDX-License-Identifier: MIT
"""How a lamp changes in time: named generators with a seed."""
