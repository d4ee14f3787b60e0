# SPDX-License-Identifier: MIT
"""Poses by name: what the table holds and what makers type."""

from typing import Any

from fondale.core.troubles import Trouble
from fondale.knowledge import table


class PoseError(Trouble):
    """A pose that is not in the table."""


def pose_row(pose: str) -> dict[str, Any]:
    """A pose of the table. Raises PoseError."""
    rows: dict[str, Any] = table("body")["poses"]
    if pose not in rows:
        raise PoseError(f"There is no pose “{pose}”. Poses: {', '.join(rows)}.")
    row: dict[str, Any] = rows[pose]
    return row


def poses() -> dict[str, str]:
    """Every pose by key, with its name."""
    return {key: row["name"] for key, row in table("body")["poses"].items()}


def lies(pose: str) -> bool:
    """Whether one in this pose is measured by its length; not in a pose that is not in the table."""
    row = table("body")["poses"].get(pose, {})
    return bool(row.get("roll") or row.get("side"))


def parse_pose(text: str) -> str:
    """The key of a pose that is typed as its key, as the window says it, or by the first words of that: ``kneeling``. Raises PoseError."""
    clean, known = text.strip().lower().replace("_", " ").replace("-", " "), poses()
    for key, name in known.items():
        if clean in (key.replace("_", " "), name):
            return key
    found = next((key for key, name in known.items() if clean and f"{name} ".startswith(f"{clean} ")), None)
    if found is None:
        raise PoseError(f"There is no pose “{text.strip()}”. Poses: {', '.join(known.values())}.")
    return found
