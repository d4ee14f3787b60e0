"""What all commands share: reading projects, writing files, and trouble in one line."""

import json
from pathlib import Path
from typing import Any

import click

from fondale.core.model import Project
from fondale.storage import FileTrouble, load, put_file

FILE = click.Path(path_type=Path)


class Trouble(click.ClickException):
    """One line on standard error, exit 2."""

    exit_code = 2

    def show(self, file: Any = None) -> None:
        click.echo(f"fondale: {self.message}", err=True)


def load_project(path: Path) -> Project:
    """The project of a file, or trouble."""
    try:
        return load(path)
    except FileTrouble as error:
        raise Trouble(str(error)) from error


def out_json(data: Any) -> None:
    """Machine-readable output."""
    click.echo(json.dumps(data, indent=1, ensure_ascii=False))


def write_file(path: Path, data: bytes) -> None:
    """A file, with its folder."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        put_file(path, data)
    except OSError as error:
        raise Trouble(f"{path} cannot be written: {error.strerror or error}.") from error
