# SPDX-License-Identifier: MIT
"""Prompts that the maker leaves as they are, with a reason, and lets speak again."""

from dataclasses import dataclass

from fondale.core.edits.edit import Edit
from fondale.core.model import Accepted, Project


@dataclass(frozen=True)
class Accept(Edit):
    """Leave a prompt, by its keys, as it is, for a reason."""

    keys: tuple[str, ...]
    reason: str

    def done(self, project: Project) -> Project:
        kept = tuple(a for a in project.accepted if a.key not in self.keys)
        return project.but(accepted=(*kept, *(Accepted(key=k, reason=self.reason) for k in self.keys)))


@dataclass(frozen=True)
class Reopen(Edit):
    """Let a prompt that was left speak again."""

    key: str

    def done(self, project: Project) -> Project:
        return project.but(accepted=tuple(a for a in project.accepted if a.key != self.key))
