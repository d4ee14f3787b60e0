# SPDX-License-Identifier: MIT
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
from fondale.storage.disk import LOCK, PRIVATE, Stamp, disk_words, lock_folder, private_folder, put_file, read_small
from fondale.storage.files import FileTrouble, assets_in, found_again, from_json, saves_of, to_json
from fondale.storage.limits import PROJECT_JSON_BYTES


@dataclass(frozen=True)
class Left:
    """An unsaved project that a window left behind: its name, the file that it came from, when it was written down, and where.

    ``missing`` are its assets that were not written down, each with the file or backup that has it, or None. ``trouble`` says why it cannot be read.
    """

    name: str
    path: Path | None
    when: datetime
    recovery: "Recovery"
    missing: tuple[tuple[str, Path | None], ...] = ()
    trouble: str = ""


def left_behind(folder: Path) -> tuple[Left, ...]:
    """The unsaved projects below ``folder`` of windows that are no longer running, the newest first; those that cannot be read too."""
    try:
        homes = sorted(p for p in folder.iterdir() if p.is_dir())
    except OSError:
        return ()
    out = []
    for recovery in map(Recovery, homes):
        if not recovery.is_left():
            continue
        try:
            if (found := recovery.found()) is not None:
                out.append(Left(found[0].name, found[1], recovery.written(), recovery, recovery.missing(found[1])))
        except FileTrouble as error:
            out.append(Left(f"What lies in {recovery.folder}", None, recovery.written(), recovery, trouble=str(error)))
    return tuple(sorted(out, key=lambda left: left.when, reverse=True))


@dataclass(frozen=True)
class Rescued:
    """The assets of an unsaved project, in memory; those that were found in a save, with which; and those that are nowhere."""

    assets: dict[str, bytes]
    again: tuple[tuple[str, Path], ...]
    lost: tuple[str, ...]


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
        told = {"path": str(path) if path else "", "assets": files, "stamp": astuple(stamp) if stamp else ()}
        try:
            private_folder(self.folder.parent, self.folder)
            if not self._is_locked():
                self._lock = lock_folder(self.folder)
        except OSError as error:
            return disk_words(error)
        # What no file has comes before the project that names it, and what the file has after it: it can be had from there.
        saved = {name for name in files if path is not None and isinstance(assets, Assets) and not assets.is_brought(name)}
        trouble = self._keep_assets({n: f for n, f in files.items() if n not in saved}, assets or {})
        try:
            put_file(self._from, json.dumps(told).encode(), PRIVATE)
            put_file(self._project, to_json(project).encode(), PRIVATE)
        except OSError as error:
            return disk_words(error)
        return self._keep_assets({n: f for n, f in files.items() if n in saved}, assets or {}) or trouble

    def _is_locked(self) -> bool:
        """Whether the folder is this window's own: somebody may have cleared it away meanwhile."""
        if self._lock is None:
            return False
        try:
            if os.path.samestat(os.fstat(self._lock), os.stat(self.folder / LOCK)):
                return True
        except OSError:
            pass
        os.close(self._lock)
        self._lock = None
        return False

    def _keep_assets(self, files: Mapping[str, str], assets: Mapping[str, bytes]) -> str:
        trouble = ""
        for name, file in files.items():
            try:
                self._keep_asset(self._assets / file, name, assets)
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

    def _lie(self) -> tuple[dict[str, Path], list[str]]:
        """Where the assets lie that were written down, and the names of those that were not."""
        files = {name: self._assets / Path(str(file)).name for name, file in self._told().get("assets", {}).items()}
        return {n: f for n, f in files.items() if f.is_file()}, [n for n, f in files.items() if not f.is_file()]

    def missing(self, path: Path | None) -> tuple[tuple[str, Path | None], ...]:
        """The assets that were not written down, and which save of ``path`` has each."""
        names = self._lie()[1]
        saves = {s: assets_in(s) for s in saves_of(path)} if path is not None and names else {}
        return tuple((name, next((s for s, there in saves.items() if name in there), None)) for name in names)

    def read(self, path: Path | None) -> Rescued:
        """The assets, in memory, as their files go with this; what was not written down, or cannot be read, out of the newest save of ``path``."""
        there, missing = self._lie()
        out: dict[str, bytes] = {}
        for name, file in there.items():
            try:
                out[name] = file.read_bytes()
            except OSError:
                missing.append(name)
        again = found_again(missing, path) if path is not None else {}
        out |= {name: data for name, (data, _where) in again.items()}
        return Rescued(out, tuple((n, where) for n, (_data, where) in again.items()), tuple(n for n in missing if n not in again))

    def _told(self) -> dict[str, Any]:
        try:
            raw = json.loads(read_small(self._from))
        except (OSError, ValueError, RecursionError):
            return {}
        if not isinstance(raw, dict) or not isinstance(raw.get("assets", {}), dict):
            return {}
        return raw

    def found(self) -> tuple[Project, Path | None] | None:
        """What an earlier run left unsaved, and the file that it came from; None where it left nothing. Raises FileTrouble."""
        try:
            text = read_small(self._project, PROJECT_JSON_BYTES)
        except (FileNotFoundError, NotADirectoryError):
            return None
        except OSError as error:
            raise FileTrouble(f"It cannot be read: {disk_words(error)}.") from error
        try:
            project = from_json(text, "It")
        except FileTrouble as error:  # there is no backup of it
            raise FileTrouble(str(error).removesuffix(" Try a backup beside it.")) from error
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
