# SPDX-License-Identifier: MIT
"""The frame around the stations: menu, playbill, prompt corner, footlights."""
