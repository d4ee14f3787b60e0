# SPDX-License-Identifier: MIT
"""The open document, its history, and the background work; no interface."""
