# SPDX-License-Identifier: MIT
"""New ids and names."""

import re
import unicodedata
from collections.abc import Iterable, Sequence, Set
from typing import Protocol

from fondale.core.limits import NAME_MOST
from fondale.core.words import as_name, clipped


def new_id(name: str, taken: Iterable[str]) -> str:
    """An id made from ``name`` that is not in ``taken``."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    stem = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:48] or "thing"
    used = taken if isinstance(taken, Set) else set(taken)
    if stem not in used:
        return stem
    # The numbers are tried in leaps, then between the last two: of fifty thousand of one name each takes some steps.
    high = 2
    while f"{stem}-{high}" in used:
        high *= 2
    low = high // 2
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if f"{stem}-{middle}" in used else (low, middle)
    return f"{stem}-{high}"


def numbered(stem: str, names: Iterable[str]) -> str:
    """The stem as a new name: with the next number where others begin with it."""
    used = set(names)
    count = sum(name.startswith(stem) for name in used)
    short = clipped(stem, NAME_MOST - 6)
    while count and f"{short} {count + 1}" in used:
        count += 1
    return as_name(stem) if not count else f"{short} {count + 1}"


class Named(Protocol):
    """What has an id and a name."""

    @property
    def id(self) -> str: ...

    @property
    def name(self) -> str: ...


def named_anew(members: Sequence[Named], stem: str) -> tuple[str, str]:
    """A new id and a new name made of ``stem`` for one more of these."""
    return new_id(stem, [m.id for m in members]), numbered(stem, (m.name for m in members))
