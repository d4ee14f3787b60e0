# SPDX-License-Identifier: MIT
"""Who sees what from where."""
