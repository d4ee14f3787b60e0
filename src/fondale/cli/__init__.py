"""The `fondale` command line."""

from fondale.cli.commands import run

__all__ = ["run"]
