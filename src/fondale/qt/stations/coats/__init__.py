# SPDX-License-Identifier: MIT
"""The Coats station."""
