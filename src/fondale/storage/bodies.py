# SPDX-License-Identifier: MIT
"""Bodies that were built once, in the user's cache folder: several processes need each, and the next start needs them again."""

import contextlib
import hashlib
import io
from functools import cache
from importlib.resources import files
from pathlib import Path

import numpy as np

from fondale.core.bodies.kept import Body, Wanted
from fondale.storage.disk import PRIVATE, private_folder, put_file

MOST = 200  # files, some 100 kB each


class BodyShelf:
    """Whatever cannot be read or written is built again: it never stands in the way of work."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def _path(self, wanted: Wanted) -> Path:
        return self._folder / f"{hashlib.sha256((_makers() + repr(wanted)).encode()).hexdigest()[:32]}.npz"

    def get(self, wanted: Wanted) -> Body | None:
        """A body that is kept, or None."""
        try:
            with np.load(io.BytesIO(self._path(wanted).read_bytes()), allow_pickle=False) as kept:
                tris, normals, part = kept["tris"], kept["normals"], kept["part"]
        except Exception:  # a damaged file breaks in as many ways as zip files do
            return None
        if tris.shape != normals.shape or tris.shape != (len(part), 3, 3) or not (np.isfinite(tris).all() and np.isfinite(normals).all()):
            return None
        return Body(tris.astype(float), normals.astype(float), part.astype(np.int64))

    def put(self, wanted: Wanted, body: Body) -> None:
        """Keep a body; the oldest go."""
        data = io.BytesIO()
        np.savez_compressed(
            data, tris=body.tris.astype(np.float32), normals=body.normals.astype(np.float32), part=body.part.astype(np.uint8)
        )
        with contextlib.suppress(OSError):
            private_folder(self._folder.parent, self._folder)
            put_file(self._path(wanted), data.getvalue(), PRIVATE)
            old = sorted(self._folder.glob("*.npz"), key=lambda p: p.stat().st_mtime)[:-MOST]
            for path in old:
                path.unlink(missing_ok=True)


@cache
def _makers() -> str:
    """What bodies are made of: another version, another body."""
    what = hashlib.sha256(b"".join(files("fondale").joinpath("knowledge", name).read_bytes() for name in ("body.toml", "beasts.toml")))
    for path in sorted(Path(str(files("fondale") / "core" / "bodies")).rglob("*.py")):
        what.update(path.read_bytes())
    return what.hexdigest()
