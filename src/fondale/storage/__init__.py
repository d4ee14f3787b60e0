"""Files: `.fondale` projects, their backups, and recovery after a crash."""

from fondale.storage.files import FileTrouble, load, put_file, save, used_assets
from fondale.storage.recovery import Recovery, left_behind

__all__ = ["FileTrouble", "Recovery", "left_behind", "load", "put_file", "save", "used_assets"]
