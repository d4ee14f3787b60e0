"""What coats are, as their table tells it; a step without a coat is told by its work."""

from typing import Any

from fondale.core.model import Step
from fondale.core.model.coats import Tool, Work
from fondale.knowledge import table


def coat_row(coat: str) -> dict[str, Any] | None:
    """The row of a coat, or None for no coat."""
    row: dict[str, Any] | None = table("coats")["coat"].get(coat)
    return row


def coats_by_name() -> dict[str, str]:
    """The name of every coat by its key."""
    return {key: str(row["name"]) for key, row in table("coats")["coat"].items()}


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


def is_glue(step: Step) -> bool:
    """Whether a step sticks things together."""
    row = coat_row(step.coat)
    return row is not None and row["role"] == "glue"


def usual(coat: str, sprays: bool) -> tuple[Work, Tool]:
    """Kind of work and tool that a coat usually means; ``sprays``: the house sprays where it can."""
    row = coat_row(coat)
    if row is None:
        return "build", "hand"
    work: Work = row["work"]
    return work, "airbrush" if sprays and row["sprayed"] else "hand" if "takes" in row else "brush"
