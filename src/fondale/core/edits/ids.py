"""New ids and names."""

import re
import unicodedata
from collections.abc import Iterable, Set

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
