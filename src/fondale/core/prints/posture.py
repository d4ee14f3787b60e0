# SPDX-License-Identifier: MIT
"""How a file had best lie on the machine: what hangs over, how tall it is, how it stands.

What has to be held up is told by ``supports``; flat walls of resin print better tilted (common practice, no source).
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from fondale.core.arrays import Floats, Ints
from fondale.core.model.prints import Side, Up
from fondale.core.prints.jobs import fits_build, lying
from fondale.core.prints.supports import LEAST_HANGING_MM2, Hang, hang_of
from fondale.core.words import digits, show_mm

TILTS = {"resin": (0.0, 30.0, 45.0), "filament": (0.0,)}
UPS: dict[Up, str] = {
    "z": "standing",
    "-z": "upside down",
    "x": "on its left side",
    "-x": "on its right side",
    "y": "on its front",
    "-y": "on its back",
}


@dataclass(frozen=True)
class Posture:
    """One way to lie, what hangs over then, and whether it goes on the machine."""

    up: Up
    tilt_deg: float
    hang: Hang
    goes: bool
    words: str


def postures(
    points: Floats, faces: Ints, process: str, build: tuple[float, float, float], seen: Side | Literal[""] = ""
) -> tuple[Posture, ...]:
    """Every posture of a skin (k, 3) in mm with its faces, the one with the least to support and the lowest first among those that go on.

    What hangs over on the side that is ``seen`` counts three times: supports leave scars there.
    """
    corners = np.asarray(points, float)[np.asarray(faces)]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    size = np.ptp(np.asarray(points, float), axis=0)
    out = []
    for up in UPS:
        for tilt in TILTS[process]:
            hang = hang_of(corners, up, tilt, process, seen)
            goes = fits_build(lying((float(size[0]), float(size[1]), float(size[2])), up, tilt), build)
            scars = f", {digits(hang.seen / 100, 1)} of it on the side that is seen" if hang.seen >= LEAST_HANGING_MM2 else ""
            foot = "" if hang.stands else "; it stands on a point, on a raft"
            over = "nothing hangs over" if hang.free else f"{digits(hang.hanging / 100, 1)} cm² hang over{scars}"
            words = f"{UPS[up]}{f', tilted {digits(tilt, 0)}°' if tilt else ''}: {over}, {show_mm(hang.tall)} tall{foot}"
            out.append(Posture(up, tilt, hang, goes, words))
    whole = max(float(area.sum()), 1e-9)
    tall = max(float(size.max()), 1e-9)

    def cost(p: Posture) -> float:
        # Filament needs a flat face down; resin pulls large flat faces off the film, so it would rather not.
        standing, hanging = p.hang.standing / whole, (p.hang.hanging + 2 * p.hang.seen) / whole
        foot = (0.6 if standing < 0.02 else 0.0) - 0.4 * standing if process == "filament" else 0.8 * standing
        return (0 if p.goes else 10) + hanging + 0.25 * p.hang.tall / tall + foot

    return tuple(sorted(out, key=lambda p: (cost(p), p.tilt_deg, p.up)))
