# SPDX-License-Identifier: MIT
"""The scene as geometry: solids, places, contacts and rays."""
