# SPDX-License-Identifier: MIT
"""What holds a part up while it is printed: what hangs over in its posture, how it stands on the plate, supports and raft.

Faces that look down more steeply than the process bridges are held up (45 degrees from upright for filament, 60 for resin); each by a
loose column down to what lies below it. What stands on too little of the plate gets a raft; resin that needs any support is lifted off the
plate altogether. Common practice, no source, for all of it.
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

import numpy as np
from shapely.geometry import MultiPoint

from fondale.core.arrays import Floats
from fondale.core.model import PrintFile
from fondale.core.model.prints import Side
from fondale.core.model.shapes import Mesh
from fondale.core.prints.panels import outwards
from fondale.core.prints.parting import below, part_skins
from fondale.core.rays import LIFT_MM, rays_for
from fondale.core.words import digits

FREE_DEG = {"resin": 60.0, "filament": 45.0}
LEAST_HANGING_MM2 = 0.5  # in all: less than that bridges by itself
FOOT_MM = 0.2  # so high over the plate a part still stands on it
LEAST_FOOT = 0.05  # of its outline from above: on less than that it comes off the plate


@dataclass(frozen=True)
class Hang:
    """Areas in mm2: what hangs over, what of that lies on the side that will be seen, the foot on the plate, the outline from above.

    ``columns`` is the room in mm3 between what hangs over and what lies below it. ``standing``: faces that lie flat on the plate.
    """

    hanging: float
    seen: float
    foot: float
    plan: float
    standing: float
    columns: float
    tall: float

    @property
    def stands(self) -> bool:
        """Whether enough of it touches the plate."""
        return self.foot >= LEAST_FOOT * self.plan

    @property
    def free(self) -> bool:
        """Whether nothing has to be held up."""
        return self.hanging < LEAST_HANGING_MM2


@dataclass(frozen=True)
class Supports:
    """``volume`` of supports and raft in mm3, how far the part is ``raised`` off the plate, and in words why."""

    volume: float
    raised: float
    raft: bool
    words: str


def turned(up: str, tilt_deg: float) -> Floats:
    """The rotation that points ``up`` upwards and tilts about the width."""
    axes = {"z": np.eye(3), "x": np.array([[0.0, 1, 0], [0, 0, 1], [1, 0, 0]]), "y": np.array([[0.0, 0, 1], [1, 0, 0], [0, 1, 0]])}
    turn = axes[up.removeprefix("-")]
    if up.startswith("-"):
        turn = np.diag([1.0, -1.0, -1.0]) @ turn
    t = math.radians(tilt_deg)
    out: Floats = np.array([[1.0, 0, 0], [0, math.cos(t), -math.sin(t)], [0, math.sin(t), math.cos(t)]]) @ turn
    return out


def hang_of(tris: Floats, up: str, tilt_deg: float, process: str, seen: Side | Literal[""] = "") -> Hang:
    """What hangs over of a skin (n, 3, 3) in mm that lies so; a part cut out of the midst of a body has no skin, and nothing of it does."""
    if not len(tris):
        return Hang(0.0, 0.0, 1.0, 1.0, 0.0, 0.0, 0.0)
    turn = turned(up, tilt_deg)
    placed = tris @ turn.T
    cross = np.cross(placed[:, 1] - placed[:, 0], placed[:, 2] - placed[:, 0])
    twice = np.linalg.norm(cross, axis=1)
    area, normal = twice / 2, cross / np.maximum(twice, 1e-12)[:, None]
    z = placed[..., 2]
    low, high = float(z.min()), float(z.max())
    on_plate = z.max(1) <= low + FOOT_MM
    down = -normal[:, 2]
    over = (down > math.sin(math.radians(FREE_DEG[process])) + 1e-6) & ~on_plate
    centre = placed[over].mean(1)
    columns = 0.0
    if over.any():
        prim, far = rays_for(placed).hit(centre - [0, 0, LIFT_MM], np.tile([0.0, 0, -1.0], (len(centre), 1)))
        gap = np.where(prim >= 0, far + LIFT_MM, centre[:, 2] - low)
        columns = float((area[over] * down[over] * np.minimum(gap, centre[:, 2] - low)).sum())
    side = turn @ outwards(seen) if seen else np.zeros(3)
    foot = below(placed, 2, low + FOOT_MM).reshape(-1, 3)[:, :2]
    return Hang(
        float(area[over].sum()), float(area[over & (normal @ side > 0.5)].sum()) if seen else 0.0, float(MultiPoint(foot).convex_hull.area),
        float(MultiPoint(placed.reshape(-1, 3)[:, :2]).convex_hull.area), float(area[on_plate & (down > 0.9)].sum()), columns, high - low,
    )  # fmt: skip


def supports_of(hang: Hang, row: dict[str, Any]) -> Supports:
    """Supports and raft of a part on a machine of this row."""
    fill, raft_mm, lift = float(row["support_fill"]), float(row["raft_mm"]), float(row["lift_mm"])
    if hang.free and hang.stands:
        return Supports(0.0, 0.0, False, "nothing hangs over")
    raft = lift > 0 or not hang.stands
    # A part that is lifted stands on its supports with its foot too.
    volume = fill * (hang.columns + lift * (hang.hanging + hang.foot)) + (raft_mm * hang.plan if raft else 0.0)
    said = [f"{digits(hang.hanging / 100, 2)} cm² hang over"] if not hang.free else []
    said += ["it stands on a point"] if not hang.stands else []
    return Supports(volume, lift, raft, " and ".join(said) + (", on a raft" if raft else ""))


@lru_cache(maxsize=512)
def hangs(file: PrintFile, shape: Mesh, process: str) -> tuple[Hang, ...]:
    """Of each part of a file as it lies on the machine."""
    return tuple(hang_of(tris, file.up, file.tilt_deg, process, file.seen) for tris in part_skins(file, shape))
