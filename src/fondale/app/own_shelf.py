# SPDX-License-Identifier: MIT
"""The maker's own rows of the tables, kept for all projects in one file beside the settings."""

import json
from collections.abc import Iterable
from pathlib import Path

from fondale.core.model import OwnRow
from fondale.storage.disk import PRIVATE, private_folder, put_file, read_small

MOST = 500


class OwnShelf:
    """Reads leniently and writes best-effort, as settings do: what cannot be read is left out, and nothing stands in the way of work."""

    def __init__(self, folder: Path) -> None:
        self._file = folder / "own_rows.json"
        self.rows: tuple[OwnRow, ...] = ()
        try:
            raw = json.loads(read_small(self._file))
        except (OSError, ValueError, RecursionError):
            return
        found = []
        for told in raw[:MOST] if isinstance(raw, list) else ():
            try:
                found.append(OwnRow.model_validate(told))
            except ValueError:
                continue
        self.rows = tuple({row.id: row for row in found}.values())

    def keep(self, rows: Iterable[OwnRow]) -> None:
        """Keep these for all projects, each in the place of what had its name."""
        self._put({row.id: row for row in (*self.rows, *rows)})

    def forget(self, ident: str) -> None:
        """Keep one no longer."""
        self._put({row.id: row for row in self.rows if row.id != ident})

    def _put(self, rows: dict[str, OwnRow]) -> None:
        new = tuple(rows.values())[-MOST:]
        if new == self.rows:
            return
        self.rows = new
        try:
            private_folder(self._file.parent)
            put_file(self._file, json.dumps([row.model_dump(mode="json") for row in new], ensure_ascii=False, indent=1).encode(), PRIVATE)
        except OSError:
            return
