# SPDX-License-Identifier: MIT
"""A finding: stable code, severity, what it is about, the numbers and the ways out."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

from fondale.core.edits import Edit
from fondale.core.model import Listing, Project
from fondale.core.reckoning import Derived, Result

Severity = Literal["stop", "mind", "hint"]
Station = Literal["brief", "bench", "stage", "lamps", "coats", "diary"]
RANK: dict[str, int] = {"stop": 0, "mind": 1, "hint": 2}


@dataclass(frozen=True)
class Fix:
    """A way out by name; ``edits`` are done together as one step of undo."""

    label: str
    edits: tuple[Edit, ...]


@dataclass(frozen=True)
class Finding:
    """One prompt. ``subjects`` are the things of the project that it is about, ``within`` ids of parts of them.

    ``members`` are the findings that were joined in this one.
    """

    code: str
    severity: Severity
    station: Station
    title: str
    text: str
    numbers: str
    subjects: tuple[tuple[Listing[Any], str], ...] = ()
    fixes: tuple[Fix, ...] = ()
    caution: str = ""
    within: tuple[str, ...] = ()
    members: tuple["Finding", ...] = ()

    @cached_property
    def key(self) -> str:
        """What stays the same while the trouble stays the same: the code and what it is about."""
        return ":".join([self.code, *(ident for _listing, ident in self.subjects), *self.within])

    @property
    def keys(self) -> tuple[str, ...]:
        """Its own key, or those of all that were joined in it."""
        return tuple(m.key for m in self.members) or (self.key,)


class Rule:
    """One rule: a function (project, derived) -> findings, and the results that it needs. It is given these and no others."""

    def __init__(self, judge: Callable[[Project, Derived], Iterator[Finding]], *needs: Result[Any]) -> None:
        self.judge = judge
        self.needs = needs

    def findings(self, derived: Derived) -> tuple[Finding, ...]:
        """What the rule says of a snapshot. Raises NotKnown where a result that it needs is not known."""
        mine = Derived(derived.project, {n.name: derived[n] for n in self.needs}, derived.unknown)
        return tuple(self.judge(mine.project, mine))
