"""What all commands share: what they are given, writing files and JSON."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Any

import click

from fondale.app.window import Window
from fondale.core.troubles import Trouble
from fondale.storage import disk_words, put_file

FILE = click.Path(path_type=Path)


@dataclass
class Given:
    """What a command is given beside its own arguments."""

    open_window: Callable[[Window], int]
    today: date
    at_work: Callable[[], None]


def out_json(data: Any) -> None:
    """Machine-readable output."""
    click.echo(json.dumps(data, indent=1, ensure_ascii=False))


def write_file(path: Path, data: bytes) -> None:
    """A file, with its folder."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        put_file(path, data)
    except OSError as error:
        raise Trouble(f"{path} cannot be written: {disk_words(error)}.") from error
