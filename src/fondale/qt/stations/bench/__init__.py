# SPDX-License-Identifier: MIT
"""The Bench station."""
