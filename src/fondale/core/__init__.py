# SPDX-License-Identifier: MIT
"""Pure computation: no interface, no files, no clock."""
