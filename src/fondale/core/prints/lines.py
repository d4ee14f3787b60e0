# SPDX-License-Identifier: MIT
"""Whether the lines of a print's layers show: to an eye at its distance, and to a lens that sees finer."""

import math
from dataclasses import dataclass

import numpy as np

from fondale.core.model import PrintFile, Project
from fondale.core.model.shapes import Mesh
from fondale.core.prints.parting import skin_of
from fondale.core.prints.supports import turned
from fondale.core.words import digits, percent, show_mm

EYE_ARCMIN, LENS_ARCMIN = 1.0, 0.4  # what an eye tells apart, and one pixel of a close picture, common practice, no source
IN_HAND_MM = 300.0
LEVEL_DEG = 2.0  # flatter than that no step ends on it
FILL_UP = 0.1  # of the skin: so much is primed and sanded; less is touched up


@dataclass(frozen=True)
class Lines:
    """``eye`` and ``lens`` are the shares of the skin on which the steps show; ``eye_mm`` how far the nearest eye is."""

    eye: float
    lens: float
    eye_mm: float
    words: str


def nearest_eye_mm(project: Project) -> float:
    """How near an eye comes: that of the nearest seat, or a hand's breadth before the face where there is none."""
    return min((s.distance for s in project.seats), default=IN_HAND_MM)


def lines_of(file: PrintFile, shape: Mesh, layer_mm: float, eye_mm: float) -> Lines:
    """Steps lie layer / sin(slope) apart on a face that slopes so from the level; they show where that is more than the eye tells apart."""
    tris = skin_of(file, shape) @ turned(file.up, file.tilt_deg).T
    cross = np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0])
    twice = np.maximum(np.linalg.norm(cross, axis=1), 1e-12)
    slope = np.degrees(np.arccos(np.clip(np.abs(cross[:, 2]) / twice, 0, 1)))
    apart = np.where(slope > LEVEL_DEG, layer_mm / np.maximum(np.sin(np.radians(slope)), 1e-6), 0.0)
    limits = [eye_mm * math.tan(math.radians(a / 60)) for a in (EYE_ARCMIN, LENS_ARCMIN)]
    eye, lens = (float(twice[apart > x].sum() / twice.sum()) for x in limits)
    words = f"Lines {digits(layer_mm, 3)} mm apart: from {show_mm(eye_mm)} the eye tells {digits(limits[0], 2)} mm apart"
    words += f", and sees them on {percent(eye)} of the skin" if eye >= 0.005 else ", and sees none"
    words += f"; a lens there sees them on {percent(lens)}." if lens > eye + 0.005 else "."
    if eye >= FILL_UP:
        words += " Prime and sand those faces, three to five rounds."
    return Lines(eye, lens, eye_mm, words)
