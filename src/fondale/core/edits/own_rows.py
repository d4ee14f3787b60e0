# SPDX-License-Identifier: MIT
"""Rows of the tables that the maker has of his own: made of another row, changed, brought along, taken away."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from fondale.core.edits.edit import Add, Edit, EditError, maker
from fondale.core.edits.ids import named_anew
from fondale.core.model import OWN, OwnRow, Project
from fondale.core.model.base import Row
from fondale.core.model.marks import changed, marked
from fondale.core.tables import BY_NAME, Section, content_of, in_force, row_name, rows_of, trouble_with


@maker
def make_own(project: Project, section: Section, key: str) -> tuple[Add[OwnRow], str]:
    """The edit that makes an own row like another one, and its id."""
    row = dict(rows_of(section)[key])
    ident, name = named_anew(project.own, f"My {row_name(key, row)}")
    row.pop("name", None)
    source = str(row.pop("source", ""))
    own = OwnRow(
        id=ident,
        name=name,
        table=section.table,
        section=section.section,
        like=key,
        values=row,
        source=f"copied from {row_name(key, rows_of(section)[key])}{f': {source}' if source else ''}",
    )
    return Add(f"Make {name}", OWN, own), ident


@dataclass(frozen=True)
class ChangeOwn(Edit):
    """An own row becomes another one; whatever names it names what it is now. Raises EditError for what no row may be."""

    ident: str
    row: OwnRow

    def done(self, project: Project) -> Project:
        old = project.get(OWN, self.ident)
        trouble = trouble_with(BY_NAME[f"{old.table}.{old.section}"], content_of(self.row))
        if trouble:
            raise EditError(trouble)
        return _instead(OWN.at(self.ident).set(project, self.row), old.key, self.row.key)


@dataclass(frozen=True)
class DropOwn(Edit):
    """An own row goes; whatever names it names the row that it was made of."""

    ident: str

    def done(self, project: Project) -> Project:
        old = project.get(OWN, self.ident)
        rest = project.but(own=tuple(row for row in project.own if row.id != self.ident))
        return _instead(rest, old.key, old.like)


@dataclass(frozen=True)
class BringOwn(Edit):
    """Own rows that are kept for all projects come into the project where something names them."""

    shelf: tuple[OwnRow, ...]

    def done(self, project: Project) -> Project:
        there = {row.id for row in project.own}
        wanted = {row.key: row for row in self.shelf if row.id not in there}
        used = {found.value for found in marked(project, Row)} & set(wanted) if wanted else set[str]()
        return project.but(own=(*project.own, *(row for key, row in wanted.items() if key in used))) if used else project


def changed_own(own: OwnRow, field: str, value: Any) -> ChangeOwn:
    """The edit that gives an own row another name, source or value; None takes a value away."""
    if field in ("name", "source"):
        return ChangeOwn(f"{field.capitalize()} of {own.name}", own.id, own.but(**{field: value}))
    values = {k: v for k, v in own.values.items() if k != field} | ({field: value} if value is not None else {})
    return ChangeOwn(f"Change {own.name}", own.id, own.but(values=values))


def names_of(project: Project, own: OwnRow) -> Iterable[str]:
    """What names an own row, by name."""
    return dict.fromkeys(str(getattr(found.owner, "name", "")) for found in marked(project, Row) if found.value == own.key)


def _instead(project: Project, old: str, new: str) -> Project:
    """The project that names one key where it named another. What follows from an edit is reckoned with the rows of that."""
    after = changed(project, Row, lambda found: new if found.value == old else found.value) if old != new else project
    in_force(after)
    return after
