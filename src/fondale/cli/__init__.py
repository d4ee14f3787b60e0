# SPDX-License-Identifier: MIT
"""The `fondale` command line."""

from fondale.cli.front import run

__all__ = ["run"]
