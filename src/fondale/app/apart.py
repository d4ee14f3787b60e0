# SPDX-License-Identifier: MIT
"""A project's file is unfolded in a process of its own, within bounds: whatever it does to that one, the window goes on."""

import multiprocessing as mp
import threading
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from fondale.app.document import Document
from fondale.storage import FileTrouble
from fondale.storage.files import Opened, assets_of, load_all
from fondale.storage.patience import bound_memory, ended_words


def opened_apart(path: Path, processes: Any = None) -> Document:
    """The document of a file. ``processes`` is how they are made; a process that has one thread yet may be split itself. Raises FileTrouble."""
    made: Any = processes or mp.get_context("fork" if threading.active_count() == 1 else "spawn")
    ours, theirs = made.Pipe(duplex=False)
    process = made.Process(target=_read, args=(path, theirs), daemon=True, name="fondale-reader")
    process.start()
    theirs.close()
    try:
        found: Opened | str = ours.recv()
    except (EOFError, OSError):
        process.join()
        raise FileTrouble(f"“{path.name}” cannot be read: {ended_words(process.exitcode or 0)}.") from None
    finally:
        ours.close()
        process.join()
    if isinstance(found, str):
        raise FileTrouble(found)
    document = Document(found.project, path, assets_of(path, found.stamp))
    document.notes, document.stamp = found.notes, found.stamp
    return document


def _read(path: Path, pipe: Connection) -> None:
    bound_memory()
    try:
        found = load_all(path)
        pipe.send(Opened(found.project, type(found.assets)(), found.notes, found.stamp))
    except FileTrouble as error:
        pipe.send(str(error))
    except MemoryError:
        pipe.send(f"“{path.name}” takes more memory than a project may.")
