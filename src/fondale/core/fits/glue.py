"""Which adhesive for which pair of materials, with its preparation, times and cautions."""

from dataclasses import dataclass

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
    caution: str


def _fits(row: dict[str, list[str]], join: Join) -> bool:
    pair = {join.a, join.b}
    if not pair <= set(row["holds"]):
        return False
    if row.get("both") and len(pair) > 1:
        return False
    if pair & set(row.get("never", [])):
        return False
    if "smooth" in row and not pair & set(row["smooth"]):
        return False  # where both sides drink it in, the plain one does
    return join.need in row["needs"]


def glues_for(join: Join) -> tuple[Glue, ...]:
    """Every adhesive that holds the pair and does what the joint must do, best first: the order of the table.

    Clear parts and glass never see fuming glue, foam never a solvent. Nothing known gives an empty answer.
    """
    out = []
    for key, row in table("joins")["glue"].items():
        if _fits(row, join):
            prepare = row["prepare"]
            pair = sorted({join.a, join.b})
            prepare += "".join(f" {table('joins')['prepare'][m]}" for m in pair if m in table("joins")["prepare"])
            work, handle, full = row["hours"]
            out.append(Glue(key, row["name"], prepare, work, handle, full, row["beware"], row["caution"]))
    return tuple(out)
