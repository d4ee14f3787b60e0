# SPDX-License-Identifier: MIT
"""Loops over numbers, compiled: once on a machine, where they are first loaded. They let go of the interpreter while they run."""

import contextlib
import os
import stat
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import numba

F = TypeVar("F", bound=Callable[..., Any])
# What was compiled before stays as it was when this changes, until the files that hold it change.
_HOW: dict[str, Any] = {"cache": True, "nogil": True, "error_model": "numpy", "fastmath": {"contract", "nsz"}}


def compiled(types: str = "") -> Callable[[F], F]:
    """A function for arrays of these types, whose rows lie one after the other. All that it calls must stand in its own file: else it would go on calling what was there."""

    def made(function: F) -> F:
        compiler = numba.njit(types, **_HOW) if types else numba.njit(**_HOW)
        try:
            out: F = compiler(function)
        except RuntimeError:  # there is nothing to write to, neither beside the file nor in a home
            if numba.config.CACHE_DIR:
                raise
            numba.config.CACHE_DIR = str(own_folder(Path(tempfile.gettempdir()) / f"fondale-loops-{os.getuid()}"))
            out = compiler(function)
        return out

    return made


def own_folder(path: Path) -> Path:
    """The folder, where it is this user's alone, and a new one otherwise: what lies in it is run."""
    with contextlib.suppress(FileExistsError):
        path.mkdir(mode=0o700)
    there = path.lstat()
    alone = stat.S_ISDIR(there.st_mode) and there.st_uid == os.getuid() and not there.st_mode & 0o077
    return path if alone else Path(tempfile.mkdtemp(prefix="fondale-loops-"))
