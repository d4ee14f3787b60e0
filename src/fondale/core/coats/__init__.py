# SPDX-License-Identifier: MIT
"""Stacks of coats, their chemistry, and what a closing step shuts off."""
