# SPDX-License-Identifier: MIT
"""The six stations, one folder each."""
