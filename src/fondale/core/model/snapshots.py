# SPDX-License-Identifier: MIT
"""What many ask of one snapshot, one after the other: it is made once."""

from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

P = TypeVar("P")
T = TypeVar("T")


def once(make: Callable[[P], T]) -> Callable[[P], T]:
    """The same function of a snapshot, which keeps what it made of the last one, and gives that while it is asked for the very same again."""
    kept: list[tuple[Any, T]] = []

    @wraps(make)
    def made(snapshot: P) -> T:
        if not kept or kept[0][0] is not snapshot:
            kept[:] = [(snapshot, make(snapshot))]
        return kept[0][1]

    return made
