# SPDX-License-Identifier: MIT
"""The maker's own rows of the tables."""

import json
from hashlib import sha256
from typing import Annotated

from pydantic import Field

from fondale.core.model.base import Id, Key, Model, Name, Text

Word = Annotated[str, Field(max_length=400)]
Words = Annotated[tuple[Word, ...], Field(max_length=60)]
Number = Annotated[float, Field(ge=-1e9, le=1e9)]
Cell = (
    bool
    | Number
    | Word
    | Annotated[tuple[Number, ...], Field(max_length=60)]
    | Words
    | Annotated[tuple[tuple[Number, ...], ...], Field(max_length=60)]
)


class OwnRow(Model):
    """A row that the maker has made of another one, ``like``, of a section of a table. ``values`` are all that it holds, ``source`` is where they are from."""

    id: Id
    name: Name
    table: Annotated[str, Field(max_length=40)]
    section: Annotated[str, Field(max_length=40)]
    like: Key = ""
    values: dict[Annotated[str, Field(max_length=40)], Cell] = Field(default_factory=dict)
    source: Text = ""

    @property
    def key(self) -> str:
        """What names it: another content is another key, so that nothing that was reckoned with the old one is taken for the new."""
        told = json.dumps([self.table, self.section, self.name, self.values], sort_keys=True, default=list)
        return f"own_{self.id}_{sha256(told.encode()).hexdigest()[:10]}"
