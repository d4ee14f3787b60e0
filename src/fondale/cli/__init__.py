"""The `fondale` command line."""

from fondale.cli.commands import Window, run

__all__ = ["Window", "run"]
