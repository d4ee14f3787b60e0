# SPDX-License-Identifier: MIT
"""Files that are there whole or not at all: written beside, made sure of on the disk, swapped."""

import contextlib
import errno
import fcntl
import hashlib
import itertools
import os
import shutil
import stat
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType
from typing import BinaryIO, Self

from fondale.storage.limits import SMALL_BYTES

_HOST = hashlib.sha256(os.uname().nodename.encode()).hexdigest()[:8]
_COUNT = itertools.count()
_LOCK_S = 5.0
PRIVATE = 0o600
LOCK = "lock"
_WORDS = {
    errno.ENOSPC: "the disk is full",
    errno.EDQUOT: "your share of the disk is used up",
    errno.EROFS: "the disk can only be read; choose another place",
    errno.EACCES: "you may not write there; choose another place, or ask whoever owns it",
    errno.EPERM: "you may not write there; choose another place, or ask whoever owns it",
    errno.ENAMETOOLONG: "its name is too long; choose a shorter one",
    errno.ENOENT: "that folder is not there (any more)",
}


_FULL = (errno.ENOSPC, errno.EDQUOT)


class NoRoom(OSError):
    """A disk that is full: ``free`` bytes are left on it, and ``needed`` are wanted."""

    free, needed = 0, 0


class ReadOnly(PermissionError):
    """A file that its owner keeps from being written over."""


def no_room(error: OSError, folder: Path, needed: int) -> OSError:
    """The same error, with what is free and needed where a disk is full."""
    if error.errno not in _FULL or isinstance(error, NoRoom):
        return error
    out = NoRoom(error.errno, error.strerror)
    with contextlib.suppress(OSError):
        out.free, out.needed = shutil.disk_usage(folder).free, needed
    return out


def disk_words(error: OSError) -> str:
    """What stands in the way of a file, and what to do about it."""
    if isinstance(error, ReadOnly):
        return "it may only be read; choose another name, or allow it to be written"
    words = _WORDS.get(error.errno or 0)
    if error.errno in _FULL and words is not None:
        room = f": {_bytes(error.free)} are free there, and {_bytes(error.needed)} are needed" if isinstance(error, NoRoom) else ""
        return f"{words}{room}; free some space on it, or choose another"
    return words if words is not None else (error.strerror or str(error))


def _bytes(count: int) -> str:
    return f"{count / 1e6:.1f} MB" if count >= 100_000 else f"{count / 1e3:.0f} kB"


@dataclass(frozen=True)
class Stamp:
    """What tells a file that was written anew from what it was."""

    inode: int
    size: int
    changed_ns: int


def stamp(path: Path) -> Stamp | None:
    """The stamp of a file, or None where there is none."""
    try:
        found = os.stat(path)
    except OSError:
        return None
    return Stamp(found.st_ino, found.st_size, found.st_mtime_ns)


class Swap:
    """A file that is written beside ``path`` and takes its place; what ``path`` links to is written, and its mode is kept.

    ``mode`` is that of a new file. Left without ``take``, nothing has changed. Everything here raises OSError: ReadOnly for a file that
    may only be read, unless ``force``.
    """

    def __init__(self, path: Path, mode: int | None = None, force: bool = False) -> None:
        self._force = force
        self.path = Path(os.path.realpath(path))
        self._mode = mode
        self.beside = self.path.parent / f".fondale-{_HOST}-{os.getpid()}-{next(_COUNT)}.writing"
        self.file: BinaryIO

    def __enter__(self) -> Self:
        with contextlib.suppress(FileNotFoundError):
            found = os.stat(self.path)
            if stat.S_ISDIR(found.st_mode):
                raise IsADirectoryError(errno.EISDIR, "it is a folder")
            if not stat.S_ISREG(found.st_mode):
                raise OSError(errno.EINVAL, "it is no ordinary file")
            self._mode = stat.S_IMODE(found.st_mode)
            if not self._mode & 0o222 and not self._force:
                raise ReadOnly(errno.EACCES, "it may only be read")
        flags = os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC
        self.file = os.fdopen(os.open(self.beside, flags, 0o666 if self._mode is None else PRIVATE), "wb")
        return self

    def finish(self) -> None:
        """All is written: make sure that it is on the disk."""
        if not self.file.closed:
            self.file.flush()
            if self._mode is not None:
                with contextlib.suppress(OSError):  # some disks know no modes
                    os.fchmod(self.file.fileno(), self._mode)
            os.fsync(self.file.fileno())
            self.file.close()

    def take(self) -> None:
        """Put it in the place of the other."""
        self.finish()
        os.replace(self.beside, self.path)
        sync_folder(self.path.parent)

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        with contextlib.suppress(OSError):  # on a full disk closing tries once more to write what is left
            self.file.close()
        with contextlib.suppress(OSError):
            self.beside.unlink(missing_ok=True)


