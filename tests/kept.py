# SPDX-License-Identifier: MIT
"""What tests share of what they reckon: most of them begin with the same project."""

from typing import Any, ClassVar

from fondale.core.model import Project
from fondale.core.progress import Progress
from fondale.core.reckoning import Look, Reckoner, Result

MOST_KEPT = 6


def maker(result: Result[Any]) -> tuple[Any, ...]:
    """What works a result out, and what it needs: another one where a test has put something in its place."""
    return (result.compute, *(maker(need) for need in result.needs))


class FirstKept(Reckoner):
    """Takes the first value of a result from tests before it, where it is of an equal key."""

    kept: ClassVar[dict[str, list[tuple[Any, Any]]]] = {}

    def __init__(self) -> None:
        super().__init__()
        self._first: set[str] = set()  # the results that it has begun with: what comes of edits is not worth keeping

    def compute(self, result: Result[Any], project: Project, look: Look, progress: Progress | None = None) -> Any:
        key, kept = result.key(project, look), self.kept.setdefault(result.name, [])
        name = (maker(result), key)
        at = next((i for i, (known, _value) in enumerate(kept) if known == name), None)
        if at is not None and result.name not in self._kept:
            self.give(result, key, kept[at][1])
        value = super().compute(result, project, look, progress)
        if at is not None:
            kept.append(kept.pop(at))  # the last that was asked for goes last
        elif len(kept) < MOST_KEPT or result.name not in self._first:
            kept.append((name, value))
            del kept[:-MOST_KEPT]
        self._first.add(result.name)
        return value
