"""Whatever the project holds can be set in the window: every page is walked, everything on it is used, and what changes is noted."""

from collections.abc import Iterator
from typing import Any

from fondale.core.model import Model, bench, brief, coats, diary, lamps, photos, prints, project, shapes, stage

TEXTS = (
    "7",
    "12 18 25",
    "3 mm",
    "5°",
    "1:24",
    "2026-12-24",
    "24 Dec",
    "20:15",
    "Another name",
    "50 %",
    "#406080",
    "2",
    "0.5",
    "a1",
    "1 2",
    "30 cm",
    "1 h",
)


def models() -> Iterator[type[Model]]:
    for module in (bench, brief, coats, diary, lamps, photos, prints, project, shapes, stage):
        for thing in vars(module).values():
            if isinstance(thing, type) and issubclass(thing, Model) and thing is not Model and thing.__module__ == module.__name__:
                yield thing


def changed(before: Any, after: Any) -> set[tuple[str, str]]:
    """(Model, field) pairs whose value is another one."""
    out: set[tuple[str, str]] = set()
    if before is after:
        return out
    if isinstance(before, Model) and isinstance(after, Model):
        if type(before) is not type(after):
            return {(type(x).__name__, "kind") for x in (before, after)}
        for name in type(before).model_fields:
            a, b = getattr(before, name), getattr(after, name)
            if a != b:
                out.add((type(before).__name__, name))
                out |= changed(a, b)
    elif isinstance(before, tuple) and isinstance(after, tuple):
        for a, b in zip(before, after, strict=False):
            out |= changed(a, b)
        for new in after[len(before) :]:
            if isinstance(new, Model):
                out |= {(type(new).__name__, n) for n in new.model_fields_set}
    elif isinstance(after, Model):
        out |= {(type(after).__name__, n) for n in after.model_fields_set}
    return out
