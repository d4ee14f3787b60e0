# SPDX-License-Identifier: MIT
"""The Stage station."""
