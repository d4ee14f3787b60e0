# SPDX-License-Identifier: MIT
"""The project that is open: edits, undo and redo, and whether it is saved."""

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from fondale.app.signal import Signal
from fondale.core.edits import Edit, apply, new_id, put
from fondale.core.model import Project, Spot
from fondale.storage.assets import Assets
from fondale.storage.disk import Stamp
from fondale.storage.files import Saved, load_all, save, used_assets

DEPTH = 500


@dataclass(frozen=True)
class Entry:
    """One step of undo: what the project was and what it became."""

    label: str
    before: Project
    after: Project
    gesture: str = ""


class Document:
    """Holds the current snapshot. Listeners are called after every change with the document."""

    def __init__(self, project: Project, path: Path | None = None, assets: Mapping[str, bytes] | None = None) -> None:
        self._project = project
        self.path = path
        self.stamp: Stamp | None = None  # of the file, as it was opened or saved last
        self.assets = assets if isinstance(assets, Assets) else Assets(assets)
        self.notes: tuple[str, ...] = ()  # what had to be mended when it was opened
        self._entries: list[Entry] = []
        self._at = 0
        self._clean: Project | None = project
        self.changed = Signal()

    @classmethod
    def opened(cls, path: Path) -> "Document":
        """The document of a file. Raises FileTrouble."""
        opened = load_all(path)
        document = cls(opened.project, path, opened.assets)
        document.notes, document.stamp = opened.notes, opened.stamp
        return document

    @property
    def project(self) -> Project:
        """The current snapshot."""
        return self._project

    @property
    def modified(self) -> bool:
        """Whether the snapshot differs from what was last saved or opened."""
        return self._project is not self._clean

    def do(self, *edits: Edit, label: str = "") -> None:
        """Apply edits as one step of undo. Raises EditError, with nothing changed."""
        if not edits:
            return
        after = self._project
        for edit in edits:
            after = apply(after, edit)
        if after == self._project:
            return
        gesture = edits[0].gesture
        last = self._entries[self._at - 1] if self._at else None
        del self._entries[self._at :]
        if last is not None and gesture and last.gesture == gesture and last.after is self._project:
            self._entries[-1] = Entry(last.label, last.before, after, gesture)
        else:
            self._entries.append(Entry(label or edits[0].label, self._project, after, gesture))
            self._entries = self._entries[-DEPTH:]
        self._at = len(self._entries)
        self._set(after)

    def end_gesture(self) -> None:
        """The next edit begins a new step of undo, even if its gesture has the same name."""
        if self._at and self._entries[self._at - 1].gesture:
            entry = self._entries[self._at - 1]
            self._entries[self._at - 1] = Entry(entry.label, entry.before, entry.after)

    @property
    def undo_label(self) -> str:
        """The name of what undo takes back, or an empty text."""
        return self._entries[self._at - 1].label if self._at else ""

    @property
    def redo_label(self) -> str:
        """The name of what redo brings back, or an empty text."""
        return self._entries[self._at].label if self._at < len(self._entries) else ""

    def undo(self) -> None:
        """Take back the last step, if there is one."""
        if self._at:
            self._at -= 1
            self._set(self._entries[self._at].before)

    def redo(self) -> None:
        """Bring back the step last taken back, if there is one."""
        if self._at < len(self._entries):
            self._at += 1
            self._set(self._entries[self._at - 1].after)

    def keep_asset(self, folder: str, name: str, data: bytes, digest: str = "") -> str:
        """Take a file into the project, and return the name that it has there; the same file twice is kept once.

        ``digest`` is its SHA-256 where that is known already: of a large file it takes longer than a blink.
        """
        stem, dot, ending = name.rpartition(".")
        mark = (digest or hashlib.sha256(data).hexdigest())[:12]
        asset = f"assets/{folder}/{new_id(stem or ending, ())}-{mark}{dot}{ending.lower() if dot else ''}"
        self.assets[asset] = data
        return asset

    def save(self, path: Path | None = None) -> None:
        """Save to ``path`` or where it came from. Raises FileTrouble; ValueError when there is no path yet."""
        target = path or self.path
        if target is None:
            raise ValueError("no file name yet")
        snapshot = self._project
        self.saved(snapshot, target, save(snapshot, target, used_assets(snapshot, self.assets), self.expected(target), self.path))

    def expected(self, path: Path) -> Stamp | None:
        """The file as it should still be, where it is the one that is open."""
        return self.stamp if path == self.path else None

    def saved(self, snapshot: Project, path: Path, made: Saved) -> None:
        """``snapshot`` lies in ``path`` now; what has been changed since counts as not saved."""
        self.path, self.stamp = path, made.stamp
        self._clean = snapshot
        self.changed.tell()

    def take(self, other: "Document") -> None:
        """What another document of the same file holds takes the place of this one's, as one step of undo."""
        self.assets.join(other.assets)
        self.do(put(Spot(), other.project, "Take what lies in the file"))
        self.path, self.stamp = other.path, other.stamp
        self._clean = self._project if self._project == other.project else None
        self.changed.tell()

    def mark_unsaved(self) -> None:
        """Count the present snapshot as not saved (after recovery)."""
        self._clean = None
        self.changed.tell()

    def _set(self, project: Project) -> None:
        self._project = project
        self.changed.tell()
