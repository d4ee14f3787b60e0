# SPDX-License-Identifier: MIT
"""People and animals as solids, and the outlines of anything."""
