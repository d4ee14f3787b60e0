"""New ids and names."""

import re
import unicodedata
from collections.abc import Iterable, Sequence, Set
from typing import Protocol

from fondale.core.model.base import NAME_MOST
from fondale.core.words import as_name, clipped


def new_id(name: str, taken: Iterable[str]) -> str:
    """An id made from ``name`` that is not in ``taken``."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    stem = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:48] or "thing"
    used = taken if isinstance(taken, Set) else set(taken)
    ident, count = stem, 2
    while ident in used:
        ident, count = f"{stem}-{count}", count + 1
    return ident


def numbered(stem: str, names: Iterable[str]) -> str:
    """The stem as a new name: with the next number where others begin with it."""
    count = sum(name.startswith(stem) for name in names)
    return as_name(stem) if not count else f"{clipped(stem, NAME_MOST - 6)} {count + 1}"


class Named(Protocol):
    """What has an id and a name."""

    @property
    def id(self) -> str: ...

    @property
    def name(self) -> str: ...


def named_anew(members: Sequence[Named], stem: str) -> tuple[str, str]:
    """A new id and a new name made of ``stem`` for one more of these."""
    return new_id(stem, [m.id for m in members]), numbered(stem, (m.name for m in members))
