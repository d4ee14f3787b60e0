"""How a file had best lie on the machine: what hangs over, how tall it is, how it stands.

Faces that look down more steeply than the process bridges need supports (45 degrees for filament, 60 for resin from the
vertical down is common practice, no source); flat walls of resin print better tilted.
"""

import math
from dataclasses import dataclass

import numpy as np

from fondale.core.arrays import Floats, Ints
from fondale.core.model.prints import Up
from fondale.core.prints.jobs import fits_build, lying
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
FREE_DEG = 45.0


@dataclass(frozen=True)
class Posture:
    """One way to lie: areas in mm2 that hang over and that stand on the plate, height in mm, and whether it goes on the machine."""

    up: Up
    tilt_deg: float
    hanging: float
    standing: float
    height: float
    goes: bool
    words: str


def _turn(up: str, tilt_deg: float) -> Floats:
    """The rotation that points ``up`` upwards and tilts about the width."""
    axes = {"z": np.eye(3), "x": np.array([[0.0, 1, 0], [0, 0, 1], [1, 0, 0]]), "y": np.array([[0.0, 0, 1], [1, 0, 0], [0, 1, 0]])}
    turn = axes[up.removeprefix("-")]
    if up.startswith("-"):
        turn = np.diag([1.0, -1.0, -1.0]) @ turn
    t = math.radians(tilt_deg)
    out: Floats = np.array([[1.0, 0, 0], [0, math.cos(t), -math.sin(t)], [0, math.sin(t), math.cos(t)]]) @ turn
    return out


def postures(points: Floats, faces: Ints, process: str, build: tuple[float, float, float]) -> tuple[Posture, ...]:
    """Every posture of a skin (k, 3) in mm with its faces, the one with the least to support and the lowest first among those that go on."""
    corners = np.asarray(points, float)[np.asarray(faces)]
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(cross, axis=1) / 2
    normal = cross / np.maximum(2 * area, 1e-12)[:, None]
    size = np.ptp(np.asarray(points, float), axis=0)
    out = []
    for up in UPS:
        for tilt in TILTS[process]:
            turn = _turn(up, tilt)
            down = -(normal @ turn.T)[:, 2]
            z = (corners @ turn.T)[..., 2]
            low, high = float(z.min()), float(z.max())
            on_plate = z.max(1) < low + 0.02 * max(high - low, 1e-9)
            hanging = float(area[(down > math.sin(math.radians(FREE_DEG))) & ~on_plate].sum())
            standing = float(area[on_plate & (down > 0.9)].sum())
            goes = fits_build(lying((float(size[0]), float(size[1]), float(size[2])), up, tilt), build)
            words = f"{UPS[up]}{f', tilted {digits(tilt, 0)}°' if tilt else ''}: {digits(hanging / 100, 1)} cm² hang over, {show_mm(high - low)} tall"
            out.append(Posture(up, tilt, hanging, standing, high - low, goes, words))
    whole = max(float(area.sum()), 1e-9)
    tall = max(float(size.max()), 1e-9)

    def cost(p: Posture) -> float:
        # Filament needs a flat face down; resin pulls large flat faces off the film, so it would rather not.
        foot = (0.6 if p.standing < 0.02 * whole else 0.0) - 0.4 * p.standing / whole if process == "filament" else 0.8 * p.standing / whole
        return (0 if p.goes else 10) + p.hanging / whole + 0.25 * p.height / tall + foot

    return tuple(sorted(out, key=lambda p: (cost(p), p.tilt_deg, p.up)))