def put_file(path: Path, data: bytes, mode: int | None = None) -> None:
    """Write a file that others will read, whole or not at all; into what is no ordinary file straight away. Raises OSError."""
    with contextlib.suppress(FileNotFoundError):
        kind = os.stat(path).st_mode
        if not stat.S_ISREG(kind) and not stat.S_ISDIR(kind):
            with open(os.open(path, os.O_WRONLY | os.O_NONBLOCK), "wb") as there:
                there.write(data)
            return
    try:
        with Swap(path, mode) as swap:
            swap.file.write(data)
            swap.take()
    except OSError as error:
        raise no_room(error, path.parent, len(data)) from error


def twin(path: Path) -> Path:
    """The same file under a second name beside it: a link, or a copy where links are unknown. Raises OSError, and leaves nothing then."""
    beside = path.parent / f".fondale-{_HOST}-{os.getpid()}-{next(_COUNT)}.writing"
    try:
        os.link(path, beside)
    except OSError:
        try:
            shutil.copy2(path, beside)
            with open(beside, "rb") as copy:
                os.fsync(copy.fileno())
        except OSError:
            beside.unlink(missing_ok=True)
            raise
    return beside


@contextlib.contextmanager
def held(path: Path) -> Iterator[None]:
    """While it is held, no other Fondale swaps this file. Raises OSError where another one does not let go of it."""
    try:
        handle = os.open(path, os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK)
    except OSError:
        yield  # there is none yet, or it cannot be read: what follows tells
        return
    try:
        end = time.monotonic() + _LOCK_S
        while not _locked(handle):
            if time.monotonic() > end:
                raise OSError(errno.EAGAIN, "another window is writing it; try again in a moment")
            time.sleep(0.02)
        yield
    finally:
        os.close(handle)


def _locked(handle: int) -> bool:
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    except OSError:  # a disk that knows no locks
        return True
    return True


def lock_folder(folder: Path) -> int | None:
    """Mark a folder as somebody's as long as this process lives: the handle to keep, or None where it is another's. Raises OSError."""
    handle = os.open(folder / LOCK, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, PRIVATE)
    if _locked(handle):
        return handle
    os.close(handle)
    return None


def sweep(folder: Path) -> None:
    """Take away what windows of this machine that are no longer running left half written in a folder."""
    with contextlib.suppress(OSError):
        for file in folder.glob(f".fondale-{_HOST}-*.writing"):
            pid = file.name.split("-")[2]
            if pid.isdigit() and not _runs(int(pid)):
                file.unlink(missing_ok=True)


def _runs(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except (ProcessLookupError, OverflowError):
        return False
    except OSError:
        return True
    return True


def private_folder(*folders: Path) -> None:
    """Make folders, each in the one before it, and keep all others out of them. Raises OSError."""
    for folder in folders:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        mode = stat.S_IMODE(folder.stat().st_mode)
        if mode & 0o077:
            with contextlib.suppress(OSError):  # some disks know no modes, and some folders are another's
                folder.chmod(mode & 0o700)


def sync_folder(folder: Path) -> None:
    """Make sure that the names in a folder are on the disk, where the disk lets one."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY | os.O_CLOEXEC)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def read_small(path: Path, most: int = SMALL_BYTES) -> bytes:
    """A small file, whole. Raises OSError for what is no ordinary file, or larger."""
    ordinary(path, most)
    return path.read_bytes()


def ordinary(path: Path, most: int) -> int:
    """The size of an ordinary file. Raises OSError for what is none, or is larger than ``most`` bytes."""
    found = os.stat(path)
    if stat.S_ISDIR(found.st_mode):
        raise IsADirectoryError(errno.EISDIR, "it is a folder")
    if not stat.S_ISREG(found.st_mode):
        raise OSError(errno.EINVAL, "it is no ordinary file")
    if found.st_size > most:
        raise OSError(errno.EFBIG, f"it is larger than {most // 1_000_000} MB")
    return found.st_size
