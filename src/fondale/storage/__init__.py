"""Files: `.fondale` projects, their backups, and recovery after a crash."""

from fondale.storage.files import FileTrouble, load, save
from fondale.storage.recovery import Recovery, left_behind

__all__ = ["FileTrouble", "Recovery", "left_behind", "load", "save"]
