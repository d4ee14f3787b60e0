# SPDX-License-Identifier: MIT
"""Keys that a file names and this version's tables do not hold."""

from collections.abc import Iterator

from fondale.core.model import LAMPS, MACHINES, PIECES, SUPPLIES, Project
from fondale.core.prompts.finding import Finding, Rule, Station
from fondale.core.reckoning import Derived
from fondale.core.words import clipped

WHERE: dict[str, Station] = {LAMPS.name: "lamps", SUPPLIES.name: "lamps", MACHINES.name: "brief", PIECES.name: "bench", "fits": "bench"}
MOST = 60


def unknown_keys(project: Project, derived: Derived) -> Iterator[Finding]:
    """FILE-UNKNOWN: something of a kind that this version does not know. It is kept, and left out of the reckoning."""
    for unknown in derived.unknown:
        field = unknown.field.replace("_", " ")
        yield Finding(
            "FILE-UNKNOWN", "mind", WHERE.get(unknown.listing.name, "coats"), unknown.name,
            f"Its {field} is “{clipped(unknown.key, MOST)}”, which this version does not know. It is kept as it is, and left out of what is"
            " reckoned. Choose another, or open the project with the version that wrote it.",
            f"{field} of {unknown.listing.name}", ((unknown.listing, unknown.ident),), within=(unknown.field, clipped(unknown.key, MOST)),
        )  # fmt: skip


RULES = (Rule(unknown_keys),)
