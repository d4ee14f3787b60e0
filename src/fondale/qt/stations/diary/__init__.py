# SPDX-License-Identifier: MIT
"""The Diary station."""
