"""New ids."""

import re
import unicodedata
from collections.abc import Iterable


def new_id(name: str, taken: Iterable[str]) -> str:
    """An id made from ``name`` that is not in ``taken``."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    stem = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:48] or "thing"
    used, ident, count = set(taken), stem, 2
    while ident in used:
        ident, count = f"{stem}-{count}", count + 1
    return ident
