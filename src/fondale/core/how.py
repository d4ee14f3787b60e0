# SPDX-License-Identifier: MIT
"""*How?*: where a computed number comes from. It is told beside the computation, with the number as it is shown."""

from dataclasses import dataclass

from fondale.knowledge import table

PRACTICE = "common practice, no source"


@dataclass(frozen=True)
class How:
    """What the number is, the formula with its inputs, the number itself as it is shown, and the source.

    ``result`` is empty where there is no number yet.
    """

    title: str
    formula: str
    result: str
    source: str

    @property
    def text(self) -> str:
        """The formula, and last the number."""
        return f"{self.formula}\n= {self.result}" if self.result else self.formula


@dataclass(frozen=True)
class Told:
    """What is shown, and how it was found. What is shown holds the number of ``how``."""

    shown: str
    how: How


def cite(*keys: str) -> str:
    """The sources of these keys in words. Raises KeyError for a key that is not known."""
    rows = table("sources")
    return "; ".join(f"{rows[k]['by']} {rows[k]['year']}" if "year" in rows[k] else str(rows[k]["by"]) for k in keys)
