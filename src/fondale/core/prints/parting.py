# SPDX-License-Identifier: MIT
"""The boxes of the parts that cuts leave of a file, and how far their keys stick out: known before anything is cut."""

from itertools import pairwise, product

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model import PrintFile
from fondale.core.model.prints import Vector
from fondale.core.model.shapes import Mesh
from fondale.core.prints.panels import panel_size

CORNER = np.array([0.5, 0.5, 0.0])  # skins have their middle at 0
LEAST_KEY_MM, MOST_KEY_MM, LONGEST_KEY_MM = 0.8, 6.0, 10.0
# What the simplified skin may miss of the true one, as a share of the whole.
SKIN_GIVE = 0.01


def key_length(radius: float) -> float:
    """Length in mm of a key of this radius: a little longer than it is thick; common practice, no source."""
    return min(2.2 * radius + 1.0, LONGEST_KEY_MM)


def key_reach(wide: float, deep: float) -> float:
    """The most in mm that a key can stick out of a section within these sides.

    A key's radius is at most 0.6 of the way from its middle to the skin, and that is at most half of the smaller side.
    """
    radius = 0.3 * min(wide, deep)
    return key_length(min(max(radius, LEAST_KEY_MM), MOST_KEY_MM)) if min(wide, deep) / 2 > LEAST_KEY_MM else 0.0


def skin_of(file: PrintFile, shape: Mesh) -> Floats:
    """The simplified skin (n, 3, 3) of a file in mm as printed, its lower corner at 0."""
    out: Floats = ((np.array(shape.points) + CORNER) * file.printed)[np.array(shape.faces)]
    return out


def part_skins(file: PrintFile, shape: Mesh) -> list[Floats]:
    """What of the skin (n, 3, 3) in mm belongs to each part that cuts leave; open where it was cut, and without what nothing is in."""
    whole = skin_of(file, shape)
    lids = [np.zeros((0, 3, 3))] * len(file.panels)  # they lie flat, and nothing of them hangs over
    if not file.cuts:
        return [whole, *lids]
    out = []
    for cell in product(*_spans(file)):
        inside = whole
        for axis, (low, high) in enumerate(cell):
            inside = _side(inside, axis, low * file.printed[axis], above=True)
            inside = _side(inside, axis, high * file.printed[axis], above=False)
        if len(inside) or _encloses(whole, np.array([(low + high) / 2 * s for (low, high), s in zip(cell, file.printed, strict=True)])):
            out.append(inside)
    return [*(out or [whole]), *lids]


def _spans(file: PrintFile) -> list[list[tuple[float, float]]]:
    """Along each axis, from where to where the cuts leave parts, in shares."""
    return [list(pairwise([0.0, *sorted({c.at for c in file.cuts if c.axis == axis}), 1.0])) for axis in "xyz"]


def below(tris: Floats, axis: int, at: float) -> Floats:
    """What of the triangles (n, 3, 3) lies below a plane, parted where they cross it."""
    return _side(tris, axis, at, above=False)


def part_sizes(file: PrintFile, shape: Mesh | None = None) -> list[Vector]:
    """Boxes in mm of the parts as printed, their keys with them: not smaller than the true parts, as long as the skin is within SKIN_GIVE.

    With the skin of the body (``shape``) each box closes round what there is, and places where nothing is are left out;
    without it the body's own box is divided.
    """
    tris = None if shape is None or not file.cuts else (np.array(shape.points) + CORNER)[np.array(shape.faces)]
    out = []
    for cell in product(*_spans(file)):
        low, high = np.array(cell, float).T
        if tris is not None:
            held = _held(tris, low, high)
            if held is None:
                continue
            low, high = held
        size = (high - low) * file.printed
        keys = np.zeros(3)
        for i, (_from, to) in enumerate(cell):
            if file.keyed and to < 1.0:
                keys[i] = key_reach(size[(i + 1) % 3], size[(i + 2) % 3])
        x, y, z = (size + keys).tolist()
        out.append((x, y, z))
    return [*(out or [file.printed]), *(panel_size(p, file.printed) for p in file.panels)]


def _held(tris: Floats, low: Floats, high: Floats) -> tuple[Floats, Floats] | None:
    """The box of what a skin (n, 3, 3) encloses between two corners, None for nothing; all in shares of the whole."""
    inside = tris
    for axis in range(3):
        inside = _side(inside, axis, float(low[axis]), above=True)
        inside = _side(inside, axis, float(high[axis]), above=False)
    if len(inside) == 0:
        return (low, high) if _encloses(tris, (low + high) / 2) else None
    points = inside.reshape(-1, 3)
    return np.maximum(points.min(0) - SKIN_GIVE, low), np.minimum(points.max(0) + SKIN_GIVE, high)


def _side(tris: Floats, axis: int, at: float, above: bool) -> Floats:
    """What of the triangles lies on one side of a plane, parted where they cross it."""
    here = (tris[:, :, axis] >= at) if above else (tris[:, :, axis] <= at)
    count = here.sum(1)
    crossing = (count == 1) | (count == 2)
    lone_here = (count == 1)[crossing]
    mixed, mine = tris[crossing], here[crossing]
    lone = np.argmax(mine == lone_here[:, None], 1)
    a, b, c = (np.take_along_axis(mixed, ((lone + k) % 3)[:, None, None], 1)[:, 0] for k in range(3))
    ab, ac = (a + (b_ - a) * ((at - a[:, axis]) / (b_[:, axis] - a[:, axis]))[:, None] for b_ in (b, c))
    tips = np.stack([a, ab, ac], 1)[lone_here]
    rest = np.concatenate([np.stack([ab, b, c], 1), np.stack([ab, c, ac], 1)])[np.tile(~lone_here, 2)]
    return np.concatenate([tris[count == 3], tips, rest])


def _encloses(tris: Floats, point: Floats) -> bool:
    """Whether a closed skin goes round a point: the solid angles of its triangles add up to a full turn [vanoosterom1983]."""
    a, b, c = (tris[:, k] - point for k in range(3))
    la, lb, lc = (np.linalg.norm(v, axis=1) for v in (a, b, c))
    top = np.einsum("ij,ij->i", a, np.cross(b, c))
    foot = la * lb * lc + np.einsum("ij,ij->i", a, b) * lc + np.einsum("ij,ij->i", b, c) * la + np.einsum("ij,ij->i", c, a) * lb
    return bool(abs(2 * np.arctan2(top, foot).sum()) > 2 * np.pi)
