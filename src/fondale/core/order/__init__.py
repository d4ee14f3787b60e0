# SPDX-License-Identifier: MIT
"""The running order: steps in time, by evenings, and the odds of making the date."""
