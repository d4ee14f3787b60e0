# SPDX-License-Identifier: MIT
"""What was done and what it says about the rest."""
