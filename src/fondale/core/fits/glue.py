# SPDX-License-Identifier: MIT
"""Which adhesive for which pair of materials, with its preparation, times and cautions."""

from dataclasses import dataclass
from typing import Any

from fondale.core.materials import is_any, material_rows
from fondale.core.model import Join
from fondale.knowledge import table


@dataclass(frozen=True)
class Glue:
    """One way to join: its name, what to do to the faces, hours to work, to handle and to full strength, what to beware of."""

    key: str
    name: str
    prepare: str
    work_h: float
    handle_h: float
    full_h: float
    beware: str


def _fits(row: dict[str, Any], join: Join) -> bool:
    one, other = row["one"], row.get("other", row["one"])
    if not any(is_any(a, one) and is_any(b, other) for a, b in ((join.a, join.b), (join.b, join.a))):
        return False
    return join.need in row["needs"] and not any(is_any(m, row.get("never", ())) for m in (join.a, join.b))


def glues_for(join: Join) -> tuple[Glue, ...]:
    """Every adhesive that holds the pair and does what the joint must do, best first: the order of the table.

    Clear parts and glass never see fuming glue, foam never a solvent. Nothing known gives an empty answer.
    """
    out, known = [], material_rows()
    for key, row in table("joins")["glue"].items():
        if _fits(row, join):
            more = (known[m]["prepare"] for m in sorted({join.a, join.b}) if "prepare" in known[m])
            work, handle, full = row["hours"]
            out.append(Glue(key, row["name"], " ".join((row["prepare"], *more)), work, handle, full, row["beware"]))
    return tuple(out)
