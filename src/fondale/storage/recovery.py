"""Autosave for a crash: the unsaved project lies in a folder of its own until it is saved or let go."""

import json
import os
import shutil
from pathlib import Path
from urllib.parse import quote, unquote

from fondale.core.model import Project
from fondale.storage.files import Assets, FileTrouble, from_json, put_file, to_json


def left_behind(folder: Path) -> "Recovery | None":
    """The unsaved project of a window that is no longer running, if there is one below ``folder``."""
    try:
        homes = sorted(p for p in folder.iterdir() if p.is_dir() and p.name.isdigit())
    except OSError:
        return None
    for home in homes:
        if not _runs(int(home.name)) and Recovery(home).found() is not None:
            return Recovery(home)
    return None


def _runs(pid: int) -> bool:
    """Whether a process of this number is alive."""
    try:
        os.kill(pid, 0)
    except (ProcessLookupError, OverflowError):
        return False
    except OSError:
        return True
    return True


class Recovery:
    """One unsaved project in ``folder``, a folder for each running window. Nothing here raises: autosave must never stand in the way."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._project = folder / "unsaved.json"
        self._from = folder / "unsaved-from.json"
        self._assets = folder / "unsaved-assets"

    def keep(self, project: Project, path: Path | None, assets: Assets | None = None) -> bool:
        """Write the project down, and assets that are not there yet; False when the disk refuses."""
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            for name, data in (assets or {}).items():
                self._keep_asset(name, data)
            beside = self._project.with_suffix(".writing")
            beside.write_text(to_json(project), "utf-8")
            os.replace(beside, self._project)
            self._from.write_text(json.dumps({"path": str(path) if path else ""}), "utf-8")
        except OSError:
            return False
        return True

    def _keep_asset(self, name: str, data: bytes) -> None:
        """An asset never changes under its name, so a file of its size is it."""
        file = self._assets / quote(name, safe="")
        if file.exists() and file.stat().st_size == len(data):
            return
        self._assets.mkdir(parents=True, exist_ok=True)
        put_file(file, data)

    def assets(self) -> Assets:
        """The assets that were written down."""
        try:
            return {unquote(f.name): f.read_bytes() for f in sorted(self._assets.iterdir()) if not f.name.endswith(".writing")}
        except OSError:
            return {}

    def found(self) -> tuple[Project, Path | None] | None:
        """What an earlier run left unsaved, and the file that it came from."""
        try:
            project = from_json(self._project.read_text("utf-8"))
        except (OSError, FileTrouble, UnicodeDecodeError):
            return None
        try:
            path = json.loads(self._from.read_text("utf-8")).get("path", "")
        except (OSError, ValueError, AttributeError):
            path = ""
        return project, Path(path) if path else None

    def drop(self) -> None:
        """Forget it: it has been saved, or the maker let it go."""
        for file in (self._project, self._from):
            try:
                file.unlink(missing_ok=True)
            except OSError:
                continue
        shutil.rmtree(self._assets, ignore_errors=True)
