# SPDX-License-Identifier: MIT
"""The files that a project keeps: photographs and bodies. Those of a project on the disk are read when they are asked for."""

import re
import threading
import zipfile
from collections.abc import Callable, Collection, Iterator, Mapping, MutableMapping
from pathlib import Path
from typing import BinaryIO

from fondale.core.troubles import Trouble
from fondale.storage.limits import ASSET_BYTES, ASSET_FREE_BYTES, ASSET_TIMES, ASSETS, ASSETS_BYTES

PREFIX = "assets/"


class TooMuch(Trouble):
    """More files, or larger ones, than a project holds; the text says which."""


class _Archive:
    """A project's file, held open: what it held when it was opened can be read also after another has taken its place."""

    def __init__(self, path: Path) -> None:
        self._raw: BinaryIO | None = None  # what cannot be opened is taken away too
        self._raw = path.open("rb")
        self._lock = threading.Lock()
        try:
            self.zip = zipfile.ZipFile(self._raw)
        except BaseException:
            self.close()
            raise

    def read(self, name: str) -> bytes:
        with self._lock:
            return self.zip.read(name)

    def close(self) -> None:
        if self._raw is not None:
            self._raw.close()

    def __del__(self) -> None:
        self.close()


class Assets(MutableMapping[str, bytes]):
    """Bytes by name. What is in memory was brought since the file was opened; the rest lies in the file until it is read.

    Reading raises KeyError for a name that is not there and OSError for one that is damaged.
    """

    def __init__(self, given: Mapping[str, bytes] | None = None) -> None:
        self._held: dict[str, bytes] = dict(given or {})
        self._there: dict[str, tuple[Callable[[str], bytes], str, int]] = {}  # how it is read, by which name, and its size

    @classmethod
    def of(cls, archive: _Archive) -> "Assets":
        """Those of a project's file. Raises TooMuch."""
        out = cls()
        infos = [i for i in archive.zip.infolist() if i.filename.startswith(PREFIX) and not i.is_dir()]
        if len(infos) > ASSETS:
            raise TooMuch(f"it holds {len(infos)} files, and {ASSETS} are the most")
        if sum(i.file_size for i in infos) > ASSETS_BYTES:
            raise TooMuch(f"its files take more than {ASSETS_BYTES // 1_000_000} MB")
        for info in infos:
            if info.file_size > ASSET_BYTES:
                raise TooMuch(f"“{info.filename}” in it is larger than {ASSET_BYTES // 1_000_000} MB")
            if info.file_size > ASSET_FREE_BYTES + ASSET_TIMES * info.compress_size:
                raise TooMuch(f"“{info.filename}” in it unfolds to {info.file_size // 1_000_000} MB out of {info.compress_size / 1e6:.1f}")
            out._there[info.filename] = (archive.read, info.filename, info.file_size)
        return out

    def only(self, names: Collection[str]) -> "Assets":
        """Some of them, unread."""
        out = Assets({n: d for n, d in self._held.items() if n in names})
        out._there = {n: t for n, t in self._there.items() if n in names}
        return out

    def join(self, others: "Assets") -> None:
        """Those of others too, unread; one that both have is the same."""
        self._there = others._there | self._there
        self._held = others._held | self._held

    def is_brought(self, name: str) -> bool:
        """Whether it is in no file yet that the maker has saved."""
        return name in self._held

    def size(self, name: str) -> int:
        """Bytes of one, without reading it."""
        return len(self._held[name]) if name in self._held else self._there[name][2]

    def __getitem__(self, name: str) -> bytes:
        if name in self._held:
            return self._held[name]
        read, known_as, size = self._there[name]
        try:
            data = read(known_as)
        except (KeyError, zipfile.BadZipFile, RuntimeError, EOFError, ValueError) as error:
            raise OSError(f"it is damaged ({error})") from error
        except OSError:
            raise
        except Exception as error:  # zlib and friends on hostile input
            raise OSError(f"it is damaged ({error})") from error
        if len(data) != size:
            raise OSError("it is damaged (its length is another one)")
        return data

    def __setitem__(self, name: str, data: bytes) -> None:
        self._held[name] = data

    def __delitem__(self, name: str) -> None:
        if name not in self:
            raise KeyError(name)
        self._held.pop(name, None)
        self._there.pop(name, None)

    def __contains__(self, name: object) -> bool:
        return name in self._held or name in self._there

    def __iter__(self) -> Iterator[str]:
        yield from dict.fromkeys((*self._there, *self._held))

    def __len__(self) -> int:
        return len({*self._there, *self._held})


def known_as(asset: str) -> str:
    """The name that a file had before it was kept under one of its content."""
    return re.sub(r"-[0-9a-f]{12}(?=\.[^.]*$|$)", "", asset.rpartition("/")[2])


def opened(path: Path) -> _Archive:
    """A project's file. Raises what opening a zip raises."""
    return _Archive(path)
