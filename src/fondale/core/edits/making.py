"""New projects and new ids."""

import re
import unicodedata
from collections.abc import Iterable
from datetime import date

from fondale.core.model import Brief, Moment, Project, Seat


def new_id(name: str, taken: Iterable[str]) -> str:
    """An id made from ``name`` that is not in ``taken``."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    stem = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:48] or "thing"
    used, ident, count = set(taken), stem, 2
    while ident in used:
        ident, count = f"{stem}-{count}", count + 1
    return ident


def new_project(name: str, start: date) -> Project:
    """An empty project: a case, one seat, one moment."""
    return Project(
        id=new_id(name, ()),
        name=name,
        brief=Brief(start=start),
        seats=(Seat(id="visitor", name="Visitor, standing"),),
        moments=(Moment(id="evening", name="Evening"),),
        moment="evening",
    )
