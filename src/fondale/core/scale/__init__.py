# SPDX-License-Identifier: MIT
"""What scale a figure or part really has, and what it reads as at the house scale."""
