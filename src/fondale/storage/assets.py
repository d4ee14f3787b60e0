"""The files that a project keeps: photographs and bodies. Those of a project on the disk are read when they are asked for."""

import threading
import zipfile
from collections.abc import Callable, Collection, Iterator, Mapping, MutableMapping
from pathlib import Path
from typing import BinaryIO

from fondale.core.troubles import Trouble

PREFIX = "assets/"
MOST_FILES = 5_000
MOST_BYTES = 2_000_000_000
LARGEST_BYTES = 500_000_000


class TooMuch(Trouble):
    """More files, or larger ones, than a project holds; the text says which."""


class _Archive:
    """A project's file, held open: what it held when it was opened can be read also after another has taken its place."""

    def __init__(self, path: Path) -> None:
        self._raw: BinaryIO = path.open("rb")
        self._lock = threading.Lock()
        try:
            self.zip = zipfile.ZipFile(self._raw)
        except BaseException:
            self._raw.close()
            raise

    def read(self, name: str) -> bytes:
        with self._lock:
            return self.zip.read(name)

    def close(self) -> None:
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
        if len(infos) > MOST_FILES:
            raise TooMuch(f"it holds {len(infos)} files, and {MOST_FILES} are the most")
        if sum(i.file_size for i in infos) > MOST_BYTES:
            raise TooMuch(f"its files take more than {MOST_BYTES // 1_000_000} MB")
        for info in infos:
            if info.file_size > LARGEST_BYTES:
                raise TooMuch(f"“{info.filename}” in it is larger than {LARGEST_BYTES // 1_000_000} MB")
            out._there[info.filename] = (archive.read, info.filename, info.file_size)
        return out

    def lies(self, name: str, path: Path, size: int) -> None:
        """The asset ``name`` lies in a file of its own."""
        self._there[name] = (lambda file: Path(file).read_bytes(), str(path), size)

    def only(self, names: Collection[str]) -> "Assets":
        """Some of them, unread."""
        out = Assets({n: d for n, d in self._held.items() if n in names})
        out._there = {n: t for n, t in self._there.items() if n in names}
        return out

    def join(self, others: "Assets") -> None:
        """Those of others too, unread; one that both have is the same."""
        self._there = others._there | self._there
        self._held = others._held | self._held

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


def opened(path: Path) -> _Archive:
    """A project's file. Raises what opening a zip raises."""
    return _Archive(path)
