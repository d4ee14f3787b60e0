"""Autosave for a crash: the unsaved project lies in a folder of its own until it is saved or let go."""

import contextlib
import hashlib
import json
import os
import shutil
from collections.abc import Mapping
from dataclasses import astuple, dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from fondale.core.model import Project
from fondale.storage.assets import Assets
from fondale.storage.disk import PRIVATE, Stamp, disk_words, lock_folder, put_file, read_small
from fondale.storage.files import LARGEST_JSON, FileTrouble, from_json, to_json


@dataclass(frozen=True)
class Left:
    """An unsaved project that a window left behind: its name, the file that it came from, when it was written down, and where."""

    name: str
    path: Path | None
    when: datetime
    recovery: "Recovery"


def left_behind(folder: Path) -> tuple[Left, ...]:
    """The unsaved projects below ``folder`` of windows that are no longer running, the newest first."""
    try:
        homes = sorted(p for p in folder.iterdir() if p.is_dir())
    except OSError:
        return ()
    out = []
    for home in homes:
        recovery = Recovery(home)
        if recovery.is_left() and (found := recovery.found()) is not None:
            out.append(Left(found[0].name, found[1], recovery.written(), recovery))
    return tuple(sorted(out, key=lambda left: left.when, reverse=True))


class Recovery:
    """One unsaved project in ``folder``, a folder for each running window. Nothing here raises: autosave must never stand in the way."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._project = folder / "unsaved.json"
        self._from = folder / "unsaved-from.json"
        self._assets = folder / "unsaved-assets"
        self._lock: int | None = None

    def is_left(self) -> bool:
        """Whether no window that is running keeps its work here; one that says so keeps its hold on the folder while it lives."""
        try:
            handle = lock_folder(self.folder)
        except OSError:
            return False
        if handle is not None:
            os.close(handle)
        return handle is not None

    def keep(self, project: Project, path: Path | None, assets: Mapping[str, bytes] | None = None, stamp: Stamp | None = None) -> str:
        """Write the project down, and assets that are not there yet. What the disk refuses is told in words, the rest is kept.

        ``path`` is the file that it came from, and ``stamp`` what that was like then.
        """
        files = {name: f"{hashlib.sha256(name.encode('utf-8', 'replace')).hexdigest()[:32]}.asset" for name in assets or {}}
        try:
            self.folder.mkdir(mode=0o700, parents=True, exist_ok=True)
            if self._lock is None:
                self._lock = lock_folder(self.folder)
            put_file(self._project, to_json(project).encode(), PRIVATE)
            put_file(
                self._from,
                json.dumps({"path": str(path) if path else "", "assets": files, "stamp": astuple(stamp) if stamp else ()}).encode(),
                PRIVATE,
            )
        except OSError as error:
            return disk_words(error)
        trouble = ""
        for name, file in files.items():
            try:
                self._keep_asset(self._assets / file, name, assets or {})
            except (OSError, KeyError) as error:  # one that is damaged leaves the others be
                trouble = f"{Path(name).name}: {disk_words(error) if isinstance(error, OSError) else 'it is gone'}"
        return trouble

    def _keep_asset(self, file: Path, name: str, assets: Mapping[str, bytes]) -> None:
        """An asset never changes under its name, so a file of its size is it."""
        size = assets.size(name) if isinstance(assets, Assets) else len(assets[name])
        if file.exists() and file.stat().st_size == size:
            return
        self._assets.mkdir(mode=0o700, parents=True, exist_ok=True)
        put_file(file, assets[name], PRIVATE)

    def assets(self) -> Assets:
        """The assets that were written down, unread."""
        out = Assets()
        for name, file in self._told().get("assets", {}).items():
            with contextlib.suppress(OSError):
                out.lies(name, self._assets / Path(file).name, (self._assets / Path(file).name).stat().st_size)
        return out

    def read(self) -> tuple[dict[str, bytes], list[str]]:
        """The assets that were written down, in memory, as their files go with this; and the names of those that cannot be read."""
        there, out, lost = self.assets(), dict[str, bytes](), list[str]()
        for name in there:
            try:
                out[name] = there[name]
            except OSError:
                lost.append(Path(name).name)
        return out, lost

    def _told(self) -> dict[str, Any]:
        try:
            raw = json.loads(read_small(self._from))
        except (OSError, ValueError, RecursionError):
            return {}
        if not isinstance(raw, dict) or not isinstance(raw.get("assets", {}), dict):
            return {}
        return raw

    def found(self) -> tuple[Project, Path | None] | None:
        """What an earlier run left unsaved, and the file that it came from."""
        try:
            project = from_json(read_small(self._project, LARGEST_JSON))
        except (OSError, FileTrouble, UnicodeDecodeError):
            return None
        path = self._told().get("path", "")
        return project, Path(str(path)) if path else None

    def stamp(self) -> Stamp | None:
        """What the file that it came from was like when it was opened or saved there last."""
        told = self._told().get("stamp")
        return Stamp(*told) if isinstance(told, list) and len(told) == 3 and all(isinstance(n, int) for n in told) else None

    def written(self) -> datetime:
        """When it was written down."""
        try:
            return datetime.fromtimestamp(self._project.stat().st_mtime)
        except OSError:
            return datetime.fromtimestamp(0)

    def drop(self) -> None:
        """Forget it: it has been saved, or the maker let it go."""
        for file in (self._project, self._from):
            with contextlib.suppress(OSError):
                file.unlink(missing_ok=True)
        shutil.rmtree(self._assets, ignore_errors=True)

    def end(self) -> None:
        """The window ends: where nothing is left in it, its folder goes."""
        if self._lock is not None:
            os.close(self._lock)
            self._lock = None
        if not self._project.exists():
            shutil.rmtree(self.folder, ignore_errors=True)
