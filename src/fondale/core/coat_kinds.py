# SPDX-License-Identifier: MIT
"""What coats are, as their table tells it; a step without a coat is told by its work."""

import re
from dataclasses import dataclass
from typing import Any

from fondale.core.model import Step
from fondale.core.model.coats import Work
from fondale.knowledge import table

_WORD = re.compile(r"[^\W_]+")
CAN = "primer_spray"  # comes in a can, whatever the house does


def coat_row(coat: str) -> dict[str, Any] | None:
    """The row of a coat, or None for no coat."""
    row: dict[str, Any] | None = table("coats")["coat"].get(coat)
    return row


def coats_by_name() -> dict[str, str]:
    """The name of every coat by its key."""
    return {key: str(row["name"]) for key, row in table("coats")["coat"].items()}


def _plain(text: str) -> str:
    """The words of a text in small letters, with a space around each."""
    return f" {' '.join(_WORD.findall(text.lower()))} "


@dataclass(frozen=True)
class Proposal:
    """What a step is by what it is called: its coat (empty: none), the kind of work, and its tool."""

    coat: str
    work: Work
    tool: str


def proposal_of(name: str, sprays: bool) -> Proposal | None:
    """What a step of this name probably is, or None where its name says nothing: the longest phrase of the tables that stands in it, and of
    equal ones the first in the name. ``sprays``: the house sprays where it can.
    """
    words = _plain(name)
    coats = [(_plain(said), key) for key, row in table("coats")["coat"].items() for said in (row["name"], *row.get("called", ()))]
    works = [(_plain(said), work) for work, called in table("coats")["called"].items() for said in called]
    found = [
        (-len(said), words.index(said), rank, what) for rank, pairs in enumerate((works, coats)) for said, what in pairs if said in words
    ]
    if not found:
        return None
    verbs = [f for f in found if f[1] == 0]  # who begins with what is done means that: "Wire the water pump"
    _size, _at, rank, what = min(verbs or found)
    if rank:
        work, tool = usual(what, sprays)
        return Proposal(what, work, tool_said(words) or ("spray can" if what == CAN else tool))
    return Proposal("", what, tool_said(words) or ("iron" if what == "wire" else "brush" if what == "weather" else "hand"))


def tool_said(words: str) -> str:
    """The tool whose longest name stands in these words (``_plain``); empty for none. Hands are what is not said."""
    rows = table("tools")["tool"]
    found = [
        (len(said), key)
        for key, row in rows.items()
        if key != "hand"
        for called in (key, *row.get("called", ()))
        if (said := _plain(called)) in words
    ]
    return max(found, key=lambda f: f[0])[1] if found else ""


def says_nothing(step: Step) -> bool:
    """Whether nobody can tell what a step does or how long it dries: paint without a coat, or a step without anything."""
    if step.coat or step.duty or step.file:
        return False
    if step.work in ("paint", "weather"):
        return True
    does = step.joints or step.fits or step.wires or step.strings or step.tests or step.closes or step.minutes or step.wait_h
    return not does and proposal_of(step.name, False) is None


def is_colour(step: Step) -> bool:
    """Whether a step gives a face its colour; painting whose coat is not told yet counts."""
    row = coat_row(step.coat)
    return step.work == "paint" and (row is None or bool(row["colour"]))


def is_ageing(step: Step) -> bool:
    """Whether a step makes things look used."""
    row = coat_row(step.coat)
    if row is None:
        return step.work == "weather"
    return row["work"] == "weather" or (step.work == "weather" and row["role"] != "liftoff")


def is_coating(step: Step) -> bool:
    """Whether a step puts on something that is meant to be seen or to hold paint: no glue, no filler, no sanding, no ground paste."""
    row = coat_row(step.coat)
    return row is not None and row["role"] not in ("glue", "filler", "sanding", "ground")


def is_varnish(step: Step) -> bool:
    """Whether a step seals what lies below it."""
    row = coat_row(step.coat)
    return row is not None and row["role"] in ("gloss", "varnish")


def is_glue(step: Step) -> bool:
    """Whether a step sticks things together."""
    row = coat_row(step.coat)
    return row is not None and row["role"] == "glue"


def usual(coat: str, sprays: bool) -> tuple[Work, str]:
    """Kind of work and tool that a coat usually means; ``sprays``: the house sprays where it can."""
    row = coat_row(coat)
    if row is None:
        return "build", "hand"
    work: Work = row["work"]
    return work, "airbrush" if sprays and row["sprayed"] else "hand" if "takes" in row else "brush"
