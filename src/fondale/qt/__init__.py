# SPDX-License-Identifier: MIT
"""The window: all of Qt is known here alone."""
