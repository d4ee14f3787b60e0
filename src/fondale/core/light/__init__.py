# SPDX-License-Identifier: MIT
"""Light: point LEDs, shadows, bounces in three bands, meters and the eye's picture."""
