# SPDX-License-Identifier: MIT
"""Files: `.fondale` projects, their backups, and recovery after a crash."""

from fondale.storage.assets import known_as
from fondale.storage.disk import disk_words, put_file
from fondale.storage.files import FileChanged, FileReadOnly, FileTrouble, Saved, load, save, used_assets
from fondale.storage.recovery import Left, Recovery, Rescued, left_behind

__all__ = [
    "FileChanged",
    "FileReadOnly",
    "FileTrouble",
    "Left",
    "Recovery",
    "Rescued",
    "Saved",
    "disk_words",
    "known_as",
    "left_behind",
    "load",
    "put_file",
    "save",
    "used_assets",
]
