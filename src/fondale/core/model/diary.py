# SPDX-License-Identifier: MIT
"""Diary: the pages."""

from typing import Annotated

from pydantic import Field

from fondale.core.model.base import Day, Id, Instant, Model, Names, Text


class Draft(Model):
    """The page that is being written: as ``Page``, and since when the timer runs, if it does."""

    minutes: Annotated[float, Field(ge=0, le=1440)] = 0.0
    since: Instant | None = None
    done: tuple[Annotated[Id, Names("steps")], ...] = ()
    begun: dict[Annotated[str, Names("steps")], Annotated[float, Field(ge=0, le=1440)]] = Field(default_factory=dict)
    spent: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    words: Text = ""
    lesson: Text = ""


class Page(Model):
    """One evening: the minutes worked, the steps finished, what was spent and what was learned.

    ``begun``: minutes that went into steps which are not finished yet.
    """

    id: Id
    day: Day
    minutes: Annotated[float, Field(ge=0, le=1440)] = 0.0
    done: tuple[Annotated[Id, Names("steps")], ...] = ()
    begun: dict[Annotated[str, Names("steps")], Annotated[float, Field(ge=0, le=1440)]] = Field(default_factory=dict)
    spent: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    words: Text = ""
    lesson: Text = ""
