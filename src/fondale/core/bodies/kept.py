# SPDX-License-Identifier: MIT
"""Bodies, and where those are kept that were built before."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

from fondale.core.arrays import Floats, Ints

Wanted = tuple[Any, ...]  # what a body is asked for by: words, numbers and tuples of them


@dataclass(frozen=True)
class Body:
    """``tris`` and smooth ``normals`` (n, 3, 3) and ``part`` (n,) of somebody who stands on z = 0; people in shares of stature, animals of
    their own measure.
    """

    tris: Floats
    normals: Floats
    part: Ints


class Shelf(Protocol):
    """Keeps bodies for later."""

    def get(self, wanted: Wanted) -> Body | None: ...

    def put(self, wanted: Wanted, body: Body) -> None: ...


_shelves: list[Shelf] = []


def keep_on(shelf: Shelf) -> None:
    """From now on this process looks for bodies there before it builds them, and keeps there what it built."""
    _shelves[:] = [shelf]


def kept(wanted: Wanted, build: Callable[[], Body]) -> Body:
    """The body that was built before, or a new one."""
    for shelf in _shelves:
        if (found := shelf.get(wanted)) is not None:
            return found
    body = build()
    for shelf in _shelves:
        shelf.put(wanted, body)
    return body
